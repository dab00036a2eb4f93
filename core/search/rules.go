package search

import (
	"fmt"
	"slices"
	"strings"
	"sync"
)

// Rules are what a site sets beside the articles themselves. The zero Rules, and
// nil, set nothing. They are made by NewRules and never changed after.
type Rules struct {
	Weights  Weights
	synonyms []synonym
	pins     []Pin

	mu       sync.Mutex
	compiled map[string]*compiled // by language
}

// compiled are rules in the terms of a language.
type compiled struct {
	synonyms []synonym  // phrases as terms; what stands for them as words that tell
	pins     [][]string // terms of each pin, in order
}

// in gives the rules in the terms of a language.
func (r *Rules) in(language string, x *lexicon) *compiled {
	r.mu.Lock()
	defer r.mu.Unlock()
	if c := r.compiled[language]; c != nil {
		return c
	}
	c := &compiled{}
	for _, s := range r.synonyms {
		one := synonym{}
		for _, w := range telling(x, s.phrase) {
			one.phrase = append(one.phrase, x.work(w))
		}
		for _, other := range s.instead {
			if told := telling(x, other); len(told) > 0 {
				one.instead = append(one.instead, told)
			}
		}
		if len(one.phrase) > 0 {
			c.synonyms = append(c.synonyms, one)
		}
	}
	for _, p := range r.pins {
		c.pins = append(c.pins, sortedTerms(x, p.Words))
	}
	if r.compiled == nil {
		r.compiled = map[string]*compiled{}
	}
	r.compiled[language] = c
	return c
}

// sortedTerms are the terms of a question, each once, in the order of the alphabet.
func sortedTerms(x *lexicon, question string) []string {
	var terms []string
	for _, t := range cut(question) {
		if term := x.work(t.word); term != "" && !t.joined {
			terms = append(terms, term)
		}
	}
	slices.Sort(terms)
	return slices.Compact(terms)
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
		return s, fmt.Errorf(
			"%q names one thing only: write at least two, with a comma between them",
			strings.TrimSpace(text),
		)
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

// With gives rules that have more synonyms, and other weights where there are any.
func (r *Rules) With(weights Weights, more []Synonyms) *Rules {
	out := NewRules(weights, more, nil)
	if r == nil {
		return out
	}
	if weights == (Weights{}) {
		out.Weights = r.Weights
	}
	out.synonyms, out.pins = append(slices.Clone(r.synonyms), out.synonyms...), r.pins
	return out
}

// replaced is a stretch of the question that has synonyms.
type replaced struct {
	length  int
	instead [][]string
}

// synonymsIn finds the phrases of the question that have synonyms, the longest first
// at each place. Empty words are not among the question's words, nor looked at in
// the phrases; other forms of a word are the same.
func (r *Rules) synonymsIn(language string, x *lexicon, words []word) map[int]*replaced {
	if r == nil || len(r.synonyms) == 0 {
		return nil
	}
	rules := r.in(language, x).synonyms
	terms := make([]string, len(words))
	for i, w := range words {
		terms[i] = x.work(w.text)
	}
	found := map[int]*replaced{}
	for i := 0; i < len(words); {
		length := 0
		for _, s := range rules {
			n := len(s.phrase)
			if n < length || i+n > len(words) || !slices.Equal(s.phrase, terms[i:i+n]) {
				continue
			}
			if n > length {
				found[i], length = &replaced{length: n}, n
			}
			found[i].instead = append(found[i].instead, s.instead...)
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
func (r *Rules) pinsFor(x *Index, language, question string) []Pin {
	if r == nil || len(r.pins) == 0 {
		return nil
	}
	if x.segments[language] == nil {
		language = x.source
	}
	s := x.segments[language]
	if s == nil {
		return nil
	}
	rules, asked := r.in(language, s.lexicon).pins, sortedTerms(s.lexicon, question)
	var found []Pin
	for i, p := range r.pins {
		if len(rules[i]) > 0 && slices.Equal(rules[i], asked) {
			found = append(found, p)
		}
	}
	return found
}

// arrange puts the pinned first and leaves the buried out. What the viewer may not
// see is never put anywhere.
func (r *Rules) arrange(x *Index, request Request, hits []Hit) []Hit {
	var first []Hit
	for _, pin := range r.pinsFor(x, request.Language, request.Words) {
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
			d := &p.segment.docs[id]
			hit = d.hit()
			hit.Passage = d.beginning()
		}
		hit.Pinned, hit.Coverage = true, 1
		first = append(first, hit)
	}
	return append(first, hits...)
}
