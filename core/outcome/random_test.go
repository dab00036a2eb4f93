package outcome

import (
	"fmt"
	"math/rand/v2"
	"reflect"
	"slices"
	"testing"
	"time"
)

// randomEvidence makes many items for few askers within few days, with times in whole minutes so that equal
// instants and both sides of every boundary occur; a third come at the instant of another.
func randomEvidence(r *rand.Rand, n int) []Evidence {
	items := make([]Evidence, n)
	keys := []string{"visitor:1", "visitor:2", "visitor:3", "visitor:4", "customer:5", "mail:6"}
	things := []string{"A-0001@1", "A-0001@2", "A-0002@1", "turn:x", "A-0003@1"}
	pick := func(from []string) string { return from[r.IntN(len(from))] }
	minute, step := 0, 1+r.IntN(40)
	for i := range items {
		if r.IntN(3) > 0 {
			minute += r.IntN(step)
		}
		e := Evidence{
			At:      day0.Add(time.Duration(minute) * time.Minute),
			Asker:   pick(keys),
			Channel: Channels[r.IntN(len(Channels))],
			Kind:    kindOrder[r.IntN(len(kindOrder))],
			Line:    i + 1,
		}
		switch e.Kind {
		case Opened, Read, Helped, NotHelped:
			e.Ref = pick(things)
		case Offered, Told:
			e.Refs = things[r.IntN(3) : 3+r.IntN(3)]
			e.Source = []Source{FromSearch, FromForm, FromBot}[r.IntN(3)]
		case HandedOff, Requested, AgentAnswered:
			e.Ref = fmt.Sprint("R-", r.IntN(n/4+2))
		case Linked:
			if e.Kind, e.To = Linked, pick(keys); r.IntN(4) > 0 {
				e.Kind, e.To = Asked, ""
			}
		}
		if e.Kind != Linked && r.IntN(4) == 0 {
			e.Contact = fmt.Sprint("R-", r.IntN(n/4+2))
		}
		e.Unlikely = r.IntN(60) == 0
		items[i] = e
	}
	return items
}

// The fold agrees with the plain reading of the rules on every question of random histories, in whatever
// order their items arrive.
func TestFoldAgreesWithAPlainReading(t *testing.T) {
	r := rand.New(rand.NewPCG(5, 6))
	compared := 0
	for n := range 1500 {
		most := 60
		if n%20 == 0 {
			most = 300 // enough for what is shown to be looked up in an index
		}
		items := randomEvidence(r, 1+r.IntN(most))
		asOf := items[len(items)-1].At.Add(time.Duration(r.IntN(60*100)-60) * time.Minute)
		window := []time.Duration{time.Hour, 5 * time.Hour, DefaultWindow}[n%3]
		shuffled := slices.Clone(items)
		r.Shuffle(len(shuffled), func(i, j int) { shuffled[i], shuffled[j] = shuffled[j], shuffled[i] })
		var got []string
		for _, q := range Fold(shuffled, asOf, window) {
			var lines []int
			for _, e := range q.Evidence {
				if e.Kind != AgentAnswered {
					lines = append(lines, e.Line)
				}
			}
			got = append(got, fmt.Sprint(q.Asker, q.Began, q.Closed, q.Outcome, q.Settled, q.AskedAgain, lines))
		}
		slices.Sort(got)
		want := plainly(items, asOf, window)
		compared += len(want)
		if !slices.Equal(got, want) {
			for i := range max(len(got), len(want)) {
				if i >= len(got) || i >= len(want) || got[i] != want[i] {
					t.Errorf("history %d, question %d of %d and %d\ngot  %v\nwant %v", n, i, len(got), len(want),
						got[min(i, len(got)-1)], want[min(i, len(want)-1)])
					break
				}
			}
			t.FailNow()
		}
	}
	if compared < 10_000 {
		t.Errorf("only %d questions were compared", compared)
	}
}

func TestFoldHoldsForRandomEvidence(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 2))
	for range 200 {
		items := randomEvidence(r, 1+r.IntN(300))
		asOf := items[len(items)-1].At.Add(time.Duration(r.IntN(60*200)-600) * time.Minute)
		questions := Fold(items, asOf, DefaultWindow)

		shuffled := slices.Clone(items)
		r.Shuffle(len(shuffled), func(i, j int) { shuffled[i], shuffled[j] = shuffled[j], shuffled[i] })
		if !reflect.DeepEqual(questions, Fold(shuffled, asOf, DefaultWindow)) {
			t.Fatal("the fold depends on the order of arrival")
		}
		seen := map[int]bool{}
		for _, q := range questions {
			for _, e := range q.Evidence {
				if seen[e.Line] {
					t.Fatalf("line %d is in two questions", e.Line)
				}
				seen[e.Line] = true
				if e.At.After(asOf) || e.Kind.rank() > AgentAnswered.rank() {
					t.Fatalf("line %d does not belong to a question", e.Line)
				}
			}
			if q.Settled && (q.Outcome == Open) {
				t.Fatal("an open question is settled")
			}
		}
		for _, e := range items {
			if e.Kind.rank() <= requestedRank && !e.At.After(asOf) && !seen[e.Line] {
				t.Fatalf("line %d is in no question", e.Line)
			}
		}
		c := Count(questions)
		if c.Settled()+c.Open+c.Settling+c.Browsing+c.Unseen+c.Unlikely != len(questions) {
			t.Fatalf("counts %+v do not add up to %d questions", c, len(questions))
		}
	}
}
