package review_test

import (
	"testing"
	"time"

	"hermeneus/app/apptest"
	"hermeneus/app/library"
	"hermeneus/app/problem"
	"hermeneus/app/review"
	"hermeneus/app/staff"
	"hermeneus/app/writing"
	corereview "hermeneus/core/review"
)

func TestABatchIsOneThing(t *testing.T) {
	w := apptest.Open(t)
	c := w.Crew()
	bills := w.Category(c.Author, "Bills")
	kept := apptest.Ready(w, c, bills, "Kept")
	w.Must(w.Review.Act(w.Context, c.Publisher, kept, corereview.Publish, 1, ""))
	a, err := w.Desk.ReadArticle(w.Context, c.Author, kept)
	w.Must(err)
	_, err = w.Writing.SaveArticle(
		w.Context,
		c.Author,
		kept,
		writing.Save{Text: library.WorkingCopy{Title: "Kept anew", Body: "<p>New.</p>"}, Version: a.Version},
	)
	w.Must(err)
	refs := []string{kept}
	for _, name := range []string{"One", "Two"} {
		refs = append(refs, w.Draft(c.Author, bills, name, "<p>"+name+".</p>", ""))
	}
	id, err := w.Review.Batches.MakeBatch(w.Context, c.Author, "Prices", "Prices of spring", refs)
	w.Must(err)
	if _, err := w.Review.Batches.MakeBatch(
		w.Context,
		c.Author,
		"Second",
		"",
		refs[:1],
	); apptest.KindOf(err) != problem.Invalid {
		t.Errorf("in two batches: %v", err)
	}
	act := func(by staff.Staff, s review.Step) (review.BatchDone, error) {
		return w.Review.Batches.ActOnBatch(w.Context, by, id, s)
	}
	if done, err := act(c.Author, review.Step{Action: corereview.Submit}); err != nil || done.Done != 3 {
		t.Fatalf("sent as one: %+v, %v", done, err)
	}
	if _, err := act(c.Publisher, review.Step{Action: corereview.Publish}); err == nil {
		t.Error("published before its gates")
	}
	if done, err := act(c.Reviewer, review.Step{Action: corereview.Approve}); err != nil || done.Done != 3 {
		t.Fatalf("reviewed as one: %+v, %v", done, err)
	}
	if err := w.Review.Act(
		w.Context,
		c.Publisher,
		refs[1],
		corereview.Publish,
		0,
		"",
	); apptest.KindOf(err) != problem.NotNow {
		t.Errorf("a member alone: %v", err)
	}
	// One that cannot go keeps all from going.
	late := apptest.Ready(w, c, bills, "Late")
	w.Must(w.Review.Batches.ChangeBatch(w.Context, c.Author, id, "Prices", "Prices of spring", []string{late}, nil))
	w.Must(
		w.Review.Move(
			w.Context,
			c.Reviewer,
			late,
			review.Step{Action: corereview.SendBack, Seen: corereview.Approved, Note: "wrong"},
		),
	)
	if _, err := act(c.Publisher, review.Step{Action: corereview.Publish}); err == nil || apptest.IsLive(w, refs[1]) {
		t.Errorf("all or none: %v", err)
	}
	w.Must(w.Review.Batches.ChangeBatch(w.Context, c.Author, id, "Prices", "Prices of spring", nil, []string{late}))
	if _, err := act(c.Publisher, review.Step{Action: corereview.Schedule, Wall: "2026-03-02T10:00"}); err != nil {
		t.Fatal(err)
	}
	b, err := w.Review.Batches.ReadBatch(w.Context, c.Publisher, id)
	w.Must(err)
	if b.State != "scheduled" || b.Due == nil || len(b.Members) != 3 || b.Members[0].State != corereview.Scheduled {
		t.Errorf("scheduled: %+v", b)
	}
	w.Wait(time.Hour)
	w.Eventually(func() bool { return apptest.IsLive(w, refs[1]) && apptest.IsLive(w, refs[2]) })
	page, err := w.HelpCentre.OpenPage(w.Context, apptest.Visitor("k"), "help", kept)
	w.Must(err)
	if page.Title != "Kept anew" {
		t.Errorf("the third says %q", page.Title)
	}
	feed, err := w.HelpCentre.ReadFeed(w.Context, apptest.Visitor("k"), bills)
	w.Must(err)
	if len(feed.Entries) != 3 || feed.Entries[0].Summary != "Prices of spring" {
		t.Errorf("the feed: %+v", feed)
	}
	if _, err := act(c.Author, review.Step{Action: "undo"}); apptest.KindOf(err) != problem.Denied {
		t.Errorf("undone by an author: %v", err)
	}
	if _, err := act(c.Publisher, review.Step{Action: "undo"}); err != nil {
		t.Fatal(err)
	}
	page, err = w.HelpCentre.OpenPage(w.Context, apptest.Visitor("k"), "help", kept)
	w.Must(err)
	if page.Title != "Kept" || apptest.IsLive(w, refs[1]) || apptest.IsLive(w, refs[2]) {
		t.Errorf("undone, it says %q", page.Title)
	}
	if _, err := act(c.Publisher, review.Step{Action: "undo"}); apptest.KindOf(err) != problem.NotNow {
		t.Errorf("undone twice: %v", err)
	}
}
