package review_test

import (
	"strings"
	"testing"
	"time"

	"hermeneus/app/apptest"
	"hermeneus/app/desk"
	"hermeneus/app/evidence"
	"hermeneus/app/helpcentre"
	"hermeneus/app/library"
	"hermeneus/app/lists"
	"hermeneus/app/notify"
	"hermeneus/app/problem"
	"hermeneus/app/review"
	"hermeneus/app/staff"
	"hermeneus/app/writing"
	"hermeneus/core/audience"
	"hermeneus/core/prose"
	corereview "hermeneus/core/review"
	"hermeneus/core/role"
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
	id, err := w.Review.AddComment(
		w.Context,
		c.Reviewer,
		ref,
		review.NewComment{Line: 1, Quote: "Simply press Menu", Text: "Say it plainly.", Suggestion: &words},
	)
	w.Must(err)
	_, err = w.Review.AddComment(
		w.Context,
		c.Reviewer,
		ref,
		review.NewComment{Line: 0, Quote: "the door", Text: "Which one?"},
	)
	w.Must(err)
	for name, bad := range map[string]review.NewComment{"no such words": {Quote: "nowhere", Text: "x"}, "nothing said": {Quote: "door"}, "the same words": {Quote: "door", Suggestion: pointer("door")}} {
		if _, err := w.Review.AddComment(w.Context, c.Reviewer, ref, bad); apptest.KindOf(err) != problem.Invalid {
			t.Errorf("%s: %v", name, err)
		}
	}
	if _, err := w.Review.AddComment(
		w.Context,
		c.Agent,
		ref,
		review.NewComment{Quote: "door", Text: "x"},
	); apptest.KindOf(
		err,
	) != problem.Denied {
		t.Errorf("an agent comments: %v", err)
	}
	w.Must(w.Review.ReplyToComment(w.Context, c.Author, ref, id, "Right."))

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
	list, err := w.Review.Comments(w.Context, ref)
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
	); apptest.KindOf(
		err,
	) != problem.StaleSave {
		t.Errorf("into a text that changed: %v", err)
	}
	if _, err := w.Writing.AcceptSuggestion(
		w.Context,
		c.Reviewer,
		ref,
		id,
		"",
		saved.Version,
	); apptest.KindOf(
		err,
	) != problem.Denied {
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
	); apptest.KindOf(
		err,
	) != problem.NotNow {
		t.Errorf("accepted twice: %v", err)
	}
	w.Must(w.Review.ResolveComment(w.Context, c.Author, ref, list[0].ID, true))
	if list, err = w.Review.Comments(w.Context, ref); err != nil || list[0].ResolvedBy != "ada" {
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
	if list, err = w.Review.Comments(
		w.Context,
		ref,
	); err != nil || len(list) != 2 || list[0].Place != nil ||
		list[0].Quote == "" {
		t.Errorf("%+v, %v", list, err)
	}
}

func pointer(s string) *string { return &s }

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
	wim, err := w.Accounts.AddCustomer(w.Context, "Wim Brook", "wim@post.example", "a long password")
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
	); apptest.KindOf(
		err,
	) != problem.NotNow {
		t.Errorf("answered twice: %v", err)
	}
	time.Sleep(1500 * time.Millisecond)
	if n := len(w.Room.Letters("wim@post.example")); n != 1 {
		t.Errorf("%d mails for one answer", n)
	}
}

