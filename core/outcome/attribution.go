package outcome

import (
	"slices"
	"strings"
)

// LastArticle is the article (A-0042, without its revision) that the asker read
// last in the question, or opened last when none was read; "" when there is none.
func (q Question) LastArticle() string {
	var opened, read string
	for _, e := range q.Evidence {
		ref, _, ok := strings.Cut(e.Ref, "@")
		if !ok {
			continue
		}
		switch e.Kind {
		case Opened:
			opened = ref
		case Read:
			read = ref
		}
	}
	if read != "" {
		return read
	}
	return opened
}

// LastAsked is what the asker put in words last, "" for nothing: asked, or typed into a
// form that offered something for it. An option that was only tapped is left out.
func (q Question) LastAsked() string {
	for _, e := range slices.Backward(q.Evidence) {
		if e.Tapped() {
			continue
		}
		if words := strings.Join(strings.Fields(e.Text), " "); (e.Kind == Asked || e.Kind == Offered) && words != "" {
			return words
		}
	}
	return ""
}

// HelpedBy is the article (A-0042) of which the asker said last that it helped, "" for
// none.
func (q Question) HelpedBy() string {
	for _, e := range slices.Backward(q.Evidence) {
		if e.Kind == Helped {
			ref, _, _ := strings.Cut(e.Ref, "@")
			return ref
		}
	}
	return ""
}

// MayHaveAnswered lists the articles that may have answered the question, the likeliest
// first: what was opened, from the last on; else what was told or offered.
func (q Question) MayHaveAnswered() []string {
	var articles []string
	for _, kinds := range [][]Kind{{Helped, Read, Opened}, {Told, Offered}} {
		for _, e := range slices.Backward(q.Evidence) {
			if !slices.Contains(kinds, e.Kind) {
				continue
			}
			for _, ref := range append([]string{e.Ref}, e.Refs...) {
				if article, _, ok := strings.Cut(ref, "@"); ok && !slices.Contains(articles, article) {
					articles = append(articles, article)
				}
			}
		}
		if len(articles) > 0 {
			break
		}
	}
	return articles
}

// ByArticle counts questions by the article they ended with. Settling questions
// are counted by their provisional outcome, since it is a picture of one
// article's use and not a rate.
func ByArticle(questions []Question) map[string]Counts {
	out := map[string]Counts{}
	for _, q := range questions {
		ref := q.LastArticle()
		if ref == "" || q.Outcome.SetAside() || q.Outcome == Open {
			continue
		}
		c := out[ref]
		c.addOutcome(q.Outcome)
		out[ref] = c
	}
	return out
}
