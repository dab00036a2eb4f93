package notify_test

import (
	"strings"
	"testing"
	"time"

	"hermeneus/app/apptest"
	"hermeneus/app/notify"
	"hermeneus/app/problem"
	corereview "hermeneus/core/review"
	"hermeneus/core/role"
)

func TestNewsIsGatheredIntoMail(t *testing.T) {
	w := apptest.Open(t)
	c := w.Crew()
	daily, off := w.Hire("dan", role.Reviewer), w.Hire("olga", role.Reviewer)
	w.Must(w.Notify.KeepNewsWishes(w.Context, daily, notify.NewsWishes{Rhythm: "daily"}))
	w.Must(
		w.Notify.KeepNewsWishes(
			w.Context,
			off,
			notify.NewsWishes{
				Rhythm: "soon",
				Off:    []string{notify.NewsReviewAsked},
				NoMail: []string{notify.NewsReviewAsked},
			},
		),
	)
	if err := w.Notify.KeepNewsWishes(
		w.Context,
		off,
		notify.NewsWishes{Rhythm: "hourly"},
	); apptest.KindOf(err) != problem.Invalid {
		t.Errorf("another rhythm: %v", err)
	}
	bills := w.Category(c.Author, "Bills")
	for _, title := range []string{"One", "Two", "Three"} {
		w.Must(
			w.Review.Act(
				w.Context,
				c.Author,
				w.Draft(c.Author, bills, title, "<p>Text.</p>", ""),
				corereview.Submit,
				1,
				"",
			),
		)
	}
	time.Sleep(1500 * time.Millisecond)
	if n := len(w.Room.Letters("")); n != 0 {
		t.Errorf("%d mails before they were gathered", n)
	}
	w.Wait(11 * time.Minute)
	w.Eventually(func() bool { return len(w.Room.Letters("rex@wrenmoor.example")) == 1 })
	letter := w.Room.Letters("rex@wrenmoor.example")[0]
	if letter.Subject != "3 things for you in Hermeneus" ||
		!strings.Contains(letter.Text, "“Two” waits at the gate “Review”") ||
		!strings.Contains(letter.Text, "http://help.wrenmoor.example/staff/review/A-0002") {
		t.Errorf("%+v", letter)
	}
	if news, err := w.Notify.News(w.Context, off, "", 1); err != nil || news.Total != 0 {
		t.Errorf("told what was not wished: %+v, %v", news, err)
	}
	if len(w.Room.Letters("dan@wrenmoor.example")) != 0 {
		t.Error("mailed before the morning")
	}
	w.Wait(23 * time.Hour)
	w.Eventually(func() bool { return len(w.Room.Letters("dan@wrenmoor.example")) == 1 })
	if n := len(w.Room.Letters("")); n != 2 {
		t.Errorf("%d mails in all", n)
	}
	// What was read is not mailed.
	w.Must(
		w.Review.Act(
			w.Context,
			c.Author,
			w.Draft(c.Author, bills, "Four", "<p>Text.</p>", ""),
			corereview.Submit,
			1,
			"",
		),
	)
	w.Must(w.Notify.MarkNewsRead(w.Context, c.Reviewer, 0))
	w.Wait(time.Hour)
	time.Sleep(1500 * time.Millisecond)
	if n := len(w.Room.Letters("rex@wrenmoor.example")); n != 1 {
		t.Errorf("%d mails for what was read", n)
	}
}
