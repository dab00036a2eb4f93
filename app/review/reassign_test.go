package review_test

import (
	"testing"

	"hermeneus/app/apptest"
	"hermeneus/app/problem"
	"hermeneus/app/staff"
	corereview "hermeneus/core/review"
)

func TestAReviewIsHandedToSomeone(t *testing.T) {
	s := newSafety(t)
	ref := s.Draft(s.Author, s.Category(s.Author, "Bills"), "A bill", "<p>Text.</p>", "")
	s.Must(s.step(s.Author, ref, corereview.Submit, ""))
	if err := s.Review.Reassign(s.Context, s.Reviewer, ref, s.Author.ID, ""); apptest.KindOf(err) != problem.Invalid {
		t.Errorf("to its author: %v", err)
	}
	if err := s.Review.Reassign(s.Context, s.Agent, ref, s.second.ID, ""); apptest.KindOf(err) != problem.Denied {
		t.Errorf("by an agent: %v", err)
	}
	s.Must(s.Review.Reassign(s.Context, s.Reviewer, ref, s.second.ID, "You know tariffs."))
	for who, mine := range map[*staff.Staff]bool{&s.second: true, &s.Reviewer: false, &s.Author: false} {
		lanes, err := s.Review.Queue(s.Context, *who)
		s.Must(err)
		if lanes[0].Items[0].Mine != mine || lanes[0].Items[0].Assignee != "sam" {
			t.Errorf("%s: %+v", who.Name, lanes[0].Items[0])
		}
	}
	s.Must(s.step(s.second, ref, corereview.Approve, ""))
}
