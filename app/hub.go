package app

import (
	"sync"

	"hermeneus/store"
)

// hub passes changes on to whoever watches on this instance.
type hub struct {
	mu       sync.Mutex
	watchers map[*watcher]bool
}

type watcher struct {
	wants func(store.Change) bool
	bell  chan struct{}
}

func newHub() *hub { return &hub{watchers: map[*watcher]bool{}} }

// tell rings the watchers that want the change; one that has not come round to
// the last ring is not rung twice.
func (h *hub) tell(c store.Change) {
	h.mu.Lock()
	defer h.mu.Unlock()
	for w := range h.watchers {
		if c.About == "" || w.wants(c) {
			select {
			case w.bell <- struct{}{}:
			default:
			}
		}
	}
}

// watch gives a channel that rings after changes that are wanted, until stop.
func (h *hub) watch(wants func(store.Change) bool) (bell <-chan struct{}, stop func()) {
	w := &watcher{wants, make(chan struct{}, 1)}
	h.mu.Lock()
	h.watchers[w] = true
	h.mu.Unlock()
	return w.bell, func() {
		h.mu.Lock()
		delete(h.watchers, w)
		h.mu.Unlock()
	}
}
