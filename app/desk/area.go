// Package desk joins areas into pages: Today, an article with all that stands around it, someone leaving.
// It promises to hold no rule of its own.
// It may not be imported by another area.
package desk

import (
	"time"

	"hermeneus/app/accounts"
	"hermeneus/app/conversations"
	"hermeneus/app/flows"
	"hermeneus/app/helpcentre"
	"hermeneus/app/instance"
	"hermeneus/app/lists"
	"hermeneus/app/notify"
	"hermeneus/app/outcomes"
	"hermeneus/app/review"
	"hermeneus/app/sites"
	"hermeneus/app/texts"
	"hermeneus/app/trail"
)

// Desk joins areas into pages.
type Desk struct {
	base          *instance.Instance
	trail         *trail.Trail
	notify        *notify.Notify
	sites         *sites.Sites
	accounts      *accounts.Accounts
	texts         *texts.Texts
	outcomes      *outcomes.Outcomes
	review        *review.Review
	helpCentre    *helpcentre.HelpCentre
	lists         *lists.Lists
	conversations *conversations.Conversations
	flows         *flows.Flows
}

// New gives the area what it needs.
func New(
	base *instance.Instance,
	trail *trail.Trail,
	notify *notify.Notify,
	sites *sites.Sites,
	accounts *accounts.Accounts,
	texts *texts.Texts,
	outcomes *outcomes.Outcomes,
	review *review.Review,
	helpCentre *helpcentre.HelpCentre,
	lists *lists.Lists,
	conversations *conversations.Conversations,
	flows *flows.Flows,
) *Desk {
	return &Desk{
		base:          base,
		trail:         trail,
		notify:        notify,
		sites:         sites,
		accounts:      accounts,
		texts:         texts,
		outcomes:      outcomes,
		review:        review,
		helpCentre:    helpCentre,
		lists:         lists,
		conversations: conversations,
		flows:         flows,
	}
}

// Now is the time in the zone in which days begin and end.
func (a *Desk) Now() time.Time { return a.base.Now().In(a.base.Zone) }
