package outcome

import (
	"fmt"
	"math/rand/v2"
	"reflect"
	"slices"
	"testing"
	"time"
)

// randomEvidence makes many items for few askers within few hours, with times in
// whole minutes so that equal instants and both sides of every boundary occur.
func randomEvidence(r *rand.Rand, n int) []Evidence {
	items := make([]Evidence, n)
	for i := range items {
		items[i] = Evidence{
			At: day0.Add(time.Duration(r.IntN(60*90)) * time.Minute), Asker: string(rune('a' + r.IntN(5))),
			Channel: Help, Kind: kindOrder[r.IntN(len(kindOrder))], Ref: fmt.Sprint("R-", r.IntN(4)), Line: i + 1,
		}
	}
	return items
}

func TestFoldHoldsForRandomEvidence(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 2))
	for range 200 {
		items := randomEvidence(r, 1+r.IntN(300))
		asOf := day0.Add(time.Duration(r.IntN(60*200)) * time.Minute)
		questions := Fold(items, asOf, DefaultWindow)

		shuffled := slices.Clone(items)
		r.Shuffle(len(shuffled), func(i, j int) { shuffled[i], shuffled[j] = shuffled[j], shuffled[i] })
		if !reflect.DeepEqual(questions, Fold(shuffled, asOf, DefaultWindow)) {
			t.Fatal("the fold depends on the order of arrival")
		}

		seen := map[int]bool{}
		for _, q := range questions {
			for i, e := range q.Evidence {
				if seen[e.Line] {
					t.Fatalf("line %d is in two questions", e.Line)
				}
				seen[e.Line] = true
				if e.At.After(asOf) || e.Asker != q.Asker {
					t.Fatalf("line %d does not belong to its question", e.Line)
				}
				if i > 0 && e.Kind != AgentAnswered && q.Evidence[i-1].Kind != AgentAnswered &&
					e.At.Sub(q.Evidence[i-1].At) >= Silence {
					t.Fatalf("line %d came after 30:00 of silence", e.Line)
				}
			}
			if q.Settled && (q.Outcome == Open) {
				t.Fatal("an open question is settled")
			}
		}
		for _, e := range items {
			if e.Kind != AgentAnswered && !e.At.After(asOf) && !seen[e.Line] {
				t.Fatalf("line %d is in no question", e.Line)
			}
		}
		c := Count(questions)
		if c.Settled()+c.Open+c.Settling+c.Browsing != len(questions) {
			t.Fatalf("counts %+v do not add up to %d questions", c, len(questions))
		}
	}
}
