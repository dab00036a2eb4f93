package search

import (
	"cmp"
	"maps"
	"slices"
	"strings"
	"unicode/utf8"
)

// Suggestion completes what is being typed.
type Suggestion struct {
	Text      string // a title, or a question that was asked often
	Reference string // of the article: of the title, or that answered the question
	Question  bool
}

// Question is one that was asked often, with what answers it.
type Question struct {
	Text      string
	Reference string // A-0042
	Times     int
}

// asked is a popular question with its words.
type asked struct {
	Question
	words []string
}

// SetPopular tells how often articles are read, by reference; the more are offered first.
func (x *Index) SetPopular(reads map[string]float32) {
	x.mu.Lock()
	defer x.mu.Unlock()
	x.popular = reads
	x.spreadPopular()
}

// spreadPopular writes to each segment what is read much of it.
func (x *Index) spreadPopular() {
	reads := x.popular
	most := slices.SortedFunc(maps.Keys(reads), func(a, b string) int {
		return cmp.Or(cmp.Compare(reads[b], reads[a]), strings.Compare(a, b))
	})
	for language, s := range x.segments {
		s.titles.read, s.reads = map[string][]uint32{}, make([]float32, len(s.docs))
		for _, article := range most {
			for _, reference := range []string{article, article + "." + language} {
				if id, ok := s.byRef[reference]; ok {
					s.reads[id] = reads[article]
					for _, w := range s.titles.spelt(s.docs[id].words) {
						keepShort(s.titles.read, id, w)
					}
				}
			}
		}
	}
}

// SetQuestions tells which questions are asked often on a site (0 for every site).
func (x *Index) SetQuestions(site int64, questions []Question) {
	list := make([]asked, 0, len(questions))
	for _, q := range questions {
		list = append(list, asked{q, typed(q.Text)})
	}
	slices.SortStableFunc(list, func(a, b asked) int { return cmp.Compare(b.Times, a.Times) })
	x.mu.Lock()
	defer x.mu.Unlock()
	x.questions[site] = list
}

func typed(text string) []string {
	var words []string
	for _, t := range cut(text) {
		if !t.joined {
			words = append(words, fold(t.word))
		}
	}
	return words
}

// maxTyped bounds what is looked at of what is being typed, in words.
const maxTyped = 12

// Complete gives at most limit ways to go on with what is being typed: questions that
// others asked, and articles whose titles or keywords hold words that begin so. Of
// both, only what the viewer may see is offered.
func (x *Index) Complete(r Request, site int64) []Suggestion {
	words := typed(r.Words)
	if len(words) == 0 || len(words) > maxTyped || r.Limit <= 0 {
		return nil
	}
	x.mu.RLock()
	defer x.mu.RUnlock()
	out := x.completeQuestions(r, site, words)
	have := map[string]bool{}
	for _, part := range x.parts(Request{Language: r.Language, Viewer: r.Viewer, Within: r.Within}) {
		for _, s := range part.complete(words, r.Limit) {
			if !have[articleOf(s.Reference)] {
				have[articleOf(s.Reference)] = true
				out = append(out, s)
			}
		}
	}
	return out[:min(len(out), r.Limit)]
}

// questionsOffered is how many of the suggestions may be questions.
const questionsOffered = 3

func (x *Index) completeQuestions(r Request, site int64, words []string) []Suggestion {
	var out []Suggestion
	for _, q := range x.questions[site] {
		if len(out) == min(questionsOffered, r.Limit) {
			break
		}
		if !begins(q.words, words) {
			continue
		}
		if _, _, ok := x.lookUp(r, q.Reference); ok {
			out = append(out, Suggestion{q.Text, q.Reference, true})
		}
	}
	return out
}

// begins reports whether each of the words typed begins one of the others.
func begins(others, words []string) bool {
	for _, w := range words {
		if !slices.ContainsFunc(others, func(o string) bool { return strings.HasPrefix(o, w) }) {
			return false
		}
	}
	return true
}

// completion is a document that completes, with how well.
type completion struct {
	doc  uint32
	rank float32
}

func (p *part) complete(words []string, limit int) []Suggestion {
	beginnings, ok := p.beginnings(words)
	if !ok {
		return nil
	}
	var found []completion
	for _, doc := range p.beginWith(words, beginnings) {
		if !p.sees(doc) {
			continue
		}
		c := completion{doc, p.segment.completionRank(doc, beginnings)}
		if len(found) == limit && c.rank <= found[limit-1].rank {
			continue
		}
		at, _ := slices.BinarySearchFunc(found, c, func(a, b completion) int {
			return cmp.Or(cmp.Compare(b.rank, a.rank), cmp.Compare(a.doc, b.doc))
		})
		found = slices.Insert(found, at, c)
		found = found[:min(len(found), limit)]
	}
	var out []Suggestion
	for _, c := range found {
		d := &p.segment.docs[c.doc]
		out = append(out, Suggestion{Text: d.title, Reference: d.reference})
	}
	return out
}

// beginnings gives what each word typed may go on to. A word with a slip is taken for
// the nearest one. ok is false when there is nothing for one of them.
func (p *part) beginnings(words []string) (list []beginning, ok bool) {
	t := &p.segment.titles
	for i, w := range words {
		b := t.beginning(w)
		if b.from == b.to && (i < len(words)-1 || utf8.RuneCountInString(w) >= 5) {
			found := p.segment.correctTo(w, func(w *written) bool { return t.has(fold(w.word)) })
			if len(found) > 0 {
				b = t.beginning(fold(found[0].word))
			}
		}
		if b.from == b.to {
			return nil, false
		}
		list = append(list, b)
	}
	return list, true
}

// looked bounds how many documents are weighed for a completion.
const looked = 3000

// beginWith gives the documents in which every word typed begins a word of the title
// or of the keywords.
func (p *part) beginWith(words []string, beginnings []beginning) []uint32 {
	t := &p.segment.titles
	if len(words) == 1 && utf8.RuneCountInString(words[0]) <= shortest {
		list := slices.Concat(t.read[words[0]], t.short[words[0]])
		if slices.ContainsFunc(list, p.sees) {
			slices.Sort(list)
			return slices.Compact(list)
		}
	}
	rarest, least := beginnings[0], -1
	for _, b := range beginnings {
		n := 0
		for _, w := range t.sorted[b.from:b.to] {
			if n += len(t.docs[w]); least >= 0 && n >= least {
				break
			}
		}
		if least < 0 || n < least {
			rarest, least = b, n
		}
	}
	var found []uint32
	left := looked
	for _, w := range t.sorted[rarest.from:rarest.to] {
		for _, doc := range t.docs[w][:min(left, len(t.docs[w]))] {
			if left--; len(words) == 1 || t.holds(p.segment.docs[doc].words, beginnings) {
				found = append(found, doc)
			}
		}
	}
	slices.Sort(found)
	return slices.Compact(found)
}

// completionRank puts titles that go on from what was typed first, then titles that
// hold it, then keywords; among equals what is read most, and the shorter title.
func (s *segment) completionRank(doc uint32, beginnings []beginning) float32 {
	t, d, reads := &s.titles, &s.docs[doc], s.readsOf(doc)
	title := d.words[:d.titleWords]
	rank := reads / (reads + 50)
	switch {
	case len(title) >= len(beginnings) && slices.EqualFunc(beginnings, title[:len(beginnings)], t.begins):
		rank += 3
	case t.holds(title, beginnings):
		rank += 2
	}
	return rank - float32(len(title))/100
}
