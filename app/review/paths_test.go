package review_test

import (
	"strings"
	"testing"

	"hermeneus/app/apptest"
	"hermeneus/app/desk"
	"hermeneus/app/problem"
	"hermeneus/app/staff"
	corereview "hermeneus/core/review"
	"hermeneus/core/role"
)

func TestPathsAreKeptAndRefused(t *testing.T) {
	s := newSafety(t)
	gate := corereview.Gate{Name: "Steward", Steward: true, Own: true}
	for name, c := range map[string]struct {
		path     corereview.Path
		by       staff.Staff
		standard bool
		want     problem.Kind
	}{
		"by an author":     {corereview.Path{Name: "Mine", Gates: []corereview.Gate{gate}}, s.Author, false, problem.Denied},
		"without gates":    {corereview.Path{Name: "None"}, s.Administrator, false, problem.Invalid},
		"a taken name":     {corereview.Path{Name: "safety", Gates: []corereview.Gate{gate}}, s.Administrator, false, problem.Invalid},
		"an unknown team":  {corereview.Path{Name: "Team", Gates: []corereview.Gate{{Name: "a", Roles: []role.Role{role.Reviewer}, Team: "Nobody"}}}, s.Administrator, false, problem.Invalid},
		"unknown people":   {corereview.Path{Name: "People", Gates: []corereview.Gate{{Name: "a", People: []int64{999}}}}, s.Administrator, false, problem.Invalid},
		"a role that none": {corereview.Path{Name: "Role", Gates: []corereview.Gate{{Name: "a", Roles: []role.Role{"king"}}}}, s.Administrator, false, problem.Invalid},
	} {
		if _, err := s.Review.KeepPath(s.Context, c.by, 0, c.path, c.standard); apptest.KindOf(err) != c.want {
			t.Errorf("%s: %v", name, err)
		}
	}
	if err := s.Review.RetirePath(s.Context, s.Administrator, s.path); apptest.KindOf(err) != problem.NotNow {
		t.Errorf("retired while a category uses it: %v", err)
	}
	if err := s.Review.RetirePath(s.Context, s.Administrator, 1); apptest.KindOf(err) != problem.NotNow {
		t.Errorf("the standard path retired: %v", err)
	}
	// The steward may pass their own text where the gate says so, and the trail says it.
	id, err := s.Review.KeepPath(
		s.Context,
		s.Administrator,
		0,
		corereview.Path{Name: "Trusted", Gates: []corereview.Gate{gate}},
		true,
	)
	s.Must(err)
	bills := s.Category(s.Author, "Bills")
	s.Must(s.Review.SetReviewing(s.Context, s.Administrator, bills, 0, s.Author.ID))
	ref := s.Draft(s.Author, bills, "Own", "<p>Text.</p>", "")
	s.Must(s.step(s.Author, ref, corereview.Submit, ""))
	s.Must(s.step(s.Author, ref, corereview.Publish, "")) // passes the last gate in the same step
	rows, _, err := s.Desk.Trail(s.Context, apptest.Reader, desk.TrailFilter{Article: ref, Action: "approve"})
	s.Must(err)
	if len(rows) != 1 || !strings.Contains(rows[0].Note, "their own text") {
		t.Errorf("the trail says %+v", rows)
	}
	r, err := s.Review.ReviewingOf(s.Context, bills)
	s.Must(err)
	if r.PathID != id || r.OwnPath || !r.OwnSteward || r.StewardName != "ada" {
		t.Errorf("reviewing of the category: %+v", r)
	}
}