func TestRechecksFollowUseAndAreToldOnce(t *testing.T) {
	w := apptest.Open(t)
	c := w.Crew()
	bills := w.Category(c.Author, "Bills")
	w.Must(w.Review.SetReviewing(w.Context, c.Administrator, bills, 0, c.Publisher.ID))
	much, never := w.Draft(
		c.Author,
		bills,
		"Much read",
		"<p>One.</p>",
		"",
	), w.Draft(
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
	w.Must(w.Review.TendRechecks(w.Context))
	on := func(ref string) desk.Article {
		a, err := w.Desk.ReadArticle(w.Context, c.Author, ref)
		w.Must(err)
		return a
	}
	if a, b := on(much), on(never); a.RecheckDays != 90 || b.RecheckDays != 180 || a.RecheckOn != "2026-05-31" {
		t.Errorf("by use: %d days (%s) and %d", a.RecheckDays, a.RecheckOn, b.RecheckDays)
	}
	base, err := w.Review.RecheckBase(w.Context)
	w.Must(err)
	base["how-to"] = 100
	if err := w.Review.SetRecheckBase(w.Context, c.Author, base); apptest.KindOf(err) != problem.Denied {
		t.Errorf("an author changes the rule: %v", err)
	}
	w.Must(w.Review.SetRecheckBase(w.Context, c.Administrator, base))
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
	w.Must(w.Review.TendRechecks(w.Context))
	if a := on(never); a.RecheckDays != 10 || a.RecheckByRule {
		t.Errorf("by hand: %+v", a.RecheckDays)
	}

	w.Wait(11 * 24 * time.Hour)
	w.Must(w.Review.TendRechecks(w.Context))
	w.Must(w.Review.TendRechecks(w.Context))
	told := func(by staff.Staff) int {
		news, err := w.Notify.News(w.Context, by, notify.NewsRecheck, 1)
		w.Must(err)
		return news.Total
	}
	if told(c.Author) != 1 || told(c.Publisher) != 0 {
		t.Errorf("the owner was told %d times, the steward %d", told(c.Author), told(c.Publisher))
	}
	w.Wait(14 * 24 * time.Hour)
	w.Must(w.Review.TendRechecks(w.Context))
	if told(c.Author) != 1 || told(c.Publisher) != 1 {
		t.Errorf("a fortnight later: the owner %d times, the steward %d", told(c.Author), told(c.Publisher))
	}
	day, err := w.Desk.Today(w.Context, c.Publisher)
	w.Must(err)
	if len(day.Neglected) != 1 || day.Neglected[0].Reference != never {
		t.Errorf("the steward's day: %+v", day.Neglected)
	}
	if err := w.Review.StillTrue(w.Context, c.Agent, never, ""); apptest.KindOf(err) != problem.Denied {
		t.Errorf("an agent confirms: %v", err)
	}
	w.Must(w.Review.StillTrue(w.Context, c.Author, never, "asked the field"))
	a := on(never)
	if a.CheckedOn != "2026-03-27" || a.RecheckOn != "2026-04-06" || a.Trail[0].Action != "still true" {
		t.Errorf("confirmed: %+v", a.Trail[0])
	}
}

func TestInterimArticlesEnd(t *testing.T) {
	w := apptest.Open(t)
	c := w.Crew()
	bills := w.Category(c.Author, "Bills")
	day, cause := w.Draft(
		c.Author,
		bills,
		"Until a day",
		"<p>One.</p>",
		"",
	), w.Draft(
		c.Author,
		bills,
		"Until solved",
		"<p>Two.</p>",
		"",
	)
	w.Publish(c, day)
	w.Publish(c, cause)
	known, err := w.Review.AddKnownProblem(w.Context, c.Author, "The app is down")
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
	w.Must(w.Review.EndInterim(w.Context))
	if !apptest.IsLive(w, day) {
		t.Error("ended before its day was over")
	}
	w.Wait(24 * time.Hour)
	w.Must(w.Review.EndInterim(w.Context))
	if apptest.IsLive(w, day) || !apptest.IsLive(w, cause) {
		t.Error("its day is over, and it is live; or the other ended with it")
	}
	if err := w.Review.Move(
		w.Context,
		c.Publisher,
		day,
		review.Step{Action: corereview.Publish},
	); apptest.KindOf(
		err,
	) != problem.NotNow {
		t.Errorf("live again though its day is over: %v", err)
	}
	w.Must(w.Review.SolveKnownProblem(w.Context, c.Author, known.ID))
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
	w.Must(w.Review.CheckOutside(w.Context))
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
	); apptest.KindOf(
		err,
	) != problem.Invalid {
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
		w.Review.Act(w.Context, c.Author, w.Draft(c.Author, bills, "Four", "<p>Text.</p>", ""), corereview.Submit, 1, ""),
	)
	w.Must(w.Notify.MarkNewsRead(w.Context, c.Reviewer, 0))
	w.Wait(time.Hour)
	time.Sleep(1500 * time.Millisecond)
	if n := len(w.Room.Letters("rex@wrenmoor.example")); n != 1 {
		t.Errorf("%d mails for what was read", n)
	}
}

func TestFollowersAreTold(t *testing.T) {
	w := apptest.Open(t)
	c := w.Crew()
	ref := w.Draft(c.Author, w.Category(c.Author, "Bills"), "Followed", "<p>Text.</p>", "")
	w.Must(w.Review.Follow(w.Context, c.Agent, ref, true))
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
	w.Must(w.Review.Follow(w.Context, c.Agent, ref, false))
	w.Must(w.Review.Move(w.Context, c.Publisher, ref, review.Step{Action: corereview.Publish}))
	if news, err = w.Notify.News(w.Context, c.Agent, "", 1); err != nil || news.Total != 3 {
		t.Errorf("told after it: %+v, %v", news.Items, err)
	}
}

