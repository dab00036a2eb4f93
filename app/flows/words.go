package flows

import (
	"context"
	"errors"
	"slices"
	"strings"

	"hermeneus/app/instance"
	"hermeneus/app/problem"
	"hermeneus/core/flow"
	"hermeneus/store"
)

// FlowWords are what a script can name, for who types it.
type FlowWords struct {
	Kinds      []flow.Spelling  `json:"kinds"`      // by which turns begin
	Leads      []flow.Spelling  `json:"leads"`      // by which lines beneath them begin
	Details    []flow.Spelling  `json:"details"`    //
	Conditions []string         `json:"conditions"` // as they are typed
	Teams      []string         `json:"teams"`
	Groups     []KeyWord        `json:"groups"` // of customers
	Facts      []string         `json:"facts"`
	Wants      []flow.Wants     `json:"wants"`
	Flows      []string         `json:"flows"`
	Languages  []string         `json:"languages"`
	Sites      []instance.Name  `json:"sites"`
	People     []instance.Name  `json:"people"` // who can own a flow
	Paths      []instance.Name  `json:"paths"`  // of review
	Forms      []KeyWord        `json:"forms"`  // of requests, of any help centre
	Starters   []flow.Beginning `json:"starters"`
}

// KeyWord is a group of customers or a request form, as scripts name it and as people call it.
type KeyWord struct {
	Key  string `json:"key"`
	Name string `json:"name"`
}

// Words gives what a script can name.
func (a *Flows) Words(ctx context.Context) (FlowWords, error) {
	db := a.base.DB.WithContext(ctx)
	out := FlowWords{
		Kinds:      flow.KindSpellings(),
		Leads:      flow.LeadSpellings(),
		Details:    flow.DetailSpellings(),
		Conditions: flow.ConditionSpellings(),
		Facts:      flow.Known,
		Wants:      flow.AllWants,
		Teams:      []string{},
		Groups:     []KeyWord{},
		Paths:      []instance.Name{},
		Forms:      []KeyWord{},
		Flows:      []string{},
		Languages:  []string{},
		Sites:      []instance.Name{},
		Starters:   flow.Starters,
	}
	err := errors.Join(
		db.Model(&store.Team{}).Order("name").Pluck("name", &out.Teams).Error,
		db.Model(&store.Flow{}).Where("ended_at IS NULL").Order("slug").Pluck("slug", &out.Flows).Error,
		db.Raw(`SELECT key, name FROM customer_groups ORDER BY lower(name)`).Scan(&out.Groups).Error,
		db.Raw(`SELECT id, name FROM paths WHERE retired_at IS NULL ORDER BY NOT standard, id`).Scan(&out.Paths).Error,
	)
	if err != nil {
		return out, err
	}
	if err := db.Raw(`SELECT id, name FROM staff WHERE disabled_at IS NULL ORDER BY name, id`).
		Scan(&out.People).
		Error; err != nil {
		return out, err
	}
	settings, err := a.sites.ReadSettings(db)
	if err != nil {
		return out, err
	}
	for _, s := range settings.ByID {
		out.Sites = append(out.Sites, instance.Name{ID: s.ID, Name: s.Name})
		forms, err := formsAt(db, s.ID)
		if err != nil {
			return out, err
		}
		for key, form := range forms {
			if one := (KeyWord{key, form.Name}); !slices.Contains(out.Forms, one) {
				out.Forms = append(out.Forms, one)
			}
		}
		for _, l := range s.Languages {
			if !slices.Contains(out.Languages, l) {
				out.Languages = append(out.Languages, l)
			}
		}
	}
	slices.Sort(out.Languages)
	slices.SortFunc(out.Forms, func(x, y KeyWord) int { return strings.Compare(x.Key, y.Key) })
	slices.SortFunc(out.Sites, func(x, y instance.Name) int { return int(x.ID - y.ID) })
	return out, nil
}

// Rename gives a turn of a text another name: all that go to it follow.
func Rename(source, from, to string) (string, error) {
	out, err := flow.Rename(source, from, to)
	if err != nil {
		return "", &problem.Problem{Kind: problem.Invalid, Detail: "The turn keeps its name.",
			Fields: []problem.Field{{Name: "to", Message: err.Error()}}}
	}
	return out, nil
}

// SetText puts a text of a script in a language; an empty one takes it out.
func SetText(source, turn, field, language, text string) (string, error) {
	out, err := flow.SetText(source, turn, field, language, text)
	if err != nil {
		return "", &problem.Problem{Kind: problem.Invalid, Detail: "The text was not put in.",
			Fields: []problem.Field{{Name: "text", Message: err.Error()}}}
	}
	return out, nil
}
