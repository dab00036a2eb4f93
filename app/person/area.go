// Package person is what is kept of one person: shown to them, and forgotten when they ask for it.
// It promises that only who signed in, or opened what was mailed to the address, sees or deletes anything; and that
// figures stay as they are when somebody is forgotten.
// It may not take an address that was merely typed for a proof of anything.
package person

import (
	"time"

	"hermeneus/app/accounts"
	"hermeneus/app/conversations"
	"hermeneus/app/evidence"
	"hermeneus/app/instance"
	"hermeneus/app/notify"
	"hermeneus/app/outcomes"
)

// Persons shows people what is kept of them, and forgets them.
type Persons struct {
	base          *instance.Instance
	notify        *notify.Notify
	recorder      *evidence.Recorder
	accounts      *accounts.Accounts
	outcomes      *outcomes.Outcomes
	conversations *conversations.Conversations
}

// New gives the area what it needs.
func New(
	base *instance.Instance,
	notify *notify.Notify,
	recorder *evidence.Recorder,
	accounts *accounts.Accounts,
	outcomes *outcomes.Outcomes,
	conversations *conversations.Conversations,
) *Persons {
	a := &Persons{
		base:          base,
		notify:        notify,
		recorder:      recorder,
		accounts:      accounts,
		outcomes:      outcomes,
		conversations: conversations,
	}
	base.Every(time.Hour, "ending links to what is kept of people", a.EndLinks)
	return a
}
