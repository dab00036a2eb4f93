package flow

import (
	"fmt"
	"slices"
	"strings"

	"hermeneus/core/outcome"
	"hermeneus/core/search"
)

func (m *machine) words(text string) error {
	text = strings.TrimSpace(text)
	if text == "" {
		return ErrNotNow
	}
	n := m.node()
	switch {
	case m.state.Waiting == ForFound:
		return ErrNotNow
	case n == nil:
		return m.free(nil, text)
	}
	switch m.state.Waiting {
	case ForFact:
		return m.answered(n, text)
	case ForDetail:
		return m.detailed(n, text)
	case ForDetails:
		return m.details(n, text)
	case ForField:
		return m.fielded(n, text)
	case ForAddress:
		return m.address(n, text)
	case ForMark:
		if mark, ok := m.mark(text); ok {
			return m.rated(n, mark)
		}
	case ForChoice:
		if m.state.Meant && plain(text) == plain(m.own().None) {
			return m.noneMeant(n)
		}
		if at, ok := m.option(n, text); ok {
			return m.chosen(n, at)
		}
	case ForVerdict:
		if helped, ok := m.yesOrNo(text); ok {
			return m.verdict(helped)
		}
	}
	if m.asksForPerson(text) {
		return m.wantPerson(text)
	}
	if m.state.Waiting == ForChoice {
		if at := m.likely(n, text); len(at) == 1 {
			m.said(text)
			m.record(outcome.Asked, text, m.place())
			return m.goOn(n.ways[at[0]], "typed")
		}
	}
	return m.free(n, text)
}

// free is what happens with words that answer nothing.
func (m *machine) free(n *node, text string) error {
	m.said(text)
	m.record(outcome.Asked, text, m.place())
	m.pending = text
	m.state.Words = text
	if n != nil && n.turn.Kind == LookUp && m.state.Waiting != ForMore {
		m.state.Offer = nil
		m.search(n.turn)
		return nil
	}
	if n != nil && n.turn.Kind == Choose && m.state.Waiting == ForChoice {
		if lead, to := n.way(OnElse); lead != nil {
			return m.goOn(to, OnElse)
		}
	}
	if m.whenever(WheneverWords) != nil {
		return m.handle(WheneverWords)
	}
	m.pending = ""
	switch {
	case n != nil && m.state.Waiting == ForChoice:
		m.offerChoices(n)
	case m.state.Waiting == ForVerdict:
		m.say(Message{Text: m.own().Helped, Choices: []string{m.own().Yes, m.own().No}})
	case m.state.Waiting == ForMark:
		m.say(Message{Text: m.text(n.turn.Text), Choices: m.own().Marks})
	case m.whenever(WheneverPerson) != nil:
		return m.handle(WheneverPerson)
	default:
		m.say(Message{Text: m.own().Stuck})
	}
	return nil
}

func (m *telling) yesOrNo(text string) (helped, ok bool) {
	own, typed := m.own(), plain(text)
	yes, _, _ := strings.Cut(plain(own.Yes), " ")
	no, _, _ := strings.Cut(plain(own.No), " ")
	switch typed {
	case "yes", yes, plain(own.Yes), plain(Yes):
		return true, true
	case "no", no, plain(own.No), plain(No):
		return false, true
	}
	return false, false
}

// offerChoices offers those that the customer may take; with nothing to offer it goes on.
func (m *machine) offerChoices(n *node) (next *node, why string, waits bool) {
	choices := m.options(n.turn)
	if len(choices) == 0 {
		_, to := n.way(OnElse)
		return to, OnNothing, false
	}
	m.say(Message{Text: m.text(n.turn.Text), Choices: choices})
	m.state.Waiting = ForChoice
	return nil, "", true
}

// options lists the choices of a turn that the customer may take, in their language.
func (m *telling) options(t *Turn) []string {
	var list []string
	for i := range t.Leads {
		if m.offers(&t.Leads[i]) {
			list = append(list, m.text(t.Leads[i].Text))
		}
	}
	return list
}

func (m *telling) offers(l *Lead) bool {
	return l.On == OnOption && (len(l.Groups) == 0 ||
		slices.ContainsFunc(l.Groups, func(g string) bool { return slices.Contains(m.world.Groups, g) }))
}

// option finds a choice by its words, in whatever language of the script.
func (m *telling) option(n *node, label string) (at int, ok bool) {
	typed := plain(label)
	for i := range n.turn.Leads {
		l := &n.turn.Leads[i]
		if !m.offers(l) {
			continue
		}
		if plain(m.text(l.Text)) == typed {
			return i, true
		}
		for _, text := range l.Text {
			if plain(text) == typed && typed != "" {
				return i, true
			}
		}
	}
	return 0, false
}

// likely lists the choices that typed words mean: those which hold every telling word that was typed, or of whose
// several telling words every one was. The words are taken apart as the search takes them apart.
func (m *telling) likely(n *node, text string) []int {
	typed := search.Words(m.language(), text)
	if len(typed) == 0 {
		return nil
	}
	var list []int
	for i := range n.turn.Leads {
		l := &n.turn.Leads[i]
		if !m.offers(l) {
			continue
		}
		label := search.Words(m.language(), m.text(l.Text))
		if within(typed, label) || len(label) > 1 && within(label, typed) {
			list = append(list, i)
		}
	}
	return list
}

