// Package outcome turns evidence into questions, questions into outcomes, and
// outcomes into rates with their intervals. Everything here is a pure function
// of the evidence, the as-of time and the return window: the live figures, the
// command line and the tests call the same code.
package outcome

import (
	"slices"
	"strings"
	"time"
)

// Kind says what an item of evidence is a fact about.
type Kind string

// The kinds of evidence, in the order in which items of one asker at the same
// instant are taken. What comes after Requested neither makes, begins nor prolongs
// a question.
const (
	Asked         Kind = "asked"
	Offered       Kind = "offered"
	Opened        Kind = "opened"
	Told          Kind = "told" // a complete answer was put before them, without opening anything
	Read          Kind = "read" // an article, or what was told, was really seen
	CameBack      Kind = "came_back"
	Helped        Kind = "helped"
	NotHelped     Kind = "not_helped"
	WantedPerson  Kind = "wanted_person"
	HandedOff     Kind = "handed_off"
	Requested     Kind = "requested"
	AgentAnswered Kind = "agent_answered"
	Linked        Kind = "linked" // this key is that asker
	Seen          Kind = "seen"   // a person looked: a second page, or the page's script reported
	Began         Kind = "began"
	Rated         Kind = "rated"
	Surveyed      Kind = "surveyed"
)

var kindOrder = []Kind{
	Asked,
	Offered,
	Opened,
	Told,
	Read,
	CameBack,
	Helped,
	NotHelped,
	WantedPerson,
	HandedOff,
	Requested,
	AgentAnswered,
	Linked,
	Seen,
	Began,
	Rated,
	Surveyed,
}

// rank is the place of a kind in the order of kinds.
func (k Kind) rank() int8 {
	for i, kind := range kindOrder {
		if len(kind) == len(k) && kind == k {
			return int8(i)
		}
	}
	return -1
}

// requestedRank is the last of the kinds that belong to questions of their own.
var requestedRank = Requested.rank()

// Valid reports whether k is one of the kinds above.
func (k Kind) Valid() bool { return slices.Contains(kindOrder, k) }

// reachesPerson reports whether an item of this kind is a contact with a person.
func (k Kind) reachesPerson() bool { return k == HandedOff || k == Requested }

// verdict reports whether an item of this kind says if something helped.
func (k Kind) verdict() bool { return k == Helped || k == NotHelped }

// showsPerson reports whether an item of this kind shows that its asker is somebody who looks.
func (k Kind) showsPerson() bool {
	switch k {
	case Seen, Read, Helped, NotHelped, CameBack, WantedPerson, HandedOff, Requested:
		return true
	}
	return false
}

// Channel is where an item of evidence happened.
type Channel string

// The channels.
const (
	Help    Channel = "help"
	Chat    Channel = "chat"
	Form    Channel = "form"
	Mail    Channel = "mail"
	Message Channel = "message"
	Phone   Channel = "phone"
)

// Channels lists them, in the order in which figures show them.
var Channels = []Channel{Help, Chat, Form, Mail, Message, Phone}

// Valid reports whether c is one of the channels above.
func (c Channel) Valid() bool {
	return slices.Contains(Channels, c)
}

// Source says what offered an answer.
type Source string

// The sources of an offer.
const (
	FromSearch    Source = "search"
	FromBot       Source = "bot"
	FromForm      Source = "form"
	FromAutoreply Source = "autoreply"
)

// Valid reports whether s is one of the sources above, or empty.
func (s Source) Valid() bool {
	return slices.Contains([]Source{"", FromSearch, FromBot, FromForm, FromAutoreply}, s)
}

// VisitorKey begins the keys of browsers; whoever has any other key is known by an address or an account.
const VisitorKey = "visitor:"

// ForgottenKey begins the keys under which the items of somebody stay who was forgotten: they lead nowhere.
const ForgottenKey = "forgotten:"

