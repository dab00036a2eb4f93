package evidence

import (
	"sync"
	"time"

	"gorm.io/gorm"
)

// batchWriter writes evidence of what nothing else is kept of: a search, an opening. What
// comes while it writes is written together next, so that however many ask at once,
// each waits for one commit, and none for a queue of them.
type batchWriter struct {
	db  *gorm.DB
	now func() time.Time

	mu      sync.Mutex
	waiting []*happening
	writing bool
}

// mostAtOnce bounds how much is written together.
const mostAtOnce = 200

// keep returns once the evidence is committed, or why it is not.
func (k *batchWriter) keep(h *happening) error {
	k.mu.Lock()
	k.waiting = append(k.waiting, h)
	if !k.writing {
		k.writing = true
		go k.write()
	}
	k.mu.Unlock()
	return <-h.done
}

// write writes until nothing waits.
func (k *batchWriter) write() {
	for {
		k.mu.Lock()
		n := min(len(k.waiting), mostAtOnce)
		if n == 0 {
			k.writing = false
			k.mu.Unlock()
			return
		}
		together := k.waiting[:n:n]
		k.waiting = k.waiting[n:]
		k.mu.Unlock()
		k.writeTogether(together)
	}
}

// writeTogether writes all of it, or, when that fails, each by itself: what one asker
// did must not be lost for another's.
func (k *batchWriter) writeTogether(all []*happening) {
	err := k.commit(all)
	for _, h := range all {
		if err != nil && len(all) > 1 {
			h.done <- k.commit([]*happening{h})
			continue
		}
		h.done <- err
	}
}

func (k *batchWriter) commit(all []*happening) error {
	return k.db.Transaction(func(tx *gorm.DB) error { return keep(tx, k.now(), all...) })
}
