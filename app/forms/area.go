// Package forms holds the request forms of help centres: the kinds of request, and what each asks for.
// It promises that a kind which was used keeps its name, and that its fields can be answered.
// It may not take a request.
package forms

import (
	"hermeneus/app/instance"
	"hermeneus/app/trail"
)

// Forms holds request forms.
type Forms struct {
	base  *instance.Instance
	trail *trail.Trail
}

// New gives the area what it needs.
func New(base *instance.Instance, trail *trail.Trail) *Forms { return &Forms{base: base, trail: trail} }
