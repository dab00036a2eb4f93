package staff

import (
	"slices"
	"strings"

	"hermeneus/app/problem"
	"hermeneus/core/review"
	"hermeneus/core/role"
)

// Staff is a member of staff who is signed in.
type Staff struct {
	ID    int64    `json:"id"`
	Name  string   `json:"name"`
	Email string   `json:"email"`
	Roles role.Set `json:"roles"`
	Team  string   `json:"team"`
}

// May is the one permission check: nil when the person has any of the roles.
func (s Staff) May(doing string, roles ...role.Role) error {
	if s.Roles.Has(roles...) {
		return nil
	}
	names := make([]string, len(roles))
	for i, r := range roles {
		names[i] = string(r)
	}
	return problem.New(
		problem.Denied,
		"%s needs the role %s. Ask an administrator.",
		doing,
		strings.Join(names, " or "),
	)
}

// Actor is somebody as the rules of review know them.
func (s Staff) Actor() review.Actor {
	return review.Actor{ID: s.ID, Roles: s.Roles, Team: s.Team, Program: s.ID == 0}
}

// MayEdit is nil for whoever writes.
func (s Staff) MayEdit() error { return s.May("Editing", role.Author) }

// MayAnswer is nil for whoever answers customers.
func (s Staff) MayAnswer() error { return s.May("Answering customers", role.Agent) }

// MaySearch is who changes what the search goes by.
func (s Staff) MaySearch() error {
	return s.May("Changing the search", role.Publisher, role.Administrator)
}

// ReadsAll says whether somebody reads the names of customers in the trail.
func (s Staff) ReadsAll() bool { return s.Roles.Has(role.Administrator) }

// Program acts where nobody does: at a time that somebody set.
var Program = Staff{Name: "Hermeneus"}

// Except leaves somebody out of a list of people.
func Except(ids []int64, not int64) []int64 {
	return slices.DeleteFunc(slices.Clone(ids), func(id int64) bool { return id == not })
}
