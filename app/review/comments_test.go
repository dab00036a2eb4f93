package review_test

import (
	"strings"
	"testing"

	"hermeneus/app/apptest"
	"hermeneus/app/helpcentre"
	"hermeneus/app/library"
	"hermeneus/app/problem"
	"hermeneus/app/review"
	"hermeneus/app/writing"
	corereview "hermeneus/core/review"
)

func TestCommentsStayAtTheirPassage(t *testing.T) {
	w := apptest.Open(t)
	c := w.Crew()
	ref := w.Draft(
		c.Author,
		w.Category(c.Author, "Bills"),
		"Read it",
		"<p>Open the door.</p><p>Simply press Menu.</p>",
		"",
	)
	w.Must(w.Review.Act(w.Context, c.Author, ref, corereview.Submit, 1, ""))
	words := "Press Menu"
	id, err := w.Review.Comments.AddComment(
		w.Context,
		c.Reviewer,
		ref,
		review.NewComment{Line: 1, Quote: "Simply press Menu", Text: "Say it plainly.", Suggestion: &words},
	)
	w.Must(err)
	_, err = w.Review.Comments.AddComment(
		w.Context,
		c.Reviewer,
		ref,
		review.NewComment{Line: 0, Quote: "the door", Text: "Which one?"},
	)
	w.Must(err)
	for name, bad := range map[string]review.NewComment{"no such words": {Quote: "nowhere", Text: "x"}, "nothing said": {Quote: "door"}, "the same words": {Quote: "door", Suggestion: pointer("door")}} {
		if _, err := w.Review.Comments.AddComment(
			w.Context,
			c.Reviewer,
			ref,
			bad,
		); apptest.KindOf(err) != problem.Invalid {
			t.Errorf("%s: %v", name, err)
		}
	}
	if _, err := w.Review.Comments.AddComment(
		w.Context,
		c.Agent,
		ref,
		review.NewComment{Quote: "door", Text: "x"},
	); apptest.KindOf(err) != problem.Denied {
		t.Errorf("an agent comments: %v", err)
	}
	w.Must(w.Review.Comments.ReplyToComment(w.Context, c.Author, ref, id, "Right."))

	// The text goes on around them.
	a, err := w.Desk.ReadArticle(w.Context, c.Author, ref)
	w.Must(err)
	saved, err := w.Writing.SaveArticle(
		w.Context,
		c.Author,
		ref,
		writing.Save{
			Text: library.WorkingCopy{
				Title: "Read it",
				Body:  "<h2>How</h2><p>Now open the door.</p><p>Simply press Menu.</p>",
			},
			Version: a.Version,
		},
	)
	w.Must(err)
	list, err := w.Review.Comments.List(w.Context, ref)
	w.Must(err)
	if len(list) != 2 || list[0].Quote != "the door" || list[0].Place.Line != 1 || list[1].Place.Line != 2 ||
		len(list[1].Replies) != 1 {
		t.Fatalf("%+v", list)
	}
	if _, err := w.Writing.AcceptSuggestion(
		w.Context,
		c.Author,
		ref,
		id,
		"",
		a.Version,
	); apptest.KindOf(err) != problem.StaleSave {
		t.Errorf("into a text that changed: %v", err)
	}
	if _, err := w.Writing.AcceptSuggestion(
		w.Context,
		c.Reviewer,
		ref,
		id,
		"",
		saved.Version,
	); apptest.KindOf(err) != problem.Denied {
		t.Errorf("by who does not write: %v", err)
	}
	_, err = w.Writing.AcceptSuggestion(w.Context, c.Author, ref, id, "", saved.Version)
	w.Must(err)
	a, err = w.Desk.ReadArticle(w.Context, c.Author, ref)
	w.Must(err)
	if !strings.Contains(a.Copy.Body, "<p>Press Menu.</p>") || a.State != corereview.InReview {
		t.Errorf("accepted: %s, %s", a.Copy.Body, a.State)
	}
	if _, err := w.Writing.AcceptSuggestion(
		w.Context,
		c.Author,
		ref,
		id,
		"",
		a.Version,
	); apptest.KindOf(err) != problem.NotNow {
		t.Errorf("accepted twice: %v", err)
	}
	w.Must(w.Review.Comments.ResolveComment(w.Context, c.Author, ref, list[0].ID, true))
	if list, err = w.Review.Comments.List(w.Context, ref); err != nil || list[0].ResolvedBy != "ada" {
		t.Errorf("%+v, %v", list, err)
	}
	// Gone with its passage, it is still told.
	_, err = w.Writing.SaveArticle(
		w.Context,
		c.Author,
		ref,
		writing.Save{
			Text:    library.WorkingCopy{Title: "Read it", Body: "<p>All is different here.</p>"},
			Version: a.Version,
		},
	)
	w.Must(err)
	if list, err = w.Review.Comments.List(
		w.Context,
		ref,
	); err != nil || len(list) != 2 || list[0].Place != nil ||
		list[0].Quote == "" {
		t.Errorf("%+v, %v", list, err)
	}
}

func TestFollowersAreTold(t *testing.T) {
	w := apptest.Open(t)
	c := w.Crew()
	ref := w.Draft(c.Author, w.Category(c.Author, "Bills"), "Followed", "<p>Text.</p>", "")
	w.Must(w.Review.Rechecks.Follow(w.Context, c.Agent, ref, true))
	w.Publish(c, ref)
	w.Must(w.HelpCentre.VoteOn(w.Context, apptest.Visitor("k"), ref, helpcentre.Verdict{Comment: "Unclear."}))
	w.Must(w.Review.Move(w.Context, c.Publisher, ref, review.Step{Action: corereview.Withdraw}))
	news, err := w.Notify.News(w.Context, c.Agent, "", 1)
	w.Must(err)
	if news.Total != 3 || !strings.Contains(news.Items[2].Text, "revision 1 is live") ||
		!strings.Contains(news.Items[1].Text, "Unclear.") ||
		!strings.Contains(news.Items[0].Text, "withdrawn") {
		t.Errorf("%+v", news.Items)
	}
	w.Must(w.Review.Rechecks.Follow(w.Context, c.Agent, ref, false))
	w.Must(w.Review.Move(w.Context, c.Publisher, ref, review.Step{Action: corereview.Publish}))
	if news, err = w.Notify.News(w.Context, c.Agent, "", 1); err != nil || news.Total != 3 {
		t.Errorf("told after it: %+v, %v", news.Items, err)
	}
}
