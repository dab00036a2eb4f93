package flows

import (
	"net/url"
	"slices"
	"time"

	"gorm.io/gorm"

	"hermeneus/app/evidence"
	"hermeneus/app/forms"
	"hermeneus/app/search"
	"hermeneus/core/flow"
	"hermeneus/core/form"
	"hermeneus/core/outcome"
)

// World is what a script may know when somebody talks to it: those of some articles that they may see, how the teams
// and the site stand at a moment, what is known of them, and the other flows and forms that it leads to.
func (a *Flows) World(
	db *gorm.DB,
	v evidence.Visitor,
	program *flow.Program,
	others map[string]*flow.Program,
	articles []string,
	language string,
	at time.Time,
) (flow.World, error) {
	stands, err := a.hours.Stands(db, v.Site, language, at)
	if err != nil {
		return flow.World{}, err
	}
	w := flow.World{
		Articles: map[string]flow.Card{},
		Teams:    stands.Teams,
		Language: v.Language,
		Channel:  string(outcome.Chat),
		Page:     v.Page,
		Open:     stands.Open,
		Next:     stands.Next,
		Busy:     stands.Busy,
		Closed:   stands.Closed,
		Flows:    others,
	}
	if len(articles) > 0 {
		found, err := search.LiveEditions(db, v, articles)
		if err != nil {
			return w, err
		}
		for ref, result := range found {
			w.Articles[ref] = result.Card
		}
	}
	named := program.Script().Forms()
	for _, other := range others {
		named = append(named, other.Script().Forms()...)
	}
	if len(named) > 0 {
		if w.Forms, err = formsAt(db, v.Site); err != nil {
			return w, err
		}
	}
	if v.Customer != nil {
		w.SignedIn, w.Groups = true, v.Customer.Groups
		w.Facts = map[string]string{"name": v.Customer.Name, "mail": v.Customer.Email}
	}
	return w, nil
}

// Programs gives the programs of versions, by the names of their flows.
func Programs(versions map[string]*Version) map[string]*flow.Program {
	out := map[string]*flow.Program{}
	for slug, version := range versions {
		out[slug] = version.Program
	}
	return out
}

// formsAt gives the request forms of a help centre, by the keys that scripts name them by.
func formsAt(db *gorm.DB, site int64) (map[string]flow.Form, error) {
	kinds, err := forms.Of(db, site)
	if err != nil {
		return nil, err
	}
	out := map[string]flow.Form{}
	for _, k := range slices.Backward(kinds) { // of two with the same key the first is meant
		out[flow.FormKey(k.Name)] = flow.Form{
			Name:    k.Name,
			Fields:  k.Fields,
			URL:     "/help/request?kind=" + url.QueryEscape(k.Name),
			Minutes: form.Minutes(k.Fields),
		}
	}
	return out, nil
}
