package flow

import (
	"slices"

	"hermeneus/core/outcome"
)

// suggest shows the articles of a turn that the customer may see.
func (m *machine) suggest(n *node) (next *node, why string, waits bool) {
	var cards []Card
	for _, ref := range n.turn.Articles {
		if card, ok := m.world.Articles[ref]; ok {
			cards = append(cards, card)
		}
	}
	if len(cards) == 0 {
		m.state.Result = ResultNothing
		_, to := n.way(OnNothing)
		return to, OnNothing, false
	}
	m.show(Message{Text: m.text(n.turn.Text), Cards: cards})
	return nil, "", true
}

// lookUp looks up the words that led here, or asks for some.
func (m *machine) lookUp(n *node) {
	if m.pending != "" {
		m.search(n.turn)
		return
	}
	m.say(Message{Text: m.text(n.turn.Text)})
	m.state.Waiting = ForWords
}

// show offers articles and asks whether they helped.
func (m *recording) show(message Message) {
	message.Choices = []string{m.own().Yes, m.own().No}
	m.say(message)
	m.state.Offer, m.state.Waiting = m.offered(message), ForVerdict
}

// offered notes which articles were offered, and gives their revisions.
func (m *recording) offered(message Message) []string {
	var refs []string
	for _, c := range message.Cards {
		refs = append(refs, c.Revision)
		if !slices.ContainsFunc(m.state.Shown, func(s Shown) bool { return s.Card.Revision == c.Revision }) &&
			len(m.state.Shown) < maxShown {
			m.state.Shown = append(m.state.Shown, Shown{Card: c})
		}
	}
	m.record(outcome.Offered, "", m.place(), refs...)
	return refs
}

// told notes what was told word for word, and how sure that was. It counts once it was seen.
func (m *recording) told(passages []Passage, sure float64) {
	if len(passages) == 0 {
		return
	}
	var refs []string
	for _, p := range passages {
		if !slices.Contains(refs, p.Revision) {
			refs = append(refs, p.Revision)
		}
	}
	m.record(outcome.Told, "", m.place(), refs...)
	m.needs[len(m.needs)-1].Evidence.Stood = &outcome.Stood{Score: &sure}
}

func (m *machine) search(t *Turn) {
	limit := t.Limit
	if limit == 0 {
		limit = 3
	}
	m.state.Words, m.state.Waiting = m.pending, ForFound
	m.need(Need{Kind: NeedSearch, Text: m.pending, Limit: limit})
	m.pending = ""
}

func (m *machine) found(in Input) error {
	if m.state.Waiting != ForFound {
		return ErrNotNow
	}
	n := m.node()
	if n == nil {
		m.stuck()
		return nil
	}
	weak, afterWeak := n.way(OnWeak)
	if len(in.Cards) == 0 || in.Weak && weak == nil { // what fits weakly is nothing, where nothing is said of it
		if m.askWhichWasMeant() {
			return nil
		}
		m.state.Result = ResultNothing
		_, to := n.way(OnNothing)
		return m.goOn(to, OnNothing)
	}
	message := Message{Text: m.own().Found, Cards: in.Cards}
	switch {
	case in.Weak:
		message.Text = m.own().Weak
		if weak.leads() {
			m.say(message)
			m.offered(message)
			return m.goOn(afterWeak, OnWeak)
		}
	case len(in.Told) > 0:
		message.Text, message.Told = m.own().Told, in.Told
	}
	m.show(message)
	m.told(message.Told, in.Sure)
	return nil
}

// verdict is about the article when it is clear which one was meant, else about the turn.
func (m *machine) verdict(helped bool) error {
	if m.state.Waiting != ForVerdict {
		return ErrNotNow
	}
	n := m.node()
	if n == nil {
		m.stuck()
		return nil
	}
	kind, said, on := outcome.NotHelped, m.own().No, OnNo
	if helped {
		kind, said, on = outcome.Helped, m.own().Yes, OnYes
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
	ref := m.place()
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
	m.state.Result = on
	_, to := n.way(on)
	return m.goOn(to, on)
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
