package flow

import (
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"

	"hermeneus/core/outcome"
)

// What the bot asks after showing articles.
const (
	Yes = "Yes, that helped"
	No  = "No, not yet"
)

// FoundText is what the bot says of what it looked up.
const FoundText = "This is what I found."

// Errors of Step. The state is unchanged when one is returned.
var (
	ErrNotNow     = errors.New("the conversation does not wait for that")
	ErrNoSuch     = errors.New("that is none of the choices")
	ErrWithPeople = errors.New("the conversation is with people now")
	ErrClosed     = errors.New("the conversation is closed")
	ErrNoTurn     = errors.New("the script names a turn that is not there")
	ErrEndless    = errors.New("the script goes in a circle")
)

// maxMoves bounds how many turns one step may pass through.
const maxMoves = MaxTurns

// Result is what a step leads to.
type Result struct {
	State    State
	Messages []Message
	Needs    []Need
}

// Step moves a conversation on by one input. It is a pure function: it changes
// neither the state it is given nor anything outside. The shell performs the
// needs in order and, after a NeedSearch, steps again with Found.
func Step(script Script, state State, input Input, world World) (Result, error) {
	m := &machine{script: script, world: world}
	m.state = state
	m.state.Facts = maps.Clone(state.Facts)
	m.state.Path = slices.Clone(state.Path)
	m.state.Shown = slices.Clone(state.Shown)
	if err := m.take(input); err != nil {
		return Result{State: state}, err
	}
	return Result{m.state, m.messages, m.needs}, nil
}

type machine struct {
	script   Script
	world    World
	state    State
	messages []Message
	needs    []Need
	pending  string // words that the next look-up turn takes without asking
}

func (m *machine) take(in Input) error {
	if in.Kind == Begin {
		if m.state.Turn != "" {
			return ErrNotNow
		}
		return m.goTo(m.script.Start)
	}
	if in.Kind == Open {
		return m.open(in.Revision)
	}
	switch m.state.Waiting {
	case ForPerson:
		return ErrWithPeople
	case ForNothing:
		return ErrClosed
	}
	switch in.Kind {
	case Words:
		return m.words(strings.TrimSpace(in.Text))
	case Choice:
		return m.choice(in.Text)
	case Verdict:
		return m.verdict(in.Helped)
	case WantPerson:
		return m.wantPerson("")
	case Found:
		return m.found(in.Cards)
	}
	return ErrNotNow
}

func (m *machine) current() (Turn, error) {
	t, ok := m.script.Turn(m.state.Turn)
	if !ok {
		return t, fmt.Errorf("%w: %q", ErrNoTurn, m.state.Turn)
	}
	return t, nil
}

// goTo enters a turn and passes on until the conversation waits for something.
func (m *machine) goTo(id string) error {
	for range maxMoves {
		t, ok := m.script.Turn(id)
		if !ok {
			return fmt.Errorf("%w: %q", ErrNoTurn, id)
		}
		m.state.Turn, m.state.Offer = t.ID, nil
		m.state.Path = append(m.state.Path, Move{Turn: t.ID})
		if id = m.enter(t); id == "" {
			return nil
		}
	}
	return ErrEndless
}

// enter does what a turn does on arrival, and gives the turn to pass on to, or
// "" when the conversation now waits.
func (m *machine) enter(t Turn) string {
	switch t.Kind {
	case Say:
		m.say(Message{Text: t.Text})
		return t.Next
	case Choose:
		m.offerChoices(t)
	case Suggest:
		var cards []Card
		for _, ref := range t.Articles {
			if card, ok := m.world.Articles[ref]; ok {
				cards = append(cards, card)
			}
		}
		if len(cards) == 0 {
			return t.Nothing
		}
		m.show(t.Text, cards)
	case LookUp:
		if m.pending == "" {
			m.say(Message{Text: t.Text})
			m.state.Waiting = ForWords
		} else {
			m.search(t)
		}
	case HandOver:
		if !m.world.Staffed[t.Team] {
			return t.Nobody
		}
		m.say(Message{Text: t.Text})
		m.need(Need{Kind: NeedHandOver, Team: t.Team})
		m.state.Waiting = ForPerson
	case Request:
		m.say(Message{Text: t.Text})
		m.state.Waiting = ForDetails
	case Close:
		m.say(Message{Text: t.Text})
		m.need(Need{Kind: NeedClose})
		m.state.Waiting = ForNothing
	}
	return ""
}

func (m *machine) say(message Message) {
	m.messages = append(m.messages, message)
	m.state.Heard = message.Text
}

func (m *machine) need(n Need) { m.needs = append(m.needs, n) }

// tapped records that an option of the present turn was taken, by its label.
func (m *machine) tapped(kind outcome.Kind, label, ref string) {
	m.record(kind, label, ref)
	m.needs[len(m.needs)-1].Evidence.Stood = &outcome.Stood{Chosen: true}
}

func (m *machine) record(kind outcome.Kind, text, ref string, refs ...string) {
	m.need(
		Need{
			Kind:     NeedRecord,
			Evidence: outcome.Evidence{Kind: kind, Text: text, Ref: ref, Refs: refs, Source: source(kind)},
		},
	)
}

func source(kind outcome.Kind) outcome.Source {
	if kind == outcome.Offered {
		return outcome.FromBot
	}
	return ""
}

// said notes what the customer said at the present turn of the path; a second
// thing said at the same turn is a step of its own.
func (m *machine) said(text string) {
	n := len(m.state.Path)
	if n == 0 || m.state.Path[n-1].Said != "" {
		m.state.Path = append(m.state.Path, Move{Turn: m.state.Turn})
		n++
	}
	m.state.Path[n-1].Said, m.state.Path[n-1].Heard = text, m.state.Heard
}

func (m *machine) offerChoices(t Turn) {
	labels := make([]string, len(t.Options))
	for i, o := range t.Options {
		labels[i] = o.Label
	}
	m.say(Message{Text: t.Text, Choices: labels})
	m.state.Waiting = ForChoice
}

// show offers articles and asks whether they helped.
func (m *machine) show(text string, cards []Card) {
	m.say(Message{Text: text, Cards: cards, Choices: []string{Yes, No}})
	var refs []string
	for _, c := range cards {
		refs = append(refs, c.Revision)
		if !slices.ContainsFunc(m.state.Shown, func(s Shown) bool { return s.Card.Revision == c.Revision }) {
			m.state.Shown = append(m.state.Shown, Shown{Card: c})
		}
	}
	m.state.Offer, m.state.Waiting = refs, ForVerdict
	m.record(outcome.Offered, "", "turn:"+m.state.Turn, refs...)
}

func (m *machine) search(t Turn) {
	limit := t.Limit
	if limit == 0 {
		limit = 3
	}
	m.state.Words, m.state.Waiting = m.pending, ForFound
	m.need(Need{Kind: NeedSearch, Text: m.pending, Limit: limit})
	m.pending = ""
}

func (m *machine) found(cards []Card) error {
	if m.state.Waiting != ForFound {
		return ErrNotNow
	}
	t, err := m.current()
	if err != nil {
		return err
	}
	if len(cards) == 0 {
		return m.goTo(t.Nothing)
	}
	m.show(FoundText, cards)
	return nil
}
