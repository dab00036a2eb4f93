// Package requests takes questions that a person answers later: the form, its kinds, and following a request.
// It promises that a request is kept once, with its files, and read by its customer alone.
// It may not answer.
package requests

import (
	"hermeneus/app/conversations"
	"hermeneus/app/evidence"
	"hermeneus/app/helpcentre"
	"hermeneus/app/instance"
	"hermeneus/app/notify"
	"hermeneus/app/search"
	"hermeneus/app/trail"
)

// Requests takes requests.
type Requests struct {
	base          *instance.Instance
	trail         *trail.Trail
	notify        *notify.Notify
	recorder      *evidence.Recorder
	search        *search.Search
	helpCentre    *helpcentre.HelpCentre
	conversations *conversations.Conversations
}

// New gives the area what it needs.
func New(
	base *instance.Instance,
	trail *trail.Trail,
	notify *notify.Notify,
	recorder *evidence.Recorder,
	search *search.Search,
	helpCentre *helpcentre.HelpCentre,
	conversations *conversations.Conversations,
) *Requests {
	return &Requests{
		base:          base,
		trail:         trail,
		notify:        notify,
		recorder:      recorder,
		search:        search,
		helpCentre:    helpCentre,
		conversations: conversations,
	}
}
