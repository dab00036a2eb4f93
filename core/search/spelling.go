package search

import (
	"math/bits"
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"
)

// vocabulary knows the words of the documents as they are written, to tell what a
// word with a slip was meant to be.
type vocabulary struct {
	byLength [longestWord + 1]ofLength
}

// ofLength are the words of so many letters. The masks stand by themselves, since most
// words are passed over by what letters they have not.
type ofLength struct {
	masks []uint32
	words []written
}

// written is a word with its term.
type written struct {
	word  string
	term  uint32
	plain bool // it is of ASCII letters alone
}

func (v *vocabulary) add(word string, term uint32) {
	if strings.ContainsFunc(word, unicode.IsDigit) {
		return
	}
	n := min(utf8.RuneCountInString(word), longestWord)
	l := &v.byLength[n]
	l.masks, l.words = append(l.masks, letters(word)), append(l.words, written{word, term, isPlain(word)})
}

func isPlain(word string) bool {
	for i := range len(word) {
		if word[i] >= utf8.RuneSelf {
			return false
		}
	}
	return true
}

// letters is a set of letters in the bits of a number.
func letters(word string) uint32 {
	var mask uint32
	for i := range len(word) {
		mask |= 1 << (word[i] & 31)
	}
	return mask
}

// slips is how many slips a word of so many letters may hold.
func slips(length int) int {
	switch {
	case length < 4:
		return 0
	case length < 8:
		return 1
	}
	return 2
}

// correction is a word that another may have been meant to be.
type correction struct {
	word  string
	term  uint32
	slips int
}

// maxCorrections bounds how many are tried in a query.
const maxCorrections = 3

// correct gives the words nearest to one that nobody wrote, those with the fewest
// slips and in the most documents first. A word with a digit is never corrected:
// another number is another thing.
func (s *segment) correct(word string) []correction {
	return s.correctTo(word, func(w *written) bool { return s.held(w.term) > 0 })
}

// correctTo gives likewise, of the words that will do.
func (s *segment) correctTo(word string, does func(*written) bool) []correction {
	if strings.ContainsFunc(word, unicode.IsDigit) {
		return nil
	}
	length := utf8.RuneCountInString(word)
	allowed := slips(length)
	if allowed == 0 {
		return nil
	}
	mask, near := letters(word), newMeter(word)
	var found []correction
	s.lexicon.mu.RLock()
	defer s.lexicon.mu.RUnlock()
	for n := length - allowed; n <= length+allowed && n <= longestWord; n++ {
		list := &s.lexicon.spelling.byLength[n]
		for i, has := range list.masks {
			if bits.OnesCount32(has&^mask) > allowed || bits.OnesCount32(mask&^has) > allowed {
				continue
			}
			w := &list.words[i]
			if d := near.distance(w, allowed); d <= allowed && does(w) {
				found = append(found, correction{w.word, w.term, d})
			}
		}
	}
	slices.SortFunc(found, func(a, b correction) int {
		if a.slips != b.slips {
			return a.slips - b.slips
		}
		if s.df[a.term] != s.df[b.term] {
			return int(s.df[b.term] - s.df[a.term])
		}
		return strings.Compare(a.word, b.word)
	})
	// One slip away, nobody means a word two slips away.
	for i, c := range found {
		if c.slips > found[0].slips {
			found = found[:i]
			break
		}
	}
	return found[:min(len(found), maxCorrections)]
}

// meter tells how far words are from one.
type meter struct {
	word  []rune
	plain bool
	at    [utf8.RuneSelf]uint64 // the places of each ASCII letter in the word, as bits
}

func newMeter(word string) *meter {
	m := &meter{word: []rune(word), plain: isPlain(word) && len(word) <= 64}
	if m.plain {
		for i := range len(word) {
			m.at[word[i]] |= 1 << i
		}
	}
	return m
}

// distance is that of the function below. Of plain words it is worked out a column at
// a time in the bits of a number (Hyyrö, A Bit-Vector Algorithm for Computing
// Levenshtein and Damerau Edit Distances, 2003).
func (m *meter) distance(w *written, most int) int {
	if !m.plain || !w.plain {
		return distance(m.word, []rune(w.word), most)
	}
	count, last := len(m.word), uint64(1)<<(len(m.word)-1)
	up, down := ^uint64(0), uint64(0) // where a column grows by one, or falls by one
	var diagonal, before uint64
	for i := range len(w.word) {
		here := m.at[w.word[i]]
		swapped := (^diagonal & here) << 1 & before
		diagonal = ((here & up) + up ^ up) | here | down | swapped
		grows, falls := down|^(diagonal|up), diagonal&up
		if grows&last != 0 {
			count++
		} else if falls&last != 0 {
			count--
		}
		if count-(len(w.word)-1-i) > most {
			return most + 1 // each letter that is left brings it at most one nearer
		}
		grows, falls = grows<<1|1, falls<<1
		up, down, before = falls|^(diagonal|grows), grows&diagonal, here
	}
	return count
}

// distance counts the letters left out, put in, changed or swapped with their
// neighbour (Damerau 1964; each place changed once), as far as most.
func distance(a, b []rune, most int) int {
	if d := len(a) - len(b); d > most || -d > most {
		return most + 1
	}
	before, last, now := make([]int, len(b)+1), make([]int, len(b)+1), make([]int, len(b)+1)
	for j := range last {
		last[j] = j
	}
	for i := 1; i <= len(a); i++ {
		now[0] = i
		least := i
		for j := 1; j <= len(b); j++ {
			cost := 1
			if a[i-1] == b[j-1] {
				cost = 0
			}
			now[j] = min(last[j]+1, now[j-1]+1, last[j-1]+cost)
			if i > 1 && j > 1 && a[i-1] == b[j-2] && a[i-2] == b[j-1] {
				now[j] = min(now[j], before[j-2]+1)
			}
			least = min(least, now[j])
		}
		if least > most {
			return most + 1
		}
		before, last, now = last, now, before
	}
	return last[len(b)]
}

// split gives the two words that one may be run together of.
func (s *segment) split(word string) (first, second uint32, ok bool) {
	var best int32
	for i := range word {
		if i < 3 || len(word)-i < 3 {
			continue
		}
		a, b := s.known(word[:i]), s.known(word[i:])
		if a == 0 || b == 0 {
			continue
		}
		if n := min(s.df[a], s.df[b]); n > best {
			first, second, ok, best = a, b, true, n
		}
	}
	return first, second, ok
}

// known gives the term of a word that stands in some document, 0 for none.
func (s *segment) known(word string) uint32 {
	if id, empty := s.lexicon.lookUp(word); !empty && s.held(id) > 0 {
		return id
	}
	return 0
}
