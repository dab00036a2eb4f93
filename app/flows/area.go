// Package flows keeps the bot's scripts: their texts as they are written, their versions, and where they meet customers.
// It promises that only a script without errors goes live, that nothing typed is lost, and that a running conversation
// keeps its version.
// It may not hold a conversation.
package flows

import (
	"sync"
	"time"

	"hermeneus/app/hours"
	"hermeneus/app/instance"
	"hermeneus/app/notify"
	"hermeneus/app/search"
	"hermeneus/app/sites"
	"hermeneus/app/texts"
	"hermeneus/app/trail"
)

// Flows keeps flows.
type Flows struct {
	base   *instance.Instance
	trail  *trail.Trail
	notify *notify.Notify
	texts  *texts.Texts
	sites  *sites.Sites
	hours  *hours.Hours
	search *search.Search

	mu       sync.Mutex
	versions map[int64]*Version // read lately, ready to run
}

// New gives the area what it needs, and registers what it does by itself.
func New(
	base *instance.Instance,
	trail *trail.Trail,
	notify *notify.Notify,
	texts *texts.Texts,
	sites *sites.Sites,
	hours *hours.Hours,
	search *search.Search,
) *Flows {
	a := &Flows{
		base: base, trail: trail, notify: notify, texts: texts, sites: sites, hours: hours, search: search,
		versions: map[int64]*Version{},
	}
	base.Every(time.Minute, "flows that are live checked again", a.CheckLive)
	base.Every(time.Hour, "moves counted by day", a.CountMoves)
	base.Every(time.Hour, "old moves ended", a.EndMoves)
	return a
}
