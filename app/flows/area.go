// Package flows keeps the bot's scripts and their versions.
// It promises that only a script without faults goes live, and that a running conversation keeps its version.
// It may not hold a conversation.
package flows

import (
	"hermeneus/app/instance"
	"hermeneus/app/trail"
)

// Flows keeps flows.
type Flows struct {
	base  *instance.Instance
	trail *trail.Trail
}

// New gives the area what it needs.
func New(base *instance.Instance, trail *trail.Trail) *Flows {
	return &Flows{base: base, trail: trail}
}
