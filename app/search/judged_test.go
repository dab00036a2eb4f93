package search_test

import (
	"slices"
	"strings"
	"testing"
	"time"

	"hermeneus/app/apptest"
	"hermeneus/app/evidence"
	"hermeneus/app/outcomes"
	"hermeneus/app/problem"
	"hermeneus/app/search"
	"hermeneus/core/audience"
	"hermeneus/core/outcome"
)

func TestTheSearchIsMeasuredByWhatCustomersConfirmed(t *testing.T) {
	w, c, site, refs := apptest.Searching(t)
	v := evidence.Visitor{Key: "k", Site: site}
	_, err := w.Search.Search(w.Context, v, "battery amber")
	w.Must(err)
	_, err = w.HelpCentre.OpenPage(w.Context, v, outcome.Help, refs["The rented battery shows an amber light"])
	w.Must(err)
	w.Must(w.HelpCentre.Vote(w.Context, v, refs["The rented battery shows an amber light"], true, ""))
	w.Must(
		w.Search.Quality.Judge(
			w.Context,
			c.Analyst,
			site,
			"  cheaper   hours ",
			refs["What the night rate means"],
			"by_hand",
		),
	)
	w.Wait(time.Minute)
	w.Must(w.Outcomes.FoldAll(w.Context))
	w.Must(w.Search.Quality.GatherConfirmed(w.Context)) // by itself it does so now and then
	w.Must(w.Search.Quality.KeepSearchReports(w.Context))
	quality, judged, err := w.Search.Quality.MeasureSearch(w.Context, c.Analyst, site)
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
		func() bool {
			_, j, _ := w.Search.Quality.MeasureSearch(w.Context, c.Analyst, site)
			return j[0].Place+j[1].Place == 3
		},
	)
	w.Must(w.Search.Quality.KeepSearchReports(w.Context)) // too early: another instance may not know it yet
	w.Wait(time.Minute)
	w.Must(w.Search.Quality.KeepSearchReports(w.Context))
	quality, _, err = w.Search.Quality.MeasureSearch(w.Context, c.Analyst, site)
	w.Must(err)
	if quality.Before == nil || quality.Before.MRR10 != 1 || quality.Now.MRR10 != 0.75 || len(quality.Moved) != 1 ||
		quality.Moved[0].Question != "cheaper hours" ||
		quality.Moved[0].Now != 2 ||
		!strings.Contains(quality.Why, "Cheaper hours") {
		t.Errorf("after publishing: %+v", quality)
	}
	if err := w.Search.Quality.KeepSearchReports(w.Context); err != nil {
		t.Fatal(err)
	}
	if again, _, _ := w.Search.Quality.MeasureSearch(w.Context, c.Analyst, site); again.Before == nil ||
		again.Before.MRR10 != 1 {
		t.Errorf("a report is kept though nothing went live: %+v", again)
	}

	// Two answers are right for it now.
	w.Must(w.Search.Quality.Judge(w.Context, c.Analyst, site, "Cheaper hours", ref, "by_hand"))
	if quality, judged, _ := w.Search.Quality.MeasureSearch(
		w.Context,
		c.Analyst,
		site,
	); quality.Now.MRR10 != 1 ||
		len(judged) != 2 {
		t.Errorf("with two right answers: %+v", quality.Now)
	}
	// What somebody left out is not gathered again.
	for _, j := range judged {
		if j.Source == "confirmed" {
			w.Must(w.Search.Quality.DropJudged(w.Context, c.Analyst, j.ID))
		}
	}
	w.Must(w.Outcomes.FoldAll(w.Context))
	w.Must(w.Search.Quality.GatherConfirmed(w.Context))
	if _, judged, _ := w.Search.Quality.MeasureSearch(w.Context, c.Analyst, site); len(judged) != 1 {
		t.Errorf("%d questions are left", len(judged))
	}
	for name, err := range map[string]error{
		"an author judges":       w.Search.Quality.Judge(w.Context, c.Author, site, "x y", ref, "by_hand"),
		"an agent reads":         apptest.Third(w.Search.Quality.MeasureSearch(w.Context, c.Agent, site)),
		"an author leaves out":   w.Search.Quality.DropJudged(w.Context, c.Author, 1),
		"an agent tries a batch": apptest.Second(w.Search.Quality.TrialSearch(w.Context, c.Agent, site, search.SearchTrial{})),
	} {
		if apptest.KindOf(err) != problem.Denied {
			t.Errorf("%s: %v", name, err)
		}
	}
}

