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
	"hermeneus/core/audience"
	corereview "hermeneus/core/review"
)

func TestReadersOfAWithdrawnArticleAreSentOnOrTold(t *testing.T) {
	w := apptest.Open(t)
	c := w.Crew()
	bills := w.Category(c.Author, "Bills")
	old := apptest.Ready(
		w,
		c,
		bills,
		"Old",
	)
	now := apptest.Ready(
		w,
		c,
		bills,
		"New",
	)
	inner := apptest.Ready(
		w,
		c,
		bills,
		"Inner",
	)
	for ref, to := range map[string]audience.Audience{old: audience.Everyone, now: audience.Everyone, inner: audience.Staff} {
		w.Must(w.Review.Move(w.Context, c.Publisher, ref, review.Step{Action: corereview.Publish, Audience: to}))
	}
	for name, to := range map[string]string{"itself": old, "what fewer may read": inner, "nothing": "A-9999"} {
		if err := w.Review.Move(
			w.Context,
			c.Publisher,
			old,
			review.Step{Action: corereview.Withdraw, To: to},
		); apptest.KindOf(err) != problem.Invalid {
			t.Errorf("sent to %s: %v", name, err)
		}
	}
	w.Must(w.Review.Move(w.Context, c.Publisher, old, review.Step{Action: corereview.Withdraw, To: now}))
	_, err := w.HelpCentre.OpenPage(w.Context, apptest.Visitor("k"), "help", old)
	gone, ok := err.(*helpcentre.Gone)
	if !ok || gone.To != now || gone.Title != "Old" {
		t.Errorf("its readers meet %+v, %v", gone, err)
	}
	w.Must(
		w.Review.Move(
			w.Context,
			c.Publisher,
			now,
			review.Step{Action: corereview.Withdraw, Notice: "Prices have ended."},
		),
	)
	_, err = w.HelpCentre.OpenPage(w.Context, apptest.Visitor("k"), "help", old)
	if gone, ok = err.(*helpcentre.Gone); !ok || gone.To != "" {
		t.Errorf("sent to what is gone too: %+v", gone)
	}
	// Who might not have read it is not told that it was ever there.
	w.Must(w.Review.Move(w.Context, c.Publisher, inner, review.Step{Action: corereview.Withdraw, Notice: "A secret."}))
	if _, err := w.HelpCentre.OpenPage(
		w.Context,
		apptest.Visitor("k"),
		"help",
		inner,
	); apptest.KindOf(err) != problem.NotFound {
		t.Errorf("a customer meets %v", err)
	}
	// Published again, it is read again.
	w.Must(w.Review.Move(w.Context, c.Publisher, old, review.Step{Action: corereview.Publish}))
	if !apptest.IsLive(w, old) {
		t.Error("published again, and not read")
	}
}

