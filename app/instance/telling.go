package instance

import (
	"log/slog"
	"sync"
	"time"

	"hermeneus/store"
)

// telling is what other instances are still to be told.
type telling struct {
	mu      sync.Mutex
	waiting []store.Change
	busy    bool
	working sync.WaitGroup
}

// tellEvery is how long what is to be told is gathered: too short for anybody to notice.
const tellEvery = 20 * time.Millisecond

// Tell tells every instance, soon, of a change that is committed. What is announced within a transaction (store.Announce)
// is told for certain, but lets all who commit at once wait for each other, each for the disk; this is for what comes
// hundreds of times a second, and where a word that is lost when an instance is killed is made up for by the next.
func (a *Instance) Tell(about string, id int64) {
	t := &a.telling
	t.mu.Lock()
	defer t.mu.Unlock()
	t.waiting = append(t.waiting, store.Change{About: about, ID: id})
	if !t.busy {
		t.busy = true
		t.working.Go(a.tellAll)
	}
}

// tellAll tells what waits, all of it at once, until nothing does.
func (a *Instance) tellAll() {
	t := &a.telling
	for {
		time.Sleep(tellEvery)
		t.mu.Lock()
		list := t.waiting
		t.waiting = nil
		t.busy = len(list) > 0
		t.mu.Unlock()
		if len(list) == 0 {
			return
		}
		if err := store.AnnounceAll(a.DB, list); err != nil {
			slog.Warn("could not tell other instances", "error", err)
		}
	}
}
