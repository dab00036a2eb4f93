package flow

import "slices"

// Ahead lists the articles that a conversation can come to show before it waits again, whatever is said to it next and
// whatever is found for that. It may list more than it comes to; no other need be in its World.
func Ahead(p *Program, state State, flows map[string]*Program) []string {
	a := &ahead{flows: flows, seen: map[*node]bool{}}
	if state.Turn == "" && state.Waiting == "" {
		a.enter(p, p.start)
		return a.articles
	}
	running := p
	if state.Flow != "" {
		running = flows[state.Flow]
	}
	for _, at := range append(slices.Clone(state.Back), Place{Flow: state.Flow, Turn: state.Turn}) {
		in := p
		if at.Flow != "" {
			in = flows[at.Flow]
		}
		if in == nil || in.nodes[at.Turn] == nil {
			continue
		}
		n := in.nodes[at.Turn]
		a.enter(in, n)
		a.enter(in, n.next)
		for _, way := range n.ways {
			a.enter(in, way)
		}
	}
	for _, in := range []*Program{running, p} {
		if in != nil {
			for _, first := range in.whenever {
				a.enter(in, first)
			}
		}
	}
	slices.Sort(a.articles)
	return a.articles
}

// ahead walks what a conversation can pass through.
type ahead struct {
	flows    map[string]*Program
	seen     map[*node]bool
	articles []string
}

func (a *ahead) enter(in *Program, n *node) {
	if n == nil || a.seen[n] {
		return
	}
	a.seen[n] = true
	t := n.turn
	switch t.Kind {
	case Rate, Close, Request:
		return // it waits here
	case Suggest:
		for _, ref := range t.Articles {
			if !slices.Contains(a.articles, ref) {
				a.articles = append(a.articles, ref)
			}
		}
	case GoTo:
		a.enter(in, in.nodes[t.To])
		if other := a.flows[t.Flow]; other != nil {
			a.enter(other, other.start)
		}
	case Choose:
		if slices.ContainsFunc(t.Leads, func(l Lead) bool { return l.On == OnOption && len(l.Groups) == 0 }) {
			return // there is something to choose
		}
	}
	a.enter(in, n.next)
	for _, way := range n.ways {
		a.enter(in, way)
	}
}
