package search

import (
	"strings"
	"unicode"
)

// Highlight shows the place of a text that holds the most of the words, which may
// be beginnings of words, and marks them. The words are in small letters.
func Highlight(text string, beginnings []string) Passage {
	best, most := "", 0
	for block := range strings.SplitSeq(text, "\n") {
		if n := distinct(block, beginnings); n > most {
			best, most = block, n
		}
	}
	if most == 0 {
		if len(text) > passageLength {
			return nil
		}
		return Passage{{Text: text}}
	}
	return excerpt(best, beginningsIn(best, beginnings))
}

// Hits counts the marked words of a passage.
func (p Passage) Hits() int {
	n := 0
	for _, r := range p {
		if r.Hit {
			n++
		}
	}
	return n
}

func distinct(block string, beginnings []string) int {
	seen := map[string]bool{}
	for _, s := range beginningsIn(block, beginnings) {
		seen[s.term] = true
	}
	return len(seen)
}

// beginningsIn finds the words of a block that begin as asked, or that share their
// stem but for an ending of up to three letters.
func beginningsIn(block string, beginnings []string) []span {
	var found []span
	start := -1
	for i, r := range block + " " {
		if unicode.IsLetter(r) || unicode.IsDigit(r) {
			if start < 0 {
				start = i
			}
			continue
		}
		if start >= 0 {
			word := strings.ToLower(block[start:i])
			for _, b := range beginnings {
				if strings.HasPrefix(word, b) || len(word) >= 4 && len(b)-len(word) <= 3 && strings.HasPrefix(b, word) {
					found = append(found, span{start, i, b})
					break
				}
			}
			start = -1
		}
	}
	return found
}
