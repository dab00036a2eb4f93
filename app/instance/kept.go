package instance

import (
	"sync"
	"time"
)

// keptFor is how long what was read is kept without word of a change.
const keptFor = time.Minute

// Kept is something that was read from the database and is kept until it changes, so that nobody asks for it again.
type Kept[T any] struct {
	mu      sync.Mutex
	kept    *T // nil before the first reading, and after every change
	read    time.Time
	changes int // how many there were: what was read before one is not kept after it
}

// Forget makes the next caller read again.
func (k *Kept[T]) Forget() {
	k.mu.Lock()
	defer k.mu.Unlock()
	k.kept = nil
	k.changes++
}

// Get gives what is kept, read again when it is old. Reading goes by the caller's own line to the database, and with
// nothing locked: who is in a transaction must not wait for a second line that others in theirs hold.
func (k *Kept[T]) Get(now time.Time, read func() (*T, error)) (*T, error) {
	kept, changes := k.lately(now)
	if kept != nil {
		return kept, nil
	}
	kept, err := read()
	if err != nil {
		return nil, err
	}
	k.mu.Lock()
	defer k.mu.Unlock()
	if k.changes == changes { // nothing changed meanwhile
		k.kept, k.read = kept, now
	}
	return kept, nil
}

func (k *Kept[T]) lately(now time.Time) (kept *T, changes int) {
	k.mu.Lock()
	defer k.mu.Unlock()
	if k.kept == nil || now.Sub(k.read) >= keptFor {
		return nil, k.changes
	}
	return k.kept, k.changes
}