func TestTheTrailIsFilteredAndTakenOut(t *testing.T) {
	w := apptest.Open(t)
	c := w.Crew()
	bills := w.Category(c.Author, "Bills")
	inside, err := w.Library.AddCategory(
		w.Context,
		c.Author,
		library.NewCategory{ParentID: bills, Name: "Paying", Audience: audience.Everyone},
	)
	w.Must(err)
	ref := w.Draft(c.Author, inside, "=SUM(A1)", "<p>Text.</p>", "")
	w.Publish(c, ref)
	w.Must(
		w.Review.Move(w.Context, c.Publisher, ref, review.Step{Action: corereview.Withdraw, Note: "=cmd, \"quoted\""}),
	)
	w.Wait(48 * time.Hour)
	w.Must(w.StillTrueRefused(c.Author, ref))
	count := func(f desk.TrailFilter) int {
		rows, total, err := w.Desk.Trail(w.Context, apptest.Reader, f)
		w.Must(err)
		if len(rows) != total {
			t.Errorf("%+v: %d of %d", f, len(rows), total)
		}
		return total
	}
	for want, f := range map[string]desk.TrailFilter{
		"5 of the article":  {Article: ref},
		"2 by the author":   {Article: ref, StaffID: c.Author.ID},
		"0 by the program":  {StaffID: -1, Article: ref},
		"1 withdrawal":      {Action: "withdraw"},
		"1 with the words":  {Words: "quoted"},
		"0 since yesterday": {Article: ref, From: w.Time().Add(-24 * time.Hour)},
		"5 before it":       {Article: ref, To: w.Time().Add(-24 * time.Hour)},
	} {
		if n := count(f); !strings.HasPrefix(want, string(rune('0'+n))+" ") {
			t.Errorf("%s: %d", want, n)
		}
	}
	if n := count(desk.TrailFilter{CategoryID: bills}); n != 7 {
		t.Errorf("of the category, what is in it and below it: %d", n)
	}
	raw, err := w.Desk.TrailFile(w.Context, apptest.Reader, desk.TrailFilter{Action: "withdraw"})
	w.Must(err)
	want := "at,who,subject,action,from,to,note\r\n2026-03-02T09:00:00Z,pia,A-0001,withdraw,published,approved,\"'=cmd, \"\"quoted\"\"\"\r\n"
	if string(raw) != want {
		t.Errorf("got  %q\nwant %q", raw, want)
	}
	for _, sql := range []string{"TRUNCATE trail", "TRUNCATE revisions CASCADE", "UPDATE trail SET note = ''", "DELETE FROM trail"} {
		if w.DB().Exec(sql).Error == nil {
			t.Errorf("%s was done", sql)
		}
	}
}

// One interim article that cannot be ended keeps no other live.
func TestOneThatCannotBeEndedKeepsNoOtherLive(t *testing.T) {
	w := apptest.OpenIdle(t)
	c := w.Crew()
	bills := w.Category(c.Author, "Bills")
	var refs []string
	for _, title := range []string{"First", "Broken", "Last"} {
		ref := w.Draft(c.Author, bills, title, "<p>"+title+"</p>", "")
		w.Publish(c, ref)
		w.Must(
			w.Library.SetProperties(
				w.Context,
				c.Author,
				ref,
				library.Properties{
					CategoryID:   bills,
					OwnerID:      c.Author.ID,
					Kind:         "fix",
					Audience:     audience.Everyone,
					InterimUntil: "2026-03-05",
				},
			),
		)
		refs = append(refs, ref)
	}
	// A path that cannot be read stands for whatever goes wrong with one.
	w.Must(w.DB().Exec(`UPDATE editions SET state = 'no state' WHERE title = 'Broken'`).Error)
	w.Wait(6 * 24 * time.Hour)
	if err := w.Review.EndInterim(w.Context); err == nil || !strings.Contains(err.Error(), refs[1]) {
		t.Errorf("what failed is not said: %v", err)
	}
	if apptest.IsLive(w, refs[0]) || !apptest.IsLive(w, refs[1]) || apptest.IsLive(w, refs[2]) {
		t.Errorf("live: %t %t %t", apptest.IsLive(w, refs[0]), apptest.IsLive(w, refs[1]), apptest.IsLive(w, refs[2]))
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
