package review_test

import (
	"strings"
	"testing"
	"time"

	"hermeneus/app"
	"hermeneus/app/apptest"
	"hermeneus/app/desk"
	"hermeneus/app/evidence"
	"hermeneus/app/library"
	"hermeneus/app/notify"
	"hermeneus/app/problem"
	"hermeneus/app/review"
	"hermeneus/app/writing"
	"hermeneus/core/audience"
	corereview "hermeneus/core/review"
)

func TestATimeIsSetAndKept(t *testing.T) {
	w := apptest.Open(t)
	c := w.Crew()
	bills := w.Category(c.Author, "Bills")
	ref := apptest.Ready(w, c, bills, "Prices")
	at := func(wall string, second bool) error {
		return w.Review.Move(
			w.Context,
			c.Publisher,
			ref,
			review.Step{Action: corereview.Schedule, Wall: wall, Second: second, Change: "New prices."},
		)
	}
	for name, wall := range map[string]string{"in the past": "2026-03-02T08:00", "no time": "soon", "too far": "2036-01-01T00:00"} {
		if err := at(wall, false); apptest.KindOf(err) != problem.Invalid {
			t.Errorf("%s: %v", name, err)
		}
	}
	w.Must(at("2026-03-02T12:00", false))
	if _, err := w.Writing.SaveArticle(
		w.Context,
		c.Author,
		ref,
		writing.Save{Text: library.WorkingCopy{Title: "x", Body: "<p>x</p>"}, Version: 1},
	); apptest.KindOf(err) != problem.NotNow {
		t.Errorf("what is scheduled was edited: %v", err)
	}
	w.Wait(2*time.Hour + 59*time.Minute)
	time.Sleep(1200 * time.Millisecond)
	if apptest.IsLive(w, ref) {
		t.Fatal("live before its time")
	}
	w.Wait(time.Minute)
	w.Eventually(func() bool { return apptest.IsLive(w, ref) })
	rows, _, err := w.Desk.Trail(w.Context, apptest.Reader, desk.TrailFilter{Article: ref, Action: "publish"})
	w.Must(err)
	if len(rows) != 1 || rows[0].Who != "Hermeneus" ||
		!strings.Contains(rows[0].Note, "as pia had set for 2026-03-02 12:00 (UTC)") ||
		strings.Contains(rows[0].Note, "late") {
		t.Errorf("the trail says %+v", rows)
	}
	news, err := w.Notify.News(w.Context, c.Publisher, notify.NewsPublication, 1)
	w.Must(err)
	if news.Total != 1 || !strings.Contains(news.Items[0].Text, "went live") {
		t.Errorf("who set the time was told %+v", news)
	}

	// Taken off, it does not go live.
	other := apptest.Ready(w, c, bills, "Other")
	w.Must(
		w.Review.Move(
			w.Context,
			c.Publisher,
			other,
			review.Step{Action: corereview.Schedule, Wall: "2026-03-02T12:30"},
		),
	)
	w.Must(w.Review.Move(w.Context, c.Publisher, other, review.Step{Action: corereview.Unschedule}))
	w.Wait(time.Hour)
	time.Sleep(1200 * time.Millisecond)
	if apptest.IsLive(w, other) {
		t.Error("what was taken off the schedule went live")
	}
	// An end date withdraws, and tells readers why.
	w.Must(
		w.Review.Move(
			w.Context,
			c.Publisher,
			ref,
			review.Step{Action: corereview.Withdraw, Wall: "2026-03-03T00:00", Notice: "The sale is over."},
		),
	)
	if !apptest.IsLive(w, ref) {
		t.Fatal("withdrawn at once")
	}
	if apptest.KindOf(w.Review.DropEnd(w.Context, c.Author, ref)) != problem.Denied {
		t.Error("an author keeps it live")
	}
	w.Must(w.Review.DropEnd(w.Context, c.Publisher, ref))
	if a, err := w.Desk.ReadArticle(w.Context, c.Author, ref); err != nil || a.Ends != nil {
		t.Errorf("its end was taken back: %+v, %v", a.Ends, err)
	}
	w.Must(
		w.Review.Move(
			w.Context,
			c.Publisher,
			ref,
			review.Step{Action: corereview.Withdraw, Wall: "2026-03-03T00:00", Notice: "The sale is over."},
		),
	)
	w.Wait(12 * time.Hour)
	w.Eventually(func() bool { return !apptest.IsLive(w, ref) })
	if _, err := w.HelpCentre.OpenPage(
		w.Context,
		apptest.Visitor("k"),
		"help",
		ref,
	); err == nil ||
		!strings.Contains(err.Error(), "The sale is over.") {
		t.Errorf("its readers are told %v", err)
	}
}

