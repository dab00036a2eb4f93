// Package hours is when teams and help centres are open, and which agents are here to take a conversation.
// It promises that what the bot says of a team is so: somebody is free only if an agent is here with room for one more.
// It may not hand over a conversation.
package hours

import (
	"hermeneus/app/instance"
	"hermeneus/app/trail"
	"hermeneus/store"
)

// Hours knows when people are there.
type Hours struct {
	base  *instance.Instance
	trail *trail.Trail
	kept  instance.Kept[schedules] // so that no turn of the bot asks for them again
}

// New gives the area what it needs.
func New(base *instance.Instance, trail *trail.Trail) *Hours {
	a := &Hours{base: base, trail: trail}
	base.OnChange(func(c store.Change) {
		if c.About == store.HoursChanged {
			a.kept.Forget()
		}
	})
	base.OnMissed(a.kept.Forget)
	return a
}
