package flow

import (
	"fmt"
	"slices"
	"strings"
)

// circles finds turns that follow each other without end and without waiting for the customer.
func (p *proof) circles(came []int32) {
	const entered, done = 1, 2
	for _, s := range came {
		p.mark[s] = 0
	}
	for _, begin := range came {
		s := begin
		for s >= 0 && p.mark[s] == 0 {
			p.mark[s] = entered
			s = p.goesOn(s)
		}
		if s >= 0 && p.mark[s] == entered {
			p.once(
				"circle",
				s,
				"From here the bot goes in a circle, and never waits for the customer.",
				p.example(came[0], s),
			)
		}
		for s = begin; s >= 0 && p.mark[s] == entered; s = p.goesOn(s) {
			p.mark[s] = done
		}
	}
}

// goesOn is where a state leads by itself; an end where it waits for the customer.
func (p *proof) goesOn(s int32) int32 {
	if e := p.edges[s]; len(e) == 1 && !e[0].asked {
		return e[0].to
	}
	return goal
}

// endings finds where a conversation runs out, and where nobody can come to an end any more.
func (p *proof) endings(start int32, came []int32) {
	good, before := p.good, p.before
	var queue []int32
	for _, s := range came {
		good[s], before[s] = false, before[s][:0]
	}
	for _, s := range came {
		for _, e := range p.edges[s] {
			switch {
			case e.to == runsOut && !p.met("end", s):
				n := p.c.program.order[int(s)/len(p.values)]
				p.once(
					"end",
					s,
					"%sAfter this the conversation runs out. End it with close, a hand over or a request, or go on.",
					p.example(start, s),
					p.customer(e.step, n),
				)
				good[s] = true // said once is enough
			case e.to >= 0:
				before[e.to] = append(before[e.to], s)
			}
			if e.to < 0 && !good[s] {
				good[s] = true
				queue = append(queue, s)
			} else if e.to == runsOut {
				queue = append(queue, s)
			}
		}
	}
	for ; len(queue) > 0; queue = queue[1:] {
		for _, s := range before[queue[0]] {
			if !good[s] {
				good[s] = true
				queue = append(queue, s)
			}
		}
	}
	for _, s := range came {
		if !good[s] {
			if !p.met("circle", s) && !p.met("lost", s) {
				p.once(
					"lost",
					s,
					"%s gets no further than here: no way leads to an answer, a person, a request or an end.",
					p.example(start, s),
					p.who(),
				)
			}
			return // what follows from here is the same fault
		}
	}
}

// refused finds where somebody who says that nothing helped has nowhere new to go: only ways count that do not
// come back to where they said it.
func (p *proof) refused(start int32, came []int32) {
	for _, s := range came {
		n := p.c.program.order[int(s)/len(p.values)]
		if n.turn.Kind != Suggest && n.turn.Kind != LookUp || p.met("no", s) {
			continue
		}
		for _, e := range p.edges[s] {
			if e.step.Kind == Verdict && !e.helped && !p.waysOn(n, e.to) {
				p.once("no", s, "%s and says no gets no further: every way comes back to this question. "+
					"Lead them to a person, a request or an end.", p.example(start, s, e.step), p.who())
			}
		}
	}
}

// waysOn reports whether somebody who is never helped comes to an end without being at a turn again.
func (p *proof) waysOn(from *node, at int32) bool {
	if at < 0 {
		return at != back
	}
	p.now++
	queue := []int32{at}
	p.stamp[at] = p.now
	for i := 0; i < len(queue); i++ {
		s := queue[i]
		if p.c.program.order[int(s)/len(p.values)] == from {
			continue
		}
		for _, e := range p.edges[s] {
			switch {
			case e.helped:
			case e.to == goal || e.to == runsOut:
				return true
			case e.to >= 0 && p.stamp[e.to] != p.now:
				p.stamp[e.to] = p.now
				queue = append(queue, e.to)
			}
		}
	}
	return false
}

// shown warns of articles that some who come to a turn may not see.
func (p *proof) shown(s int) {
	t := p.c.program.order[s/len(p.values)].turn
	if t.Kind != Suggest || p.c.env.Articles == nil {
		return
	}
	visible := p.visible(t)
	for i, ref := range t.Articles {
		known, live := p.c.env.Articles[ref]
		key := fmt.Sprint("shown", t.ID, i)
		if live && !slices.Contains(visible, ref) && !p.said[key] {
			p.said[key] = true
			p.c.warn(t.ID, fmt.Sprintf("articles[%d]", i), "%s comes here too, and may not see %s: it is for %s.",
				p.who(), ref, known.Audience.Words())
		}
	}
}

// example finds the shortest conversation from the beginning to a state, in the present world.
func (p *proof) example(start, to int32, more ...ExampleStep) *CounterExample {
	type came struct {
		from int32
		step ExampleStep
	}
	out := &CounterExample{World: p.exampleWorld(), Inputs: []ExampleStep{}}
	if start < 0 {
		return out
	}
	ways := map[int32]came{start: {from: -1}}
	queue := []int32{start}
	for i := 0; i < len(queue); i++ {
		if queue[i] == to {
			break
		}
		for _, e := range p.edges[queue[i]] {
			if _, been := ways[e.to]; !been && e.to >= 0 {
				ways[e.to] = came{queue[i], e.step}
				queue = append(queue, e.to)
			}
		}
	}
	for s := to; ; {
		w, ok := ways[s]
		if !ok || w.from < 0 {
			break
		}
		if w.step.Kind != "" {
			out.Inputs = append(out.Inputs, w.step)
		}
		s = w.from
	}
	slices.Reverse(out.Inputs)
	out.Inputs = append(out.Inputs, more...)
	return out
}

