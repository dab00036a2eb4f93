// Package outcome turns evidence into questions, questions into outcomes, and
// outcomes into rates with their intervals. Everything here is a pure function
// of the evidence, the as-of time and the return window: the live figures, the
// command line and the tests call the same code.
package outcome

import (
	"cmp"
	"slices"
	"strings"
	"time"
)

// Kind says what an item of evidence is a fact about.
type Kind string

// The kinds of evidence, in the order in which items of one asker at the same
// instant are taken.
const (
	Asked         Kind = "asked"
	Offered       Kind = "offered"
	Opened        Kind = "opened"
	Read          Kind = "read"
	Told          Kind = "told"
	Helped        Kind = "helped"
	NotHelped     Kind = "not_helped"
	WantedPerson  Kind = "wanted_person"
	HandedOff     Kind = "handed_off"
	Requested     Kind = "requested"
	AgentAnswered Kind = "agent_answered"
)

var kindOrder = []Kind{
	Asked,
	Offered,
	Opened,
	Read,
	Told,
	Helped,
	NotHelped,
	WantedPerson,
	HandedOff,
	Requested,
	AgentAnswered,
}

// Valid reports whether k is one of the kinds above.
func (k Kind) Valid() bool { return slices.Contains(kindOrder, k) }

// opensQuestion reports whether an item of this kind makes a question rather
// than a browsing visit.
func (k Kind) opensQuestion() bool {
	switch k {
	case Asked, Offered, Told, WantedPerson, HandedOff, Requested:
		return true
	}
	return false
}

// reachesPerson reports whether an item of this kind is a contact with a person.
func (k Kind) reachesPerson() bool { return k == HandedOff || k == Requested }

// Channel is where an item of evidence happened.
type Channel string

// The channels.
const (
	Help    Channel = "help"
	Chat    Channel = "chat"
	Form    Channel = "form"
	Mail    Channel = "mail"
	Message Channel = "message"
)

// Channels lists them, in the order in which figures show them.
var Channels = []Channel{Help, Chat, Form, Mail, Message}

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

// Evidence is one append-only fact about what an asker did or was shown.
type Evidence struct {
	At      time.Time `json:"at"`
	Asker   string    `json:"asker"`
	Channel Channel   `json:"channel"`
	Kind    Kind      `json:"kind"`
	Text    string    `json:"text"` // the words, redacted
	Ref     string    `json:"ref"`  // what it refers to: "A-0007@3", a turn, a team, a request
	Refs    []string  `json:"refs"` // offered: article revisions in the order shown
	Source  Source    `json:"source"`
	Line    int       `json:"line"` // its number in the input, from 1, or its row number in a database
}

// compare orders the evidence of one asker: by time, then kind, then what it
// refers to, and at last by everything else, so that arrival order never matters.
func compare(a, b Evidence) int {
	return cmp.Or(
		a.At.Compare(b.At),
		cmp.Compare(slices.Index(kindOrder, a.Kind), slices.Index(kindOrder, b.Kind)),
		cmp.Compare(a.Ref, b.Ref),
		slices.Compare(a.Refs, b.Refs),
		cmp.Compare(a.Channel, b.Channel),
		cmp.Compare(a.Source, b.Source),
		strings.Compare(a.Text, b.Text),
		cmp.Compare(a.Line, b.Line),
	)
}

// refersToSame reports whether the two items name a reference in common.
func refersToSame(a, b Evidence) bool {
	in := func(ref string) bool { return ref != "" && (ref == b.Ref || slices.Contains(b.Refs, ref)) }
	return in(a.Ref) || slices.ContainsFunc(a.Refs, in)
}
