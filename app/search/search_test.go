package search_test

import (
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"hermeneus/app/apptest"
	"hermeneus/app/evidence"
	"hermeneus/app/library"
	"hermeneus/app/problem"
	"hermeneus/app/search"
	"hermeneus/app/staff"
	"hermeneus/app/writing"
	"hermeneus/core/audience"
	"hermeneus/core/outcome"
	"hermeneus/core/review"
)

func TestAnAnswerIsComposedAndToldOnce(t *testing.T) {
	w, _, site, refs := apptest.Searching(t)
	v := evidence.Visitor{Key: "k", Site: site}
	for range 2 { // a reload tells nothing new
		found, err := w.Search.SearchAll(w.Context, v, search.Asking{Words: "how do I give a meter reading"})
		w.Must(err)
		if found.Answer == nil || found.Answer.Parts[0].Reference != refs["Give a meter reading"] ||
			len(found.Answer.Parts[0].Blocks) != 3 {
			t.Fatalf("answer %+v", found.Answer)
		}
	}
	items, err := w.Evidence(w.Context)
	w.Must(err)
	var kinds []string
	for _, e := range items {
		kinds = append(kinds, string(e.Kind))
	}
	if strings.Join(kinds, " ") != "asked offered told" ||
		!slices.Equal(items[2].Refs, []string{refs["Give a meter reading"] + "@1"}) {
		t.Errorf("evidence %v, told %v", kinds, items[2].Refs)
	}
	if found, err := w.Search.SearchAll(
		w.Context,
		v,
		search.Asking{Words: "trumpet giraffe"},
	); err != nil || found.Answer != nil || len(found.Themes) != 1 ||
		found.Themes[0].Name != "Bills" {
		t.Errorf("what nobody wrote of: %+v, %v", found, err)
	}
}

func TestSynonymsPinsAndWeightsActAtOnceAndOnOtherInstances(t *testing.T) {
	w, c, site, refs := apptest.Searching(t)
	other := w.Another()
	v := evidence.Visitor{Key: "k", Site: site, Preview: true}
	if found, _ := w.Search.Search(w.Context, v, "economy tariff"); len(found) != 0 {
		t.Fatalf("found %s", apptest.Titles(found))
	}
	for name, err := range map[string]error{
		"an author adds synonyms": apptest.Second(w.Search.AddSynonym(w.Context, c.Author, site, "a, b")),
		"an author pins":          apptest.Second(w.Search.AddPin(w.Context, c.Author, site, search.Pin{Words: "x", Reference: refs["Give a meter reading"]})),
		"an agent weighs":         w.Search.SetWeights(w.Context, c.Agent, site, []float32{1, 1, 1, 1}),
	} {
		if apptest.KindOf(err) != problem.Denied {
			t.Errorf("%s: %v", name, err)
		}
	}
	id, err := w.Search.AddSynonym(w.Context, c.Publisher, site, "economy tariff,  night rate")
	w.Must(err)
	if found, _ := w.Search.Search(
		w.Context,
		v,
		"economy tariff",
	); apptest.Titles(found) != "What the night rate means" {
		t.Errorf("with a synonym: %s", apptest.Titles(found))
	}
	w.Eventually(
		func() bool { found, _ := other.Search.Search(w.Context, v, "economy tariff"); return len(found) == 1 },
	)
	for _, wrong := range []string{"", "alone", "=> x", strings.Repeat("long ", 80), "economy tariff, night rate"} {
		if _, err := w.Search.AddSynonym(w.Context, c.Publisher, site, wrong); apptest.KindOf(err) != problem.Invalid {
			t.Errorf("%q: %v", wrong, err)
		}
	}
	w.Must(w.Search.DropSynonym(w.Context, c.Publisher, id))
	if found, _ := w.Search.Search(w.Context, v, "economy tariff"); len(found) != 0 {
		t.Errorf("without it again: %s", apptest.Titles(found))
	}

	pin := search.Pin{
		Words:     "the amber light",
		Reference: refs["Give a meter reading"],
		Until:     w.Time().AddDate(0, 0, 2).Format(time.DateOnly),
	}
	_, err = w.Search.AddPin(w.Context, c.Publisher, site, pin)
	w.Must(err)
	if found, _ := w.Search.Search(
		w.Context,
		v,
		"amber lights",
	); !strings.HasPrefix(
		apptest.Titles(found),
		"Give a meter reading | The rented",
	) {
		t.Errorf("with a pin: %s", apptest.Titles(found))
	}
	for name, p := range map[string]search.Pin{"no words": {Reference: pin.Reference}, "empty words": {Words: "is the", Reference: pin.Reference}, "no article": {Words: "x", Reference: "A-0099"},
		"no reference": {Words: "x", Reference: "x"}, "a day past": {Words: "x", Reference: pin.Reference, Until: "2020-01-01"}, "no day": {Words: "x", Reference: pin.Reference, Until: "soon"}} {
		if _, err := w.Search.AddPin(w.Context, c.Publisher, site, p); apptest.KindOf(err) != problem.Invalid {
			t.Errorf("%s: %v", name, err)
		}
	}
	w.Wait(3 * 24 * time.Hour)
	if found, _ := w.Search.Search(w.Context, v, "amber lights"); strings.HasPrefix(apptest.Titles(found), "Give") {
		t.Errorf("after its last day: %s", apptest.Titles(found))
	}
	rules, err := w.Search.ReadSearchRules(w.Context, site)
	if err != nil || len(rules.Pins) != 1 || !rules.Pins[0].Over || !rules.Standard {
		t.Errorf("rules %+v, %v", rules, err)
	}
	for _, wrong := range [][]float32{{1}, {1, 1, 1, 21}, {-1, 1, 1, 1}} {
		if err := w.Search.SetWeights(w.Context, c.Publisher, site, wrong); apptest.KindOf(err) != problem.Invalid {
			t.Errorf("weights %v: %v", wrong, err)
		}
	}
	w.Must(w.Search.SetWeights(w.Context, c.Administrator, site, []float32{0.5, 1, 1, 6}))
	if rules, _ := w.Search.ReadSearchRules(w.Context, site); rules.Standard || rules.Weights[3] != 6 {
		t.Errorf("weights %+v", rules)
	}
	w.Must(w.Search.SetWeights(w.Context, c.Administrator, site, nil))
}

