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
	"hermeneus/app/review"
	"hermeneus/app/search"
	"hermeneus/app/sites"
	"hermeneus/app/texts"
	"hermeneus/app/trail"
	"hermeneus/store"
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

	Drafts     *Drafts
	Reviews    *Reviews
	Rehearsals *Rehearsals

	live     instance.Kept[liveFlows] // so that no turn of the bot asks for them again
	mu       sync.Mutex
	versions map[int64]*Version // read lately, ready to run
}

// Drafts are the texts of flows as they are being written.
type Drafts struct {
	base    *instance.Instance
	trail   *trail.Trail
	notify  *notify.Notify
	texts   *texts.Texts
	reviews *Reviews
}

// Reviews are the ways of flows through their review paths.
type Reviews struct {
	base   *instance.Instance
	trail  *trail.Trail
	texts  *texts.Texts
	rounds *review.Rounds
	flows  *Flows
}

// Rehearsals are conversations that nobody had: played with scripts as they are written, and kept to be played again.
type Rehearsals struct {
	base  *instance.Instance
	trail *trail.Trail
	flows *Flows
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
	review *review.Review,
) *Flows {
	a := &Flows{
		base: base, trail: trail, notify: notify, texts: texts, sites: sites, hours: hours, search: search,
		versions: map[int64]*Version{},
	}
	a.Reviews = &Reviews{base: base, trail: trail, texts: texts, rounds: review.Rounds, flows: a}
	a.Drafts = &Drafts{base: base, trail: trail, notify: notify, texts: texts, reviews: a.Reviews}
	a.Rehearsals = &Rehearsals{base: base, trail: trail, flows: a}
	review.OnReviews("flow", standing)
	base.OnChange(func(c store.Change) {
		if c.About == store.FlowChanged {
			a.live.Forget()
		}
	})
	base.OnMissed(a.live.Forget)
	base.Every(time.Minute, "flows that are live checked again", a.CheckLive)
	base.Every(time.Hour, "moves counted by day", a.CountMoves)
	base.Every(time.Hour, "old moves ended", a.EndMoves)
	return a
}
