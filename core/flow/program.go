package flow

// Program is a script made ready to run: every turn knows what follows it. It is never changed, and may be
// used by many at once.
type Program struct {
	script Script
	nodes  map[string]*node
	order  []*node
	start  *node
	speaks map[string]bool // languages that any text is in

	whenever map[string]*node // where each handler begins
}

// node is a turn, and where it leads.
type node struct {
	turn   *Turn
	next   *node   // what follows it in the text; nil at the end
	ways   []*node // where each of its leads begins: beneath it, or at what follows it
	region int     // 0 for the script itself; each handler has a number of its own
}

// Compile makes a script ready to run. Any script can be compiled, whatever is wrong with it.
func Compile(s Script) *Program {
	s = s.clone()
	s.identify()
	p := &Program{script: s, nodes: map[string]*node{}, speaks: map[string]bool{}, whenever: map[string]*node{}}
	s.Each(func(t *Turn) {
		for _, language := range t.Text.Languages() {
			p.speaks[language] = true
		}
	})
	p.start = p.sequence(p.script.Turns, nil, 0)
	for i := range p.script.Whenever {
		h := &p.script.Whenever[i]
		first := p.sequence(h.Turns, nil, i+1)
		if p.whenever[h.On] == nil {
			p.whenever[h.On] = first
		}
	}
	return p
}

// sequence compiles turns that follow each other, with what comes after the last, and gives the first.
func (p *Program) sequence(turns []Turn, after *node, region int) *node {
	first := after
	nodes := make([]*node, len(turns))
	for i := range turns {
		nodes[i] = &node{turn: &turns[i], region: region}
		if _, twice := p.nodes[turns[i].ID]; !twice {
			p.nodes[turns[i].ID] = nodes[i]
		}
		p.order = append(p.order, nodes[i])
	}
	for i, n := range nodes {
		n.next = after
		if i+1 < len(nodes) {
			n.next = nodes[i+1]
		}
		n.ways = make([]*node, len(n.turn.Leads))
		for j := range n.turn.Leads {
			n.ways[j] = p.sequence(n.turn.Leads[j].Then, n.next, region)
		}
	}
	if len(nodes) > 0 {
		first = nodes[0]
	}
	return first
}

// Script gives the script that the program was made of, with the ids of all turns.
func (p *Program) Script() *Script { return &p.script }

// Language is the one in which the bot speaks to somebody: the one that they read, if the script has any text in
// it, else the one that it was written in.
func (p *Program) Language(reads string) string {
	if p.speaks[reads] {
		return reads
	}
	return p.script.Language
}

// AsksForPerson reports whether the script says what is done for somebody who asks for a person.
func (p *Program) AsksForPerson() bool { return p.whenever[WheneverPerson] != nil }

// way finds the first lead of a kind; at gives where it begins, which is what follows the turn if it has no
// such lead.
func (n *node) way(on string) (lead *Lead, at *node) {
	for i := range n.turn.Leads {
		if n.turn.Leads[i].On == on {
			return &n.turn.Leads[i], n.ways[i]
		}
	}
	return nil, n.next
}

// clone copies the turns of a script, so that changing one changes not the other.
func (s Script) clone() Script {
	s.Turns = cloneTurns(s.Turns)
	whenever := make([]Handler, len(s.Whenever))
	for i, h := range s.Whenever {
		h.Turns = cloneTurns(h.Turns)
		whenever[i] = h
	}
	s.Whenever = whenever
	return s
}

func cloneTurns(turns []Turn) []Turn {
	if turns == nil {
		return nil
	}
	out := make([]Turn, len(turns))
	for i, t := range turns {
		leads := make([]Lead, len(t.Leads))
		for j, l := range t.Leads {
			l.Then = cloneTurns(l.Then)
			leads[j] = l
		}
		t.Leads = leads
		out[i] = t
	}
	return out
}
