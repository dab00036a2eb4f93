package search

import (
	"maps"
	"slices"
	"strings"

	"hermeneus/core/audience"
)

// The fields of a document.
const (
	inTitle = iota
	inKeywords
	inHeadings
	inBody
	fieldCount
)

// FieldNames are the fields, in the order of Weights.
var FieldNames = [fieldCount]string{"title", "keywords", "headings", "body"}

// posting says how often a term stands in each field of a document.
type posting struct {
	doc uint32
	tf  [fieldCount]uint8
}

// blockEnd stands between the blocks of a document's terms.
const blockEnd = 0

// segment is the index of one language.
type segment struct {
	language  string
	lexicon   *lexicon
	lists     [][]posting // by term, in the order of documents
	df        []int32     // how many documents of today hold a term
	docs      []document
	gone      []bool
	audiences map[audience.Audience]uint32 // their numbers, from 1
	access    []access                     // what sees looks at, close together
	reads     []float32                    // how often documents are read; later documents have no entry
	lengths   [][fieldCount]uint16         // in terms
	total     [fieldCount]int
	alive     int
	byRef     map[string]uint32
	titles    titleIndex
}

// access tells who may see a document, and on which help centres it stands.
type access struct {
	category int64
	audience uint32 // by its number in the segment; 0 for what nobody may see
}

// numberOf gives the number of an audience in the segment, a new one where it has none.
func (s *segment) numberOf(a audience.Audience) uint32 {
	if !a.Valid() {
		return 0
	}
	n, ok := s.audiences[a]
	if !ok {
		n = uint32(len(s.audiences) + 1)
		s.audiences[a] = n
	}
	return n
}

// openTo tells, by number, which audiences of the segment a viewer belongs to.
func (s *segment) openTo(v audience.Viewer) []bool {
	open := make([]bool, len(s.audiences)+1)
	for a, n := range s.audiences {
		open[n] = v.MaySee(a)
	}
	return open
}

// document is what is kept of a document.
type document struct {
	reference, title string
	revision         int
	summary          string
	body             string
	audience         audience.Audience
	category         int64
	terms            []uint32 // field by field, block by block, blockEnd between them
	bodyFrom         int      // where those of the body begin
	words            []uint32 // of title and keywords, by their numbers among those of titles
	titleWords       int      // how many of them are the title's
	titleTells       int      // how many of the title's terms are no empty words
}

// hit is what is found of a document, as yet without a score.
func (d *document) hit() Hit {
	return Hit{Reference: d.reference, Revision: d.revision, Title: d.title, Summary: d.summary}
}

// readied is a document cut into terms.
type readied struct {
	document
	words    []string  // of title and keywords
	postings []posting // their doc is the term here
	lengths  [fieldCount]uint16
}

// counter finds the posting of a term among those of a document.
type counter struct{ at []int32 }

func newShelf(language string) (*segment, error) {
	x, err := newLexicon(language)
	if err != nil {
		return nil, err
	}
	return &segment{
		language:  language,
		lexicon:   x,
		byRef:     map[string]uint32{},
		audiences: map[audience.Audience]uint32{},
		titles:    newTitleIndex(),
	}, nil
}

// ready cuts a document into terms.
func (x *lexicon) ready(d Document, own *counter) readied {
	r := readied{
		document: document{
			reference: d.Reference,
			revision:  d.Revision,
			title:     d.Title,
			summary:   d.Summary,
			body:      d.Body,
			audience:  d.Audience,
			category:  d.Category,
		},
	}
	for f, text := range [fieldCount]string{d.Title, strings.Join(d.Keywords, "\n"), strings.Join(d.Headings, "\n"), d.Body} {
		if f == inBody {
			r.bodyFrom = len(r.terms)
		}
		for block := range strings.SplitSeq(text, "\n") {
			for _, t := range cut(block) {
				if f <= inKeywords && !t.joined {
					r.words = append(r.words, fold(t.word))
				}
				id := x.learn(t)
				if empty := id&emptyBit != 0; empty && f == inBody {
					continue
				} else if f == inTitle && !empty && !t.joined {
					r.titleTells++
				}
				r.count(id&^emptyBit, f, own)
			}
			r.terms = append(r.terms, blockEnd)
		}
		if f == inTitle {
			r.titleWords = len(r.words)
		}
	}
	for _, p := range r.postings {
		own.at[p.doc] = 0
	}
	r.terms = slices.Clip(r.terms)
	return r
}

