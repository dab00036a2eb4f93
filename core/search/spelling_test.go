package search

import (
	"math/rand/v2"
	"testing"
)

// Worked out in bits or by the table, a distance is the same.
func TestDistancesInBitsAreThoseOfTheTable(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 9))
	letters := []rune("abcdé")
	word := func() string {
		w := make([]rune, 1+r.IntN(9))
		for i := range w {
			w[i] = letters[r.IntN(len(letters)-r.IntN(2))]
		}
		return string(w)
	}
	apart := map[int]int{}
	for range 200_000 {
		a, b := word(), word()
		for most := 1; most <= 2; most++ {
			got := newMeter(a).distance(&written{word: b, plain: isPlain(b)}, most)
			want := min(distance([]rune(a), []rune(b), most), most+1)
			if got = min(got, most+1); got != want {
				t.Fatalf("%q and %q, at most %d: %d in bits, %d by the table", a, b, most, got, want)
			}
			apart[want]++
		}
	}
	if apart[0] < 100 || apart[1] < 1000 || apart[2] < 1000 {
		t.Errorf("the words say little: %v", apart)
	}
}

// The examples are Damerau's kinds of slips (1964): a letter left out, put in, changed,
// and two neighbours swapped.
func TestASlipIsOneStep(t *testing.T) {
	for _, c := range []struct {
		a, b string
		want int
	}{{"meter", "metr", 1}, {"meter", "meeter", 1}, {"meter", "moter", 1}, {"meter", "metre", 1}, {"reading", "raedign", 2}, {"bill", "bill", 0}, {"bill", "lamp", 3}, {"zähler", "zahler", 1}} {
		if got := min(newMeter(c.a).distance(&written{word: c.b, plain: isPlain(c.b)}, 2), 3); got != c.want {
			t.Errorf("%s and %s: %d, want %d", c.a, c.b, got, c.want)
		}
	}
}
