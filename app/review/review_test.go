package review_test

import (
	"strings"
	"sync"
	"testing"
	"time"

	"hermeneus/app/accounts"
	"hermeneus/app/apptest"
	"hermeneus/app/library"
	"hermeneus/app/notify"
	"hermeneus/app/problem"
	"hermeneus/app/review"
	"hermeneus/app/staff"
	"hermeneus/app/writing"
	"hermeneus/core/audience"
	corereview "hermeneus/core/review"
	"hermeneus/core/role"
)

// safety gives a world with a category on the safety path, and who reviews it.
type safety struct {
	*apptest.World
	apptest.Crew
	field, second staff.Staff // a reviewer in the team Field, and one of no team
	category      int64
	path          int64
}

func newSafety(t *testing.T) *safety {
	w := apptest.Open(t)
	s := &safety{World: w, Crew: w.Crew()}
	var err error
	s.field, err = w.Accounts.People.AddFirstStaff(
		w.Context,
		accounts.NewStaff{
			Name:     "fia",
			Email:    "fia@wrenmoor.example",
			Password: "a long password",
			Roles:    role.Set{role.Reviewer},
			Team:     "Field",
		},
	)
	w.Must(err)
	s.second = w.Hire("sam", role.Reviewer)
	top := w.Category(s.Author, "Safety")
	s.category, err = w.Library.AddCategory(
		w.Context,
		s.Author,
		library.NewCategory{ParentID: top, Name: "Lines", Audience: audience.Everyone},
	)
	w.Must(err)
	paths, err := w.Review.Paths(w.Context)
	w.Must(err)
	for _, p := range paths {
		if p.Name == "Safety" {
			s.path = p.ID
			p.Gates[0].Team = "Field"
			_, err := w.Review.KeepPath(w.Context, s.Administrator, p.ID, p.Path, false)
			w.Must(err)
		}
	}
	w.Must(w.Review.SetReviewing(w.Context, s.Administrator, top, s.path, s.Publisher.ID)) // inherited by Lines
	return s
}

func (s *safety) step(by staff.Staff, ref string, action corereview.Action, note string) error {
	a, err := s.Desk.ReadArticle(s.Context, by, ref)
	s.Must(err)
	return s.Review.Move(
		s.Context,
		by,
		ref,
		review.Step{Action: action, Version: a.Version, Gate: a.Gate, Note: note},
	)
}

func (s *safety) state(ref string) corereview.State {
	a, err := s.Desk.ReadArticle(s.Context, s.Author, ref)
	s.Must(err)
	return a.State
}

func TestATextPassesTheGatesOfItsCategorysPath(t *testing.T) {
	s := newSafety(t)
	ref := s.Draft(s.Author, s.category, "A line is down", "<p>Keep away.</p>", "")
	s.Must(s.step(s.Author, ref, corereview.Submit, ""))
	round, err := s.Review.ReadRound(s.Context, s.field, ref)
	s.Must(err)
	if round.Path != "Safety" || len(round.Gates) != 2 || !round.Gates[0].Here || round.Why != "" ||
		round.Steward != "pia" ||
		round.Gates[0].Who != "reviewer in the team Field" {
		t.Errorf("the round is %+v", round)
	}
	if err := s.step(s.second, ref, corereview.Approve, "seen"); apptest.KindOf(err) != problem.Denied {
		t.Errorf("a reviewer of no team at the safety gate: %v", err)
	}
	if err := s.step(s.field, ref, corereview.Approve, ""); apptest.KindOf(err) != problem.NotNow {
		t.Errorf("without the note that the gate wants: %v", err)
	}
	s.Must(s.step(s.field, ref, corereview.Approve, "Checked against the handbook."))
	if err := s.step(s.field, ref, corereview.Approve, "again"); apptest.KindOf(err) != problem.Denied {
		t.Errorf("one person at both gates: %v", err)
	}
	if err := s.step(s.Publisher, ref, corereview.Publish, ""); apptest.KindOf(err) != problem.Denied {
		t.Errorf("published before its last gate: %v", err)
	}

	// A change to the text clears what was passed before it, and says so.
	a, err := s.Desk.ReadArticle(s.Context, s.Author, ref)
	s.Must(err)
	saved, err := s.Writing.SaveArticle(
		s.Context,
		s.Author,
		ref,
		writing.Save{
			Text:    library.WorkingCopy{Title: a.Copy.Title, Body: "<p>Keep ten metres away.</p>"},
			Version: a.Version,
		},
	)
	s.Must(err)
	if saved.State != corereview.InReview {
		t.Errorf("edited in review, it is %s", saved.State)
	}
	round, err = s.Review.ReadRound(s.Context, s.field, ref)
	s.Must(err)
	if !round.Gates[0].Here || round.Gates[0].Passed != "" || len(round.Decisions) != 1 || !round.Decisions[0].Cleared {
		t.Errorf("after the change: %+v", round)
	}
	news, err := s.Notify.News(s.Context, s.field, notify.NewsDecided, 1)
	s.Must(err)
	if news.Total != 1 || !strings.Contains(news.Items[0].Text, "after you let it pass") {
		t.Errorf("who had let it pass was told %+v", news)
	}

	s.Must(s.step(s.field, ref, corereview.Approve, "Still right."))
	s.Must(s.step(s.second, ref, corereview.Approve, ""))
	if s.state(ref) != corereview.Approved {
		t.Errorf("past both gates it is %s", s.state(ref))
	}
	s.Must(s.step(s.Publisher, ref, corereview.Publish, ""))
	page, err := s.HelpCentre.OpenPage(s.Context, apptest.Visitor("k"), "help", ref)
	s.Must(err)
	if !strings.Contains(page.Body, "ten metres") {
		t.Errorf("what went live is %s", page.Body)
	}
}

