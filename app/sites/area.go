// Package sites keeps the help centres, and what each shows to whom.
// It promises that a change is in force everywhere at once: every instance keeps a copy only as long as it hears.
// It may not change the library.
package sites

import (
	"time"

	"gorm.io/gorm"

	"hermeneus/app/instance"
	"hermeneus/app/trail"
	"hermeneus/core/search"
	"hermeneus/store"
)

// Sites keeps the help centres.
type Sites struct {
	base  *instance.Instance
	trail *trail.Trail

	kept      instance.Kept[AllSettings] // so that a page does not ask for them again
	loadRules func(db *gorm.DB, site store.Site, today time.Time) (*search.Rules, error)
}

// New gives the area what it needs, and registers what it does by itself.
func New(base *instance.Instance, trail *trail.Trail) *Sites {
	a := &Sites{base: base, trail: trail}
	base.OnChange(func(c store.Change) {
		if c.About == store.SiteChanged {
			a.kept.Forget()
		}
	})
	base.OnMissed(a.kept.Forget)
	return a
}
