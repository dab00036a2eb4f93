package search

import (
	"cmp"
	"math"
	"slices"
	"strings"
)

// group is what one word of the question, or one phrase that has synonyms, is
// looked for by.
type group struct {
	word     string // as asked
	idf      float32
	variants []variant
}

// variant is one way of saying it: all of its terms must be there.
type variant struct {
	terms  []uint32
	factor float32
	why    string // "" for the word itself
}

// What other ways of saying a thing count, beside the word itself.
const (
	synonymFactor   = 0.9
	pieceFactor     = 0.35 // one word of a phrase
	correctedFactor = 0.6
)

// idf weighs a term by its rarity (Robertson & Zaragoza 2009, formula 3.1, kept above 0).
func (s *segment) idf(df int32) float32 {
	return float32(math.Log(1 + (float64(s.alive)-float64(df)+0.5)/(float64(df)+0.5)))
}

// word is a word of the question with its term, 0 when no document ever held it.
type word struct {
	text string
	term uint32
}

// read makes the groups out of the words asked.
func (p *part) read() {
	words, joined := p.words(false)
	if len(words) == 0 {
		words, joined = p.words(true) // nothing but empty words: titles may hold them
	}
	taken := p.request.Rules.synonymsIn(p.segment.language, p.segment.lexicon, words)
	for i := 0; i < len(words); {
		if s := taken[i]; s != nil {
			p.addPhrase(words[i:i+s.length], s.instead)
			i += s.length
			continue
		}
		p.addWord(words[i])
		i++
	}
	for _, w := range joined {
		if p.segment.held(w.term) > 0 {
			p.addTerm(w)
		}
	}
	p.keepRarest()
}

// words gives the distinct words of the question in their order, and those joined of
// several. With empty, the empty words.
func (p *part) words(empty bool) (words, joined []word) {
	seen := map[string]bool{}
	known := map[uint32]bool{}
	for _, t := range cut(p.request.Words) {
		term, is := p.segment.lexicon.lookUp(t.word)
		if is != empty || seen[t.word] || term != 0 && known[term] {
			continue
		}
		seen[t.word], known[term] = true, true
		if w := (word{t.word, term}); t.joined {
			joined = append(joined, w)
		} else {
			words = append(words, w)
		}
	}
	return words, joined
}

func (p *part) addTerm(w word) {
	p.groups = append(
		p.groups,
		group{
			word:     w.text,
			idf:      p.segment.idf(p.segment.held(w.term)),
			variants: []variant{{terms: []uint32{w.term}, factor: 1}},
		},
	)
}

func (p *part) addWord(w word) {
	s := p.segment
	if s.held(w.term) > 0 {
		p.addTerm(w)
		return
	}
	if _, empty := s.lexicon.lookUp(w.text); empty {
		return
	}
	if p.other != nil && p.other.known(w.text) != 0 {
		p.unknown++ // a word of the other language is no slip in this one
		return
	}
	if first, second, ok := s.split(w.text); ok {
		p.groups = append(p.groups, group{word: w.text, idf: s.idf(min(s.df[first], s.df[second])),
			variants: []variant{{terms: []uint32{first, second}, factor: 1, why: "written apart"}}})
		return
	}
	found := s.correct(w.text)
	if len(found) == 0 {
		p.unknown++
		return
	}
	g := group{word: w.text}
	for _, c := range found {
		if !slices.ContainsFunc(g.variants, func(v variant) bool { return v.terms[0] == c.term }) {
			g.variants = append(
				g.variants,
				variant{terms: []uint32{c.term}, factor: correctedFactor, why: "taken for " + c.word},
			)
			g.idf = max(g.idf, s.idf(s.df[c.term]))
		}
	}
	p.instead = append(p.instead, Instead{w.text, found[0].word})
	p.groups = append(p.groups, g)
}

// addPhrase makes one group of words that have synonyms.
func (p *part) addPhrase(words []word, instead [][]string) {
	s := p.segment
	g := group{}
	var texts []string
	var own []uint32
	whole := true
	for _, w := range words {
		texts = append(texts, w.text)
		if s.held(w.term) == 0 {
			whole = false
			continue
		}
		own = append(own, w.term)
		g.idf += s.idf(s.df[w.term])
	}
	g.word = strings.Join(texts, " ")
	if whole {
		g.variants = append(g.variants, variant{terms: own, factor: 1})
	}
	if len(words) > 1 {
		for _, id := range own {
			g.variants = append(
				g.variants,
				variant{terms: []uint32{id}, factor: pieceFactor, why: "part of the phrase"},
			)
		}
	}
	for _, other := range instead {
		v := variant{factor: synonymFactor, why: "also said as " + strings.Join(other, " ")}
		var weight float32
		for _, o := range other {
			if id := s.known(o); id != 0 {
				v.terms = append(v.terms, id)
				weight += s.idf(s.df[id])
			}
		}
		if len(v.terms) == len(other) {
			g.variants = append(g.variants, v)
			if !whole {
				g.idf = max(g.idf, weight)
			}
		}
	}
	if len(g.variants) == 0 {
		p.unknown++
		return
	}
	p.groups = append(p.groups, g)
}

// keepRarest leaves the groups that tell most, in the order asked.
func (p *part) keepRarest() {
	if len(p.groups) <= maxGroups {
		return
	}
	ranked := make([]int, len(p.groups))
	for i := range ranked {
		ranked[i] = i
	}
	slices.SortStableFunc(ranked, func(a, b int) int { return cmp.Compare(p.groups[b].idf, p.groups[a].idf) })
	ranked = ranked[:maxGroups]
	slices.Sort(ranked)
	kept := make([]group, 0, maxGroups)
	for _, i := range ranked {
		kept = append(kept, p.groups[i])
	}
	p.groups = kept
}

// weight is what the whole question weighs; a word that no document has weighs as
// much as the rarest.
func (p *part) weight() float32 {
	var sum float32
	for _, g := range p.groups {
		sum += g.idf
	}
	return sum + float32(p.unknown)*p.segment.idf(0)
}
