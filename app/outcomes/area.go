// Package outcomes folds evidence into questions and their outcomes, and gives the figures and the Ledger.
// It promises that every figure opens into the questions it counts.
// It may not record evidence, nor change what is recorded.
package outcomes

import (
	"time"

	"hermeneus/app/instance"
	"hermeneus/app/trail"
)

// Outcomes gives the figures.
type Outcomes struct {
	base  *instance.Instance
	trail *trail.Trail

	ledger *ledger
}

// New gives the area what it needs.
func New(base *instance.Instance, trail *trail.Trail) *Outcomes {
	return &Outcomes{base: base, trail: trail, ledger: &ledger{db: base.DB}}
}

// Now is the time in the zone in which days begin and end.
func (a *Outcomes) Now() time.Time { return a.base.Now().In(a.base.Zone) }
