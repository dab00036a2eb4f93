package writing_test

import (
	"strings"
	"testing"
	"time"

	"hermeneus/app/apptest"
	"hermeneus/app/problem"
	"hermeneus/app/review"
	"hermeneus/app/texts"
	"hermeneus/app/writing"
	"hermeneus/core/audience"
	corereview "hermeneus/core/review"
	"hermeneus/core/role"
)

// A writer's browser that never got its answer sends the same save again: it is one save,
// and nobody is told of somebody else.
func TestTheSameSaveTwiceIsOne(t *testing.T) {
	w := apptest.Open(t)
	c := w.Crew()
	bea := w.Hire("bea", role.Author)
	ref := w.Draft(c.Author, w.Category(c.Author, "Bills"), "One", "<p>one</p>", audience.Everyone)
	one := writing.Save{Text: apptest.Text("One", "<p>one, and more</p>"), Version: 1, Tab: "tab", Key: "first"}
	for range 3 {
		saved, err := w.Writing.SaveArticle(w.Context, c.Author, ref, one)
		w.Must(err)
		if saved.Version != 2 || len(saved.Allowed) == 0 {
			t.Fatalf("saved as %+v", saved)
		}
	}
	two := writing.Save{Text: apptest.Text("One", "<p>one, and more still</p>"), Version: 2, Tab: "tab", Key: "second"}
	if saved, err := w.Writing.SaveArticle(w.Context, c.Author, ref, two); err != nil || saved.Version != 3 {
		t.Errorf("the next save: %+v, %v", saved, err)
	}
	if list, err := w.Library.Autosaves(w.Context, ref); err != nil || len(list) != 1 {
		t.Errorf("%d autosaves, %v", len(list), err)
	}

	// Without a key, or with somebody else's, it is another save.
	two.Key = ""
	if _, err := w.Writing.SaveArticle(w.Context, c.Author, ref, two); apptest.KindOf(err) != problem.StaleSave {
		t.Errorf("the same again without a key: %v", err)
	}
	w.Wait(texts.HoldFor + time.Second)
	two.Key = "second"
	if _, err := w.Writing.SaveArticle(w.Context, bea, ref, two); apptest.KindOf(err) != problem.StaleSave {
		t.Errorf("another person with the key: %v", err)
	}

	// It came back late, and somebody saved meanwhile: it was made all the same, and theirs stays.
	w.Must(
		apptest.Second(
			w.Writing.SaveArticle(
				w.Context,
				bea,
				ref,
				writing.Save{Text: apptest.Text("One", "<p>bea</p>"), Version: 3, Tab: "b", Key: "bea's"},
			),
		),
	)
	saved, err := w.Writing.SaveArticle(
		w.Context,
		c.Author,
		ref,
		writing.Save{Text: two.Text, Version: 2, Tab: "tab", Key: "second"},
	)
	w.Must(err)
	a, err := w.Desk.ReadArticle(w.Context, bea, ref)
	w.Must(err)
	if saved.Version != 3 || a.Version != 4 || a.Copy.Body != "<p>bea</p>" {
		t.Errorf("answered with version %d; there is %d: %s", saved.Version, a.Version, a.Copy.Body)
	}
}

// Restoring is one thing: refused, it leaves nothing behind.
func TestARefusedRestoreLeavesNothingBehind(t *testing.T) {
	w := apptest.Open(t)
	c := w.Crew()
	bea := w.Hire("bea", role.Author)
	ref := w.Draft(c.Author, w.Category(c.Author, "Bills"), "One", "<p>one</p>", audience.Everyone)
	w.Publish(c, ref)
	w.Wait(5 * time.Minute)
	w.Must(apptest.SaveText(w, c.Author, ref, "t", apptest.Text("Two", "<p>two</p>")))
	before, err := w.Library.Autosaves(w.Context, ref)
	w.Must(err)
	a, err := w.Desk.ReadArticle(w.Context, bea, ref)
	w.Must(err)
	if err := w.Writing.Restore(w.Context, bea, ref, "b", "1", a.Version); apptest.KindOf(err) != problem.Held {
		t.Fatalf("restored under somebody's hands: %v", err)
	}
	if err := w.Writing.Restore(
		w.Context,
		c.Author,
		ref,
		"t",
		"1",
		a.Version-1,
	); apptest.KindOf(err) != problem.StaleSave {
		t.Fatalf("restored over a newer text: %v", err)
	}
	after, err := w.Library.Autosaves(w.Context, ref)
	w.Must(err)
	now, err := w.Desk.ReadArticle(w.Context, bea, ref)
	w.Must(err)
	if len(after) != len(before) || now.Copy.Title != "Two" || now.Trail[0].Action == "restored" {
		t.Errorf("%d autosaves, %d before; %+v", len(after), len(before), now.Trail[0])
	}
}

