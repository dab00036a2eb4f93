package search

import (
	"fmt"
	"slices"
	"strings"
)

// Rules are what a site sets beside the articles themselves. The zero Rules, and
// nil, set nothing. They are made by NewRules and never changed after.
type Rules struct {
	Weights  Weights
	synonyms []synonym
	pins     []Pin
}

// Synonyms is one rule: words or phrases that mean the same. Two-way, whichever is
// asked finds them all; one-way, whoever asks for one of From finds To as well.
type Synonyms struct {
	From []string
	To   []string // empty for a two-way rule
}

// Pin puts an article first for a question, or leaves it out (Bury).
type Pin struct {
	Words     string // the question; other forms of its words, in any order, are the same
	Reference string // A-0042
	Bury      bool
}

// synonym is a phrase that stands for others, as words in small letters.
type synonym struct {
	phrase  []string
	instead [][]string
}

// MaxPhrase is how many words a synonym may have.
const MaxPhrase = 6

// ParseSynonyms reads a rule as it is written: "night rate, off-peak" two-way,
// "app => member app, website" one-way. The error says what is wrong.
func ParseSynonyms(text string) (Synonyms, error) {
	left, right, oneWay := strings.Cut(text, "=>")
	s := Synonyms{From: phrases(left)}
	if oneWay {
		s.To = phrases(right)
	}
	switch {
	case oneWay && (len(s.From) == 0 || len(s.To) == 0):
		return s, fmt.Errorf("%q names nothing on one side of the arrow", strings.TrimSpace(text))
	case !oneWay && len(s.From) < 2:
		return s, fmt.Errorf("%q names one thing only: write at least two, with a comma between them", strings.TrimSpace(text))
	}
	for _, p := range slices.Concat(s.From, s.To) {
		if n := len(plainWords(p)); n == 0 || n > MaxPhrase {
			return s, fmt.Errorf("%q is not between one and %d words", p, MaxPhrase)
		}
	}
	return s, nil
}

func phrases(text string) []string {
	var list []string
	for p := range strings.SplitSeq(text, ",") {
		if p = strings.Join(strings.Fields(p), " "); p != "" {
			list = append(list, p)
		}
	}
	return list
}

func plainWords(phrase string) []string {
	var words []string
	for _, t := range cut(phrase) {
		if !t.joined {
			words = append(words, t.word)
		}
	}
	return words
}

// NewRules makes rules ready to be used.
func NewRules(weights Weights, synonyms []Synonyms, pins []Pin) *Rules {
	r := &Rules{Weights: weights, pins: pins}
	add := func(from string, to []string) {
		s := synonym{phrase: plainWords(from)}
		for _, t := range to {
			if t != from {
				s.instead = append(s.instead, plainWords(t))
			}
		}
		if len(s.phrase) > 0 && len(s.instead) > 0 {
			r.synonyms = append(r.synonyms, s)
		}
	}
	for _, s := range synonyms {
		to := s.To
		if len(to) == 0 {
			to = s.From
		}
		for _, from := range s.From {
			add(from, to)
		}
	}
	return r
}

// replaced is a stretch of the question that has synonyms.
type replaced struct {
	length  int
	instead [][]string
}

// synonymsIn finds the phrases of the question that have synonyms, the longest first
// at each place. Empty words are not among the question's words, nor looked at in
// the phrases; other forms of a word are the same.
func (r *Rules) synonymsIn(x *lexicon, words []word) map[int]*replaced {
	if r == nil || len(r.synonyms) == 0 {
		return nil
	}
	terms := make([]string, len(words))
	for i, w := range words {
		terms[i] = x.work(w.text)
	}
	found := map[int]*replaced{}
	for i := 0; i < len(words); {
		length := 0
		for _, s := range r.synonyms {
			phrase := telling(x, s.phrase)
			n := len(phrase)
			if n == 0 || n < length || i+n > len(words) ||
				!slices.EqualFunc(phrase, terms[i:i+n], func(w, term string) bool { return x.work(w) == term }) {
				continue
			}
			if n > length {
				found[i], length = &replaced{length: n}, n
			}
			for _, other := range s.instead {
				if told := telling(x, other); len(told) > 0 {
					found[i].instead = append(found[i].instead, told)
				}
			}
		}
		i += max(1, length)
	}
	return found
}

// telling leaves the empty words out.
func telling(x *lexicon, words []string) []string {
	var out []string
	for _, w := range words {
		if x.work(w) != "" {
			out = append(out, w)
		}
	}
	return out
}

// pinsFor gives the pins of a question.
func (r *Rules) pinsFor(language, question string) []Pin {
	if r == nil || len(r.pins) == 0 {
		return nil
	}
	if language == "" {
		language = English
	}
	asked := Words(language, question)
	slices.Sort(asked)
	var found []Pin
	for _, p := range r.pins {
		words := Words(language, p.Words)
		slices.Sort(words)
		if len(words) > 0 && slices.Equal(words, asked) {
			found = append(found, p)
		}
	}
	return found
}

// arrange puts the pinned first and leaves the buried out. What the viewer may not
// see is never put anywhere.
func (r *Rules) arrange(x *Index, request Request, hits []Hit) []Hit {
	var first []Hit
	for _, pin := range r.pinsFor(request.Language, request.Words) {
		at := slices.IndexFunc(hits, func(h Hit) bool { return articleOf(h.Reference) == pin.Reference })
		var hit Hit
		if at >= 0 {
			hit = hits[at]
			hits = slices.Delete(hits, at, at+1)
		}
		if pin.Bury || slices.ContainsFunc(first, func(h Hit) bool { return articleOf(h.Reference) == pin.Reference }) {
			continue
		}
		if at < 0 {
			p, id, ok := x.lookUp(request, pin.Reference)
			if !ok {
				continue
			}
			d := &p.shelf.docs[id]
			hit = Hit{Reference: d.reference, Title: d.title, Passage: p.shelf.passage(d, nil)}
		}
		hit.Pinned, hit.Coverage = true, 1
		first = append(first, hit)
	}
	return append(first, hits...)
}
