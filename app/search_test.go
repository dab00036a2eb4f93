package app_test

import (
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"hermeneus/app"
	"hermeneus/core/article"
	"hermeneus/core/audience"
	"hermeneus/core/outcome"
)

func TestAnAnswerIsComposedAndToldOnce(t *testing.T) {
	w, _, site, refs := searching(t)
	v := app.Visitor{Key: "k", Site: site}
	for range 2 { // a reload tells nothing new
		found, err := w.SearchAll(w.Context, v, "how do I give a meter reading", false)
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
	if found, err := w.SearchAll(
		w.Context,
		v,
		"trumpet giraffe",
		false,
	); err != nil || found.Answer != nil || len(found.Themes) != 1 ||
		found.Themes[0].Name != "Bills" {
		t.Errorf("what nobody wrote of: %+v, %v", found, err)
	}
}

func TestSynonymsPinsAndWeightsActAtOnceAndOnOtherInstances(t *testing.T) {
	w, c, site, refs := searching(t)
	other := w.Instance()
	v := app.Visitor{Key: "k", Site: site, Preview: true}
	if found, _ := w.Search(w.Context, v, "economy tariff"); len(found) != 0 {
		t.Fatalf("found %s", titles(found))
	}
	for name, err := range map[string]error{
		"an author adds synonyms": second(w.AddSynonym(w.Context, c.Author, site, "a, b")),
		"an author pins":          second(w.AddPin(w.Context, c.Author, site, app.Pin{Words: "x", Reference: refs["Give a meter reading"]})),
		"an agent weighs":         w.SetWeights(w.Context, c.Agent, site, []float32{1, 1, 1, 1}),
	} {
		if kind(err) != app.Denied {
			t.Errorf("%s: %v", name, err)
		}
	}
	id, err := w.AddSynonym(w.Context, c.Publisher, site, "economy tariff,  night rate")
	w.Must(err)
	if found, _ := w.Search(w.Context, v, "economy tariff"); titles(found) != "What the night rate means" {
		t.Errorf("with a synonym: %s", titles(found))
	}
	w.Eventually(func() bool { found, _ := other.Search(w.Context, v, "economy tariff"); return len(found) == 1 })
	for _, wrong := range []string{"", "alone", "=> x", strings.Repeat("long ", 80), "economy tariff, night rate"} {
		if _, err := w.AddSynonym(w.Context, c.Publisher, site, wrong); kind(err) != app.Invalid {
			t.Errorf("%q: %v", wrong, err)
		}
	}
	w.Must(w.DropSynonym(w.Context, c.Publisher, id))
	if found, _ := w.Search(w.Context, v, "economy tariff"); len(found) != 0 {
		t.Errorf("without it again: %s", titles(found))
	}

	pin := app.Pin{
		Words:     "the amber light",
		Reference: refs["Give a meter reading"],
		Until:     w.Time().AddDate(0, 0, 2).Format(time.DateOnly),
	}
	_, err = w.AddPin(w.Context, c.Publisher, site, pin)
	w.Must(err)
	if found, _ := w.Search(
		w.Context,
		v,
		"amber lights",
	); !strings.HasPrefix(
		titles(found),
		"Give a meter reading | The rented",
	) {
		t.Errorf("with a pin: %s", titles(found))
	}
	for name, p := range map[string]app.Pin{"no words": {Reference: pin.Reference}, "empty words": {Words: "is the", Reference: pin.Reference}, "no article": {Words: "x", Reference: "A-0099"},
		"no reference": {Words: "x", Reference: "x"}, "a day past": {Words: "x", Reference: pin.Reference, Until: "2020-01-01"}, "no day": {Words: "x", Reference: pin.Reference, Until: "soon"}} {
		if _, err := w.AddPin(w.Context, c.Publisher, site, p); kind(err) != app.Invalid {
			t.Errorf("%s: %v", name, err)
		}
	}
	w.Wait(3 * 24 * time.Hour)
	if found, _ := w.Search(w.Context, v, "amber lights"); strings.HasPrefix(titles(found), "Give") {
		t.Errorf("after its last day: %s", titles(found))
	}
	rules, err := w.ReadSearchRules(w.Context, site)
	if err != nil || len(rules.Pins) != 1 || !rules.Pins[0].Over || !rules.Standard {
		t.Errorf("rules %+v, %v", rules, err)
	}
	for _, wrong := range [][]float32{{1}, {1, 1, 1, 21}, {-1, 1, 1, 1}} {
		if err := w.SetWeights(w.Context, c.Publisher, site, wrong); kind(err) != app.Invalid {
			t.Errorf("weights %v: %v", wrong, err)
		}
	}
	w.Must(w.SetWeights(w.Context, c.Administrator, site, []float32{0.5, 1, 1, 6}))
	if rules, _ := w.ReadSearchRules(w.Context, site); rules.Standard || rules.Weights[3] != 6 {
		t.Errorf("weights %+v", rules)
	}
	w.Must(w.SetWeights(w.Context, c.Administrator, site, nil))
}

func TestTheSearchIsMeasuredByWhatCustomersConfirmed(t *testing.T) {
	w, c, site, refs := searching(t)
	v := app.Visitor{Key: "k", Site: site}
	_, err := w.Search(w.Context, v, "battery amber")
	w.Must(err)
	_, err = w.OpenPage(w.Context, v, outcome.Help, refs["The rented battery shows an amber light"])
	w.Must(err)
	w.Must(w.Vote(w.Context, v, refs["The rented battery shows an amber light"], true, ""))
	w.Must(w.Judge(w.Context, c.Analyst, site, "  cheaper   hours ", refs["What the night rate means"], "by_hand"))
	w.Wait(time.Minute)
	w.Must(w.KeepSearchReports(w.Context))
	quality, judged, err := w.MeasureSearch(w.Context, c.Analyst, site)
	w.Must(err)
	if quality.Now.Queries != 2 || quality.Now.MRR10 != 1 || len(judged) != 2 ||
		judged[0].Source != "confirmed" && judged[1].Source != "confirmed" {
		t.Fatalf("%+v %+v", quality, judged)
	}

	// What goes live moves them, and it is said which.
	w.Wait(time.Minute)
	bills := w.Category(c.Author, "More")
	ref := w.Draft(c.Author, bills, "Cheaper hours", "<p>Cheaper hours.</p>", audience.Everyone)
	w.Publish(c, ref)
	w.Eventually(
		func() bool { _, j, _ := w.MeasureSearch(w.Context, c.Analyst, site); return j[0].Place+j[1].Place == 3 },
	)
	w.Must(w.KeepSearchReports(w.Context)) // too early: another instance may not know it yet
	w.Wait(time.Minute)
	w.Must(w.KeepSearchReports(w.Context))
	quality, _, err = w.MeasureSearch(w.Context, c.Analyst, site)
	w.Must(err)
	if quality.Before == nil || quality.Before.MRR10 != 1 || quality.Now.MRR10 != 0.75 || len(quality.Moved) != 1 ||
		quality.Moved[0].Question != "cheaper hours" ||
		quality.Moved[0].Now != 2 ||
		!strings.Contains(quality.Why, "Cheaper hours") {
		t.Errorf("after publishing: %+v", quality)
	}
	if err := w.KeepSearchReports(w.Context); err != nil {
		t.Fatal(err)
	}
	if again, _, _ := w.MeasureSearch(w.Context, c.Analyst, site); again.Before == nil || again.Before.MRR10 != 1 {
		t.Errorf("a report is kept though nothing went live: %+v", again)
	}

	// Two answers are right for it now.
	w.Must(w.Judge(w.Context, c.Analyst, site, "Cheaper hours", ref, "by_hand"))
	if quality, judged, _ := w.MeasureSearch(w.Context, c.Analyst, site); quality.Now.MRR10 != 1 || len(judged) != 2 {
		t.Errorf("with two right answers: %+v", quality.Now)
	}
	// What somebody left out is not gathered again.
	for _, j := range judged {
		if j.Source == "confirmed" {
			w.Must(w.DropJudged(w.Context, c.Analyst, j.ID))
		}
	}
	w.Must(w.GatherConfirmed(w.Context))
	if _, judged, _ := w.MeasureSearch(w.Context, c.Analyst, site); len(judged) != 1 {
		t.Errorf("%d questions are left", len(judged))
	}
	for name, err := range map[string]error{
		"an author judges":       w.Judge(w.Context, c.Author, site, "x y", ref, "by_hand"),
		"an agent reads":         third(w.MeasureSearch(w.Context, c.Agent, site)),
		"an author leaves out":   w.DropJudged(w.Context, c.Author, 1),
		"an agent tries a batch": second(w.TrialSearch(w.Context, c.Agent, site, app.SearchTrial{})),
	} {
		if kind(err) != app.Denied {
			t.Errorf("%s: %v", name, err)
		}
	}
}

func TestWhatIsToGoLiveIsTriedOnTheJudgedQuestions(t *testing.T) {
	w, c, site, refs := searching(t)
	w.Must(w.Judge(w.Context, c.Analyst, site, "economy tariff hours", refs["What the night rate means"], "by_hand"))
	w.Must(
		w.Judge(w.Context, c.Analyst, site, "amber light", refs["The rented battery shows an amber light"], "by_hand"),
	)
	trial, err := w.TrialSearch(w.Context, c.Publisher, site, app.SearchTrial{Synonyms: []string{"giraffe, zebra"}})
	w.Must(err)
	if trial.Before.MRR10 != 1 || trial.Now.MRR10 != 1 {
		t.Errorf("synonyms that harm nothing: %+v, before %+v", trial.Now, trial.Before)
	}
	bills := w.Category(c.Author, "Lamps")
	draft := w.Draft(c.Author, bills, "Amber light", "<p>Amber light.</p>", audience.Everyone)
	edition, err := w.ReadArticle(w.Context, c.Author, draft)
	w.Must(err)
	batch, err := w.MakeBatch(w.Context, c.Publisher, "Lamps", "", []string{edition.Reference})
	w.Must(err)
	trial, err = w.TrialSearch(w.Context, c.Publisher, site, app.SearchTrial{BatchID: batch})
	w.Must(err)
	if trial.Now.MRR10 >= trial.Before.MRR10 || len(trial.Moved) != 1 || trial.Moved[0].Question != "amber light" ||
		!slices.Equal(trial.Drafts, []string{draft}) {
		t.Errorf("a batch: %+v", trial)
	}
	if found, _ := w.Search(w.Context, app.Visitor{Preview: true}, "amber light"); len(found) != 1 {
		t.Errorf("the trial is live: %s", titles(found))
	}
	if _, err := w.TrialSearch(
		w.Context,
		c.Publisher,
		site,
		app.SearchTrial{Synonyms: []string{"alone"}},
	); kind(
		err,
	) != app.Invalid {
		t.Errorf("a rule that cannot be read: %v", err)
	}
}

func TestOneKeyInTheLedgerJudges(t *testing.T) {
	w, c, site, refs := searching(t)
	_, err := w.Search(w.Context, app.Visitor{Key: "k", Site: site}, "when is it cheaper")
	w.Must(err)
	w.Wait(time.Hour)
	lines, _, err := w.Ledger(w.Context, c.Analyst, app.LedgerFilter{})
	w.Must(err)
	w.Must(w.JudgeFromLedger(w.Context, c.Analyst, lines[0].Key, refs["What the night rate means"]))
	_, judged, err := w.MeasureSearch(w.Context, c.Analyst, site)
	if err != nil || len(judged) != 1 || judged[0].Question != "when is it cheaper" || judged[0].Source != "ledger" ||
		judged[0].MadeBy == "" {
		t.Errorf("%+v, %v", judged, err)
	}
	if err := w.JudgeFromLedger(
		w.Context,
		c.Analyst,
		"nobody",
		refs["What the night rate means"],
	); kind(
		err,
	) != app.NotFound {
		t.Errorf("a question that is not there: %v", err)
	}
}

func TestEditionsAreFoundInTheReadersLanguage(t *testing.T) {
	w, c, site, refs := searching(t)
	de, err := w.AddEdition(w.Context, c.Author, refs["Give a meter reading"], "de")
	w.Must(err)
	_, err = w.SaveArticle(
		w.Context,
		c.Author,
		de,
		app.Save{
			Text: app.WorkingCopy{
				Title:    "Zählerstand melden",
				Body:     "<p>Melden Sie den Stand.</p>",
				Keywords: []string{},
			},
			Version: 1,
		},
	)
	w.Must(err)
	for _, step := range []struct {
		by     app.Staff
		action article.Action
	}{{c.Author, article.Submit}, {c.Reviewer, article.Approve}, {c.Publisher, article.Publish}} {
		w.Must(w.Act(w.Context, step.by, de, step.action, 2, ""))
	}
	v := app.Visitor{Preview: true, Site: site, Language: "de"}
	w.Eventually(func() bool {
		found, _ := w.Search(w.Context, v, "zahlerstand")
		return titles(found) == "Zählerstand melden"
	})
	if found, _ := w.Search(w.Context, v, "meter reading"); strings.Contains(titles(found), "Give a meter") {
		t.Errorf("its source is found beside it: %s", titles(found))
	}
	if found, _ := w.Search(w.Context, v, "night rate"); titles(found) != "What the night rate means" {
		t.Errorf("what is written in English only: %s", titles(found))
	}
	page, err := w.OpenPage(w.Context, v, outcome.Help, refs["What the night rate means"])
	if err != nil || page.Missing != "de" || page.Language != "en" {
		t.Errorf("without an edition: missing %q, language %q, %v", page.Missing, page.Language, err)
	}
	if page, err := w.OpenPage(
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
	w, c, site, refs := searching(t)
	shelf := w.Category(c.Author, "Agents")
	secret := w.Draft(c.Author, shelf, "Goodwill limits", "<p>goodwill</p>", audience.Staff)
	w.Publish(c, secret)
	w.Eventually(func() bool {
		found, _ := w.Search(w.Context, app.Visitor{Preview: true}, "goodwill")
		return len(found) == 1
	})
	for i := range 3 {
		v := app.Visitor{Key: fmt.Sprint("visitor ", i), Site: site}
		for _, words := range []string{"why is my bill estimated", "what are the goodwill limits"} {
			_, err := w.Search(w.Context, v, words)
			w.Must(err)
			w.Wait(time.Minute)
		}
		_, err := w.OpenPage(w.Context, v, outcome.Help, refs["Why a bill is estimated"])
		w.Must(err)
	}
	_, err := w.Search(w.Context, app.Visitor{Key: "alone", Site: site}, "my neighbour's estimated bill")
	w.Must(err)
	w.Must(w.RefreshPopular(w.Context))
	v := app.Visitor{Key: "new", Site: site}
	popular, err := w.Popular(w.Context, v)
	if err != nil || titles(popular) != "Why a bill is estimated" {
		t.Errorf("popular: %s, %v", titles(popular), err)
	}
	offered := func(v app.Visitor, typed string) string {
		found, err := w.Suggest(w.Context, v, typed)
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
		app.Visitor{Preview: true, Site: site},
		"goodw",
	); got != "what are the goodwill limits | Goodwill limits" {
		t.Errorf("staff are offered %q", got)
	}
}

// An instance that lost the line to the others does not know what is no longer for
// everyone: it asks the database before it completes anything.
func TestAnInstanceOutOfTouchOffersNothingThatWasNarrowed(t *testing.T) {
	w, c, site, refs := searching(t)
	offered := func() int {
		found, err := w.Suggest(w.Context, app.Visitor{Key: "k", Site: site}, "amber")
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
	a, err := w.ReadArticle(w.Context, c.Author, refs["The rented battery shows an amber light"])
	w.Must(err)
	w.Must(
		w.SetProperties(
			w.Context,
			c.Author,
			a.Reference,
			app.Properties{CategoryID: a.Category.ID, OwnerID: c.Author.ID, Kind: "fix", Audience: audience.Staff},
		),
	)
	if offered() != 0 {
		t.Error("the title is offered though it is for staff only")
	}
}
