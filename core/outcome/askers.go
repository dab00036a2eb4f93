package outcome

import (
	"strings"
	"time"
)

// asker is everything that somebody did, under all keys that are linked.
type asker struct {
	name  string      // the alphabetically first of the keys
	items []*Evidence // what can belong to a question, in order
	Known
}

// Known is what is known of an asker as a whole, by which questions are set aside.
type Known struct {
	Named   bool // has a key other than that of a browser
	Looked  bool // a person looked: something was read, said, or reported by the page
	Reached bool // ever reached a person
}

// Know adds what an item says of its asker.
func (k *Known) Know(e *Evidence) {
	k.Named = k.Named || !strings.HasPrefix(e.Asker, VisitorKey) || (e.To != "" && !strings.HasPrefix(e.To, VisitorKey))
	k.Looked = k.Looked || e.Kind.showsPerson()
	k.Reached = k.Reached || e.Kind.reachesPerson()
}

// unseen reports that nothing shows that anybody looked.
func (k Known) unseen() bool { return !k.Named && !k.Looked }

// links finds which keys are one asker.
type links struct {
	number map[string]int32 // of each key
	keys   []string
	parent []int32
}

func newLinks() *links { return &links{number: map[string]int32{}} }

func (l *links) of(key string) int32 {
	if n, there := l.number[key]; there {
		return n
	}
	n := int32(len(l.keys))
	l.number[key] = n
	l.keys = append(l.keys, key)
	l.parent = append(l.parent, n)
	return n
}

// root is the number of the key that stands for all that are linked with one.
func (l *links) root(n int32) int32 {
	for l.parent[n] != n {
		l.parent[n] = l.parent[l.parent[n]]
		n = l.parent[n]
	}
	return n
}

// link makes two keys one asker, who is named by the alphabetically first of its keys.
func (l *links) link(a, b int32) {
	a, b = l.root(a), l.root(b)
	if l.keys[b] < l.keys[a] {
		a, b = b, a
	}
	l.parent[b] = a
}

// answer is an agent's, under the name of whoever it was given to.
type answer struct {
	taken
	asker string
}

// askersOf groups the items up to a time by asker, each asker's in order, and gives beside them the
// answers of agents, which belong to contacts and not to keys.
func askersOf(items []Evidence, asOf time.Time) (askers []asker, answers []answer) {
	keys := newLinks()
	ids := make([]int32, len(items))
	for i := range items {
		e := &items[i]
		if e.At.After(asOf) {
			ids[i] = -1
			continue
		}
		ids[i] = keys.of(e.Asker)
		if e.Kind == Linked && e.To != "" {
			keys.link(ids[i], keys.of(e.To))
		}
	}
	place := make([]int32, len(keys.keys)) // of each root among the askers
	counts := make([]int32, 0, len(keys.keys))
	for n := range keys.keys {
		if keys.root(int32(n)) == int32(n) {
			place[n] = int32(len(askers))
			askers = append(askers, asker{name: keys.keys[n]})
			counts = append(counts, 0)
		}
	}
	room := make([]taken, len(items))
	own := make([][]taken, len(askers))
	for i, id := range ids {
		if id >= 0 {
			ids[i] = place[keys.root(id)]
			counts[ids[i]]++
		}
	}
	for n := range askers {
		own[n], room = room[:0:counts[n]], room[counts[n]:]
	}
	for i, id := range ids {
		if id < 0 {
			continue
		}
		e := taken{&items[i], items[i].Kind.rank()}
		askers[id].Know(e.Evidence)
		switch {
		case e.rank <= requestedRank:
			own[id] = append(own[id], e)
		case e.Kind == AgentAnswered:
			answers = append(answers, answer{e, askers[id].name})
		}
	}
	pointers := make([]*Evidence, 0, len(items))
	for n := range askers {
		inOrder(own[n])
		first := len(pointers)
		for _, e := range own[n] {
			pointers = append(pointers, e.Evidence)
		}
		askers[n].items = pointers[first:]
	}
	return askers, answers
}

// LinkedSets gives, for every key of pairs that are linked, the name of its asker: the alphabetically first of all
// keys linked with it. A pair with nothing second is a key alone.
func LinkedSets(pairs [][2]string) map[string]string {
	keys := newLinks()
	for _, p := range pairs {
		first := keys.of(p[0])
		if p[1] != "" {
			keys.link(first, keys.of(p[1]))
		}
	}
	names := make(map[string]string, len(keys.keys))
	for n, key := range keys.keys {
		names[key] = keys.keys[keys.root(int32(n))]
	}
	return names
}
