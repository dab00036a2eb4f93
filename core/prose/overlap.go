package prose

import (
	"strings"
)

// Overlap is the share, 0 to 1, of the shorter text's runs of three words that
// the other text has too. Texts of fewer than 20 words overlap with nothing: they
// say too little.
func Overlap(a, b string) float64 {
	x, y := triples(a), triples(b)
	const enough = 18
	if len(x) < enough || len(y) < enough {
		return 0
	}
	if len(y) < len(x) {
		x, y = y, x
	}
	common := 0
	for t := range x {
		if y[t] {
			common++
		}
	}
	return float64(common) / float64(len(x))
}

func triples(text string) map[string]bool {
	words := spoken(strings.ToLower(text))
	set := map[string]bool{}
	for i := 0; i+2 < len(words); i++ {
		set[words[i]+" "+words[i+1]+" "+words[i+2]] = true
	}
	return set
}
