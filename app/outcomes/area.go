// Package outcomes keeps the fold of the evidence, a row for each question, and gives the figures and the Ledger from it.
// It promises that the rows equal a recomputation, that every figure opens into the questions it counts, and that
// what stands stays until what replaces it is whole.
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
}

// New gives the area what it needs.
func New(base *instance.Instance, trail *trail.Trail) *Outcomes {
	a := &Outcomes{base: base, trail: trail}
	base.Every(12*time.Hour, "parting evidence and questions by month", a.Months)
	base.Queued("folding evidence", a.foldAsItComes)
	return a
}

// Now is the time in the zone in which days begin and end.
func (a *Outcomes) Now() time.Time { return a.base.Now().In(a.base.Zone) }
