package outcomes_test

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"hermeneus/app/apptest"
	"hermeneus/app/evidence"
	"hermeneus/core/outcome"
	"hermeneus/store"
)

// history makes random evidence of few askers over some days, such as people and programs could leave.
func history(r *rand.Rand, begins time.Time, n int) []outcome.Evidence {
	of := r.IntN(1_000_000)
	var keys []string
	for i, kind := range []string{"visitor", "visitor", "visitor", "customer", "mail"} {
		keys = append(keys, fmt.Sprintf("%s:%d-%d", kind, of, i))
	}
	reference := func() string { return fmt.Sprintf("R-%d-%d", of, r.IntN(n/3+2)) }
	things := []string{"A-0001@1", "A-0001@2", "A-0002@1", "turn:x"}
	kinds := []outcome.Kind{
		outcome.Asked, outcome.Asked, outcome.Offered, outcome.Opened, outcome.Told, outcome.Read, outcome.Read,
		outcome.CameBack, outcome.Helped, outcome.NotHelped, outcome.WantedPerson, outcome.HandedOff, outcome.Requested,
		outcome.AgentAnswered, outcome.Linked, outcome.Seen,
	}
	pick := func(from []string) string { return from[r.IntN(len(from))] }
	items := make([]outcome.Evidence, n)
	minute, step := 0, 1+r.IntN(200)
	for i := range items {
		if r.IntN(3) > 0 {
			minute += r.IntN(step)
		}
		e := outcome.Evidence{
			At: begins.Add(time.Duration(minute) * time.Minute), Asker: pick(keys), Channel: outcome.Help,
			Kind: kinds[r.IntN(len(kinds))],
		}
		switch e.Kind {
		case outcome.Asked:
			e.Text = "words"
		case outcome.Opened, outcome.Read, outcome.Helped, outcome.NotHelped:
			e.Ref = pick(things)
		case outcome.Offered, outcome.Told:
			e.Refs = things[:1+r.IntN(3)]
			e.Source = []outcome.Source{outcome.FromSearch, outcome.FromForm}[r.IntN(2)]
		case outcome.HandedOff, outcome.Requested, outcome.AgentAnswered:
			e.Ref = reference()
		case outcome.Linked:
			if e.To = pick(keys); r.IntN(5) > 0 || e.To == e.Asker {
				e.Kind, e.To = outcome.Seen, ""
			}
		}
		if e.Kind != outcome.Linked && r.IntN(6) == 0 {
			e.Contact = reference()
		}
		e.Unlikely = r.IntN(60) == 0
		items[i] = e
	}
	return items
}

// insert keeps items as they are, and marks them as the recorder does.
func insert(w *apptest.World, items []outcome.Evidence) {
	w.T.Helper()
	w.Must(evidence.Keep(w.DB(), items))
}

// keptAs gives the questions that are kept, each as a line.
func keptAs(w *apptest.World) []string {
	w.T.Helper()
	var rows []struct {
		store.Question
		Name string
	}
	w.Must(w.DB().Raw(`SELECT q.*, a.name FROM questions q JOIN askers a ON a.id = q.asker_id
		JOIN question_counts c ON c.generation = q.generation AND c.live`).Scan(&rows).Error)
	var list []string
	for _, r := range rows {
		list = append(list, line(r.Name, r.BeganAt, r.ClosedAt, r.Outcome, r.AskedAgain, r.Items, r.Answers))
	}
	slices.Sort(list)
	return list
}

// foldedAs gives the questions that all evidence comes to, likewise.
func foldedAs(w *apptest.World, window time.Duration) []string {
	w.T.Helper()
	items, err := evidence.Items(w.DB(), "true ORDER BY e.id")
	w.Must(err)
	var list []string
	for _, q := range outcome.Fold(items, outcome.Ever, window) {
		var own, answers store.Numbers
		for _, e := range q.Evidence {
			if e.OfAgent() {
				answers = append(answers, int64(e.Line))
			} else {
				own = append(own, int64(e.Line))
			}
		}
		list = append(list, line(q.Asker, q.Began, q.Closed, string(q.Outcome), q.AskedAgain, own, answers))
	}
	slices.Sort(list)
	return list
}

func line(name string, began, closed time.Time, out string, again bool, items, answers store.Numbers) string {
	answers = slices.Clone(answers)
	slices.Sort(answers)
	return fmt.Sprint(
		name,
		" ",
		began.UTC().Format(time.RFC3339),
		" ",
		closed.UTC().Format(time.RFC3339),
		" ",
		out,
		" ",
		again,
		" ",
		[]int64(items),
		[]int64(answers),
	)
}

