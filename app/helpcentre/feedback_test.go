package helpcentre_test

import (
	"strings"
	"testing"
	"time"

	"hermeneus/app/apptest"
	"hermeneus/app/evidence"
	"hermeneus/app/helpcentre"
	"hermeneus/app/library"
	"hermeneus/app/problem"
	"hermeneus/app/staff"
	"hermeneus/app/writing"
)

func TestFeedbackIsOpenUntilItIsAnswered(t *testing.T) {
	w := apptest.Open(t)
	c := w.Crew()
	ref := w.Draft(
		c.Author,
		w.Category(c.Author, "Bills"),
		"Read the meter",
		"<p>Open the door.</p><p>Press Menu.</p>",
		"",
	)
	w.Publish(c, ref)
	wim, err := w.Accounts.People.AddCustomer(w.Context, "Wim Brook", "wim@post.example", "a long password")
	w.Must(err)
	reader := evidence.Visitor{
		Key:      "k",
		Customer: &evidence.Customer{ID: wim, Name: "Wim Brook", Email: "wim@post.example"},
	}
	w.Must(apptest.Second(w.HelpCentre.OpenPage(w.Context, reader, "help", ref)))
	w.Must(
		w.HelpCentre.VoteOn(
			w.Context,
			reader,
			ref,
			helpcentre.Verdict{
				Comment: "My meter has no Menu key, write to wim@post.example",
				Quote:   "Press Menu",
				Line:    1,
			},
		),
	)
	w.Must(
		w.HelpCentre.VoteOn(
			w.Context,
			reader,
			ref,
			helpcentre.Verdict{Comment: "My meter has no Menu key, call 01632 960123"},
		),
	) // said again: still one
	list, err := w.HelpCentre.ArticleFeedback(w.Context, c.Author, ref)
	w.Must(err)
	if len(list) != 1 || list[0].Quote != "Press Menu" || list[0].Place == nil || list[0].Place.Line != 1 ||
		!list[0].Mine ||
		!list[0].SignedIn ||
		strings.Contains(list[0].Text, "960123") {
		t.Fatalf("%+v", list)
	}
	day, err := w.Desk.Today(w.Context, c.Author)
	w.Must(err)
	if len(day.Feedback) != 1 {
		t.Errorf("the owner's day: %+v", day.Feedback)
	}
	answer := func(by staff.Staff, in helpcentre.FeedbackAnswer) error {
		return w.HelpCentre.AnswerFeedback(w.Context, by, list[0].ID, in)
	}
	if err := answer(
		c.Author,
		helpcentre.FeedbackAnswer{Answer: helpcentre.AnswerMended},
	); apptest.SaidOf(
		err,
		"revision",
	) == "" {
		t.Errorf("mended, with nothing newer live: %v", err)
	}
	if err := answer(
		c.Author,
		helpcentre.FeedbackAnswer{Answer: helpcentre.AnswerNoFault},
	); apptest.SaidOf(
		err,
		"note",
	) == "" {
		t.Errorf("no fault, without a reason: %v", err)
	}
	w.Must(
		answer(
			c.Author,
			helpcentre.FeedbackAnswer{Answer: helpcentre.AnswerPassedOn, For: c.Reviewer.ID, Note: "You know meters."},
		),
	)
	if open, err := w.HelpCentre.OpenFeedback(w.Context, c.Reviewer); err != nil || len(open) != 1 {
		t.Errorf("passed on: %+v, %v", open, err)
	}
	if len(w.Room.Letters("wim@post.example")) != 0 {
		t.Error("the reader was mailed before there was an answer")
	}

	a, err := w.Desk.ReadArticle(w.Context, c.Author, ref)
	w.Must(err)
	_, err = w.Writing.SaveArticle(
		w.Context,
		c.Author,
		ref,
		writing.Save{
			Text: library.WorkingCopy{
				Title: "Read the meter",
				Body:  "<p>Open the door.</p><p>Press Menu, or the round key.</p>",
			},
			Version: a.Version,
		},
	)
	w.Must(err)
	w.Publish(c, ref)
	w.Must(
		answer(c.Reviewer, helpcentre.FeedbackAnswer{Answer: helpcentre.AnswerMended, Note: "We now name both keys."}),
	)
	w.Eventually(func() bool { return len(w.Room.Letters("wim@post.example")) == 1 })
	letter := w.Room.Letters("wim@post.example")[0]
	for _, want := range []string{"Hello Wim Brook", "> My meter has no Menu key", "we mended the article", "We now name both keys.", "http://help.wrenmoor.example/help/articles/" + ref} {
		if !strings.Contains(letter.Text, want) {
			t.Errorf("the mail does not say %q:\n%s", want, letter.Text)
		}
	}
	if list, err = w.HelpCentre.ArticleFeedback(
		w.Context,
		c.Author,
		ref,
	); err != nil || list[0].MendedIn != 2 ||
		list[0].Answer != "mended" {
		t.Errorf("%+v, %v", list, err)
	}
	if err := answer(
		c.Author,
		helpcentre.FeedbackAnswer{Answer: helpcentre.AnswerNoFault, Note: "x"},
	); apptest.KindOf(err) != problem.NotNow {
		t.Errorf("answered twice: %v", err)
	}
	time.Sleep(1500 * time.Millisecond)
	if n := len(w.Room.Letters("wim@post.example")); n != 1 {
		t.Errorf("%d mails for one answer", n)
	}
}