func TestAReviewStaysOnThePathItEntered(t *testing.T) {
	s := newSafety(t)
	ref := s.Draft(s.Author, s.category, "A line is down", "<p>Keep away.</p>", "")
	s.Must(s.step(s.Author, ref, corereview.Submit, ""))
	// The path itself changes, and the category takes another one.
	_, err := s.Review.KeepPath(
		s.Context,
		s.Administrator,
		s.path,
		corereview.Path{Name: "Safety", Gates: []corereview.Gate{{Name: "Anybody", Roles: []role.Role{role.Reviewer}}}},
		false,
	)
	s.Must(err)
	s.Must(s.Review.SetReviewing(s.Context, s.Administrator, s.category, 1, 0))
	round, err := s.Review.ReadRound(s.Context, s.Author, ref)
	s.Must(err)
	if len(round.Gates) != 2 || round.Gates[0].Name != "Safety review" || round.PathNow != "One reviewer: Review" {
		t.Errorf("inside, the round is %+v", round)
	}
	if err := s.step(s.second, ref, corereview.Approve, "x"); apptest.KindOf(err) != problem.Denied {
		t.Errorf("by the new path: %v", err)
	}
	s.Must(s.step(s.Author, ref, corereview.Recall, ""))
	s.Must(s.step(s.Author, ref, corereview.Submit, ""))
	s.Must(s.step(s.second, ref, corereview.Approve, ""))
	if s.state(ref) != corereview.Approved {
		t.Error("sent again, it does not go the new path")
	}
}

func TestTwoReviewersDecideAtTheSameInstant(t *testing.T) {
	s := newSafety(t)
	both := s.Hire("bob", role.Reviewer)
	for range 8 {
		ref := s.Draft(s.Author, s.category, "A line is down", "<p>Keep away.</p>", "")
		s.Must(s.step(s.Author, ref, corereview.Submit, ""))
		s.Must(s.step(s.field, ref, corereview.Approve, "seen"))
		// One lets the second gate pass while the other sends it back.
		var wait sync.WaitGroup
		errs := make([]error, 2)
		wait.Go(func() {
			errs[0] = s.Review.Move(
				s.Context,
				s.second,
				ref,
				review.Step{Action: corereview.Approve, Version: 1, Gate: "Second review"},
			)
		})
		wait.Go(func() {
			errs[1] = s.Review.Move(
				s.Context,
				both,
				ref,
				review.Step{Action: corereview.SendBack, Version: 1, Gate: "Second review", Note: "no"},
			)
		})
		wait.Wait()
		state := s.state(ref)
		switch {
		case errs[0] == nil && apptest.KindOf(errs[1]) == problem.StaleSave && state == corereview.Approved:
		case errs[1] == nil && apptest.KindOf(errs[0]) == problem.NotNow && state == corereview.SentBack:
		default:
			t.Fatalf("%v and %v leave it %s", errs[0], errs[1], state)
		}
	}
	// Two approvals of what both saw before the first gate do not pass two gates.
	path := corereview.Path{
		Name: "Two alike",
		Gates: []corereview.Gate{
			{Name: "First", Roles: []role.Role{role.Reviewer}},
			{Name: "Next", Roles: []role.Role{role.Reviewer}},
		},
	}
	id, err := s.Review.KeepPath(s.Context, s.Administrator, 0, path, false)
	s.Must(err)
	s.Must(s.Review.SetReviewing(s.Context, s.Administrator, s.category, id, 0))
	for range 8 {
		ref := s.Draft(s.Author, s.category, "Two gates", "<p>Text.</p>", "")
		s.Must(s.step(s.Author, ref, corereview.Submit, ""))
		var wait sync.WaitGroup
		errs := make([]error, 2)
		for i, by := range []staff.Staff{s.second, both} {
			wait.Go(func() {
				errs[i] = s.Review.Move(
					s.Context,
					by,
					ref,
					review.Step{Action: corereview.Approve, Version: 1, Gate: "First"},
				)
			})
		}
		wait.Wait()
		if (errs[0] == nil) == (errs[1] == nil) || s.state(ref) != corereview.InReview {
			t.Fatalf("%v and %v leave it %s", errs[0], errs[1], s.state(ref))
		}
	}
}