func TestEditionsAreFoundInTheReadersLanguage(t *testing.T) {
	w, c, site, refs := apptest.Searching(t)
	de, err := w.Writing.AddEdition(w.Context, c.Author, refs["Give a meter reading"], "de")
	w.Must(err)
	_, err = w.Writing.SaveArticle(
		w.Context,
		c.Author,
		de,
		writing.Save{
			Text: library.WorkingCopy{
				Title:    "Zählerstand melden",
				Body:     "<p>Melden Sie den Stand.</p>",
				Keywords: []string{},
			},
			Version: 1,
		},
	)
	w.Must(err)
	for _, step := range []struct {
		by     staff.Staff
		action review.Action
	}{{c.Author, review.Submit}, {c.Reviewer, review.Approve}, {c.Publisher, review.Publish}} {
		w.Must(w.Review.Act(w.Context, step.by, de, step.action, 2, ""))
	}
	v := evidence.Visitor{Preview: true, Site: site, Language: "de"}
	w.Eventually(func() bool {
		found, _ := w.Search.Search(w.Context, v, "zahlerstand")
		return apptest.Titles(found) == "Zählerstand melden"
	})
	if found, _ := w.Search.Search(
		w.Context,
		v,
		"meter reading",
	); strings.Contains(
		apptest.Titles(found),
		"Give a meter",
	) {
		t.Errorf("its source is found beside it: %s", apptest.Titles(found))
	}
	if found, _ := w.Search.Search(w.Context, v, "night rate"); apptest.Titles(found) != "What the night rate means" {
		t.Errorf("what is written in English only: %s", apptest.Titles(found))
	}
	page, err := w.HelpCentre.OpenPage(w.Context, v, outcome.Help, refs["What the night rate means"])
	if err != nil || page.Missing != "de" || page.Language != "en" {
		t.Errorf("without an edition: missing %q, language %q, %v", page.Missing, page.Language, err)
	}
	if page, err := w.HelpCentre.OpenPage(
		w.Context,
		v,
		outcome.Help,
		refs["Give a meter reading"],
	); err != nil ||
		page.Missing != "" {
		t.Errorf("with an edition that can be chosen: %q, %v", page.Missing, err)
	}
}