func TestPublishingSaysWhichCommentsAreOpen(t *testing.T) {
	w := apptest.Open(t)
	c := w.Crew()
	ref := w.Draft(c.Author, w.Category(c.Author, "Bills"), "One", "<p>one</p>", audience.Everyone)
	open := func(want int) {
		t.Helper()
		touches, err := w.Review.Impact(w.Context, ref, "")
		w.Must(err)
		if touches.Comments != want {
			t.Errorf("%d comments are open, want %d", touches.Comments, want)
		}
	}
	open(0)
	first, err := w.Review.Comments.AddComment(
		w.Context,
		c.Reviewer,
		ref,
		review.NewComment{Quote: "one", Text: "Why one?"},
	)
	w.Must(err)
	w.Must(
		apptest.Second(
			w.Review.Comments.AddComment(w.Context, c.Reviewer, ref, review.NewComment{Quote: "one", Text: "And two?"}),
		),
	)
	w.Must(w.Review.Comments.ReplyToComment(w.Context, c.Author, ref, first, "Because."))
	open(2)
	id, err := w.Review.Batches.MakeBatch(w.Context, c.Author, "Together", "", []string{ref})
	w.Must(err)
	if batch, err := w.Review.Batches.ReadBatch(w.Context, c.Author, id); err != nil || batch.Members[0].Comments != 2 {
		t.Errorf("the batch says %+v, %v", batch.Members, err)
	}
	w.Must(w.Review.Comments.ResolveComment(w.Context, c.Author, ref, first, true))
	open(1)
}

// A suggestion that was taken can be given back: opened again, its words can be taken anew.
func TestASuggestionOpenedAgainCanBeTakenAnew(t *testing.T) {
	w := apptest.Open(t)
	c := w.Crew()
	ref := w.Draft(c.Author, w.Category(c.Author, "Bills"), "One", "<p>Pay in ten days.</p>", audience.Everyone)
	words := "twenty"
	id, err := w.Review.Comments.AddComment(
		w.Context,
		c.Reviewer,
		ref,
		review.NewComment{Quote: "ten", Suggestion: &words},
	)
	w.Must(err)
	saved, err := w.Writing.AcceptSuggestion(w.Context, c.Author, ref, id, "t", 1)
	w.Must(err)
	back, err := w.Writing.SaveArticle(
		w.Context,
		c.Author,
		ref,
		writing.Save{Text: apptest.Text("One", "<p>Pay in ten days.</p>"), Version: saved.Version, Tab: "t"},
	)
	w.Must(err)
	w.Must(w.Review.Comments.ResolveComment(w.Context, c.Author, ref, id, false))
	w.Must(apptest.Second(w.Writing.AcceptSuggestion(w.Context, c.Author, ref, id, "t", back.Version)))
	if a, err := w.Desk.ReadArticle(w.Context, c.Author, ref); err != nil || !strings.Contains(a.Copy.Body, "twenty") {
		t.Errorf("%s, %v", a.Copy.Body, err)
	}
}

func TestOnesOwnConfirmationIsTakenBackWithinTheHour(t *testing.T) {
	w := apptest.Open(t)
	c := w.Crew()
	ref := w.Draft(c.Author, w.Category(c.Author, "Bills"), "One", "<p>one</p>", audience.Everyone)
	w.Publish(c, ref)
	w.Wait(24 * time.Hour)
	before, err := w.Desk.ReadArticle(w.Context, c.Author, ref)
	w.Must(err)
	w.Must(w.Review.Rechecks.StillTrue(w.Context, c.Author, ref, ""))
	if apptest.KindOf(w.Review.Rechecks.NotStillTrue(w.Context, c.Reviewer, ref)) != problem.NotNow {
		t.Error("somebody else took it back")
	}
	w.Must(w.Review.Rechecks.NotStillTrue(w.Context, c.Author, ref))
	after, err := w.Desk.ReadArticle(w.Context, c.Author, ref)
	w.Must(err)
	if after.RecheckOn != before.RecheckOn || after.CheckedOn != before.CheckedOn ||
		after.RecheckDays != before.RecheckDays {
		t.Errorf("was %s, %q; is %s, %q", before.RecheckOn, before.CheckedOn, after.RecheckOn, after.CheckedOn)
	}
	if apptest.KindOf(w.Review.Rechecks.NotStillTrue(w.Context, c.Author, ref)) != problem.NotNow {
		t.Error("taken back twice")
	}
	w.Must(w.Review.Rechecks.StillTrue(w.Context, c.Author, ref, ""))
	w.Wait(61 * time.Minute)
	if apptest.KindOf(w.Review.Rechecks.NotStillTrue(w.Context, c.Author, ref)) != problem.NotNow {
		t.Error("taken back after an hour")
	}
	w.Must(w.Review.Act(w.Context, c.Publisher, ref, corereview.Withdraw, 0, ""))
}