func TestClocksThatChangeDoNotMisleadASchedule(t *testing.T) {
	w := apptest.Open(t)
	c := w.Crew()
	sites, err := w.Sites.Sites(w.Context)
	w.Must(err)
	sites[0].Zone = "Mars/Base"
	if _, err := w.Sites.KeepSite(w.Context, c.Administrator, sites[0]); apptest.SaidOf(err, "zone") == "" {
		t.Errorf("a zone that is none: %v", err)
	}
	sites[0].Zone = "Europe/London"
	_, err = w.Sites.KeepSite(w.Context, c.Administrator, sites[0])
	w.Must(err)
	ref := apptest.Ready(w, c, w.Category(c.Author, "Bills"), "Summer")
	skipped := w.Review.Move(
		w.Context,
		c.Publisher,
		ref,
		review.Step{Action: corereview.Schedule, Wall: "2026-03-29T01:30"},
	)
	if apptest.KindOf(skipped) != problem.Invalid || !strings.Contains(apptest.SaidOf(skipped, "at"), "02:00") {
		t.Errorf("an hour that is skipped: %v %s", skipped, apptest.SaidOf(skipped, "at"))
	}
	for second, want := range map[bool]string{false: "2026-10-25T00:30:00Z", true: "2026-10-25T01:30:00Z"} {
		w.Must(
			w.Review.Move(
				w.Context,
				c.Publisher,
				ref,
				review.Step{Action: corereview.Schedule, Wall: "2026-10-25T01:30", Second: second},
			),
		)
		round, err := w.Review.ReadRound(w.Context, c.Publisher, ref)
		w.Must(err)
		if round.Due == nil || round.Due.At.UTC().Format(time.RFC3339) != want || round.Due.Zone != "Europe/London" {
			t.Errorf("the repeated hour: %+v", round.Due)
		}
		w.Must(w.Review.Move(w.Context, c.Publisher, ref, review.Step{Action: corereview.Unschedule}))
	}
	w.Must(
		w.Review.Move(w.Context, c.Publisher, ref, review.Step{Action: corereview.Schedule, Wall: "2026-07-01T09:00"}),
	)
	if round, err := w.Review.ReadRound(w.Context, c.Publisher, ref); err != nil || round.Due.At.UTC().Hour() != 8 {
		t.Errorf("in summer: %+v, %v", round.Due, err)
	}
}

// Two instances find the same thing due; a third was down at the time. It is done
// once, and said to be late.
func TestItIsPublishedOnceWhoeverFindsItDue(t *testing.T) {
	w := apptest.Open(t)
	c := w.Crew()
	bills := w.Category(c.Author, "Bills")
	refs := make([]string, 6)
	for i := range refs {
		refs[i] = apptest.Ready(w, c, bills, "Article "+string(rune('a'+i)))
		w.Must(
			w.Review.Move(
				w.Context,
				c.Publisher,
				refs[i],
				review.Step{Action: corereview.Schedule, Wall: "2026-03-02T10:00"},
			),
		)
	}
	w.Close() // the server is down at the minute
	w.Wait(3 * time.Hour)
	first, second := w.Another(), w.Another()
	w.Eventually(func() bool {
		for _, ref := range refs {
			if _, err := first.HelpCentre.OpenPage(
				w.Context,
				evidence.Visitor{Preview: true},
				"help",
				ref,
			); err != nil {
				return false
			}
		}
		return true
	})
	for _, ref := range refs {
		rows, _, err := second.Desk.Trail(
			w.Context,
			apptest.Reader,
			desk.TrailFilter{Article: ref, Action: "publish"},
		)
		w.Must(err)
		if len(rows) != 1 || !strings.Contains(rows[0].Note, "late by 2h0m0s") {
			t.Errorf("%s went live %d times: %+v", ref, len(rows), rows)
		}
	}
	// Both find it within a second.
	for _, a := range []*app.App{first, second} {
		w.Eventually(func() bool {
			found, err := a.Search.Search(w.Context, evidence.Visitor{Preview: true}, "Article c")
			w.Must(err)
			return len(found) > 0 && found[0].Reference == refs[2]
		})
	}
}

func TestASetTimeThatCannotBeKeptSaysWhy(t *testing.T) {
	w := apptest.Open(t)
	c := w.Crew()
	ref := apptest.Ready(w, c, w.Category(c.Author, "Bills"), "Members")
	w.Must(
		w.Review.Move(
			w.Context,
			c.Publisher,
			ref,
			review.Step{Action: corereview.Schedule, Wall: "2026-03-02T10:00", Audience: audience.SignedIn},
		),
	)
	apptest.ShowInFlow(w, c, ref)
	w.Wait(time.Hour)
	w.Eventually(func() bool {
		a, err := w.Desk.ReadArticle(w.Context, c.Author, ref)
		w.Must(err)
		return a.State == corereview.Approved
	})
	if apptest.IsLive(w, ref) {
		t.Error("it went live against the flow")
	}
	news, err := w.Notify.News(w.Context, c.Publisher, notify.NewsPublication, 1)
	w.Must(err)
	if news.Total != 1 || !strings.Contains(news.Items[0].Text, "could not be done") ||
		!strings.Contains(news.Items[0].Text, "front door") {
		t.Errorf("told %+v", news)
	}
}
