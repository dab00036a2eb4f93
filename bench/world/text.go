package world

import (
	"math"
	"math/rand/v2"
	"strings"
)

// Language is made-up prose with the shape of real one: empty words make two fifths
// of it, and the others follow Zipf's law over a vocabulary of tens of thousands.
type Language struct {
	r     *rand.Rand
	words []string
	cum   []float64 // cumulated frequency
}

var syllables = strings.Fields(
	`ba ber cal den dor el fen gar hol in ker lam mer nor ost per quin ral sel ter um ver wen yar zel tion ment ing er al ous ity ble`,
)

var empties = strings.Fields(
	`the of and to a in is that it for on with as are be this by or from at an not you your can if when will`,
)

// NewLanguage gives a language of so many words; the commonest are the trade's own.
func NewLanguage(seed uint64, words int) *Language {
	l := &Language{r: rand.New(rand.NewPCG(seed, seed))}
	taken := map[string]bool{}
	l.words = append(l.words, vocabulary...)
	for len(l.words) < words {
		var w strings.Builder
		for range 2 + l.r.IntN(3) {
			w.WriteString(syllables[l.r.IntN(len(syllables))])
		}
		if !taken[w.String()] {
			taken[w.String()] = true
			l.words = append(l.words, w.String())
		}
	}
	sum := 0.0
	for i := range l.words {
		sum += 1 / math.Pow(float64(i+3), 0.95)
		l.cum = append(l.cum, sum)
	}
	return l
}

// Word gives one word, the common ones oftener.
func (l *Language) Word() string {
	at := l.r.Float64() * l.cum[len(l.cum)-1]
	lo, hi := 0, len(l.cum)-1
	for lo < hi {
		if mid := (lo + hi) / 2; l.cum[mid] < at {
			lo = mid + 1
		} else {
			hi = mid
		}
	}
	return l.words[lo]
}

// Title gives n telling words.
func (l *Language) Title(n int) string {
	out := make([]string, n)
	for i := range out {
		out[i] = l.Word()
	}
	return strings.ToUpper(out[0][:1]) + strings.Join(out, " ")[1:]
}

// Prose gives n words, two fifths of them empty.
func (l *Language) Prose(n int) string {
	out := make([]string, n)
	for i := range out {
		if l.r.Float64() < 0.4 {
			out[i] = empties[l.r.IntN(len(empties))]
		} else {
			out[i] = l.Word()
		}
	}
	return strings.Join(out, " ")
}

// Question asks for something in n telling words, as people ask.
func (l *Language) Question(n int) string {
	return "why is my " + strings.ToLower(l.Title(n)) + "?"
}

// Blocks gives the text of an article: paragraphs of 20 to 60 words, 100 to 900 words
// in all, most near 300.
func (l *Language) Blocks() []string {
	left := int(100 + 800*math.Pow(l.r.Float64(), 2.2))
	var blocks []string
	for left > 0 {
		n := min(left, 20+l.r.IntN(40))
		blocks = append(blocks, l.Prose(n)+".")
		left -= n
	}
	return blocks
}
