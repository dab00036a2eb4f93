// Package staff is who works here: people, their roles, and what a role lets somebody do.
// It promises that every permission is asked in one way (Staff.May) and of the roles somebody has now.
// It may not change anybody, nor know of articles, customers or sessions.
package staff

import (
	"hermeneus/app/instance"
)

// Directory knows everybody on the staff.
type Directory struct {
	base *instance.Instance
}

// New gives the area what it needs.
func New(base *instance.Instance) *Directory {
	return &Directory{base: base}
}
