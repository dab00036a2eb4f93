// Package role names what members of staff may be, and answers who is what.
// It promises that a set of roles reads and writes as a list of names.
// It may not know what a role is asked for.
package role

import "slices"

// Role is one of the hats a member of staff can wear; they combine freely.
type Role string

// The roles.
const (
	Author        Role = "author"
	Reviewer      Role = "reviewer"
	Publisher     Role = "publisher"
	Agent         Role = "agent"
	Analyst       Role = "analyst"
	Administrator Role = "administrator"
)

// All lists the roles in the order in which they are shown.
var All = []Role{Author, Reviewer, Publisher, Agent, Analyst, Administrator}

// Valid reports whether r is one of the roles.
func (r Role) Valid() bool { return slices.Contains(All, r) }

// Set is the roles of one member of staff.
type Set []Role

// Has reports whether the set contains any of the wanted roles. An
// administrator sets things up; it does not stand in for the other roles.
func (s Set) Has(wanted ...Role) bool {
	return slices.ContainsFunc(wanted, func(r Role) bool { return slices.Contains(s, r) })
}