func TestWhatIsPopularIsOfferedToWhomItMayBe(t *testing.T) {
	w, c, site, refs := apptest.Searching(t)
	category := w.Category(c.Author, "Agents")
	secret := w.Draft(c.Author, category, "Goodwill limits", "<p>goodwill</p>", audience.Staff)
	w.Publish(c, secret)
	w.Eventually(func() bool {
		found, _ := w.Search.Search(w.Context, evidence.Visitor{Preview: true}, "goodwill")
		return len(found) == 1
	})
	for i := range 3 {
		v := evidence.Visitor{Key: fmt.Sprint("visitor ", i), Site: site}
		for _, words := range []string{"why is my bill estimated", "what are the goodwill limits"} {
			_, err := w.Search.Search(w.Context, v, words)
			w.Must(err)
			w.Wait(time.Minute)
		}
		_, err := w.HelpCentre.OpenPage(w.Context, v, outcome.Help, refs["Why a bill is estimated"])
		w.Must(err)
	}
	_, err := w.Search.Search(w.Context, evidence.Visitor{Key: "alone", Site: site}, "my neighbour's estimated bill")
	w.Must(err)
	w.Must(w.Search.RefreshPopular(w.Context))
	v := evidence.Visitor{Key: "new", Site: site}
	popular, err := w.Search.Popular(w.Context, v)
	if err != nil || apptest.Titles(popular) != "Why a bill is estimated" {
		t.Errorf("popular: %s, %v", apptest.Titles(popular), err)
	}
	offered := func(v evidence.Visitor, typed string) string {
		found, err := w.Search.Suggest(w.Context, v, typed)
		w.Must(err)
		var texts []string
		for _, s := range found {
			texts = append(texts, s.Text)
		}
		return strings.Join(texts, " | ")
	}
	if got := offered(v, "estim"); got != "why is my bill estimated | Why a bill is estimated" {
		t.Errorf("estim is completed by %q", got)
	}
	if got := offered(v, "goodw"); got != "" {
		t.Errorf("a visitor is offered %q", got)
	}
	if got := offered(
		evidence.Visitor{Preview: true, Site: site},
		"goodw",
	); got != "what are the goodwill limits | Goodwill limits" {
		t.Errorf("staff are offered %q", got)
	}
}

// An instance that lost the line to the others does not know what is no longer for
// everyone: it asks the database before it completes anything.
func TestAnInstanceOutOfTouchOffersNothingThatWasNarrowed(t *testing.T) {
	w, c, site, refs := apptest.Searching(t)
	offered := func() int {
		found, err := w.Search.Suggest(w.Context, evidence.Visitor{Key: "k", Site: site}, "amber")
		w.Must(err)
		return len(found)
	}
	if offered() != 1 {
		t.Fatal("the title is not offered")
	}
	listening := `FROM pg_stat_activity WHERE query LIKE 'LISTEN%' AND datname = current_database()`
	w.Must(w.DB().Exec(`SELECT pg_terminate_backend(pid) ` + listening).Error)
	w.Eventually(func() bool {
		var n int
		w.Must(w.DB().Raw(`SELECT count(*) ` + listening).Scan(&n).Error)
		return n == 0
	})
	time.Sleep(100 * time.Millisecond)
	a, err := w.Desk.ReadArticle(w.Context, c.Author, refs["The rented battery shows an amber light"])
	w.Must(err)
	w.Must(
		w.Library.SetProperties(
			w.Context,
			c.Author,
			a.Reference,
			library.Properties{CategoryID: a.Category.ID, OwnerID: c.Author.ID, Kind: "fix", Audience: audience.Staff},
		),
	)
	if offered() != 0 {
		t.Error("the title is offered though it is for staff only")
	}
}