func (r *readied) count(term uint32, field int, own *counter) {
	r.terms = append(r.terms, term)
	if int(term) >= len(own.at) {
		own.at = append(own.at, make([]int32, int(term)+1+len(own.at)/4-len(own.at))...)
	}
	if own.at[term] == 0 {
		r.postings = append(r.postings, posting{doc: term})
		own.at[term] = int32(len(r.postings))
	}
	if tf := &r.postings[own.at[term]-1].tf[field]; *tf < 255 {
		*tf++
	}
	if r.lengths[field] < 65535 {
		r.lengths[field]++
	}
}

func (s *segment) add(r readied) {
	if n := s.lexicon.size() - len(s.lists); n > 0 {
		s.lists, s.df = append(s.lists, make([][]posting, n)...), append(s.df, make([]int32, n)...)
	}
	id := uint32(len(s.docs))
	for _, p := range r.postings {
		s.lists[p.doc] = append(s.lists[p.doc], posting{id, p.tf})
		s.df[p.doc]++
	}
	s.docs, s.gone, s.lengths = append(s.docs, r.document), append(s.gone, false), append(s.lengths, r.lengths)
	s.access = append(s.access, access{r.category, s.numberOf(r.audience)})
	for f, n := range r.lengths {
		s.total[f] += int(n)
	}
	s.byRef[r.reference] = id
	s.alive++
	s.docs[id].words = s.titles.add(id, r.words)
}

// readsOf is how often a document was read of late.
func (s *segment) readsOf(doc uint32) float32 {
	if int(doc) >= len(s.reads) {
		return 0
	}
	return s.reads[doc]
}

// held gives in how many documents of today a term is, 0 for one that none holds.
func (s *segment) held(term uint32) int32 {
	if int(term) >= len(s.df) {
		return 0
	}
	return s.df[term]
}

func (s *segment) remove(reference string) {
	id, ok := s.byRef[reference]
	if !ok {
		return
	}
	delete(s.byRef, reference)
	s.gone[id] = true
	s.alive--
	for f, n := range s.lengths[id] {
		s.total[f] -= int(n)
	}
	seen := map[uint32]bool{}
	for _, t := range s.docs[id].terms {
		if t != blockEnd && !seen[t] {
			seen[t] = true
			s.df[t]--
		}
	}
	s.docs[id], s.access[id] = document{}, access{}
}

// settle ends a change: new words of titles are sorted in, and the segment is made anew
// when most of what it holds is gone.
func (s *segment) settle() {
	defer func() { s.titles.sort() }()
	if len(s.docs) < 64 || s.alive*2 > len(s.docs) {
		return
	}
	moved := make([]uint32, len(s.docs))
	var docs []document
	var lengths [][fieldCount]uint16
	var open []access
	var reads []float32
	for i := range s.docs {
		if !s.gone[i] {
			moved[i] = uint32(len(docs))
			docs = append(docs, s.docs[i])
			lengths = append(lengths, s.lengths[i])
			open = append(open, s.access[i])
			reads = append(reads, s.readsOf(uint32(i)))
		}
	}
	for t, list := range s.lists {
		kept := make([]posting, 0, s.df[t])
		for _, p := range list {
			if !s.gone[p.doc] {
				p.doc = moved[p.doc]
				kept = append(kept, p)
			}
		}
		s.lists[t] = kept
	}
	s.docs, s.lengths, s.gone, s.access, s.reads = docs, lengths, make([]bool, len(docs)), open, reads
	before := s.titles
	s.titles = newTitleIndex()
	for i, d := range docs {
		s.byRef[d.reference] = uint32(i)
		docs[i].words = s.titles.add(uint32(i), before.spelt(d.words))
	}
}

// clone gives a copy that can be changed without changing the segment. The lexicon is
// the same: it only grows.
func (s *segment) clone() *segment {
	c := *s
	c.byRef = maps.Clone(s.byRef)
	c.df = slices.Clone(s.df)
	c.docs = slices.Clone(s.docs)
	c.gone = slices.Clone(s.gone)
	c.lengths = slices.Clone(s.lengths)
	c.access, c.audiences = slices.Clone(s.access), maps.Clone(s.audiences)
	c.lists = make([][]posting, len(s.lists))
	for i, list := range s.lists {
		c.lists[i] = slices.Clip(list) // what is added to it goes elsewhere
	}
	c.titles = s.titles.clone()
	return &c
}
