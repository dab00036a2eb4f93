package flow

import (
	"slices"
	"strings"

	"hermeneus/core/form"
	"hermeneus/core/outcome"
)

// handOver passes the conversation to a team, if it can take it: what the bot promises is what is so.
func (m *machine) handOver(n *node) (next *node, why string, waits bool) {
	t := n.turn
	switch m.world.Teams[t.Team].now() {
	case Free:
		m.passOn(t, m.text(t.Text))
		return nil, "", true
	case Busy:
		lead, to := n.way(OnBusy)
		if text := m.standing(lead, m.world.Busy); text != "" && lead.leads() {
			m.say(Message{Text: text})
		}
		if lead.leads() {
			m.state.Result = OnBusy
			return to, OnBusy, false
		}
		m.passOn(t, m.standing(lead, m.world.Busy, m.own().Busy))
		return nil, "", true
	}
	lead, to := n.way(OnClosed)
	if lead.leads() {
		if len(lead.Text) > 0 {
			m.say(Message{Text: m.text(lead.Text)})
		}
		m.state.Result = OnClosed
		return to, OnClosed, false
	}
	if m.detailsFirst(t) {
		return nil, "", true
	}
	m.say(Message{Text: m.standing(lead, m.world.Closed, m.own().Closed)})
	m.state.Waiting = ForDetails
	return nil, "", true
}

// passOn puts the conversation before a team with some words, once it has the details that are asked for first.
func (m *recording) passOn(t *Turn, words string) {
	if m.detailsFirst(t) {
		return
	}
	m.say(Message{Text: words})
	m.need(Need{Kind: NeedHandOver, Team: t.Team, Brief: m.fill(t.Brief)})
	m.state.Waiting = ForPerson
}

// leads reports whether something hangs beneath a lead.
func (l *Lead) leads() bool { return l != nil && len(l.Then) > 0 }

// standing gives what is said while nobody is free: the turn's own words, else the site's, else the bot's. It
// is the one place that knows the order.
func (m *telling) standing(lead *Lead, others ...string) string {
	if lead != nil {
		if text := m.text(lead.Text); text != "" {
			return text
		}
		if lead.leads() {
			return "" // what hangs beneath speaks for itself
		}
	}
	for _, text := range others {
		if text != "" {
			return m.fill(text)
		}
	}
	return ""
}

// detailsFirst asks for what a turn needs and nobody knows.
func (m *recording) detailsFirst(t *Turn) bool {
	name := m.missing(t)
	if name != "" {
		m.askDetail(name)
	}
	return name != ""
}

// meanwhile is what the bot does between passing on and the agent's first word, if it stays: it looks things
// up, and asks nothing. That leaves no evidence: the question is with people.
func (m *machine) meanwhile(in Input) error {
	n := m.node()
	if n == nil || !n.turn.Stays {
		return ErrWithPeople
	}
	switch in.Kind {
	case Words:
		if text := strings.TrimSpace(in.Text); text != "" {
			m.need(Need{Kind: NeedSearch, Text: text, Limit: 3})
		}
		return nil
	case Found:
		if len(in.Cards) > 0 {
			m.say(Message{Text: m.own().Found, Cards: in.Cards})
			for _, c := range in.Cards {
				if len(m.state.Shown) < maxShown {
					m.state.Shown = append(m.state.Shown, Shown{Card: c})
				}
			}
		}
		return nil
	}
	return ErrWithPeople
}

// Stays reports whether the bot looks things up for somebody who waits for a person.
func Stays(p *Program, state State, w World) bool {
	m := &telling{program: p, state: state, world: w}
	if state.Waiting != ForPerson {
		return false
	}
	n := m.node()
	return n != nil && n.turn.Stays
}

// request asks what a person shall answer.
func (m *recording) request(n *node) {
	if m.detailsFirst(n.turn) || m.askField(n.turn) {
		return
	}
	m.say(Message{Text: m.text(n.turn.Text)})
	m.state.Waiting = ForDetails
}

// asksForPerson reports whether words ask for a person.
func (m *telling) asksForPerson(text string) bool {
	return m.whenever(WheneverPerson) != nil &&
		slices.ContainsFunc(m.personWords(), func(w string) bool { return says(text, w) })
}

// isPersonWord reports whether the text is nothing but such words.
func (m *telling) isPersonWord(text string) bool {
	return slices.ContainsFunc(m.personWords(), func(w string) bool { return plain(text) == plain(w) })
}

func (m *telling) personWords() []string {
	if h := m.holding(WheneverPerson).script.handler(WheneverPerson); h != nil {
		return h.Words
	}
	return nil
}

// holding gives the script whose handler of an occasion holds: that of the flow that the conversation is in, if it
// has one, else that of the flow in which it began.
func (m *telling) holding(on string) *Program {
	if p := m.running(); p != nil && p.whenever[on] != nil {
		return p
	}
	return m.program
}

// whenever gives where the handler of an occasion begins, nil for none.
func (m *telling) whenever(on string) *node { return m.holding(on).whenever[on] }

func (m *machine) wantPerson(text string) error {
	if m.whenever(WheneverPerson) == nil || m.state.Waiting == ForFound {
		return ErrNotNow
	}
	m.said(text)
	m.record(outcome.WantedPerson, text, m.place())
	return m.handle(WheneverPerson)
}

// handle begins a handler, to come back from it to where the conversation stands.
func (m *machine) handle(on string) error {
	n, first, of := m.node(), m.whenever(on), m.holding(on)
	if n != nil && (of != m.running() || n.region != first.region) {
		m.dropHandlers()
		m.leave(false)
	}
	if of != m.running() {
		m.state.Flow = ""
	}
	return m.goOn(first, on)
}

// detailsFact keeps the text of a request while its address is asked for.
const detailsFact = "request"

func (m *machine) details(n *node, text string) error {
	m.said(text)
	m.learn(detailsFact, text)
	m.record(outcome.Asked, text, m.place())
	address, known := m.fact("mail")
	if !known && m.state.Facts[declined+"mail"] == "" {
		m.say(Message{Text: m.own().Address})
		m.state.Waiting = ForAddress
		return nil
	}
	return m.file(n, address)
}

func (m *machine) address(n *node, text string) error {
	if m.skips(text) {
		return m.file(n, "")
	}
	address, fault := form.Address(text)
	if fault != "" {
		m.say(Message{Text: m.own().NoAddress})
		return nil
	}
	return m.file(n, address)
}

func (m *machine) file(n *node, address string) error {
	m.need(Need{
		Kind: NeedRequest, Team: n.turn.Team, Text: m.state.Facts[detailsFact], Address: address,
		Brief: m.fill(n.turn.Brief), Form: n.turn.Form, Answers: m.state.Answers,
	})
	m.state.Answers = nil
	m.state.Result = ResultGiven
	return m.goOn(n.next, ResultGiven)
}
