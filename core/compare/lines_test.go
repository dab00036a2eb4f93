package compare

import (
	"math/rand/v2"
	"strings"
	"testing"
)

// Whatever two texts: what is the same and removed is the one, what is the same and added the other.
func TestLinesMakeUpBothTexts(t *testing.T) {
	r := rand.New(rand.NewPCG(5, 6))
	text := func() string {
		var lines []string
		for range r.IntN(12) {
			lines = append(lines, []string{"hello", "bye", "", "  - choice", "-- x"}[r.IntN(5)])
		}
		return strings.Join(lines, "\n")
	}
	for range 500 {
		before, after := text(), text()
		var a, b strings.Builder
		same := 0
		for _, l := range CompareLines(before, after) {
			if l.Mark != Added {
				a.WriteString(l.Text + "\n")
			}
			if l.Mark != Removed {
				b.WriteString(l.Text + "\n")
			}
			if l.Mark == Same {
				same++
			}
		}
		if a.String() != ended(before) || b.String() != ended(after) {
			t.Fatalf("%q and %q: got %q and %q", before, after, a.String(), b.String())
		}
		if before == after && before != "" && same != strings.Count(ended(before), "\n") {
			t.Fatalf("%q is not the same as itself", before)
		}
	}
}
