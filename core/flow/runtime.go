package flow

import (
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"

	"hermeneus/core/form"
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

func (m *machine) words(text string) error {
	if text == "" {
		return ErrNotNow
	}
	t, err := m.current()
	if err != nil {
		return err
	}
	switch m.state.Waiting {
	case ForDetails:
		return m.details(text)
	case ForAddress:
		return m.address(t, text)
	case ForFound:
		return ErrNotNow
	}
	if option, ok := m.option(t, text); ok && m.state.Waiting == ForChoice {
		return m.choice(option.Label)
	}
	if m.state.Waiting == ForVerdict {
		switch plain(text) {
		case "yes", plain(Yes):
			return m.verdict(true)
		case "no", plain(No):
			return m.verdict(false)
		}
	}
	if m.script.Person != "" &&
		slices.ContainsFunc(m.script.PersonWords, func(w string) bool { return says(text, w) }) {
		return m.wantPerson(text)
	}
	m.said(text)
	m.record(outcome.Asked, text, "turn:"+t.ID)
	m.pending = text
	switch {
	case t.Kind == LookUp:
		m.state.Offer = nil
		m.search(t)
		return nil
	case m.script.FreeText != "":
		return m.goTo(m.script.FreeText)
	case t.Kind == Choose:
		m.offerChoices(t)
		return nil
	}
	m.say(Message{Text: "Did that help?", Choices: []string{Yes, No}})
	return nil
}

func (m *machine) option(t Turn, label string) (Option, bool) {
	for _, o := range t.Options {
		if plain(o.Label) == plain(label) {
			return o, true
		}
	}
	return Option{}, false
}

func (m *machine) choice(label string) error {
	if m.state.Waiting == ForVerdict && (label == Yes || label == No) {
		return m.verdict(label == Yes)
	}
	if m.state.Waiting != ForChoice {
		return ErrNotNow
	}
	t, err := m.current()
	if err != nil {
		return err
	}
	o, ok := m.option(t, label)
	if !ok {
		return fmt.Errorf("%w: %q", ErrNoSuch, label)
	}
	m.said(o.Label)
	if to, _ := m.script.Turn(o.Next); to.Kind == HandOver || o.Next == m.script.Person {
		m.record(outcome.WantedPerson, o.Label, "turn:"+t.ID)
	} else {
		m.record(outcome.Asked, o.Label, "turn:"+t.ID)
	}
	return m.goTo(o.Next)
}

// verdict is about the article when it is clear which one was meant, else about
// the turn.
func (m *machine) verdict(helped bool) error {
	if m.state.Waiting != ForVerdict {
		return ErrNotNow
	}
	t, err := m.current()
	if err != nil {
		return err
	}
	kind, said, to := outcome.NotHelped, No, t.NotHelped
	if helped {
		kind, said, to = outcome.Helped, Yes, t.Helped
	}
	var opened []string
	for _, s := range m.state.Shown {
		if s.Opened && slices.Contains(m.state.Offer, s.Card.Revision) {
			opened = append(opened, s.Card.Revision)
		}
	}
	about := m.state.Offer
	if len(opened) > 0 {
		about = opened
	}
	ref := "turn:" + t.ID
	if len(about) == 1 {
		ref = about[0]
	}
	for i, s := range m.state.Shown {
		if slices.Contains(about, s.Card.Revision) {
			m.state.Shown[i].Verdict = string(kind)
		}
	}
	m.said(said)
	m.record(kind, "", ref)
	return m.goTo(to)
}

func (m *machine) wantPerson(text string) error {
	if m.script.Person == "" {
		return ErrNotNow
	}
	m.said(text)
	m.record(outcome.WantedPerson, text, "turn:"+m.state.Turn)
	return m.goTo(m.script.Person)
}

func (m *machine) open(revision string) error {
	for i, s := range m.state.Shown {
		if s.Card.Revision == revision {
			m.state.Shown[i].Opened = true
			m.record(outcome.Opened, "", revision)
			return nil
		}
	}
	return ErrNoSuch
}

// detailsFact keeps the text of a request while its address is asked for.
const detailsFact = "request"

func (m *machine) details(text string) error {
	if m.state.Facts == nil {
		m.state.Facts = map[string]string{}
	}
	m.said(text)
	m.state.Facts[detailsFact] = text
	m.record(outcome.Asked, text, "turn:"+m.state.Turn)
	if m.world.Address == "" {
		m.say(
			Message{
				Text: "The answer comes here, on this page. By which mail address do we know you? Type it, or “skip”.",
			},
		)
		m.state.Waiting = ForAddress
		return nil
	}
	return m.file(m.world.Address)
}

func (m *machine) address(t Turn, text string) error {
	if plain(text) == "skip" {
		return m.file("")
	}
	address, fault := form.Address(text)
	if fault != "" {
		m.say(
			Message{
				Text: "That does not read like a mail address. Type it again, such as name@post.example, or “skip”.",
			},
		)
		return nil
	}
	return m.file(address)
}

func (m *machine) file(address string) error {
	t, err := m.current()
	if err != nil {
		return err
	}
	m.need(Need{Kind: NeedRequest, Team: t.Team, Text: m.state.Facts[detailsFact], Address: address})
	return m.goTo(t.Next)
}
