// Package sites keeps the help centres and the groups of customers, and what each shows to whom.
// It promises that a change is in force everywhere at once: every instance keeps a copy only as long as it hears.
// It may not read articles, except to count how many a help centre shows.
package sites

import (
	"hermeneus/app/instance"
	"hermeneus/app/trail"
	"hermeneus/store"
)

// Sites keeps help centres and groups of customers.
type Sites struct {
	base  *instance.Instance
	trail *trail.Trail

	cache settingsCache
}

// New gives the area what it needs, and registers what it does by itself.
func New(base *instance.Instance, trail *trail.Trail) *Sites {
	a := &Sites{base: base, trail: trail}
	base.OnChange(func(c store.Change) {
		if c.About == store.SiteChanged {
			a.cache.forget()
		}
	})
	base.OnMissed(a.cache.forget)
	return a
}
