package instance

import (
	"context"
	"sync"

	"gorm.io/gorm"

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

// OnChange registers what follows a change made by this or another instance.
func (a *Instance) OnChange(act func(store.Change)) { a.acts = append(a.acts, act) }

// OnMissed registers what makes up for changes that may have gone by unheard.
func (a *Instance) OnMissed(act func()) { a.makeUp = append(a.makeUp, act) }

// heard acts on a change made by this or another instance.
func (a *Instance) heard(c store.Change) {
	for _, act := range a.acts {
		act(c)
	}
	a.hub.tell(c)
}

// missed makes up for changes that may have gone by unheard.
func (a *Instance) missed() {
	for _, act := range a.makeUp {
		act()
	}
	a.hub.tell(store.Change{})
}

// OnStale registers what follows when changes may begin to go by unheard.
func (a *Instance) OnStale(act func()) { a.stale = append(a.stale, act) }

func (a *Instance) unheard() {
	for _, act := range a.stale {
		act()
	}
}

// Watch gives a channel that rings after changes that are wanted, until stop.
func (a *Instance) Watch(wants func(store.Change) bool) (bell <-chan struct{}, stop func()) {
	return a.hub.watch(wants)
}

// Change runs work in a transaction that changes what instances keep, and tells every instance;
// this one at once.
func (a *Instance) Change(ctx context.Context, about string, work func(tx *gorm.DB) error) error {
	err := a.Transaction(ctx, func(tx *gorm.DB) error {
		if err := work(tx); err != nil {
			return err
		}
		return store.Announce(tx, about, 0)
	})
	for _, act := range a.acts {
		act(store.Change{About: about})
	}
	return err
}
