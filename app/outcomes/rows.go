package outcomes

import (
	"cmp"
	"slices"
	"time"

	"hermeneus/core/article"
	"hermeneus/core/outcome"
	"hermeneus/store"
)

// rowOf is a question as it is kept: with everything that it can be split by. traced is when its asker left the first
// trace of self-service, nil for never.
func rowOf(q outcome.Question, traced *time.Time) store.Question {
	items := q.Evidence
	row := store.Question{
		FirstItem:   int64(items[0].Line),
		SittingAt:   q.Sitting.UTC(),
		BeganAt:     q.Began.UTC(),
		LastAt:      items[len(items)-1].At.UTC(),
		ClosedAt:    q.Closed.UTC(),
		Outcome:     string(q.Outcome),
		AskedAgain:  q.AskedAgain,
		NotFollowed: q.NotFollowed(),
		Contacts:    store.Strings{},
		Refs:        store.Strings{},
		Items:       store.Numbers{},
		Answers:     store.Numbers{},
		Channels:    store.Strings{},
		Groups:      store.Strings{},
		Opened:      store.Numbers{},
		Article:     numberOf(q.LastArticle()),
		HelpedBy:    numberOf(q.HelpedBy()),
	}
	if q.ReturnedBy != nil {
		at := q.ReturnedBy.At.UTC()
		row.ReturnedBy, row.ReturnedAt = int64(q.ReturnedBy.Line), &at
	}
	for _, e := range items {
		addItem(&row, e)
	}
	row.Category = categoryOf(items)
	for _, e := range items {
		if e.Reaches() {
			row.Traced = traced != nil && traced.Before(e.At)
			break
		}
	}
	slices.Sort(row.Channels)
	return row
}

func numberOf(reference string) int {
	number, _, _ := article.ParseReference(reference)
	return number
}

// addItem adds what an item says of its question.
func addItem(row *store.Question, e *outcome.Evidence) {
	row.Items = append(row.Items, int64(e.Line))
	for _, ref := range referencesOf(e) {
		if !slices.Contains(row.Refs, ref) {
			row.Refs = append(row.Refs, ref)
		}
	}
	if e.Reaches() && e.Ref != "" && !slices.Contains(row.Contacts, e.Ref) {
		row.Contacts = append(row.Contacts, e.Ref)
	}
	if !slices.Contains(row.Channels, string(e.Channel)) {
		row.Channels = append(row.Channels, string(e.Channel))
	}
	// What asks has words, also when they are forgotten by now.
	if e.Text != "" || e.Kind == outcome.Asked || (e.Kind == outcome.Offered && e.Source == outcome.FromForm) {
		row.LabelItem = cmp.Or(row.LabelItem, int64(e.Line))
		if (e.Kind == outcome.Asked || e.Kind == outcome.Offered) && !e.Tapped() {
			row.TypedItem = int64(e.Line)
		}
	}
	number := int64(numberOf(e.Ref))
	if e.Kind == outcome.Opened && number != 0 && !slices.Contains(row.Opened, number) {
		row.Opened = append(row.Opened, number)
	}
	if e.Stood == nil {
		return
	}
	row.Site = cmp.Or(row.Site, e.Site)
	row.Language = cmp.Or(row.Language, e.Language)
	row.Flow = cmp.Or(row.Flow, e.Flow)
	row.Team = cmp.Or(row.Team, e.Team)
	if len(row.Groups) == 0 && len(e.Groups) > 0 {
		row.Groups = e.Groups
	}
}

// categoryOf is the category of what the asker read last, else opened last, else was offered first.
func categoryOf(items []*outcome.Evidence) string {
	var read, opened, offered string
	for _, e := range items {
		if e.Stood == nil || e.Category == "" {
			continue
		}
		switch e.Kind {
		case outcome.Read:
			read = e.Category
		case outcome.Opened:
			opened = e.Category
		default:
			offered = cmp.Or(offered, e.Category)
		}
	}
	return cmp.Or(read, opened, offered)
}
