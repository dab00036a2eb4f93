// Package keeping is for how long things are kept that nobody needs for ever.
// It promises one setting that every area which lets go of something reads.
// It may not delete anything itself: each area ends what it keeps.
package keeping

import (
	"hermeneus/app/instance"
	"hermeneus/app/trail"
)

// Keeping changes for how long things are kept.
type Keeping struct {
	base  *instance.Instance
	trail *trail.Trail
}

// New gives the area what it needs.
func New(base *instance.Instance, trail *trail.Trail) *Keeping {
	return &Keeping{base: base, trail: trail}
}