// Random histories, kept in random order and in parts, and folded by two workers at once, always come to what a
// recomputation of everything comes to; so do the counts.
func TestRowsEqualARecomputation(t *testing.T) {
	r := rand.New(rand.NewPCG(8, 9))
	w := apptest.OpenIdle(t)
	c := w.Crew()
	for round := range 15 {
		window := []time.Duration{72 * time.Hour, 5 * time.Hour}[round%2]
		w.Must(w.Outcomes.SetReturnWindow(w.Context, c.Administrator, window))
		items := history(r, w.Time().AddDate(0, 0, -20), 20+r.IntN(150))
		if round%3 > 0 { // otherwise in the order of their time
			r.Shuffle(len(items), func(i, j int) { items[i], items[j] = items[j], items[i] })
		}
		for len(items) > 0 {
			n := min(len(items), 1+r.IntN(50))
			insert(w, items[:n])
			items = items[n:]
			var working sync.WaitGroup
			for range 2 {
				working.Go(func() { w.Must(w.Outcomes.FoldAll(w.Context)) })
			}
			working.Wait()
			if got, want := keptAs(w), foldedAs(w, window); !slices.Equal(got, want) {
				t.Fatalf(
					"round %d\nkept\n%s\nby evidence\n%s",
					round,
					strings.Join(got, "\n"),
					strings.Join(want, "\n"),
				)
			}
		}
		w.Must(w.Outcomes.Verify(w.Context, func(s string) { t.Errorf("round %d: %s", round, s) }))
		if t.Failed() {
			t.FailNow()
		}
	}
}

// While everything is counted anew by another window, the old figures stand; what comes meanwhile is in both.
func TestTheOldFiguresStandUntilTheNewAreWhole(t *testing.T) {
	w := apptest.OpenIdle(t)
	c := w.Crew()
	r := rand.New(rand.NewPCG(3, 3))
	insert(w, history(r, w.Time().AddDate(0, 0, -20), 300))
	w.Must(w.Outcomes.FoldAll(w.Context))
	before := keptAs(w)
	w.Must(w.Outcomes.SetReturnWindow(w.Context, c.Administrator, time.Hour))
	if got := keptAs(w); !slices.Equal(got, before) {
		t.Error("the figures moved before they were counted")
	}
	w.Must(apptest.Second(w.Outcomes.FoldSome(w.Context)))
	insert(w, history(r, w.Time().AddDate(0, 0, -2), 50))
	var known []string // of those who are counted anew already
	w.Must(w.DB().Raw(`SELECT DISTINCT asker FROM evidence WHERE kind <> 'linked'`).Scan(&known).Error)
	var more []outcome.Evidence
	for _, asker := range known {
		more = append(more, outcome.Evidence{
			At: w.Time().Add(-time.Hour), Asker: asker, Channel: outcome.Chat, Kind: outcome.Asked, Text: "once more",
		})
	}
	insert(w, more)
	if counting, err := w.Outcomes.Counting(w.Context); err != nil || counting.Recount == nil || counting.Waiting == 0 {
		t.Errorf("it does not say that it is counting: %+v, %v", counting, err)
	}
	w.Must(w.Outcomes.FoldAll(w.Context))
	if got, want := keptAs(w), foldedAs(w, time.Hour); !slices.Equal(got, want) {
		t.Error("what was counted anew is not what the evidence comes to")
	}
	w.Must(w.Outcomes.Verify(w.Context, func(s string) { t.Error(s) }))
}

// Ten new items of somebody with ten thousand read few of them.
func TestOnlyWhatCanStillChangeIsFolded(t *testing.T) {
	w := apptest.OpenAlone(t) // the count is of the whole process
	items := make([]outcome.Evidence, 10_000)
	for i := range items {
		at := w.Time().Add(-time.Duration(len(items)-i) * time.Hour)
		items[i] = outcome.Evidence{
			At:      at,
			Asker:   "customer:1",
			Channel: outcome.Help,
			Kind:    outcome.Asked,
			Text:    "words",
		}
	}
	insert(w, items)
	w.Must(w.Outcomes.FoldAll(w.Context))
	before := evidence.RowsRead.Load()
	var fresh []outcome.Evidence
	for i := range 10 {
		fresh = append(fresh, outcome.Evidence{
			At: w.Time().
				Add(time.Duration(i) * time.Minute),
			Asker:   "customer:1",
			Channel: outcome.Help,
			Kind:    outcome.Opened,
			Ref:     fmt.Sprintf("A-%04d@1", i+1),
		})
	}
	insert(w, fresh)
	w.Must(w.Outcomes.FoldAll(w.Context))
	if n := evidence.RowsRead.Load() - before; n >= 100 {
		t.Errorf("%d items were read", n)
	}
	if got, want := keptAs(w), foldedAs(w, outcome.DefaultWindow); !slices.Equal(got, want) {
		t.Error("the rows are not what the evidence comes to")
	}
}
