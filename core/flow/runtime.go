package flow

import (
	"errors"
	"fmt"
	"maps"
	"slices"

	"hermeneus/core/outcome"
)

// Errors of Run. The state is unchanged when one is returned.
var (
	ErrNotNow     = errors.New("the conversation does not wait for that")
	ErrNoSuch     = errors.New("that is none of the choices")
	ErrWithPeople = errors.New("the conversation is with people now")
	ErrClosed     = errors.New("the conversation is closed")
)

// The limits of one conversation.
const (
	maxMoves = 400 // turns that one input may pass through
	maxPath  = 200 // steps that are kept of the path
	maxBack  = 8   // places to come back to
	maxShown = 100 // articles that are kept as shown
)

// Result is what an input leads to.
type Result struct {
	State    State
	Messages []Message
	Needs    []Need
	Moves    []Move
}

// Run moves a conversation on by one input. It is a pure function: it changes neither the state that it is
// given nor anything outside. The shell performs the needs in order and, after a NeedSearch, runs it again
// with Found. A conversation never hangs: where a script leads nowhere, it waits for words.
func Run(p *Program, state State, input Input, world World) (Result, error) {
	m := &machine{}
	m.program, m.world = p, world
	m.state = state
	m.state.Facts = maps.Clone(state.Facts)
	m.state.Path = slices.Clip(state.Path)
	m.state.Shown = slices.Clone(state.Shown)
	m.state.Back = slices.Clip(state.Back)
	if err := m.take(input); err != nil {
		return Result{State: state}, err
	}
	return Result{m.state, m.messages, m.needs, m.moves}, nil
}

// telling is a conversation as it can be asked: what is known, what is said in it and by whom.
type telling struct {
	program *Program
	world   World
	state   State
}

// recording is a conversation with what one input has led to.
type recording struct {
	telling
	messages []Message
	needs    []Need
	moves    []Move
}

// machine moves a conversation on.
type machine struct {
	recording
	pending string // words that the next look-up turn takes without asking
}

// running is the program of the flow that the conversation is in.
func (m *telling) running() *Program {
	if m.state.Flow != "" {
		return m.world.Flows[m.state.Flow]
	}
	return m.program
}

// node is the turn at which the conversation stands; nil if the script has none of that name.
func (m *telling) node() *node {
	p := m.running()
	if p == nil {
		return nil
	}
	return p.nodes[m.state.Turn]
}

// language is the one that the bot speaks in this conversation.
func (m *telling) language() string {
	if m.state.Language != "" {
		return m.state.Language
	}
	return m.program.Language(m.world.Language)
}

// own gives the bot's own sentences. Where the script does not speak the customer's language, neither do they.
func (m *telling) own() *Sentences { return In(m.language()) }

// text gives a text in the customer's language, else in the script's, with what is known filled in.
func (m *telling) text(t Texts) string {
	source := m.program.script.Language
	if p := m.running(); p != nil {
		source = p.script.Language
	}
	return m.fill(t.In(m.language(), source))
}

func (m *machine) take(in Input) error {
	if in.Kind == Begin {
		if m.state.Turn != "" || m.state.Waiting != "" {
			return ErrNotNow
		}
		m.state.Language = m.program.Language(m.world.Language)
		if from := m.program.nodes[in.Text]; in.Text != "" && from != nil {
			return m.goOn(from, "begin")
		}
		return m.goOn(m.program.start, "begin")
	}
	if in.Kind == Open {
		return m.open(in.Revision)
	}
	switch m.state.Waiting {
	case ForPerson:
		return m.meanwhile(in)
	case ForNothing:
		return ErrClosed
	}
	switch in.Kind {
	case Words:
		return m.words(in.Text)
	case Choice:
		return m.choice(in.Text)
	case Verdict:
		return m.verdict(in.Helped)
	case WantPerson:
		return m.wantPerson("")
	case Found:
		return m.found(in)
	}
	return ErrNotNow
}

// goOn enters a turn and passes on until the conversation waits for something.
func (m *machine) goOn(n *node, why string) error {
	for range maxMoves {
		if n == nil {
			if n, why = m.comeBack(); n == nil {
				m.ended()
				return nil
			}
		}
		m.move(n.turn.ID, why)
		m.state.Turn, m.state.Offer, m.state.Meant = n.turn.ID, nil, false
		next, reason, waits := m.enter(n)
		if waits {
			return nil
		}
		n, why = next, reason
	}
	m.stuck()
	return nil
}

func (m *recording) move(to, why string) {
	if len(m.moves) < maxMoves {
		m.moves = append(m.moves, Move{Flow: m.state.Flow, From: m.state.Turn, To: to, Why: why})
	}
	if len(m.state.Path) >= maxPath {
		m.state.Path = slices.Clone(m.state.Path[len(m.state.Path)-maxPath/2:])
	}
	p := m.running()
	if p == nil {
		return // a flow that is not there any more
	}
	if n := p.nodes[to]; n != nil && n.turn.Kind != GoTo && n.turn.Kind != Branch {
		m.state.Path = append(m.state.Path, Step{Turn: to})
	}
}

// comeBack gives the turn to go on with after a handler or another flow has ended, nil for none.
func (m *machine) comeBack() (*node, string) {
	for len(m.state.Back) > 0 {
		at := m.state.Back[len(m.state.Back)-1]
		m.state.Back = slices.Clip(m.state.Back[:len(m.state.Back)-1])
		m.state.Flow = at.Flow
		p := m.running()
		if p == nil {
			continue
		}
		n := p.nodes[at.Turn]
		if n != nil && at.After {
			n = n.next
		}
		if n != nil {
			return n, "back"
		}
	}
	return nil, ""
}

