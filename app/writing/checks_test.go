package writing_test

import (
	"slices"
	"strings"
	"testing"

	"hermeneus/app/apptest"
	"hermeneus/app/problem"
	"hermeneus/core/audience"
	"hermeneus/core/prose"
)

func TestTheMarginKnowsTheLibraryAndTheCustomers(t *testing.T) {
	w := apptest.Open(t)
	c := w.Crew()
	category := w.Category(c.Author, "Bills")
	long := "<p>" + strings.Repeat(
		"You can change the day on which money is taken from your account as often as you like. ",
		3,
	) + "</p>"
	first := w.Draft(c.Author, category, "Change the payment day", long, audience.Everyone)
	w.Publish(c, first)
	ref := w.Draft(
		c.Author,
		category,
		"Change the day money is taken",
		long+`<p><a href="/help/articles/`+first+`">a</a> <a href="/help/articles/A-0999">b</a></p>`,
		audience.Everyone,
	)
	visitor := apptest.Visitor("k")
	for _, words := range []string{"direct debit date", "direct debit", "move my direct debit", "direct debit day", "payment day direct debit"} {
		visitor.Key += "x"
		w.Must(apptest.Second(w.Search.Search(w.Context, visitor, words)))
		w.Must(apptest.Second(w.HelpCentre.OpenPage(w.Context, visitor, "help", first)))
	}
	advice, err := w.Writing.Checks(w.Context, apptest.Reader, ref)
	w.Must(err)
	kinds := map[prose.CheckKind]string{}
	for _, check := range advice.Checks {
		kinds[check.Kind] = check.Message
	}
	if !strings.Contains(kinds[prose.NearDuplicate], first) ||
		!strings.Contains(kinds[prose.BrokenLink], "A-0999") {
		t.Errorf("checks %+v", kinds)
	}
	w.Must(w.Outcomes.FoldAll(w.Context))
	about, err := w.Writing.Checks(w.Context, apptest.Reader, first)
	w.Must(err)
	if len(about.Asked) != 5 || !slices.Contains(about.Keywords, "direct debit") {
		t.Errorf("asked %+v, suggested %q", about.Asked, about.Keywords)
	}

	key := advice.Checks[0].Key
	if apptest.KindOf(w.Library.Dismiss(w.Context, c.Agent, ref, key, "x")) != problem.Denied {
		t.Error("an agent set a note aside")
	}
	w.Must(w.Library.Dismiss(w.Context, c.Author, ref, key, "It is meant so."))
	after, err := w.Writing.Checks(w.Context, apptest.Reader, ref)
	w.Must(err)
	if len(after.Checks) != len(advice.Checks)-1 || after.Dismissed[0].Reason != "It is meant so." ||
		after.Dismissed[0].Who != "ada" {
		t.Errorf("after setting aside: %+v", after.Dismissed)
	}
	w.Must(w.Library.Dismiss(w.Context, c.Author, ref, key, ""))
	back, err := w.Writing.Checks(w.Context, apptest.Reader, ref)
	w.Must(err)
	if len(back.Checks) != len(advice.Checks) {
		t.Error("a dismissal could not be taken back")
	}
}
