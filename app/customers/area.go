// Package customers keeps customers and the groups of them that something can be for.
// It promises that a group which something is for cannot go away, and that nothing is for a group that is not.
// It may not know what can be for a group: areas after it say what they have.
package customers

import (
	"hermeneus/app/instance"
	"hermeneus/app/trail"
)

// Customers keeps customers and their groups.
type Customers struct {
	base  *instance.Instance
	trail *trail.Trail

	uses []string // SQL that gives audiences
}

// New gives the area what it needs.
func New(base *instance.Instance, trail *trail.Trail) *Customers {
	return &Customers{base: base, trail: trail}
}

// OnUses registers SQL that gives the audience of each thing that can be for a group.
func (a *Customers) OnUses(audiences string) { a.uses = append(a.uses, audiences) }