func (p *proof) exampleWorld() ExampleWorld {
	w := p.machine.world
	out := ExampleWorld{
		Groups: w.Groups, SignedIn: w.SignedIn, Language: w.Language, Channel: w.Channel, Page: w.Page, Closed: !w.Open,
	}
	for team, t := range w.Teams {
		if out.Teams == nil {
			out.Teams = map[string]string{}
		}
		out.Teams[team] = string(t.Presence)
		if !t.Open {
			out.Teams[team] = "closed"
		}
	}
	return out
}

// who says in words who the customer of the present world is, and when they come.
func (p *proof) who() string {
	w := p.machine.world
	said := p.c.mentioned()
	who := "Somebody"
	switch {
	case len(w.Groups) > 0:
		who = "A customer in " + strings.Join(w.Groups, " and ")
	case w.SignedIn:
		who = "A customer who is signed in"
	case said.customer:
		who = "A visitor who is not signed in"
	}
	var more []string
	if len(said.languages) > 0 && w.Language != "" {
		more = append(more, "reads “"+w.Language+"”")
	}
	if said.open && !w.Open {
		more = append(more, "writes while we are closed")
	}
	for _, team := range said.teams {
		t := w.Teams[team]
		state := string(t.now())
		if !t.Open {
			state = "closed"
		}
		more = append(more, "finds "+team+" "+state)
	}
	if len(more) == 0 {
		return who
	}
	return who + " who " + strings.Join(more, " and ")
}

// customer says in words what the customer does at a turn, "" where they do nothing.
func (p *proof) customer(step ExampleStep, n *node) string {
	switch {
	case step.Kind == Choice && step.Text != "":
		return "Somebody chooses “" + step.Text + "”. "
	case step.Kind == Verdict && step.Helped:
		return "Somebody says that it helped. "
	case step.Kind == Verdict:
		return "Somebody says that it did not help. "
	}
	return ""
}

// known checks facts against the order of the turns: what nobody can have said yet, what is asked again, and
// what is personal and used for nothing.
func (p *proof) known() {
	asks := map[string][]*node{}
	for _, n := range p.c.program.order {
		if n.turn.Kind == Ask {
			asks[n.turn.Fact] = append(asks[n.turn.Fact], n)
		}
	}
	for fact, list := range asks {
		after := p.following(list, nil)
		for _, n := range p.c.program.order {
			if uses(n.turn, fact) && !after[n] && !knowable(fact) && n.region == 0 {
				p.c.warn(n.turn.ID, "text", "“%s” is only asked for later: here nobody has said it yet.", fact)
			}
		}
		for _, n := range list {
			if p.again(n, list) {
				p.c.warn(
					n.turn.ID,
					"fact",
					"“%s” is always known here: it was asked before, and this is never said.",
					fact,
				)
			}
			if n.turn.Personal && !p.used(fact, n) {
				p.c.warn(n.turn.ID, "fact", "“%s” is personal, and nothing is done with it. Do not ask for it.", fact)
			}
		}
	}
}

// following finds the turns that can come after some, not going past others.
func (p *proof) following(from []*node, not []*node) map[*node]bool {
	seen := map[*node]bool{}
	var queue []*node
	add := func(n *node) {
		if n != nil && !seen[n] && !slices.Contains(not, n) {
			seen[n] = true
			queue = append(queue, n)
		}
	}
	follow := func(n *node) {
		for _, way := range n.ways {
			add(way)
		}
		if n.turn.Kind == GoTo && n.turn.Flow == "" {
			add(p.c.program.nodes[n.turn.To])
		} else {
			add(n.next)
		}
	}
	for _, n := range from {
		follow(n)
	}
	for ; len(queue) > 0; queue = queue[1:] {
		follow(queue[0])
	}
	return seen
}

// again reports whether every way to an ask goes through another for the same fact.
func (p *proof) again(n *node, list []*node) bool {
	others := slices.DeleteFunc(slices.Clone(list), func(o *node) bool { return o == n })
	start := p.c.program.start
	if len(others) == 0 || start == nil || start == n || n.region > 0 {
		return false
	}
	if slices.Contains(others, start) {
		return true
	}
	return !p.following([]*node{start}, others)[n] && p.following([]*node{start}, nil)[n]
}

// used reports whether a fact stands somewhere, is asked for by a condition, or goes with a brief to a person.
func (p *proof) used(fact string, ask *node) bool {
	for _, n := range p.c.program.order {
		if uses(n.turn, fact) {
			return true
		}
	}
	for n := range p.following([]*node{ask}, nil) {
		if n.turn.Kind == HandOver || n.turn.Kind == Request {
			return true
		}
	}
	return false
}

// uses reports whether a turn has a fact in what it says or goes by.
func uses(t *Turn, fact string) bool {
	has := func(text string) bool {
		return slices.ContainsFunc(insertions(text), func(i insertion) bool { return i.fact == fact })
	}
	all := []string{t.Brief}
	for _, text := range t.Text {
		all = append(all, text)
	}
	for _, l := range t.Leads {
		for _, text := range l.Text {
			all = append(all, text)
		}
		for _, w := range l.When {
			if w.What == IfFact && w.Of == fact {
				return true
			}
		}
	}
	return slices.ContainsFunc(all, has)
}
