package review_test

import (
	"testing"
	"time"

	"hermeneus/app/apptest"
	"hermeneus/app/desk"
	"hermeneus/app/library"
	"hermeneus/app/notify"
	"hermeneus/app/problem"
	"hermeneus/app/staff"
	"hermeneus/core/audience"
)

func pointer(s string) *string { return &s }

func TestRechecksFollowUseAndAreToldOnce(t *testing.T) {
	w := apptest.Open(t)
	c := w.Crew()
	bills := w.Category(c.Author, "Bills")
	w.Must(w.Review.SetReviewing(w.Context, c.Administrator, bills, 0, c.Publisher.ID))
	much := w.Draft(
		c.Author,
		bills,
		"Much read",
		"<p>One.</p>",
		"",
	)
	never := w.Draft(
		c.Author,
		bills,
		"Never read",
		"<p>Two.</p>",
		"",
	)
	w.Publish(c, much)
	w.Publish(c, never)
	for _, key := range []string{"a", "b", "c"} {
		w.Must(apptest.Second(w.HelpCentre.OpenPage(w.Context, apptest.Visitor(key), "help", much)))
		w.Wait(time.Minute)
		w.Must(w.HelpCentre.MarkRead(w.Context, apptest.Visitor(key), "help", much, time.Minute))
	}
	w.Must(w.Outcomes.FoldAll(w.Context))
	w.Must(w.Review.Rechecks.TendRechecks(w.Context))
	on := func(ref string) desk.Article {
		a, err := w.Desk.ReadArticle(w.Context, c.Author, ref)
		w.Must(err)
		return a
	}
	if a, b := on(much), on(never); a.RecheckDays != 90 || b.RecheckDays != 180 || a.RecheckOn != "2026-05-31" {
		t.Errorf("by use: %d days (%s) and %d", a.RecheckDays, a.RecheckOn, b.RecheckDays)
	}
	base, err := w.Review.Rechecks.RecheckBase(w.Context)
	w.Must(err)
	base["how-to"] = 100
	if err := w.Review.Rechecks.SetRecheckBase(w.Context, c.Author, base); apptest.KindOf(err) != problem.Denied {
		t.Errorf("an author changes the rule: %v", err)
	}
	w.Must(w.Review.Rechecks.SetRecheckBase(w.Context, c.Administrator, base))
	if a := on(much); a.RecheckDays != 50 {
		t.Errorf("by the new rule: %d", a.RecheckDays)
	}
	// By hand it stays.
	w.Must(
		w.Library.SetProperties(
			w.Context,
			c.Author,
			never,
			library.Properties{
				CategoryID:  bills,
				OwnerID:     c.Author.ID,
				Kind:        "how-to",
				Audience:    audience.Everyone,
				RecheckDays: 10,
			},
		),
	)
	w.Must(w.Review.Rechecks.TendRechecks(w.Context))
	if a := on(never); a.RecheckDays != 10 || a.RecheckByRule {
		t.Errorf("by hand: %+v", a.RecheckDays)
	}

	w.Wait(11 * 24 * time.Hour)
	w.Must(w.Review.Rechecks.TendRechecks(w.Context))
	w.Must(w.Review.Rechecks.TendRechecks(w.Context))
	told := func(by staff.Staff) int {
		news, err := w.Notify.News(w.Context, by, notify.NewsRecheck, 1)
		w.Must(err)
		return news.Total
	}
	if told(c.Author) != 1 || told(c.Publisher) != 0 {
		t.Errorf("the owner was told %d times, the steward %d", told(c.Author), told(c.Publisher))
	}
	w.Wait(14 * 24 * time.Hour)
	w.Must(w.Review.Rechecks.TendRechecks(w.Context))
	if told(c.Author) != 1 || told(c.Publisher) != 1 {
		t.Errorf("a fortnight later: the owner %d times, the steward %d", told(c.Author), told(c.Publisher))
	}
	day, err := w.Desk.Today(w.Context, c.Publisher)
	w.Must(err)
	if len(day.Neglected) != 1 || day.Neglected[0].Reference != never {
		t.Errorf("the steward's day: %+v", day.Neglected)
	}
	if err := w.Review.Rechecks.StillTrue(w.Context, c.Agent, never, ""); apptest.KindOf(err) != problem.Denied {
		t.Errorf("an agent confirms: %v", err)
	}
	w.Must(w.Review.Rechecks.StillTrue(w.Context, c.Author, never, "asked the field"))
	a := on(never)
	if a.CheckedOn != "2026-03-27" || a.RecheckOn != "2026-04-06" || a.Trail[0].Action != "still true" {
		t.Errorf("confirmed: %+v", a.Trail[0])
	}
}