func TestWhatIsToGoLiveIsTriedOnTheJudgedQuestions(t *testing.T) {
	w, c, site, refs := apptest.Searching(t)
	w.Must(
		w.Search.Quality.Judge(
			w.Context,
			c.Analyst,
			site,
			"economy tariff hours",
			refs["What the night rate means"],
			"by_hand",
		),
	)
	w.Must(
		w.Search.Quality.Judge(
			w.Context,
			c.Analyst,
			site,
			"amber light",
			refs["The rented battery shows an amber light"],
			"by_hand",
		),
	)
	trial, err := w.Search.Quality.TrialSearch(
		w.Context,
		c.Publisher,
		site,
		search.SearchTrial{Synonyms: []string{"giraffe, zebra"}},
	)
	w.Must(err)
	if trial.Before.MRR10 != 1 || trial.Now.MRR10 != 1 {
		t.Errorf("synonyms that harm nothing: %+v, before %+v", trial.Now, trial.Before)
	}
	bills := w.Category(c.Author, "Lamps")
	draft := w.Draft(c.Author, bills, "Amber light", "<p>Amber light.</p>", audience.Everyone)
	edition, err := w.Desk.ReadArticle(w.Context, c.Author, draft)
	w.Must(err)
	batch, err := w.Review.Batches.MakeBatch(w.Context, c.Publisher, "Lamps", "", []string{edition.Reference})
	w.Must(err)
	trial, err = w.Search.Quality.TrialSearch(w.Context, c.Publisher, site, search.SearchTrial{BatchID: batch})
	w.Must(err)
	if trial.Now.MRR10 >= trial.Before.MRR10 || len(trial.Moved) != 1 || trial.Moved[0].Question != "amber light" ||
		!slices.Equal(trial.Drafts, []string{draft}) {
		t.Errorf("a batch: %+v", trial)
	}
	if found, _ := w.Search.Search(w.Context, evidence.Visitor{Preview: true}, "amber light"); len(found) != 1 {
		t.Errorf("the trial is live: %s", apptest.Titles(found))
	}
	if _, err := w.Search.Quality.TrialSearch(
		w.Context,
		c.Publisher,
		site,
		search.SearchTrial{Synonyms: []string{"alone"}},
	); apptest.KindOf(err) != problem.Invalid {
		t.Errorf("a rule that cannot be read: %v", err)
	}
}

func TestOneKeyInTheLedgerJudges(t *testing.T) {
	w, c, site, refs := apptest.Searching(t)
	_, err := w.Search.Search(w.Context, evidence.Visitor{Key: "k", Site: site}, "when is it cheaper")
	w.Must(err)
	w.Wait(time.Hour)
	w.Must(w.Outcomes.FoldAll(w.Context))
	lines, _, err := w.Outcomes.Ledger(w.Context, c.Analyst, outcomes.LedgerFilter{})
	w.Must(err)
	w.Must(w.Search.Quality.JudgeFromLedger(w.Context, c.Analyst, lines[0].Key, refs["What the night rate means"]))
	_, judged, err := w.Search.Quality.MeasureSearch(w.Context, c.Analyst, site)
	if err != nil || len(judged) != 1 || judged[0].Question != "when is it cheaper" || judged[0].Source != "ledger" ||
		judged[0].MadeBy == "" {
		t.Errorf("%+v, %v", judged, err)
	}
	if err := w.Search.Quality.JudgeFromLedger(
		w.Context,
		c.Analyst,
		"nobody",
		refs["What the night rate means"],
	); apptest.KindOf(err) != problem.NotFound {
		t.Errorf("a question that is not there: %v", err)
	}
}
