package writing_test

import (
	"strings"
	"sync"
	"testing"
	"time"

	"hermeneus/app/apptest"
	"hermeneus/app/library"
	"hermeneus/app/problem"
	"hermeneus/app/staff"
	"hermeneus/app/texts"
	"hermeneus/core/audience"
	"hermeneus/core/review"
	"hermeneus/core/role"
)

func TestOnePersonWritesAtATime(t *testing.T) {
	w := apptest.Open(t)
	c := w.Crew()
	bea := w.Hire("bea", role.Author)
	chief := w.Hire("chief", role.Author, role.Publisher)
	ref := w.Draft(c.Author, w.Category(c.Author, "Bills"), "One", "<p>one</p>", audience.Everyone)

	holder, err := w.Writing.Hold(w.Context, c.Author, ref, "tab-1")
	w.Must(err)
	if holder == nil || holder.ID != c.Author.ID || !holder.Since.Equal(w.Time()) {
		t.Fatalf("held by %+v", holder)
	}
	if _, err := w.Writing.Hold(
		w.Context,
		bea,
		ref,
		"tab-2",
	); apptest.KindOf(err) != problem.Held ||
		!strings.Contains(err.Error(), "ada") {
		t.Errorf("a second holder: %v", err)
	}
	if err := apptest.SaveText(
		w,
		bea,
		ref,
		"tab-2",
		apptest.Text("Two", "<p>two</p>"),
	); apptest.KindOf(err) != problem.Held {
		t.Errorf("a save past the holder: %v", err)
	}
	a, err := w.Desk.ReadArticle(w.Context, bea, ref)
	w.Must(err)
	if a.Holder == nil || a.Holder.Name != "ada" {
		t.Errorf("who reads sees %+v", a.Holder)
	}
	if apptest.KindOf(w.Review.Act(w.Context, bea, ref, review.Submit, a.Version, "")) != problem.Held {
		t.Error("a text that somebody is writing was sent to review by another")
	}

	// Two tabs of one person are one; closing the first leaves the second.
	w.Must(apptest.Second(w.Writing.Hold(w.Context, c.Author, ref, "tab-3")))
	w.Must(w.Writing.LetGo(w.Context, c.Author, ref, "tab-1"))
	if _, err := w.Writing.Hold(w.Context, bea, ref, "tab-2"); apptest.KindOf(err) != problem.Held {
		t.Errorf("with one of two tabs closed: %v", err)
	}
	w.Must(w.Writing.LetGo(w.Context, c.Author, ref, "tab-3"))
	w.Must(apptest.Second(w.Writing.Hold(w.Context, bea, ref, "tab-2")))

	// Silence of two minutes ends a hold; a save renews it.
	w.Wait(texts.HoldFor - time.Second)
	w.Must(apptest.SaveText(w, bea, ref, "tab-2", apptest.Text("Two", "<p>two</p>")))
	w.Wait(texts.HoldFor - time.Second)
	if _, err := w.Writing.Hold(w.Context, c.Author, ref, "tab-1"); apptest.KindOf(err) != problem.Held {
		t.Errorf("a renewed hold ended: %v", err)
	}
	w.Wait(2 * time.Second)
	w.Must(apptest.Second(w.Writing.Hold(w.Context, c.Author, ref, "tab-1")))

	// A publisher takes over; the one displaced keeps what had not arrived.
	for _, who := range []staff.Staff{bea, c.Publisher} {
		if apptest.KindOf(w.Writing.TakeOver(w.Context, who, ref, "tab-2")) != problem.Denied {
			t.Errorf("%s took over", who.Name)
		}
	}
	w.Must(w.Writing.TakeOver(w.Context, chief, ref, "tab-9"))
	unsaved := apptest.Text("Two", "<p>two, and what had not arrived</p>")
	if err := apptest.SaveText(w, c.Author, ref, "tab-1", unsaved); apptest.KindOf(err) != problem.Held {
		t.Errorf("the displaced saved: %v", err)
	}
	number, err := w.Writing.KeepUnsaved(w.Context, c.Author, ref, unsaved)
	w.Must(err)
	kept, err := w.Library.ReadText(w.Context, ref, "1")
	w.Must(err)
	if number != 1 || kept.Body != unsaved.Body {
		t.Errorf("kept as %d: %+v", number, kept)
	}
	if again, err := w.Writing.KeepUnsaved(
		w.Context,
		c.Author,
		ref,
		apptest.Text("Two", "<p>two</p>"),
	); err != nil ||
		again != 0 {
		t.Errorf("what had arrived was kept again: %d, %v", again, err)
	}
	trail, err := w.Desk.ReadArticle(w.Context, chief, ref)
	w.Must(err)
	if trail.Trail[0].Action != "kept unsaved text" || trail.Trail[1].Action != "took over" ||
		trail.Trail[1].Note != "from ada" {
		t.Errorf("trail %+v", trail.Trail[:2])
	}
}