// near lists the choices that share a telling word with what was typed.
func (m *telling) near(n *node, text string) []string {
	typed := search.Words(m.language(), text)
	var list []string
	for i := range n.turn.Leads {
		l := &n.turn.Leads[i]
		if !m.offers(l) {
			continue
		}
		words := m.text(l.Text)
		if slices.ContainsFunc(
			search.Words(m.language(), words),
			func(w string) bool { return slices.Contains(typed, w) },
		) {
			list = append(list, words)
		}
	}
	return list
}

func within(part, whole []string) bool {
	return !slices.ContainsFunc(part, func(w string) bool { return !slices.Contains(whole, w) })
}

// askWhichWasMeant asks, once, which of the choices was meant, if what was typed at one and found nothing
// has a word of some of them. The conversation stands at the choices again.
func (m *machine) askWhichWasMeant() bool {
	if len(m.state.Back) == 0 || m.state.Asked {
		return false
	}
	at := m.state.Back[len(m.state.Back)-1]
	p := m.program
	if at.Flow != "" {
		p = m.world.Flows[at.Flow]
	}
	if p == nil || at.After {
		return false
	}
	n := p.nodes[at.Turn]
	if n == nil || n.turn.Kind != Choose {
		return false
	}
	look := m.state
	m.state.Flow, m.state.Turn = at.Flow, at.Turn
	choices := m.near(n, m.state.Words)
	if len(choices) == 0 {
		m.state = look
		return false
	}
	m.state.Back = append(slices.Clone(m.state.Back[:len(m.state.Back)-1]), Place{look.Flow, look.Turn, false})
	m.move(at.Turn, "did you mean")
	m.say(Message{Text: m.own().Meant, Choices: append(choices, m.own().None)})
	m.state.Waiting, m.state.Meant, m.state.Asked = ForChoice, true, true
	return true
}

// noneMeant goes on where the look-up that found nothing leads.
func (m *machine) noneMeant(n *node) error {
	m.said(m.own().None)
	m.state.Meant = false
	if len(m.state.Back) == 0 {
		return m.goOn(n, "back")
	}
	at := m.state.Back[len(m.state.Back)-1]
	m.state.Back = append(slices.Clone(m.state.Back[:len(m.state.Back)-1]), Place{m.state.Flow, m.state.Turn, false})
	m.state.Flow, m.state.Turn = at.Flow, at.Turn
	m.state.Result = ResultNothing
	look := m.node()
	if look == nil {
		m.stuck()
		return nil
	}
	_, to := look.way(OnNothing)
	return m.goOn(to, OnNothing)
}

func (m *machine) choice(label string) error {
	n := m.node()
	if n == nil {
		return ErrNotNow
	}
	switch m.state.Waiting {
	case ForVerdict:
		if helped, ok := m.yesOrNo(label); ok {
			return m.verdict(helped)
		}
		return fmt.Errorf("%w: %q", ErrNoSuch, label)
	case ForMark:
		if mark, ok := m.mark(label); ok {
			return m.rated(n, mark)
		}
		return fmt.Errorf("%w: %q", ErrNoSuch, label)
	case ForField:
		return m.fielded(n, label)
	case ForChoice, ForFact:
		if m.state.Meant && plain(label) == plain(m.own().None) {
			return m.noneMeant(n)
		}
		at, ok := m.option(n, label)
		if !ok {
			return fmt.Errorf("%w: %q", ErrNoSuch, label)
		}
		return m.chosen(n, at)
	}
	return ErrNotNow
}

// chosen goes where a choice leads. One that leads straight to a person is a wish for one.
func (m *machine) chosen(n *node, at int) error {
	label, to := m.text(n.turn.Leads[at].Text), n.ways[at]
	m.said(label)
	if m.state.Meant { // the look-up is done with
		m.dropHandlers()
	}
	if n.turn.Kind == Ask {
		m.learn(n.turn.Fact, label)
		m.state.Result = ResultGiven
		return m.goOn(to, OnOption)
	}
	kind := outcome.Asked
	if m.leadsToPerson(to) {
		kind = outcome.WantedPerson
	}
	m.tapped(kind, label, m.place())
	return m.goOn(to, fmt.Sprintf("%s %d", OnOption, at+1))
}

// leadsToPerson reports whether a turn passes on to a person, or jumps to one that does.
func (m *telling) leadsToPerson(n *node) bool {
	person := m.whenever(WheneverPerson)
	for range maxBack {
		if n == nil {
			return false
		}
		if n.turn.Kind == HandOver || n == person {
			return true
		}
		if n.turn.Kind != GoTo || n.turn.Flow != "" || m.running() == nil {
			return false
		}
		n = m.running().nodes[n.turn.To]
		if n != nil && person != nil && person.turn.Kind == GoTo && person.turn.To == n.turn.ID {
			return true
		}
	}
	return false
}

func (m *machine) rated(n *node, mark float64) error {
	m.said(fmt.Sprintf("%.0f", mark))
	m.record(outcome.Rated, "", m.place())
	m.needs[len(m.needs)-1].Evidence.Stood = &outcome.Stood{Score: &mark}
	switch {
	case mark <= 2:
		m.state.Result = ResultLow
	case mark >= 4:
		m.state.Result = ResultHigh
	default:
		m.state.Result = ResultGiven
	}
	return m.goOn(n.next, m.state.Result)
}
