package outcomes_test

import (
	"context"
	"math/rand/v2"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"hermeneus/app/apptest"
	"hermeneus/app/evidence"
	"hermeneus/app/outcomes"
	"hermeneus/core/outcome"
)

// cutsInRound is how many connections are cut in a round: what is always cut never ends.
const cutsInRound = 15

// Workers on two instances, whose connections are cut again and again while they fold and while evidence is kept, and
// a clock that moves on: in the end the rows, the counts and the live figures are what the evidence comes to.
func TestWhatIsCutOffMidwayIsDoneAgain(t *testing.T) {
	r := rand.New(rand.NewPCG(21, 4))
	w := apptest.OpenIdle(t)
	c := w.Crew()
	other := w.Another()
	cuts, refused := 0, 0
	for round := range 6 {
		window := []time.Duration{72 * time.Hour, 9 * time.Hour}[round/2%2]
		w.Must(w.Outcomes.SetReturnWindow(w.Context, c.Administrator, window))
		items := history(r, w.Time().AddDate(0, 0, -6), 60+r.IntN(120))
		r.Shuffle(len(items), func(i, j int) { items[i], items[j] = items[j], items[i] })
		done, over := make(chan struct{}), make(chan int)
		go func() { // cuts every connection that does something but its own, up to a few times
			n := 0
			for try := 0; ; try++ {
				select {
				case <-done:
					over <- n
					return
				case <-time.After(time.Duration(5+try*try%23) * time.Millisecond):
				}
				if n >= cutsInRound {
					continue
				}
				var cut int
				err := w.DB().Raw(`SELECT count(pg_terminate_backend(pid)) FROM pg_stat_activity
					WHERE datname = current_database() AND pid <> pg_backend_pid() AND state <> 'idle'`).Scan(&cut).Error
				if err == nil {
					n += cut
				}
			}
		}()
		untilDone := func(work func() error) {
			for work() != nil {
				refused++
			}
		}
		var working sync.WaitGroup
		var lock sync.Mutex
		for _, a := range []*outcomes.Outcomes{w.Outcomes, other.Outcomes} {
			working.Go(func() {
				for range 6 {
					for a.FoldAll(context.Background()) != nil {
						lock.Lock()
						refused++
						lock.Unlock()
					}
				}
			})
		}
		for part := range slices.Chunk(items, 1+r.IntN(25)) {
			lock.Lock()
			untilDone(func() error { return evidence.Keep(w.DB(), part) })
			lock.Unlock()
		}
		working.Wait()
		close(done)
		cuts += <-over
		w.Wait(time.Duration(r.IntN(50)) * time.Hour)
		untilDone(func() error { return w.Outcomes.FoldAll(w.Context) }) // its connection may be the last that was cut
		if got, want := keptAs(w), foldedAs(w, window); !slices.Equal(got, want) {
			t.Fatalf("round %d\nkept\n%s\nby evidence\n%s", round, strings.Join(got, "\n"), strings.Join(want, "\n"))
		}
		live(t, w, c, window)
		w.Must(w.Outcomes.Verify(w.Context, func(s string) { t.Errorf("round %d: %s", round, s) }))
		if t.Failed() {
			t.FailNow()
		}
	}
	t.Logf("%d connections were cut, %d times something was tried again", cuts, refused)
	if cuts < 10 || refused == 0 {
		t.Errorf("only %d connections were cut, %d times something was tried again", cuts, refused)
	}
}

// live holds the figures of all days, as they are now, against a recomputation.
func live(t *testing.T, w *apptest.World, c apptest.Crew, window time.Duration) {
	t.Helper()
	first := w.Time().AddDate(0, 0, -60)
	f, err := w.Outcomes.Outcomes(w.Context, c.Analyst, first, w.Time().AddDate(0, 0, 1), outcomes.Split{})
	w.Must(err)
	items, err := evidence.Items(w.DB(), "true ORDER BY e.id")
	w.Must(err)
	questions := outcome.Fold(items, w.Time(), window)
	if want := outcome.Count(questions); f.Counts != want {
		t.Errorf("live %+v, by evidence %+v", f.Counts, want)
	}
	if want := outcome.RatesOf(questions); f.Rates != want {
		t.Errorf("live %+v, by evidence %+v", f.Rates, want)
	}
}