func TestTheAuthorEditsWhileItIsBeingApproved(t *testing.T) {
	s := newSafety(t)
	category := s.Category(s.Author, "Bills")
	approved, stale := 0, 0
	for range 12 {
		ref := s.Draft(s.Author, category, "A bill", "<p>Old text.</p>", "")
		s.Must(s.step(s.Author, ref, corereview.Submit, ""))
		var wait sync.WaitGroup
		var approving, editing error
		wait.Go(func() {
			approving = s.Review.Move(
				s.Context,
				s.Reviewer,
				ref,
				review.Step{Action: corereview.Approve, Version: 1, Gate: "Review"},
			)
		})
		wait.Go(func() {
			_, editing = s.Writing.SaveArticle(
				s.Context,
				s.Author,
				ref,
				writing.Save{Text: library.WorkingCopy{Title: "A bill", Body: "<p>New text.</p>"}, Version: 1},
			)
		})
		wait.Wait()
		s.Must(editing)
		if approving == nil {
			approved++
		} else if apptest.KindOf(approving) == problem.StaleSave {
			stale++
		} else {
			t.Fatal(approving)
		}
		// Whichever came first, the new text has been passed by nobody.
		if err := s.step(s.Publisher, ref, corereview.Publish, ""); err == nil {
			t.Fatalf("a text went live that nobody saw; the approval said %v", approving)
		}
	}
	if approved+stale != 12 {
		t.Error("some came to neither")
	}
}

func TestTheLastPersonEntitledIsDisabled(t *testing.T) {
	s := newSafety(t)
	ref := s.Draft(s.Author, s.category, "A line is down", "<p>Keep away.</p>", "")
	s.Must(s.step(s.Author, ref, corereview.Submit, ""))
	s.Must(s.Accounts.People.ChangeStaff(s.Context, s.Administrator, s.field.ID, s.field.Roles, true))
	lanes, err := s.Review.Queue(s.Context, s.Administrator)
	s.Must(err)
	if len(lanes) != 1 || !lanes[0].Items[0].Stuck {
		t.Errorf("the lanes are %+v", lanes)
	}
	news, err := s.Notify.News(s.Context, s.Administrator, notify.NewsStuck, 1)
	s.Must(err)
	if news.Total != 1 || news.Unread != 1 {
		t.Errorf("the administrator was told %+v", news)
	}
	day, err := s.Desk.Today(s.Context, s.Administrator)
	s.Must(err)
	if len(day.Stuck) != 1 {
		t.Errorf("the administrator's day: %+v", day.Stuck)
	}
	// Told once, and again only after it was mended.
	s.Must(
		s.Accounts.People.ChangeStaff(
			s.Context,
			s.Administrator,
			s.second.ID,
			role.Set{role.Reviewer, role.Author},
			false,
		),
	)
	s.Must(s.Accounts.People.ChangeStaff(s.Context, s.Administrator, s.field.ID, s.field.Roles, false))
	s.Must(s.Accounts.People.ChangeStaff(s.Context, s.Administrator, s.field.ID, s.field.Roles, true))
	if news, err = s.Notify.News(s.Context, s.Administrator, notify.NewsStuck, 1); err != nil || news.Total != 2 {
		t.Errorf("after mending and again: %d, %v", news.Total, err)
	}
}

func TestLanesShowAgeAndWhatIsOverdue(t *testing.T) {
	s := newSafety(t)
	bills := s.Category(s.Author, "Bills")
	old := s.Draft(s.Author, bills, "Old", "<p>Text.</p>", "")
	s.Must(s.step(s.Author, old, corereview.Submit, ""))
	s.Wait(47 * time.Hour)
	fresh := s.Draft(s.Author, bills, "Fresh", "<p>Text.</p>", "")
	s.Must(s.step(s.Author, fresh, corereview.Submit, ""))
	s.Must(s.step(s.Author, s.Draft(s.Author, s.category, "Line", "<p>Text.</p>", ""), corereview.Submit, ""))
	s.Wait(time.Hour)
	lanes, err := s.Review.Queue(s.Context, s.Reviewer)
	s.Must(err)
	if len(lanes) != 2 || lanes[0].Name != "Review" || lanes[0].Mine != 2 || lanes[0].Items[0].Title != "Old" ||
		!lanes[0].Items[0].Overdue ||
		lanes[0].Items[1].Overdue {
		t.Errorf("the reviewer's lanes: %+v", lanes)
	}
	lanes, err = s.Review.Queue(s.Context, s.field)
	s.Must(err)
	if lanes[0].Mine+lanes[1].Mine != 3 {
		t.Errorf("who may pass both: %+v", lanes)
	}
}