func TestOfManyAtOnceOneGetsTheHold(t *testing.T) {
	w := apptest.Open(t)
	c := w.Crew()
	ref := w.Draft(c.Author, w.Category(c.Author, "Bills"), "One", "<p>one</p>", audience.Everyone)
	var people []staff.Staff
	for _, n := range []string{"one", "two", "three", "four", "five"} {
		people = append(people, w.Hire(n, role.Author))
	}
	other := w.Another()
	var wg sync.WaitGroup
	got := make(chan int64, len(people))
	for i, p := range people {
		wg.Go(func() {
			a := w.App
			if i%2 == 1 {
				a = other
			}
			if _, err := a.Writing.Hold(w.Context, p, ref, "tab"+p.Name); err == nil {
				got <- p.ID
			}
		})
	}
	wg.Wait()
	if len(got) != 1 {
		t.Errorf("%d hold it", len(got))
	}
}

func TestWhoeverReadsHearsOfSavesOnEveryInstance(t *testing.T) {
	w := apptest.Open(t)
	c := w.Crew()
	ref := w.Draft(c.Author, w.Category(c.Author, "Bills"), "One", "<p>one</p>", audience.Everyone)
	bell, stop, err := w.Another().Writing.WatchCopy(w.Context, ref)
	w.Must(err)
	defer stop()
	w.Must(apptest.SaveText(w, c.Author, ref, "t", apptest.Text("One", "<p>more</p>")))
	select {
	case <-bell:
	case <-time.After(5 * time.Second):
		t.Error("nothing was heard")
	}
}

func TestAutosavesAreKeptAndThinned(t *testing.T) {
	w := apptest.Open(t)
	c := w.Crew()
	ref := w.Draft(c.Author, w.Category(c.Author, "Bills"), "One", "<p>one</p>", audience.Everyone)
	at := func() int {
		list, err := w.Library.Autosaves(w.Context, ref)
		w.Must(err)
		return len(list)
	}
	// Every 20 seconds for five minutes: one is kept for each minute.
	for i := range 15 {
		w.Must(apptest.SaveText(w, c.Author, ref, "t", apptest.Text("One", strings.Repeat("<p>x</p>", i+1))))
		w.Wait(20 * time.Second)
	}
	if n := at(); n < 4 || n > 5 {
		t.Errorf("%d are kept of five minutes", n)
	}
	w.Must(w.Writing.ThinAutosaves(w.Context))
	if n := at(); n < 4 {
		t.Errorf("fresh ones were thinned to %d", n)
	}
	list, err := w.Library.Autosaves(w.Context, ref)
	w.Must(err)
	newest := list[0].ID
	for _, c := range []struct {
		wait        time.Duration
		least, most int
	}{{2 * time.Hour, 1, 2}, {48 * time.Hour, 1, 2}, {10 * 24 * time.Hour, 1, 1}, {31 * 24 * time.Hour, 0, 0}} {
		w.Wait(c.wait)
		w.Must(w.Writing.ThinAutosaves(w.Context))
		list, err := w.Library.Autosaves(w.Context, ref)
		w.Must(err)
		if len(list) < c.least || len(list) > c.most {
			t.Errorf("after %s %d are left", c.wait, len(list))
		}
		if len(list) > 0 && list[0].ID != newest {
			t.Errorf("after %s the newest is gone", c.wait)
		}
	}
}

func TestEarlierTextsAreComparedAndRestored(t *testing.T) {
	w := apptest.Open(t)
	c := w.Crew()
	ref := w.Draft(c.Author, w.Category(c.Author, "Bills"), "Pay a bill", "<p>Pay in ten days.</p>", audience.Everyone)
	w.Publish(c, ref)
	w.Wait(5 * time.Minute)
	w.Must(
		apptest.SaveText(
			w,
			c.Author,
			ref,
			"t",
			apptest.Text("Pay a bill late", "<p>Pay in twenty days.</p><p>More.</p>"),
		),
	)

	changed, err := w.Library.Changes(w.Context, ref, "1", library.TheCopy)
	w.Must(err)
	if changed.Body.Changed != 1 || changed.Body.Added != 1 ||
		!strings.Contains(changed.Body.HTML, "<del>ten</del><ins>twenty</ins>") ||
		len(changed.Title) != 2 {
		t.Errorf("changes %+v", changed)
	}
	a, err := w.Desk.ReadArticle(w.Context, c.Author, ref)
	w.Must(err)
	if apptest.KindOf(w.Writing.Restore(w.Context, c.Author, ref, "t", "99", a.Version)) != problem.NotFound {
		t.Error("a revision that is not there was restored")
	}
	w.Must(w.Writing.Restore(w.Context, c.Author, ref, "t", "1", a.Version))
	now, err := w.Desk.ReadArticle(w.Context, c.Author, ref)
	w.Must(err)
	if now.Copy.Body != "<p>Pay in ten days.</p>" || now.State != review.Drafting || now.LiveRevision != 1 {
		t.Errorf("restored %+v", now)
	}
	// What was there before restoring can be had back.
	list, err := w.Library.Autosaves(w.Context, ref)
	w.Must(err)
	found := false
	for _, v := range list {
		old, err := w.Library.ReadText(w.Context, ref, "autosave-"+apptest.Itoa(v.ID))
		w.Must(err)
		found = found || strings.Contains(old.Body, "twenty")
	}
	if !found {
		t.Error("the text before restoring is lost")
	}
	if apptest.KindOf(w.Writing.Restore(w.Context, c.Reviewer, ref, "t", "1", now.Version)) != problem.Denied {
		t.Error("a reviewer restored a text")
	}
}
