package review_test

import (
	"strings"
	"testing"
	"time"

	"hermeneus/app"
	"hermeneus/app/apptest"
	"hermeneus/app/desk"
	"hermeneus/app/evidence"
	"hermeneus/app/helpcentre"
	"hermeneus/app/library"
	"hermeneus/app/notify"
	"hermeneus/app/problem"
	"hermeneus/app/review"
	"hermeneus/app/staff"
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
	); apptest.KindOf(
		err,
	) != problem.NotNow {
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
	); apptest.KindOf(
		err,
	) != problem.NotNow {
		t.Errorf("when publishing: %v", err)
	}
	if err := w.Review.Move(
		w.Context,
		c.Publisher,
		ref,
		review.Step{Action: corereview.Schedule, Wall: "2026-04-01T09:00", Audience: audience.Staff},
	); apptest.KindOf(
		err,
	) != problem.NotNow {
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
	); apptest.KindOf(
		err,
	) != problem.Denied {
		t.Errorf("a reviewer shows it to more people than it was written for: %v", err)
	}
	touches, err = w.Review.Impact(w.Context, linking, audience.Everyone)
	w.Must(err)
	if len(touches.Unlive) != 0 {
		t.Errorf("links of a live article to a live one: %+v", touches.Unlive)
	}
}

func TestReadersOfAWithdrawnArticleAreSentOnOrTold(t *testing.T) {
	w := apptest.Open(t)
	c := w.Crew()
	bills := w.Category(c.Author, "Bills")
	old, now, inner := apptest.Ready(
		w,
		c,
		bills,
		"Old",
	), apptest.Ready(
		w,
		c,
		bills,
		"New",
	), apptest.Ready(
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
		); apptest.KindOf(
			err,
		) != problem.Invalid {
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
	); apptest.KindOf(
		err,
	) != problem.NotFound {
		t.Errorf("a customer meets %v", err)
	}
	// Published again, it is read again.
	w.Must(w.Review.Move(w.Context, c.Publisher, old, review.Step{Action: corereview.Publish}))
	if !apptest.IsLive(w, old) {
		t.Error("published again, and not read")
	}
}

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
	id, err := w.Review.MakeBatch(w.Context, c.Author, "Prices", "Prices of spring", refs)
	w.Must(err)
	if _, err := w.Review.MakeBatch(
		w.Context,
		c.Author,
		"Second",
		"",
		refs[:1],
	); apptest.KindOf(
		err,
	) != problem.Invalid {
		t.Errorf("in two batches: %v", err)
	}
	act := func(by staff.Staff, s review.Step) (review.BatchDone, error) {
		return w.Review.ActOnBatch(w.Context, by, id, s)
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
	); apptest.KindOf(
		err,
	) != problem.NotNow {
		t.Errorf("a member alone: %v", err)
	}
	// One that cannot go keeps all from going.
	late := apptest.Ready(w, c, bills, "Late")
	w.Must(w.Review.ChangeBatch(w.Context, c.Author, id, "Prices", "Prices of spring", []string{late}, nil))
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
	w.Must(w.Review.ChangeBatch(w.Context, c.Author, id, "Prices", "Prices of spring", nil, []string{late}))
	if _, err := act(c.Publisher, review.Step{Action: corereview.Schedule, Wall: "2026-03-02T10:00"}); err != nil {
		t.Fatal(err)
	}
	b, err := w.Review.ReadBatch(w.Context, c.Publisher, id)
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