// Evidence is one append-only fact about what an asker did or was shown.
type Evidence struct {
	At          time.Time `json:"at"`
	Asker       string    `json:"asker"` // the key it happened under
	Channel     Channel   `json:"channel"`
	Kind        Kind      `json:"kind"`
	Text        string    `json:"text"`    // the words, redacted
	Ref         string    `json:"ref"`     // what it refers to: "A-0007@3", a turn, a contact
	Refs        []string  `json:"refs"`    // offered: article revisions in the order shown; told: its sources
	To          string    `json:"to"`      // linked: the asker that this key is
	Contact     string    `json:"contact"` // the reference of the contact or thread it belongs to
	Source      Source    `json:"source"`
	Unlikely    bool      `json:"unlikely"`     // of too many new askers from one network
	NotFollowed bool      `json:"not_followed"` // of somebody who declined to be followed from page to page
	Line        int       `json:"line"`         // its number in the input, from 1, or its row number in a database
	*Stood                // where it stood; nil where nothing is known of that
}

// Stood is where an item stood when it happened, so that figures can be split by it although
// articles move and flows change.
type Stood struct {
	Site         string   `json:"site,omitempty"`
	Language     string   `json:"language,omitempty"`
	Groups       []string `json:"groups,omitempty"` // of the customer
	Page         string   `json:"page,omitempty"`   // the address that the embed stood on
	Conversation string   `json:"conversation,omitempty"`
	Flow         string   `json:"flow,omitempty"` // name@version
	Turn         string   `json:"turn,omitempty"`
	Intent       string   `json:"intent,omitempty"`
	Score        *float64 `json:"score,omitempty"`    // of the intent, 0 to 1; of a rating, 1 to 5
	Category     string   `json:"category,omitempty"` // of what it refers to
	Team         string   `json:"team,omitempty"`
	Reason       string   `json:"reason,omitempty"`
	Arm          string   `json:"arm,omitempty"`    // of an experiment
	Chosen       bool     `json:"chosen,omitempty"` // an option was tapped
}

// Tapped reports whether an option was tapped: its words are not the asker's own.
func (e *Evidence) Tapped() bool { return e.Stood != nil && e.Chosen }

// makesQuestion reports whether the item makes a question rather than a browsing visit.
func (e *Evidence) makesQuestion() bool {
	switch e.Kind {
	case Asked, WantedPerson, HandedOff, Requested:
		return true
	case Offered:
		return e.Source == FromForm
	}
	return false
}

// Trace reports whether the item is a trace of self-service: somebody looked for an answer, or was shown one.
func (e *Evidence) Trace() bool {
	switch e.Kind {
	case Asked, Offered:
		return e.Channel == Help || e.Channel == Chat
	case Opened, Told, Read, CameBack, Helped, NotHelped:
		return true
	}
	return false
}

// OfAgent reports whether the item is an agent's answer.
func (e *Evidence) OfAgent() bool { return e.Kind == AgentAnswered }

// Reaches reports whether the item is a contact with a person.
func (e *Evidence) Reaches() bool { return e.Kind.reachesPerson() }

// AnswersContact is the reference of the contact that an agent's answer belongs to.
func (e *Evidence) AnswersContact() string { return e.contactOf() }

// shows lists what the item puts before its asker: articles without their revision, turns, results.
func (e *Evidence) shows(yield func(string)) {
	switch e.Kind {
	case Offered, Opened, Told, Read:
		if e.Ref != "" {
			yield(WithoutRevision(e.Ref))
		}
		for _, ref := range e.Refs {
			yield(WithoutRevision(ref))
		}
	}
}

// showed reports whether the item puts a thing before its asker.
func (e *Evidence) showed(thing string) bool {
	switch e.Kind {
	case Offered, Opened, Told, Read:
		same := func(ref string) bool { return WithoutRevision(ref) == thing }
		return same(e.Ref) || slices.ContainsFunc(e.Refs, same)
	}
	return false
}

// WithoutRevision is a reference such as A-0007 for A-0007@3.
func WithoutRevision(ref string) string {
	bare, _, _ := strings.Cut(ref, "@")
	return bare
}
