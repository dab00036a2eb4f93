// Package evidence records what visitors do: the facts from which every figure is computed.
// It promises that what happened is kept before it is acknowledged, redacted, and never changed; that words stand
// apart and end; and that keys which are one person are linked.
// It may not fold or count; staff, previews and crawlers leave nothing here.
package evidence

import (
	"time"

	"hermeneus/app/instance"
	"hermeneus/app/trail"
)

// Recorder records evidence.
type Recorder struct {
	base    *instance.Instance
	trail   *trail.Trail
	writer  *batchWriter
	looking *lately // keys of which it is kept that somebody looked
}

// New gives the area what it needs.
func New(base *instance.Instance, trail *trail.Trail) *Recorder {
	a := &Recorder{base: base, trail: trail, looking: newLately(20_000)}
	a.writer = &batchWriter{db: base.Steady, now: base.Now}
	base.Every(time.Hour, "letting words and counts of newcomers go", a.LetGo)
	return a
}