func TestWhatAnArticleTouches(t *testing.T) {
	w := apptest.Open(t)
	c := w.Crew()
	bills := w.Category(c.Author, "Bills")
	ref := apptest.Ready(w, c, bills, "Prices")
	w.Must(w.Review.Act(w.Context, c.Publisher, ref, corereview.Publish, 1, ""))
	linking := w.Draft(c.Author, bills, "Linking", `<p>See <a href="/help/articles/`+ref+`">prices</a>.</p>`, "")
	w.Publish(c, linking)
	apptest.ShowInFlow(w, c, ref)

	touches, err := w.Review.Impact(w.Context, ref, "")
	w.Must(err)
	if len(touches.Flows) != 1 || touches.Flows[0].Turn != "hello" || len(touches.LinkedBy) != 1 ||
		touches.LinkedBy[0].Reference != linking ||
		len(touches.Feeds) != 1 ||
		len(touches.Conflicts) != 0 {
		t.Errorf("as it is: %+v", touches)
	}
	touches, err = w.Review.Impact(w.Context, ref, audience.SignedIn)
	w.Must(err)
	if len(touches.Conflicts) != 1 || !strings.Contains(touches.Conflicts[0], "signed-in customers") ||
		len(touches.Feeds) != 0 ||
		touches.Changes == "" {
		t.Errorf("for fewer: %+v", touches)
	}
	// The conflict is refused wherever the audience can be changed.
	p := library.Properties{CategoryID: bills, OwnerID: c.Author.ID, Kind: "how-to", Audience: audience.SignedIn}
	if err := w.Library.SetProperties(w.Context, c.Publisher, ref, p); apptest.KindOf(err) != problem.NotNow {
		t.Errorf("by its properties: %v", err)
	}
	summary, err := w.Writing.SummariseBulk(
		w.Context,
		c.Publisher,
		writing.Bulk{References: []string{ref, linking}, Audience: audience.SignedIn},
	)
	w.Must(err)
	if summary.Refusals != 1 || summary.Refused[0].Reference != ref {
		t.Errorf("among many: %+v", summary)
	}
	a, err := w.Desk.ReadArticle(w.Context, c.Author, ref)
	w.Must(err)
	saved, err := w.Writing.SaveArticle(
		w.Context,
		c.Author,
		ref,
		writing.Save{Text: library.WorkingCopy{Title: "Prices now", Body: "<p>Now.</p>"}, Version: a.Version},
	)
	w.Must(err)
	w.Must(w.Review.Act(w.Context, c.Author, ref, corereview.Submit, saved.Version, ""))
	w.Must(w.Review.Act(w.Context, c.Reviewer, ref, corereview.Approve, saved.Version, ""))
	if err := w.Review.Move(
		w.Context,
		c.Publisher,
		ref,
		review.Step{Action: corereview.Publish, Audience: audience.Staff},
	); apptest.KindOf(err) != problem.NotNow {
		t.Errorf("when publishing: %v", err)
	}
	if err := w.Review.Move(
		w.Context,
		c.Publisher,
		ref,
		review.Step{Action: corereview.Schedule, Wall: "2026-04-01T09:00", Audience: audience.Staff},
	); apptest.KindOf(err) != problem.NotNow {
		t.Errorf("when setting a time: %v", err)
	}
	w.Must(
		w.Review.Move(
			w.Context,
			c.Publisher,
			ref,
			review.Step{Action: corereview.Publish, Audience: audience.Everyone},
		),
	)
	inner := w.Draft(c.Author, bills, "Inner", "<p>Text.</p>", audience.Staff)
	w.Must(w.Review.Act(w.Context, c.Author, inner, corereview.Submit, 1, ""))
	if err := w.Review.Move(
		w.Context,
		c.Reviewer,
		inner,
		review.Step{Action: corereview.Publish, Audience: audience.Everyone},
	); apptest.KindOf(err) != problem.Denied {
		t.Errorf("a reviewer shows it to more people than it was written for: %v", err)
	}
	touches, err = w.Review.Impact(w.Context, linking, audience.Everyone)
	w.Must(err)
	if len(touches.Unlive) != 0 {
		t.Errorf("links of a live article to a live one: %+v", touches.Unlive)
	}
}

// Who is in the middle of a conversation reads the text it spoke of; what was
// withdrawn is read by nobody.
func TestAConversationKeepsWhatItShowed(t *testing.T) {
	w := apptest.Open(t)
	c := w.Crew()
	ref := apptest.Ready(w, c, w.Category(c.Author, "Bills"), "Prices")
	w.Must(w.Review.Act(w.Context, c.Publisher, ref, corereview.Publish, 1, ""))
	apptest.ShowInFlow(w, c, ref)
	v := apptest.Visitor("k")
	token, err := w.Conversations.StartChat(w.Context, v)
	w.Must(err)
	a, err := w.Desk.ReadArticle(w.Context, c.Author, ref)
	w.Must(err)
	saved, err := w.Writing.SaveArticle(
		w.Context,
		c.Author,
		ref,
		writing.Save{Text: library.WorkingCopy{Title: "Other prices", Body: "<p>Other.</p>"}, Version: a.Version},
	)
	w.Must(err)
	w.Must(w.Review.Act(w.Context, c.Author, ref, corereview.Submit, saved.Version, ""))
	w.Must(w.Review.Act(w.Context, c.Reviewer, ref, corereview.Approve, saved.Version, ""))
	w.Must(w.Review.Act(w.Context, c.Publisher, ref, corereview.Publish, saved.Version, ""))
	inChat, err := w.Conversations.OpenInChat(w.Context, v, token, ref)
	w.Must(err)
	outside, err := w.HelpCentre.OpenPage(w.Context, v, "help", ref)
	w.Must(err)
	if inChat.Title != "Prices" || outside.Title != "Other prices" {
		t.Errorf("in the conversation %q, outside %q", inChat.Title, outside.Title)
	}
	w.Must(w.Review.Act(w.Context, c.Publisher, ref, corereview.Withdraw, 0, ""))
	if _, err := w.Conversations.OpenInChat(w.Context, v, token, ref); apptest.KindOf(err) != problem.Withdrawn {
		t.Errorf("withdrawn, in the conversation: %v", err)
	}
}
