package search_test

import (
	"testing"

	"hermeneus/app/apptest"
	"hermeneus/app/evidence"
	"hermeneus/app/outcomes"
	"hermeneus/app/problem"
	"hermeneus/core/audience"
	"hermeneus/core/review"
)

// What was judged out of the Ledger can be taken back, and only that.
func TestAJudgementOfTheLedgerIsTakenBack(t *testing.T) {
	w, c := apptest.OpenWithCrew(t)
	second0 := w.Draft(
		c.Author,
		w.Category(c.Author, "More"),
		"Another estimated bill",
		"<p>An estimated bill, again.</p>",
		audience.Everyone,
	)
	w.Publish(c, second0)
	v := evidence.Visitor{Key: "k", Whole: true}
	w.Must(apptest.Second(w.Search.Search(w.Context, v, "estimated bill")))
	w.Must(w.Outcomes.FoldAll(w.Context))
	lines, _, err := w.Outcomes.Ledger(w.Context, c.Analyst, outcomes.LedgerFilter{})
	w.Must(err)
	right := func() string {
		var rows []struct{ Right string }
		w.Must(w.DB().Raw(`SELECT right_articles::text AS right FROM judged WHERE NOT dropped`).Scan(&rows).Error)
		out := ""
		for _, r := range rows {
			out += r.Right
		}
		return out
	}
	w.Must(w.Search.Quality.JudgeFromLedger(w.Context, c.Analyst, lines[0].Key, "A-0001"))
	w.Must(w.Search.Quality.JudgeFromLedger(w.Context, c.Analyst, lines[0].Key, second0))
	w.Must(w.Search.Quality.UnjudgeFromLedger(w.Context, c.Analyst, lines[0].Key, second0))
	if right() != "{1}" {
		t.Errorf("judged right: %s", right())
	}
	w.Must(w.Search.Quality.UnjudgeFromLedger(w.Context, c.Analyst, lines[0].Key, "A-0001"))
	if right() != "" ||
		apptest.KindOf(
			w.Search.Quality.UnjudgeFromLedger(w.Context, c.Analyst, lines[0].Key, "A-0001"),
		) != problem.NotFound {
		t.Errorf("still judged: %s", right())
	}
	if apptest.KindOf(
		w.Search.Quality.UnjudgeFromLedger(w.Context, c.Agent, lines[0].Key, "A-0001"),
	) != problem.Denied {
		t.Error("an agent takes judgements back")
	}
	w.Must(w.Review.Act(w.Context, c.Publisher, second0, review.Withdraw, 0, ""))
}
