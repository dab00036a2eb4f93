package flow

import (
	"fmt"

	"hermeneus/core/article"
	"hermeneus/core/audience"
)

// Use is a turn of a live flow that shows an article.
type Use struct {
	Slug string `json:"slug"`
	Name string `json:"name"`
	Turn string `json:"turn"`
}

// Uses maps the numbers of articles to the turns of live flows that show them.
type Uses map[int][]Use

// Add takes in a live flow.
func (u Uses) Add(slug string, script Script) {
	script.Each(func(t *Turn) {
		for _, ref := range t.Articles {
			if n, _, ok := article.ParseReference(ref); ok {
				u[n] = append(u[n], Use{slug, script.Name, t.ID})
			}
		}
	})
}

// Conflicts says what keeps an article from being live for an audience: a flow meets
// everyone, so what it shows must be for everyone.
func (u Uses) Conflicts(number int, to audience.Audience) []string {
	if to == audience.Everyone {
		return nil
	}
	var list []string
	for _, use := range u[number] {
		list = append(list, fmt.Sprintf("The flow “%s” is for everyone and shows %s in its turn “%s”, "+
			"but the article would be for %s. Let everyone see the article, or take it out of the flow first.",
			use.Name, article.Reference(number), use.Turn, to.Words()))
	}
	return list
}
