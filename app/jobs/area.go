// Package jobs does long work on many things in the background, as whoever asked for it.
// It promises that a job goes on where an instance left it, and that people see how far theirs is.
// It may not know what a job does: areas register their kinds.
package jobs

import (
	"time"

	"hermeneus/app/instance"
	"hermeneus/app/staff"
)

// Jobs keeps a queue of jobs and does them.
type Jobs struct {
	base  *instance.Instance
	staff *staff.Directory

	works map[string]Work
}

// New gives the area what it needs, and registers what it does by itself.
func New(base *instance.Instance, staff *staff.Directory) *Jobs {
	a := &Jobs{base: base, staff: staff, works: map[string]Work{}}
	base.Every(time.Hour, "end old jobs", a.EndOldJobs)
	return a
}
