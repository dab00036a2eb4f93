// Package trail keeps who did what, line by line, in the transaction of doing it.
// It promises that a line is never changed or taken away, and shows each reader what they may see.
// It may not decide anything, nor be asked by whoever decides.
package trail

import (
	"hermeneus/app/instance"
)

// Trail keeps who did what.
type Trail struct {
	base *instance.Instance
}

// New gives the area what it needs.
func New(base *instance.Instance) *Trail {
	return &Trail{base: base}
}
