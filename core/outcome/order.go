package outcome

import (
	"cmp"
	"container/heap"
	"slices"
)

// taken is an item with the place of its kind in the order of kinds.
type taken struct {
	*Evidence
	rank int8
}

// compare orders the evidence of one asker: by time, then kind, then what it refers to, its list, source,
// contact and key, and at last by everything else, so that arrival order never matters.
func compare(a, b taken) int {
	if c := a.At.Compare(b.At); c != 0 {
		return c
	}
	if a.rank != b.rank {
		return int(a.rank) - int(b.rank)
	}
	return cmp.Or(
		cmp.Compare(a.Ref, b.Ref),
		slices.Compare(a.Refs, b.Refs),
		cmp.Compare(a.Source, b.Source),
		cmp.Compare(a.Contact, b.Contact),
		cmp.Compare(a.Asker, b.Asker),
		cmp.Compare(a.Channel, b.Channel),
		cmp.Compare(a.Text, b.Text),
		cmp.Compare(a.Line, b.Line),
	)
}

// inOrder sorts the items of one asker into the order in which they are taken.
func inOrder(items []taken) {
	if oneByOne(items) {
		return
	}
	slices.SortFunc(items, compare)
	for from := 0; from < len(items); {
		to := from + 1
		carries := items[from].Contact != ""
		for to < len(items) && items[to].At.Equal(items[from].At) {
			carries = carries || items[to].Contact != ""
			to++
		}
		if carries && to-from > 1 {
			contactsFirst(items[from:to])
		}
		from = to
	}
}

// oneByOne reports that each item came after the one before: there is nothing to sort.
func oneByOne(items []taken) bool {
	for i := 1; i < len(items); i++ {
		if !items[i-1].At.Before(items[i].At) {
			return false
		}
	}
	return true
}

// contactsFirst takes, of items at one instant, a contact before whatever carries its reference: that waits
// until the contact was taken. Contacts that carry each other's references keep the order of kinds.
func contactsFirst(items []taken) {
	pending := map[string]int{} // contacts not taken yet, by reference
	for _, e := range items {
		if e.Kind.reachesPerson() && e.Ref != "" {
			pending[e.Ref]++
		}
	}
	if len(pending) == 0 {
		return
	}
	waitsFor := func(e taken) bool {
		return e.Contact != "" && pending[e.Contact] > 0 && !(e.Kind.reachesPerson() && e.Ref == e.Contact)
	}
	waiting := map[string][]int{} // places of items that wait, by the reference they wait for
	free := &places{}
	for i, e := range items {
		if waitsFor(e) {
			waiting[e.Contact] = append(waiting[e.Contact], i)
		} else {
			*free = append(*free, i)
		}
	}
	if len(waiting) == 0 {
		return
	}
	ordered := make([]taken, 0, len(items))
	for free.Len() > 0 {
		e := items[heap.Pop(free).(int)]
		ordered = append(ordered, e)
		if !e.Kind.reachesPerson() || e.Ref == "" {
			continue
		}
		if pending[e.Ref]--; pending[e.Ref] == 0 {
			for _, i := range waiting[e.Ref] {
				heap.Push(free, i)
			}
			delete(waiting, e.Ref)
		}
	}
	var circles []int
	for _, still := range waiting {
		circles = append(circles, still...)
	}
	slices.Sort(circles)
	for _, i := range circles {
		ordered = append(ordered, items[i])
	}
	copy(items, ordered)
}

// places is a heap of places, the lowest first.
type places []int

// Len is how many there are; container/heap calls it, and the others.
func (p places) Len() int { return len(p) }

// Less orders them.
func (p places) Less(i, j int) bool { return p[i] < p[j] }

// Swap changes two.
func (p places) Swap(i, j int) { p[i], p[j] = p[j], p[i] }

// Push adds a place; container/heap calls it.
func (p *places) Push(place any) { *p = append(*p, place.(int)) }

// Pop takes the last place; container/heap calls it.
func (p *places) Pop() any {
	last := len(*p) - 1
	place := (*p)[last]
	*p = (*p)[:last]
	return place
}
