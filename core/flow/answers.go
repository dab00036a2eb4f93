package flow

import (
	"fmt"
	"slices"

	"hermeneus/core/form"
	"hermeneus/core/outcome"
)

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
		m.tapped(outcome.WantedPerson, o.Label, "turn:"+t.ID)
	} else {
		m.tapped(outcome.Asked, o.Label, "turn:"+t.ID)
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
