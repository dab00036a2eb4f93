package outcomes_test

import (
	"context"
	"fmt"
	"math/rand/v2"
	"slices"
	"testing"
	"time"

	"hermeneus/app/apptest"
	"hermeneus/app/evidence"
	"hermeneus/app/keeping"
	"hermeneus/core/outcome"
	"hermeneus/store"
)

// rowsBefore gives the rows of questions whose sittings began before a time, by their first item.
func rowsBefore(w *apptest.World, at time.Time) map[int64]string {
	w.T.Helper()
	var rows []store.Question
	w.Must(w.DB().Raw(`SELECT q.* FROM questions q JOIN question_counts c ON c.generation = q.generation AND c.live
		WHERE q.sitting_at < ?`, at).Scan(&rows).Error)
	all := map[int64]string{}
	for _, r := range rows {
		r.Generation, r.AskerID, r.Repeats = 0, 0, false // of a counting; a link may join askers
		all[r.FirstItem] = fmt.Sprintf("%+v", r)
	}
	return all
}

func keptAtHand(w *apptest.World, c apptest.Crew, days int) {
	w.T.Helper()
	w.Must(w.Keeping.SetKeeping(w.Context, c.Administrator, keeping.Periods{
		Mails: 30, News: 180, Jobs: 90, Reports: 730, Words: 730, Evidence: days,
	}))
}

// Months that are put aside take nothing away: what was counted of them stays as it is, whatever comes later, while all
// else is folded as before, by another window too.
func TestWhatIsPutAsideIsFinal(t *testing.T) {
	for round := range 3 {
		t.Run(fmt.Sprint(round), func(t *testing.T) { putAside(t, rand.New(rand.NewPCG(5, uint64(round))), round) })
	}
}

func putAside(t *testing.T, r *rand.Rand, round int) {
	w := apptest.OpenIdle(t)
	c := w.Crew()
	// The month in which everything is as old as that a hundred days later.
	edge := w.Time().AddDate(0, 0, -20)
	edge = time.Date(edge.Year(), edge.Month(), 1, 0, 0, 0, 0, time.UTC)
	var items []outcome.Evidence
	for range 6 {
		items = append(items, history(r, w.Time().AddDate(0, 0, -r.IntN(60)), 150)...)
		items = append(items, busy(r, edge.Add(-20*time.Hour), 100)...)
	}
	w.Must(w.Outcomes.Months(w.Context))
	insert(w, items)
	w.Must(w.Outcomes.FoldAll(w.Context))
	w.Must(w.Outcomes.Months(w.Context)) // moves what came before its months had a partition
	w.Wait(100 * 24 * time.Hour)
	keptAtHand(w, c, 120)
	before, all := rowsBefore(w, w.Time()), evidenceRows(w)
	w.Must(w.Outcomes.Months(w.Context))
	if evidenceRows(w) == all {
		t.Fatalf("round %d: nothing was put aside", round)
	}
	if got := rowsBefore(w, w.Time()); len(got) != len(before) {
		t.Errorf("round %d: %d questions, before %d", round, len(got), len(before))
	}
	check := func(what string) {
		t.Helper()
		w.Must(w.Outcomes.Verify(w.Context, func(s string) { t.Errorf("round %d, %s: %s", round, what, s) }))
		var horizon time.Time
		w.Must(w.DB().Raw(`SELECT (value #>> '{}')::timestamptz FROM settings WHERE name = 'evidence_from'`).
			Scan(&horizon).Error)
		after := rowsBefore(w, horizon)
		for first, row := range after {
			if before[first] != row {
				t.Errorf("round %d, %s: a final question changed\n%s\n%s", round, what, before[first], row)
			}
		}
		if len(after) == 0 {
			t.Errorf("round %d: nothing is final", round)
		}
		if t.Failed() {
			t.FailNow()
		}
	}
	check("put aside")
	var over int
	w.Must(w.DB().Raw(`SELECT count(*) FROM askers WHERE final_to IS NOT NULL`).Scan(&over).Error)
	if over == 0 {
		t.Errorf("round %d: nobody's evidence reaches over the horizon", round)
	}
	// Late evidence, links and contacts of the same people.
	for range 6 {
		late := history(r, w.Time().AddDate(0, 0, -r.IntN(140)), 40)
		for i := range late {
			if r.IntN(2) == 0 {
				late[i].Asker = items[r.IntN(len(items))].Asker
				late[i].Contact = items[r.IntN(len(items))].Contact
			}
			if late[i].Kind == outcome.Linked && r.IntN(2) == 0 {
				late[i].To = items[r.IntN(len(items))].Asker
			}
		}
		insert(w, late)
		w.Must(w.Outcomes.FoldAll(w.Context))
	}
	check("late evidence")
	w.Must(w.Outcomes.SetReturnWindow(w.Context, c.Administrator, 8*time.Hour))
	w.Must(w.Outcomes.FoldAll(w.Context))
	check("counted anew")
	w.Must(w.Outcomes.Months(w.Context))
	check("again")
}

// busy is evidence without a pause, over the end of months.
func busy(r *rand.Rand, begins time.Time, n int) []outcome.Evidence {
	items := history(r, begins, n)
	for i := range items {
		items[i].At = begins.Add(time.Duration(i) * time.Duration(20+r.IntN(12)) * time.Minute)
	}
	return items
}

func evidenceRows(w *apptest.World) (n int) {
	w.Must(w.DB().Raw(`SELECT count(*) FROM evidence`).Scan(&n).Error)
	return n
}

// Partitions are there before their months come, and what came too early moves into them.
func TestMonthsHavePartitionsOfTheirOwn(t *testing.T) {
	w := apptest.OpenIdle(t)
	far := time.Date(9999, 1, 1, 0, 0, 0, 0, time.UTC)
	for _, at := range []time.Time{w.Time().AddDate(0, 2, 0), w.Time().AddDate(-3, 0, 0), far} {
		insert(
			w,
			[]outcome.Evidence{{At: at, Asker: "visitor:1", Channel: outcome.Help, Kind: outcome.Asked, Text: "x"}},
		)
	}
	w.Must(w.Outcomes.FoldAll(w.Context))
	kept := keptAs(w)
	rest := func(table string) (n int) {
		w.Must(w.DB().Raw(`SELECT count(*) FROM ` + table + `_rest`).Scan(&n).Error)
		return n
	}
	w.Wait(40 * 24 * time.Hour)
	for range 2 {
		w.Must(w.Outcomes.Months(context.Background()))
	}
	if rest("evidence") != 1 || rest("questions") != 1 { // the year 9999 has no month yet
		t.Errorf("%d items and %d questions are in no month", rest("evidence"), rest("questions"))
	}
	months, err := store.EvidenceMonths.Until(w.DB(), w.Time().AddDate(1, 0, 0))
	w.Must(err)
	if last := months[len(months)-1]; last.Before(w.Time().AddDate(0, 2, 0)) {
		t.Errorf("the last month with a partition is %s", last)
	}
	if got := keptAs(w); !slices.Equal(got, kept) {
		t.Error("moving changed the questions")
	}
	items, err := evidence.Items(w.DB(), "true ORDER BY e.id")
	w.Must(err)
	if len(items) != 3 || items[0].Text != "x" {
		t.Errorf("after moving there is %+v", items)
	}
}
