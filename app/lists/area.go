// Package lists lists articles as staff see them: filtered, sorted, in pages, with how their questions ended.
// It promises that a filter means the same in a list, a change to many and an export.
// It may not change anything; it reads the tables of every area below it.
package lists

import (
	"hermeneus/app/instance"
	"hermeneus/app/outcomes"
)

// Lists lists articles.
type Lists struct {
	base     *instance.Instance
	outcomes *outcomes.Outcomes
}

// New gives the area what it needs.
func New(base *instance.Instance, outcomes *outcomes.Outcomes) *Lists {
	return &Lists{base: base, outcomes: outcomes}
}
