package search

import (
	"cmp"
	"maps"
	"slices"
	"strings"
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

// titleIndex finds documents by the beginnings of the words in their titles and keywords.
type titleIndex struct {
	docs   map[string][]uint32
	sorted []string
	short  map[string][]uint32 // some documents by the first letters of words
	read   map[string][]uint32 // likewise, those that are read much
}

func newTitleIndex() titleIndex {
	return titleIndex{docs: map[string][]uint32{}, short: map[string][]uint32{}, read: map[string][]uint32{}}
}

// Of words of which only a few letters are typed, so many documents are kept ready.
const (
	shortest  = 4
	shortList = 200
)

func (t *titleIndex) add(doc uint32, words []string) {
	seen := make(map[string]bool, len(words))
	for _, w := range words {
		if seen[w] {
			continue
		}
		seen[w] = true
		list, known := t.docs[w]
		if !known {
			if n := len(t.sorted); n > 0 && t.sorted[n-1] > w {
				at, _ := slices.BinarySearch(t.sorted, w)
				t.sorted = slices.Insert(t.sorted, at, w)
			} else {
				t.sorted = append(t.sorted, w)
			}
		}
		t.docs[w] = append(list, doc)
		keepShort(t.short, doc, w)
	}
}

// keepShort puts a document under the first letters of a word, as far as there is room.
func keepShort(lists map[string][]uint32, doc uint32, word string) {
	for n := 1; n <= shortest; n++ {
		beginning := firstLetters(word, n)
		list := lists[beginning]
		if beginning != "" && len(list) < shortList && (len(list) == 0 || list[len(list)-1] != doc) {
			lists[beginning] = append(list, doc)
		}
	}
}

func (t *titleIndex) clone() titleIndex {
	c := titleIndex{docs: maps.Clone(t.docs), sorted: slices.Clone(t.sorted), short: maps.Clone(t.short), read: t.read}
	for w, list := range c.docs {
		c.docs[w] = slices.Clip(list)
	}
	for w, list := range c.short {
		c.short[w] = slices.Clip(list)
	}
	return c
}

// firstLetters gives the first n letters of a word, "" where it has fewer.
func firstLetters(word string, n int) string {
	for i := range word {
		if n == 0 {
			return word[:i]
		}
		n--
	}
	if n == 0 {
		return word
	}
	return ""
}

// beginning lists the words that begin so.
func (t *titleIndex) beginning(prefix string) []string {
	from, _ := slices.BinarySearch(t.sorted, prefix)
	to := from
	for to < len(t.sorted) && strings.HasPrefix(t.sorted[to], prefix) {
		to++
	}
	return t.sorted[from:to]
}

// SetPopular tells how often articles are read, by reference; the more are offered first.
func (x *Index) SetPopular(reads map[string]float32) {
	x.mu.Lock()
	defer x.mu.Unlock()
	x.popular = reads
	x.spreadPopular()
}

// spreadPopular writes to each shelf what is read much of it.
func (x *Index) spreadPopular() {
	reads := x.popular
	most := slices.SortedFunc(maps.Keys(reads), func(a, b string) int {
		return cmp.Or(cmp.Compare(reads[b], reads[a]), strings.Compare(a, b))
	})
	for language, s := range x.shelves {
		s.titles.read, s.reads = map[string][]uint32{}, make([]float32, len(s.docs))
		for _, article := range most {
			for _, reference := range []string{article, article + "." + language} {
				if id, ok := s.byRef[reference]; ok {
					s.reads[id] = reads[article]
					for _, w := range s.docs[id].words {
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
	var found []completion
	for _, doc := range p.beginWith(words) {
		if !p.sees(doc) {
			continue
		}
		d := &p.shelf.docs[doc]
		c := completion{doc, completionRank(d, words, p.shelf.readsOf(doc))}
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
		d := &p.shelf.docs[c.doc]
		out = append(out, Suggestion{Text: d.title, Reference: d.reference})
	}
	return out
}

// looked bounds how many documents are weighed for a completion.
const looked = 3000

// beginWith gives the documents in which every word typed begins a word of the title
// or of the keywords. A word with a slip is taken for the nearest one.
func (p *part) beginWith(words []string) []uint32 {
	t := &p.shelf.titles
	if len(words) == 1 && len([]rune(words[0])) <= shortest {
		list := slices.Concat(t.read[words[0]], t.short[words[0]])
		if slices.ContainsFunc(list, p.sees) {
			slices.Sort(list)
			return slices.Compact(list)
		}
	}
	rarest, least := []string(nil), -1
	for i, w := range words {
		some := t.beginning(w)
		if len(some) == 0 && (i < len(words)-1 || len([]rune(w)) >= 5) {
			if found := p.shelf.correct(w); len(found) > 0 {
				words[i] = fold(found[0].word)
				some = t.beginning(words[i])
			}
		}
		n := 0
		for _, s := range some {
			n += len(t.docs[s])
		}
		if n == 0 {
			return nil
		}
		if least < 0 || n < least {
			rarest, least = some, n
		}
	}
	var found []uint32
	left := looked
	for _, w := range rarest {
		for _, doc := range t.docs[w][:min(left, len(t.docs[w]))] {
			if left--; len(words) == 1 || begins(p.shelf.docs[doc].words, words) {
				found = append(found, doc)
			}
		}
	}
	slices.Sort(found)
	return slices.Compact(found)
}

// completionRank puts titles that go on from what was typed first, then titles that
// hold it, then keywords; among equals what is read most, and the shorter title.
func completionRank(d *document, words []string, reads float32) float32 {
	title := d.words[:d.titleWords]
	rank := reads / (reads + 50)
	switch {
	case len(title) >= len(words) && slices.EqualFunc(title[:len(words)], words, strings.HasPrefix):
		rank += 3
	case begins(title, words):
		rank += 2
	}
	return rank - float32(len(title))/100
}
