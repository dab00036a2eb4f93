// Package evidence records what visitors do: the facts from which every figure is computed.
// It promises that what happened is kept before it is acknowledged, redacted, and never changed.
// It may not fold or count; staff, previews and crawlers leave nothing here.
package evidence

import (
	"hermeneus/app/instance"
)

// Recorder records evidence.
type Recorder struct {
	base *instance.Instance

	writer *batchWriter
}

// New gives the area what it needs.
func New(base *instance.Instance) *Recorder {
	return &Recorder{base: base, writer: &batchWriter{db: base.Steady, now: base.Now}}
}
