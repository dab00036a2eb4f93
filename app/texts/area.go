// Package texts keeps what is true of every text that people write: who holds it, who wrote of it, its earlier states.
// It promises that one person writes at a time, and that whoever wrote is known until the text is published.
// It may not know what kind of text it is.
package texts

import (
	"time"

	"hermeneus/app/instance"
)

// Texts keeps who writes and wrote a text.
type Texts struct {
	base *instance.Instance
}

// New gives the area what it needs, and registers what it does by itself.
func New(base *instance.Instance) *Texts {
	a := &Texts{base: base}
	base.Every(time.Hour, "end old holds", a.EndHolds)
	return a
}
