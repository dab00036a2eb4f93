package app

import (
	"slices"
	"strings"

	"hermeneus/core/article"
	"hermeneus/core/role"
) // Staff is a member of staff who is signed in.
type Staff struct {
	ID    int64    `json:"id"`
	Name  string   `json:"name"`
	Email string   `json:"email"`
	Roles role.Set `json:"roles"`
	Team  string   `json:"team"`
}

// may is the one permission check: nil when the person has any of the roles.
func (s Staff) may(doing string, roles ...role.Role) error {
	if s.Roles.Has(roles...) {
		return nil
	}
	names := make([]string, len(roles))
	for i, r := range roles {
		names[i] = string(r)
	}
	return problem(Denied, "%s needs the role %s. Ask an administrator.", doing, strings.Join(names, " or "))
}

func (s Staff) actor() article.Actor {
	return article.Actor{ID: s.ID, Roles: s.Roles, Team: s.Team, Program: s.ID == 0}
}

func (s Staff) mayEdit() error { return s.may("Editing", role.Author) }

func (s Staff) mayAnswer() error { return s.may("Answering customers", role.Agent) }

// maySearch is who changes what the search goes by.
func (s Staff) maySearch() error {
	return s.may("Changing the search", role.Publisher, role.Administrator)
}

// readsAll says whether somebody reads the names of customers in the trail.
func (s Staff) readsAll() bool { return s.Roles.Has(role.Administrator) }

// program acts where nobody does: at a time that somebody set.
var program = Staff{Name: "Hermeneus"}

func except(ids []int64, not int64) []int64 {
	return slices.DeleteFunc(slices.Clone(ids), func(id int64) bool { return id == not })
}
