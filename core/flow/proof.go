package flow

import (
	"fmt"
	"slices"
	"strings"
)

// CounterExample is a conversation that does not end well: the world that it is in, and what the customer does.
type CounterExample struct {
	World  ExampleWorld  `json:"world"`
	Inputs []ExampleStep `json:"inputs"`
}

// ExampleWorld is the world of a rehearsal.
type ExampleWorld struct {
	Groups   []string          `json:"groups,omitempty"`
	SignedIn bool              `json:"signed_in,omitempty"`
	Customer string            `json:"customer,omitempty"` // the address of the customer who comes, in the place of one made up
	Language string            `json:"language,omitempty"`
	Channel  string            `json:"channel,omitempty"`
	Page     string            `json:"page,omitempty"`
	Closed   bool              `json:"closed,omitempty"` // the site
	Site     int64             `json:"site,omitempty"`   // 0 for none
	At       string            `json:"at,omitempty"`     // such as 2026-11-26T20:15; nothing is now
	Teams    map[string]string `json:"teams,omitempty"`  // free, busy, away or closed
}

// ExampleStep is one thing that the customer does.
type ExampleStep struct {
	Kind   InputKind `json:"kind"`
	Text   string    `json:"text,omitempty"`
	Helped bool      `json:"helped,omitempty"`
}

// Where an edge can lead that is no turn.
const (
	runsOut = -1 // the script ends, and says nothing of it
	goal    = -2 // a person, a request, a close, or another flow
	back    = -3 // out of a handler, to where the conversation was
)

// edge is a way from one state of the proof to another.
type edge struct {
	to     int32
	asked  bool // the customer does something
	helped bool // and that is to say that it helped
	step   ExampleStep
}

// proof walks the graph of a script's states: a turn, and the values of the facts that conditions ask for.
type proof struct {
	c       *checker
	index   map[*node]int
	values  []map[string]string // of tested facts, with the result of the last turn
	facts   []testedFact
	machine telling
	edges   [][]edge
	reached []bool // by turn, in any world
	said    map[string]bool
	stamp   []int32
	now     int32
	mark    []uint8   // by state: how far circles are looked for
	good    []bool    // by state: an end can be come to, in the present world
	before  [][]int32 // by state: where it is come to from
}

// testedFact is a fact that a condition asks for, with the values that are told apart: unknown, each that is
// named, and any other.
type testedFact struct {
	name   string
	values []string
}

// mostValues bounds the combinations of facts that are told apart.
const mostValues = 64

// otherValue stands for any value that no condition names.
const otherValue = "…"

// resultFact is under which name the result of the last turn is told apart.
const resultFact = "\x00result"

// prove walks through every world, and says where somebody gets no further.
func (c *checker) prove() {
	if len(c.program.order) == 0 || len(c.program.order) > MaxTurns {
		return
	}
	p := &proof{c: c, index: map[*node]int{}, said: map[string]bool{}}
	for i, n := range c.program.order {
		p.index[n] = i
	}
	leftOut := p.tested()
	p.reached = make([]bool, len(c.program.order))
	states := len(c.program.order) * len(p.values)
	p.edges = make([][]edge, states)
	p.stamp = make([]int32, states)
	p.mark = make([]uint8, states)
	p.good = make([]bool, states)
	p.before = make([][]int32, states)
	p.machine = telling{program: c.program}
	leftOut = append(leftOut, eachWorld(c.axes(), c.mentioned().hours, p.world)...)
	if len(leftOut) > 0 {
		c.warn("", "proof", "There are too many cases to try them all. Not tried in every case: %s.",
			strings.Join(leftOut, "; "))
	}
	for i, n := range c.program.order {
		if !p.reached[i] {
			c.warn(n.turn.ID, "", "No conversation ever comes to this turn.")
		}
	}
	p.known()
}

