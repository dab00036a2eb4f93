package evidence_test

import (
	"fmt"
	"strings"
	"sync"
	"testing"

	"hermeneus/app/apptest"
	"hermeneus/app/evidence"
	"hermeneus/app/problem"
	"hermeneus/app/search"
	"hermeneus/core/outcome"
)

// atOnce runs work for each number at the same time, and gives what failed.
func atOnce(n int, work func(i int) error) []error {
	failed := make([]error, n)
	var working sync.WaitGroup
	for i := range n {
		working.Go(func() { failed[i] = work(i) })
	}
	working.Wait()
	return failed
}

func TestWhatManyDoAtOnceIsAllKeptAndEachInItsOrder(t *testing.T) {
	w, _, site, _ := apptest.Searching(t)
	const askers = 120
	for i, err := range atOnce(askers, func(i int) error {
		v := evidence.Visitor{Key: fmt.Sprintf("visitor %d", i), Site: site}
		if _, err := w.Search.SearchAll(w.Context, v, search.Asking{Words: "how do I give a meter reading"}); err != nil {
			return err
		}
		_, err := w.HelpCentre.OpenPage(w.Context, v, outcome.Help, "A-0002")
		return err
	}) {
		if err != nil {
			t.Fatalf("asker %d: %v", i, err)
		}
	}
	items, err := w.Evidence(w.Context)
	w.Must(err)
	of := map[string][]string{}
	for _, e := range items {
		of[e.Asker] = append(of[e.Asker], string(e.Kind))
	}
	if len(of) != askers {
		t.Errorf("evidence of %d askers, want %d", len(of), askers)
	}
	for asker, kinds := range of {
		if got := strings.Join(kinds, " "); got != "asked offered told opened" {
			t.Errorf("%s: %s", asker, got)
		}
	}
}

func TestADoubleClickInTheSameInstantIsOneOpening(t *testing.T) {
	w, _, site, _ := apptest.Searching(t)
	for _, err := range atOnce(40, func(int) error {
		_, err := w.HelpCentre.OpenPage(w.Context, evidence.Visitor{Key: "k", Site: site}, outcome.Help, "A-0001")
		return err
	}) {
		w.Must(err)
	}
	apptest.Expect(t, apptest.Kept(w), "help opened A-0001@1")
}

// The database takes no text with a zero byte: what is written with it is kept all the same.
func TestWhatCannotBeKeptLosesNobodyElses(t *testing.T) {
	w, _, site, _ := apptest.Searching(t)
	failed := atOnce(60, func(i int) error {
		words := "meter reading"
		if i%20 == 0 {
			words = "meter\x00reading"
		}
		return w.Recorder.RecordAlone(
			evidence.Visitor{Key: fmt.Sprintf("visitor %d", i), Site: site},
			outcome.Help,
			outcome.Evidence{Kind: outcome.Asked, Text: words},
		)
	})
	items, err := w.Evidence(w.Context)
	w.Must(err)
	asked := 0
	for _, e := range items {
		if e.Kind == outcome.Asked {
			asked++
		}
	}
	for i, err := range failed {
		if (err != nil) != (i%20 == 0) || err != nil && !problem.Unkeepable(err) {
			t.Errorf("asker %d: %v", i, err)
		}
	}
	if asked != 57 {
		t.Errorf("%d askers' words were kept, want 57", asked)
	}
}

// Evidence is gone on with from where it was read last. What was begun before that and
// committed after it has a lower id, and must not be missed.
func TestEvidenceThatIsCommittedLateIsReadToo(t *testing.T) {
	w, _, site, _ := apptest.Searching(t)
	open := func(key string) {
		_, err := w.HelpCentre.OpenPage(w.Context, evidence.Visitor{Key: key, Site: site}, outcome.Help, "A-0001")
		w.Must(err)
	}
	open("first")
	_, err := w.Evidence(w.Context)
	w.Must(err)
	late := w.DB().Begin()
	w.Must(
		late.Exec(
			`INSERT INTO evidence (at, asker, channel, kind, ref)
				VALUES (?, 'visitor:late', 'help', 'opened', 'A-0002@1')`,
			w.Time(),
		).Error,
	)
	for i := range 3 {
		open(fmt.Sprintf("later %d", i))
	}
	items, err := w.Evidence(w.Context)
	w.Must(err)
	if len(items) != 4 {
		t.Fatalf("%d items before the late one, want 4", len(items))
	}
	w.Must(late.Commit().Error)
	open("last")
	items, err = w.Evidence(w.Context)
	w.Must(err)
	if len(items) != 6 || items[1].Asker != "visitor:late" {
		t.Errorf("%d items, the second of %s: want 6 in the order of their ids", len(items), items[1].Asker)
	}
}
