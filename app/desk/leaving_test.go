package desk_test

import (
	"testing"

	"hermeneus/app/apptest"
	"hermeneus/app/desk"
	"hermeneus/app/helpcentre"
	"hermeneus/app/notify"
	"hermeneus/app/problem"
	corereview "hermeneus/core/review"
	"hermeneus/core/role"
)

func TestALeaversWorkIsHandedOver(t *testing.T) {
	w := apptest.Open(t)
	c := w.Crew()
	heir := w.Hire("eve", role.Author, role.Reviewer)
	bills, meters := w.Category(c.Author, "Bills"), w.Category(c.Author, "Meters")
	leaver := w.Hire("lea", role.Author, role.Reviewer)
	one, two := w.Draft(leaver, bills, "One", "<p>One.</p>", ""), w.Draft(leaver, meters, "Two", "<p>Two.</p>", "")
	w.Must(w.Review.SetReviewing(w.Context, c.Administrator, meters, 0, leaver.ID))
	path, err := w.Review.KeepPath(
		w.Context,
		c.Administrator,
		0,
		corereview.Path{Name: "Lea alone", Gates: []corereview.Gate{{Name: "Lea", People: []int64{leaver.ID}}}},
		false,
	)
	w.Must(err)
	w.Must(w.Review.SetReviewing(w.Context, c.Administrator, bills, path, 0))
	inside := w.Draft(c.Author, bills, "Inside", "<p>Three.</p>", "")
	w.Must(w.Review.Act(w.Context, c.Author, inside, corereview.Submit, 1, ""))
	w.Must(w.Review.Reassign(w.Context, leaver, inside, leaver.ID, ""))

	if _, err := w.Desk.ReadBelongings(w.Context, c.Author, leaver.ID); apptest.KindOf(err) != problem.Denied {
		t.Errorf("an author looks: %v", err)
	}
	has, err := w.Desk.ReadBelongings(w.Context, c.Administrator, leaver.ID)
	w.Must(err)
	if len(has.Articles) != 2 || len(has.Reviews) != 1 || len(has.Gates) != 1 || len(has.Categories) != 1 {
		t.Fatalf("%+v", has)
	}
	if _, err := w.Desk.HandOverAll(
		w.Context,
		c.Administrator,
		leaver.ID,
		desk.HandOver{DisableNow: true},
	); apptest.SaidOf(err, "owner") == "" || apptest.SaidOf(err, "reviewer") == "" ||
		apptest.SaidOf(err, "steward") == "" {
		t.Errorf("gone with nobody in their place: %v", err)
	}
	out, err := w.Desk.HandOverAll(
		w.Context,
		c.Administrator,
		leaver.ID,
		desk.HandOver{Owner: heir.ID, Owners: []desk.CategoryOwner{{CategoryID: meters, OwnerID: c.Author.ID}},
			Reviewer: heir.ID, Steward: c.Publisher.ID, DisableNow: true},
	)
	w.Must(err)
	if out.Articles != 2 || out.Reviews != 1 || out.Gates != 1 || out.Categories != 1 || len(out.Left) != 0 {
		t.Errorf("%+v", out)
	}
	for ref, owner := range map[string]string{one: "eve", two: "ada"} {
		if a, err := w.Desk.ReadArticle(w.Context, c.Author, ref); err != nil || a.Owner.Name != owner {
			t.Errorf("%s is %s’s, %v", ref, a.Owner.Name, err)
		}
	}
	if news, err := w.Notify.News(w.Context, c.Administrator, notify.NewsStuck, 1); err != nil || news.Total != 0 {
		t.Errorf("something is stuck: %+v, %v", news, err)
	}
	w.Must(w.Review.Act(w.Context, heir, inside, corereview.Approve, 1, "")) // in the leaver's place
	if _, err := w.SignInStaffByName("lea"); err == nil {
		t.Error("the leaver signs in")
	}
}

// Only the reviewing of somebody is given to another; what readers said stays with them.
func TestReviewsAloneAreHandedOver(t *testing.T) {
	w := apptest.Open(t)
	c := w.Crew()
	bills := w.Category(c.Author, "Bills")
	leaver, heir := w.Hire("lea", role.Reviewer), w.Hire("eve", role.Reviewer)
	ref := w.Draft(c.Author, bills, "One", "<p>One.</p>", "")
	w.Publish(c, ref)
	v := apptest.Visitor("k")
	w.Must(apptest.Second(w.HelpCentre.OpenPage(w.Context, v, "help", ref)))
	w.Must(w.HelpCentre.VoteOn(w.Context, v, ref, helpcentre.Verdict{Comment: "Not true any more"}))
	said, err := w.HelpCentre.ArticleFeedback(w.Context, c.Author, ref)
	w.Must(err)
	w.Must(
		w.HelpCentre.AnswerFeedback(
			w.Context,
			c.Author,
			said[0].ID,
			helpcentre.FeedbackAnswer{Answer: helpcentre.AnswerPassedOn, For: leaver.ID},
		),
	)
	inside := w.Draft(c.Author, bills, "Inside", "<p>Two.</p>", "")
	w.Must(w.Review.Act(w.Context, c.Author, inside, corereview.Submit, 1, ""))
	w.Must(w.Review.Reassign(w.Context, c.Reviewer, inside, leaver.ID, ""))
	out, err := w.Desk.HandOverAll(w.Context, c.Administrator, leaver.ID, desk.HandOver{Reviewer: heir.ID})
	w.Must(err)
	if out.Reviews != 1 {
		t.Errorf("%+v", out)
	}
	if open, err := w.HelpCentre.OpenFeedback(w.Context, leaver); err != nil || len(open) != 1 {
		t.Errorf("what readers said: %+v, %v", open, err)
	}
}
