package review_test

import (
	"strings"
	"testing"
	"time"

	"hermeneus/app/apptest"
	"hermeneus/app/library"
	"hermeneus/app/lists"
	"hermeneus/app/problem"
	"hermeneus/app/review"
	"hermeneus/core/audience"
	"hermeneus/core/prose"
	corereview "hermeneus/core/review"
)

func TestInterimArticlesEnd(t *testing.T) {
	w := apptest.Open(t)
	c := w.Crew()
	bills := w.Category(c.Author, "Bills")
	day := w.Draft(
		c.Author,
		bills,
		"Until a day",
		"<p>One.</p>",
		"",
	)
	cause := w.Draft(
		c.Author,
		bills,
		"Until solved",
		"<p>Two.</p>",
		"",
	)
	w.Publish(c, day)
	w.Publish(c, cause)
	known, err := w.Review.Rechecks.AddKnownProblem(w.Context, c.Author, "The app is down")
	w.Must(err)
	p := library.Properties{
		CategoryID:   bills,
		OwnerID:      c.Author.ID,
		Kind:         "fix",
		Audience:     audience.Everyone,
		InterimUntil: "2026-03-05",
	}
	w.Must(w.Library.SetProperties(w.Context, c.Author, day, p))
	p.InterimUntil, p.KnownProblemID = "", known.ID
	w.Must(w.Library.SetProperties(w.Context, c.Author, cause, p))
	w.Wait(3 * 24 * time.Hour)
	w.Must(w.Review.Rechecks.EndInterim(w.Context))
	if !apptest.IsLive(w, day) {
		t.Error("ended before its day was over")
	}
	w.Wait(24 * time.Hour)
	w.Must(w.Review.Rechecks.EndInterim(w.Context))
	if apptest.IsLive(w, day) || !apptest.IsLive(w, cause) {
		t.Error("its day is over, and it is live; or the other ended with it")
	}
	if err := w.Review.Move(
		w.Context,
		c.Publisher,
		day,
		review.Step{Action: corereview.Publish},
	); apptest.KindOf(err) != problem.NotNow {
		t.Errorf("live again though its day is over: %v", err)
	}
	w.Must(w.Review.Rechecks.SolveKnownProblem(w.Context, c.Author, known.ID))
	_, err = w.HelpCentre.OpenPage(w.Context, apptest.Visitor("k"), "help", cause)
	if apptest.KindOf(err) != problem.Withdrawn || !strings.Contains(err.Error(), "The app is down") {
		t.Errorf("its problem is solved, and a reader meets %v", err)
	}
}

func TestDeadLinksAreFoundAndShown(t *testing.T) {
	w := apptest.Open(t)
	c := w.Crew()
	ref := w.Draft(
		c.Author,
		w.Category(c.Author, "Bills"),
		"Links",
		`<p>See <a href="https://grid.example/missing/map">the map</a> or <a href="https://grid.example/">the grid</a>.</p>`,
		"",
	)
	w.Must(w.Review.Rechecks.CheckOutside(w.Context))
	advice, err := w.Writing.Checks(w.Context, apptest.Reader, ref)
	w.Must(err)
	var dead []string
	for _, k := range advice.Checks {
		if k.Kind == prose.DeadLink {
			dead = append(dead, k.Message)
		}
	}
	if len(dead) != 1 || !strings.Contains(dead[0], "“the map”") || !strings.Contains(dead[0], "404") {
		t.Errorf("%v", dead)
	}
	found, _, err := w.Lists.ListArticles(w.Context, lists.ArticleFilter{DeadLinks: true})
	w.Must(err)
	if len(found) != 1 || found[0].Reference != ref {
		t.Errorf("%+v", found)
	}
}
