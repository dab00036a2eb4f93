package search_test

import (
	"strings"
	"testing"

	"hermeneus/app/apptest"
	"hermeneus/app/library"
	"hermeneus/app/problem"
	"hermeneus/core/audience"
)

func TestFindLooksEverywhereAsOneTypes(t *testing.T) {
	w := apptest.Open(t)
	c := w.Crew()
	category := w.Category(c.Author, "Bills")
	one, err := w.Library.CreateArticle(
		w.Context,
		c.Author,
		library.NewArticle{
			CategoryID: category,
			Copy: library.WorkingCopy{
				Title:    "Change the day money is taken",
				Keywords: []string{"direct debit"},
				Body:     "<p>Choose <strong>Payments</strong> &amp; more.</p>",
			},
		},
	)
	w.Must(err)
	two := w.Draft(c.Author, category, "Refunds", "<p>Money goes back in five working days.</p>", audience.Staff)
	find := func(words string) string {
		found, err := w.Search.Find(w.Context, words)
		w.Must(err)
		var list []string
		for _, f := range found {
			list = append(list, f.Reference)
		}
		return strings.Join(list, " ")
	}
	for words, want := range map[string]string{"mon": one + " " + two, "money tak": one, "debi": one, "payment": one, "working day": two, "refunding": two, "payments": one, "refund": two,
		one: one, "a-0002": two, "2": two, "nothing at all": "", "": "", "'; --": "", "& | !": "", "<script>": ""} {
		if got := find(words); got != want {
			t.Errorf("%q finds %q, want %q", words, got, want)
		}
	}
	found, err := w.Search.Find(w.Context, "working")
	w.Must(err)
	if found[0].Match.Text() != "Money goes back in five working days." || found[0].Match.Hits() != 1 {
		t.Errorf("the match is %+v", found[0].Match)
	}
	if apptest.KindOf(apptest.Second(w.Search.Find(w.Context, strings.Repeat("x", 201)))) != problem.TooLong {
		t.Error("any length is looked for")
	}
}