// tested finds the facts that conditions ask for, and all combinations of their values.
func (p *proof) tested() (leftOut []string) {
	found := map[string][]string{}
	var order []string
	p.c.script.Each(func(t *Turn) {
		for _, l := range t.Leads {
			for _, w := range l.When {
				name := w.Of
				switch w.What {
				case IfResult:
					name = resultFact
				case IfFact:
				default:
					continue
				}
				if _, ok := found[name]; !ok {
					order = append(order, name)
				}
				if w.Is != "" && !slices.Contains(found[name], w.Is) {
					found[name] = append(found[name], w.Is)
				}
				if found[name] == nil {
					found[name] = []string{}
				}
			}
		}
	})
	for _, name := range p.askedAgain() {
		if _, ok := found[name]; !ok {
			order = append(order, name)
			found[name] = []string{}
		}
	}
	p.values = []map[string]string{{}}
	for _, name := range order {
		values := append([]string{""}, found[name]...)
		values = append(values, otherValue)
		if len(p.values)*len(values) > mostValues {
			leftOut = append(leftOut, "the fact “"+strings.TrimPrefix(name, "\x00")+"”")
			continue
		}
		p.facts = append(p.facts, testedFact{name, values})
		var next []map[string]string
		for _, value := range values {
			for _, v := range p.values {
				with := map[string]string{name: value}
				for k, old := range v {
					with[k] = old
				}
				next = append(next, with)
			}
		}
		p.values = next
	}
	return leftOut
}

// askedAgain lists the facts whose ask can be come back to: it is passed over then, which can close a circle.
func (p *proof) askedAgain() []string {
	var list []string
	for _, n := range p.c.program.order {
		if n.turn.Kind == Ask && !slices.Contains(list, n.turn.Fact) && p.following([]*node{n}, nil)[n] {
			list = append(list, n.turn.Fact)
		}
	}
	return list
}

// with gives the state in which a fact has a value, all else alike; the same one if it is not tested.
func (p *proof) with(v int, name, value string) int {
	size := 1
	for _, f := range p.facts {
		if f.name != name {
			size *= len(f.values)
			continue
		}
		at := len(f.values) - 1
		for i, known := range f.values {
			if known == value || plain(value) != "" && plain(known) == plain(value) {
				at = i
				break
			}
		}
		now := v / size % len(f.values)
		return v + (at-now)*size
	}
	return v
}

// world proves the script in one world.
func (p *proof) world(w *World) {
	p.machine.world = *w
	for i := range p.edges {
		p.edges[i] = p.edges[i][:0]
	}
	start := p.state(p.c.program.start, 0)
	came := p.walk(start)
	p.circles(came)
	p.endings(start, came)
	for _, first := range []*node{p.c.program.whenever[WheneverPerson], p.c.program.whenever[WheneverWords]} {
		if first != nil {
			came = append(came, p.walk(p.state(first, 0))...)
		}
	}
	p.refused(start, came)
	for i := 0; i < len(came); i++ {
		s := int(came[i])
		at := s / len(p.values)
		if n := p.c.program.order[at]; n.turn.Kind == Suggest && !p.reached[at] { // its articles may end at any time
			if lead, way := n.way(OnNothing); lead.leads() {
				came = append(came, p.walk(p.state(way, s%len(p.values)))...)
			}
		}
		p.reached[at] = true
		p.shown(s)
	}
}

func (p *proof) state(n *node, v int) int32 {
	if n == nil {
		return runsOut
	}
	return int32(p.index[n]*len(p.values) + v)
}

// walk finds every state that can be come to from one, each once, the nearest first, and their edges.
func (p *proof) walk(start int32) []int32 {
	if start < 0 {
		return nil
	}
	p.now++
	p.stamp[start] = p.now
	queue := []int32{start}
	for i := 0; i < len(queue); i++ {
		s := queue[i]
		if len(p.edges[s]) == 0 {
			p.edges[s] = p.leave(int(s), p.edges[s])
		}
		for _, e := range p.edges[s] {
			if e.to >= 0 && p.stamp[e.to] != p.now {
				p.stamp[e.to] = p.now
				queue = append(queue, e.to)
			}
		}
	}
	return queue
}

// once adds an error at a turn, the first time that it is met.
func (p *proof) once(what string, s int32, format string, example *CounterExample, args ...any) {
	n := p.c.program.order[int(s)/len(p.values)]
	if key := what + n.turn.ID; !p.said[key] {
		p.said[key] = true
		p.c.faults = append(p.c.faults, Fault{
			Turn: n.turn.ID, Level: Error, Message: fmt.Sprintf(format, args...), Example: example,
		})
	}
}

func (p *proof) met(what string, s int32) bool {
	return p.said[what+p.c.program.order[int(s)/len(p.values)].turn.ID]
}
