package outcome

import (
	"slices"
	"time"
)

// Trace is what an asker did last within the running question, by which a reload or a
// double click is told from doing something again.
type Trace struct {
	Last      *Evidence // nil for nothing
	Asked     string    // the last words, "" for none
	AskedAt   time.Time // when
	AskedRef  string    // the number of that submission, "" for none
	Settled   bool      // a verdict or a contact came after them
	Submitted bool      // the first of the new items was asked by the same number already
}

// Before adds what was done before, the latest first.
func (t *Trace) Before(e Evidence) {
	switch e.Kind {
	case Linked, Seen, Began:
		return
	}
	if t.Last == nil {
		t.Last = &e
	}
	if t.AskedAt.IsZero() {
		t.Settled = t.Settled || e.Kind.verdict() || e.Kind.reachesPerson()
		if e.Kind == Asked {
			t.Asked, t.AskedAt, t.AskedRef = e.Text, e.At, e.Ref
		}
	}
}

// againWithin is how soon the same words by another number are a second press of the same key.
const againWithin = 10 * time.Second

// Dedupe gives those of the items that tell something new, and goes on from them. An item just like the one
// before it is a double click. Asking by the same number, with all that it found, is a reload or coming back to
// the results; without a number, so are the words that were asked last, unless a verdict or a contact came since.
func (t *Trace) Dedupe(items ...Evidence) []Evidence {
	if len(items) > 0 && items[0].Kind == Asked && items[0].Channel == Help && t.askedBefore(&items[0]) {
		return nil
	}
	var fresh []Evidence
	for _, e := range items {
		if t.Last != nil && sameFact(t.Last, &e) {
			continue
		}
		fresh = append(fresh, e)
		t.Last = &e
		switch {
		case e.Kind == Asked:
			t.Asked, t.AskedAt, t.AskedRef, t.Settled = e.Text, e.At, e.Ref, false
		case e.Kind.verdict() || e.Kind.reachesPerson():
			t.Settled = true
		}
	}
	return fresh
}

func (t *Trace) askedBefore(e *Evidence) bool {
	if t.Submitted {
		return true
	}
	if e.Text != t.Asked {
		return false
	}
	return e.Ref == t.AskedRef && (e.Ref != "" || !t.Settled) || e.At.Sub(t.AskedAt) < againWithin
}

func sameFact(a, b *Evidence) bool {
	return a.Kind == b.Kind && a.Channel == b.Channel && a.Text == b.Text && a.Ref == b.Ref && a.To == b.To &&
		a.Contact == b.Contact && slices.Equal(a.Refs, b.Refs)
}
