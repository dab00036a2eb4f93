package flow

import (
	"slices"
	"strings"

	"hermeneus/core/audience"
)

// leave lists the ways on from a state, as the runtime takes them.
func (p *proof) leave(s int, out []edge) []edge {
	n, v := p.c.program.order[s/len(p.values)], s%len(p.values)
	to := func(next *node, v int) int32 {
		if next == nil && n.region > 0 {
			return back
		}
		return p.state(next, v)
	}
	p.machine.state.Facts = p.values[v]
	p.machine.state.Result = p.values[v][resultFact]
	t, m := n.turn, &p.machine
	if next, target, ok := p.unasked(n); ok {
		if target != 0 {
			out = append(out, edge{to: target})
			if n.next != nil && (t.Kind == Request || t.Kind == HandOver && m.world.Teams[t.Team].now() == Away) {
				out = append(
					out,
					edge{to: p.state(n.next, v), asked: true, step: ExampleStep{Kind: Words, Text: "something"}},
				)
			}
			return out
		}
		return append(out, edge{to: to(next, v)})
	}
	ask := func(next *node, v int, step ExampleStep) {
		out = append(out, edge{to: to(next, v), asked: true, helped: step.Helped, step: step})
	}
	switch t.Kind {
	case Choose:
		for i := range t.Leads {
			if p.machine.offers(&t.Leads[i]) {
				ask(n.ways[i], v, ExampleStep{Kind: Choice, Text: t.Leads[i].Text[p.c.script.Language]})
			}
		}
		if lead, way := n.way(OnElse); lead != nil {
			ask(way, v, ExampleStep{Kind: Words, Text: "something else altogether"})
		}
	case Ask:
		p.answers(n, v, ask)
	case Suggest, LookUp:
		_, yes := n.way(OnYes)
		_, no := n.way(OnNo)
		ask(yes, p.with(v, resultFact, ResultYes), ExampleStep{Kind: Verdict, Helped: true})
		ask(no, p.with(v, resultFact, ResultNo), ExampleStep{Kind: Verdict})
		if t.Kind == LookUp {
			_, nothing := n.way(OnNothing)
			ask(nothing, p.with(v, resultFact, ResultNothing), ExampleStep{Kind: Words, Text: "xyzzy plugh"})
			if lead, weak := n.way(OnWeak); lead.leads() {
				ask(weak, v, ExampleStep{Kind: Words, Text: "something"})
			}
		}
	case Rate:
		for mark, result := range map[string]string{"1": ResultLow, "3": ResultGiven, "5": ResultHigh} {
			ask(n.next, p.with(v, resultFact, result), ExampleStep{Kind: Words, Text: mark})
		}
	}
	return out
}

// answers are the ways on from an ask: each value that is told apart, and none.
func (p *proof) answers(n *node, v int, ask func(next *node, v int, step ExampleStep)) {
	t := n.turn
	given := p.with(v, resultFact, ResultGiven)
	if t.Wants == WantsChoice {
		for i := range t.Leads {
			if p.machine.offers(&t.Leads[i]) {
				label := t.Leads[i].Text[p.c.script.Language]
				ask(n.ways[i], p.with(given, t.Fact, label), ExampleStep{Kind: Choice, Text: label})
			}
		}
	} else {
		values := []string{otherValue}
		for _, f := range p.facts {
			if f.name == t.Fact {
				values = f.values[1:]
			}
		}
		for _, value := range values {
			ask(n.next, p.with(given, t.Fact, value), ExampleStep{Kind: Words, Text: sample(t, value)})
		}
	}
	_, nothing := n.way(OnNothing)
	none := ExampleStep{Kind: Words, Text: "skip"}
	result := ResultSkipped
	if !t.Skip {
		if t.Wants == WantsText {
			return
		}
		none.Text, result = "?", ResultWrong
	}
	ask(nothing, p.with(v, resultFact, result), none)
}

// sample is an answer that an ask takes.
func sample(t *Turn, value string) string {
	if value != otherValue {
		return value
	}
	switch t.Wants {
	case WantsMail:
		return "ada@post.example"
	case WantsPhone:
		return "01632 960123"
	case WantsNumber:
		return "12"
	case WantsDate:
		return "2026-03-31"
	case WantsReference:
		return t.Pattern
	}
	return "something"
}

// unasked gives where a turn leads without the customer doing anything; target is where it leads if that is no
// turn, ok is false where it waits for the customer.
func (p *proof) unasked(n *node) (next *node, target int32, ok bool) {
	t := n.turn
	m := &p.machine
	switch t.Kind {
	case Say, Link:
		return n.next, 0, true
	case Branch:
		next, _, _ = m.branch(n)
		return next, 0, true
	case Close, Request:
		return nil, goal, true
	case GoTo:
		if t.Flow == "" {
			if to := p.c.program.nodes[t.To]; to != nil {
				return to, 0, true
			}
			return n.next, 0, true
		}
		if t.Back {
			return n.next, 0, true
		}
		return nil, goal, true
	case HandOver:
		on := OnClosed
		switch m.world.Teams[t.Team].now() {
		case Free:
			return nil, goal, true
		case Busy:
			on = OnBusy
		}
		if lead, way := n.way(on); lead.leads() {
			return way, 0, true
		}
		return nil, goal, true
	case Choose:
		if !slices.ContainsFunc(t.Leads, func(l Lead) bool { return m.offers(&l) }) {
			_, way := n.way(OnElse)
			return way, 0, true
		}
	case Suggest:
		if len(p.visible(t)) == 0 {
			_, way := n.way(OnNothing)
			return way, 0, true
		}
	case Ask:
		if _, known := m.fact(t.Fact); known {
			return n.next, 0, true
		}
	}
	return nil, 0, false
}

// visible lists the articles of a turn that the customer of this world may see.
func (p *proof) visible(t *Turn) []string {
	if p.c.env.Articles == nil {
		return t.Articles
	}
	viewer := audience.Viewer{SignedIn: p.machine.world.SignedIn, Groups: p.machine.world.Groups}
	var list []string
	for _, ref := range t.Articles {
		if known, ok := p.c.env.Articles[ref]; ok && viewer.MaySee(known.Audience) || strings.HasPrefix(ref, "@") {
			list = append(list, ref)
		}
	}
	return list
}
