// Package conversations holds what customers and the bot or people say to each other, live or later.
// It promises that a word is kept before it is acknowledged, and that whoever takes over reads all of it.
// It may not show anybody an article that is not for them.
package conversations

import (
	"time"

	"hermeneus/app/evidence"
	"hermeneus/app/exchange"
	"hermeneus/app/flows"
	"hermeneus/app/helpcentre"
	"hermeneus/app/hours"
	"hermeneus/app/instance"
	"hermeneus/app/notify"
	"hermeneus/app/outcomes"
	"hermeneus/app/search"
)

// Conversations holds conversations.
type Conversations struct {
	base       *instance.Instance
	notify     *notify.Notify
	recorder   *evidence.Recorder
	outcomes   *outcomes.Outcomes
	search     *search.Search
	helpCentre *helpcentre.HelpCentre
	exchange   *exchange.Exchange
	hours      *hours.Hours
	flows      *flows.Flows
}

// New gives the area what it needs, and registers what it does by itself.
func New(
	base *instance.Instance,
	notify *notify.Notify,
	recorder *evidence.Recorder,
	outcomes *outcomes.Outcomes,
	search *search.Search,
	helpCentre *helpcentre.HelpCentre,
	exchange *exchange.Exchange,
	hours *hours.Hours,
	flows *flows.Flows,
) *Conversations {
	a := &Conversations{
		base:       base,
		notify:     notify,
		recorder:   recorder,
		outcomes:   outcomes,
		search:     search,
		helpCentre: helpCentre, exchange: exchange, hours: hours, flows: flows,
	}
	base.Every(time.Hour, "unsent files", a.DropUnsent)
	return a
}