// dropHandlers forgets where a handler was begun; where another flow was is still come back to.
func (m *machine) dropHandlers() {
	m.state.Back = slices.DeleteFunc(slices.Clone(m.state.Back), func(at Place) bool { return !at.After })
}

// leave keeps where to come back to.
func (m *machine) leave(after bool) {
	if len(m.state.Back) == maxBack {
		m.state.Back = slices.Clone(m.state.Back[1:])
	}
	m.state.Back = append(m.state.Back, Place{Flow: m.state.Flow, Turn: m.state.Turn, After: after})
}

// ended is what happens where the script has no more turns: anything may be asked.
func (m *machine) ended() {
	m.move("", "end")
	m.say(Message{Text: m.own().More})
	m.state.Waiting, m.state.Offer = ForMore, nil
}

// stuck is what happens where a script goes in a circle, or names what is not there.
func (m *machine) stuck() {
	m.say(Message{Text: m.own().Stuck})
	m.state.Waiting, m.state.Offer, m.state.Back = ForMore, nil, nil
}

// enter does what a turn does on arrival, and gives the turn to pass on to and why, unless the conversation
// now waits.
func (m *machine) enter(n *node) (next *node, why string, waits bool) {
	t := n.turn
	switch t.Kind {
	case Say:
		m.say(Message{Text: m.text(t.Text)})
	case Link:
		m.link(t)
	case Choose:
		return m.offerChoices(n)
	case Ask:
		return n.next, "known", !m.ask(t)
	case Suggest:
		return m.suggest(n)
	case LookUp:
		m.lookUp(n)
		return nil, "", true
	case Branch:
		return m.branch(n)
	case HandOver:
		return m.handOver(n)
	case Request:
		m.request(n)
		return nil, "", true
	case Rate:
		m.say(Message{Text: m.text(t.Text), Choices: m.own().Marks})
		m.state.Waiting = ForMark
		return nil, "", true
	case Close:
		m.say(Message{Text: m.text(t.Text)})
		m.need(Need{Kind: NeedClose})
		m.state.Waiting, m.state.Back = ForNothing, nil
		return nil, "", true
	case GoTo:
		return m.jump(n)
	}
	return n.next, "next", false
}

// jump goes to another turn or another flow. Whoever leaves a handler by a jump does not come back from it.
func (m *machine) jump(n *node) (next *node, why string, waits bool) {
	t := n.turn
	if t.Flow == "" {
		to := m.running().nodes[t.To]
		if to == nil {
			return n.next, "no such turn", false
		}
		if n.region != to.region {
			m.dropHandlers()
		}
		return to, "go to", false
	}
	other := m.world.Flows[t.Flow]
	if other == nil || other.start == nil {
		return n.next, "no such flow", false
	}
	m.dropHandlers()
	if t.Back {
		m.leave(true)
	}
	m.state.Flow = t.Flow
	return other.start, "go to", false
}

func (m *telling) branch(n *node) (next *node, why string, waits bool) {
	for i, lead := range n.turn.Leads {
		switch {
		case lead.On == OnWhen && m.allHold(lead.When):
			return n.ways[i], "when " + writeConditions(lead.When), false
		case lead.On == OnElse:
			return n.ways[i], OnElse, false
		}
	}
	return n.next, "next", false
}

// link points to a page, or to a request form and says how long that takes.
func (m *recording) link(t *Turn) {
	message := Message{Text: m.text(t.Text), Link: &Linked{URL: t.URL}}
	if t.Form != "" {
		f, there := m.world.Forms[t.Form]
		message.Link = nil
		if there {
			message.Link = &Linked{URL: f.URL, Form: t.Form}
			message.Text += "\n" + fmt.Sprintf(m.own().Takes, f.Minutes)
		}
	}
	m.say(message)
}

func (m *recording) say(message Message) {
	if message.Text == "" && len(message.Cards) == 0 && message.Link == nil && len(message.Choices) == 0 {
		return
	}
	message.Turn = m.state.Turn
	if n := len(m.moves); n > 0 {
		message.Why = m.moves[n-1].Why
	}
	m.messages = append(m.messages, message)
	m.state.Heard = message.Text
}

func (m *recording) need(n Need) {
	n.Flow = m.state.Flow
	m.needs = append(m.needs, n)
}

// tapped records that an option of the present turn was taken, by its label.
func (m *recording) tapped(kind outcome.Kind, label, ref string) {
	m.record(kind, label, ref)
	m.needs[len(m.needs)-1].Evidence.Stood = &outcome.Stood{Chosen: true}
}

func (m *recording) record(kind outcome.Kind, text, ref string, refs ...string) {
	source := outcome.Source("")
	if kind == outcome.Offered || kind == outcome.Told {
		source = outcome.FromBot
	}
	m.need(Need{
		Kind:     NeedRecord,
		Evidence: outcome.Evidence{Kind: kind, Text: text, Ref: ref, Refs: refs, Source: source},
	})
}

// said notes what the customer said at the present turn of the path; a second thing said at the same turn is
// a step of its own.
func (m *recording) said(text string) {
	n := len(m.state.Path)
	if n == 0 || m.state.Path[n-1].Said != "" {
		m.state.Path = append(m.state.Path, Step{Turn: m.state.Turn})
	} else {
		m.state.Path = slices.Clone(m.state.Path)
	}
	last := &m.state.Path[len(m.state.Path)-1]
	last.Said, last.Heard = text, m.state.Heard
}

// place is how evidence names the turn at which something happened.
func (m *telling) place() string { return "turn:" + m.state.Turn }
