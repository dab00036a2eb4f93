package search

import (
	"cmp"
	"errors"
	"slices"
	"strings"

	"hermeneus/core/audience"
)

// MaxQuery is the longest question that is looked for, in characters.
const MaxQuery = 4000

// ErrTooLong is given for a question over MaxQuery.
var ErrTooLong = errors.New("the question is longer than 4 000 characters")

// maxGroups bounds the work that a very long question causes: the rarest of its
// words are looked for.
const maxGroups = 24

// Request says what is looked for, by whom.
type Request struct {
	Words    string
	Language string // of the visitor; "" for that of the source
	Viewer   audience.Viewer
	Within   func(category int64) bool // nil for every category
	Limit    int
	Rules    *Rules // of the site; nil for none
}

// Hit is an article found.
type Hit struct {
	Reference string // of the edition: A-0042, or A-0042.de
	Revision  int
	Title     string
	Summary   string
	Score     float64
	Coverage  float64 // share of what was asked that the article says, weighed by rarity, 0 to 1
	Pinned    bool
	Passage   Passage
}

// Result is what a search found.
type Result struct {
	Hits    []Hit
	Instead []Instead // words that were taken for others
	Asked   int       // how many words of the question were looked for
}

// What is offered unasked holds at least this share of a question of few words; of a
// long text less, since much in it is beside the question.
const (
	fitsEnough = 0.3
	fewWords   = 6
)

// Fitting leaves out the hits that fit the question badly: what is left can be offered
// to somebody who did not ask for a search.
func (r Result) Fitting() []Hit {
	least := fitsEnough * min(1, fewWords/float64(max(1, r.Asked)))
	var fit []Hit
	for _, h := range r.Hits {
		if h.Coverage >= least {
			fit = append(fit, h)
		}
	}
	return fit
}

// Instead is a word that was taken for another, since no article has it, in no language
// that was looked through.
type Instead struct {
	Word string `json:"word"`
	For  string `json:"for"`
}

// Find gives the articles that fit the words and that the viewer may see, the best
// first, each with the passage that fits best. What is written in the language asked
// for stands in the place of its source. It returns ErrTooLong for words over MaxQuery.
func (x *Index) Find(r Request) (Result, error) {
	if len([]rune(r.Words)) > MaxQuery {
		return Result{}, ErrTooLong
	}
	if r.Limit <= 0 || strings.TrimSpace(r.Words) == "" {
		return Result{}, nil
	}
	x.mu.RLock()
	defer x.mu.RUnlock()
	var result Result
	for _, part := range x.parts(r) {
		result.Hits = append(result.Hits, part.find()...)
		result.Asked = max(result.Asked, len(part.groups)+part.unknown)
		if len(result.Instead) == 0 {
			result.Instead = part.instead
		}
	}
	slices.SortStableFunc(result.Hits, byScore)
	result.Hits = x.named(r, result.Hits)
	result.Hits = r.Rules.arrange(x, r, result.Hits)
	result.Hits = result.Hits[:min(len(result.Hits), r.Limit)]
	return result, nil
}

// letterLooked is how many articles are looked through for a letter.
const letterLooked = 50

// FindRequest gives the articles that fit a request: first those that fit its subject, which
// names its matter, and among them the best for the whole; then what fits only the text
// below it, where much else is said. It returns ErrTooLong as Find does.
func (x *Index) FindRequest(r Request, subject string) (Result, error) {
	limit := r.Limit
	r.Limit = max(limit, letterLooked)
	whole, err := x.Find(r)
	if err != nil {
		return whole, err
	}
	r.Words = subject
	named, err := x.Find(r)
	if err != nil {
		return whole, err
	}
	fits := named.Fitting()
	has := func(list []Hit, ref string) bool {
		return slices.ContainsFunc(list, func(h Hit) bool { return h.Reference == ref })
	}
	var first, then []Hit
	for _, h := range whole.Hits {
		if has(fits, h.Reference) {
			first = append(first, h)
		} else {
			then = append(then, h)
		}
	}
	for _, h := range fits { // what has only the subject of it
		if !has(first, h.Reference) {
			first = append(first, h)
		}
	}
	whole.Hits = append(first, then...)
	whole.Hits = whole.Hits[:min(limit, len(whole.Hits))]
	return whole, nil
}

// Near gives the categories of articles that have anything of the question, however
// little, the nearest first.
func (x *Index) Near(r Request) []int64 {
	x.mu.RLock()
	defer x.mu.RUnlock()
	var near []int64
	for _, p := range x.parts(r) {
		p.loose = true
		for _, h := range p.find() {
			if c := p.segment.docs[p.segment.byRef[h.Reference]].category; !slices.Contains(near, c) {
				near = append(near, c)
			}
		}
	}
	return near
}

// Search finds for a viewer in the source's language, without a site's rules.
func (x *Index) Search(words string, viewer audience.Viewer, limit int) ([]Hit, error) {
	result, err := x.Find(Request{Words: words, Viewer: viewer, Limit: limit})
	return result.Hits, err
}

func byScore(a, b Hit) int {
	return cmp.Or(cmp.Compare(b.Score, a.Score), strings.Compare(a.Reference, b.Reference))
}

// parts are the segments that a request looks through: that of its language, and that
// of the source for what is not written in it.
func (x *Index) parts(r Request) []*part {
	var parts []*part
	if s := x.segments[r.Language]; s != nil && r.Language != x.source {
		parts = append(parts, &part{segment: s, request: r, audiences: s.openTo(r.Viewer)})
	}
	if s := x.segments[x.source]; s != nil {
		p := &part{segment: s, request: r, audiences: s.openTo(r.Viewer)}
		if len(parts) > 0 {
			p.hidden = parts[0].segment.byRef
		}
		parts = append(parts, p)
	}
	for i, p := range parts {
		if len(parts) == 2 {
			p.other = parts[1-i].segment
		}
		p.read()
	}
	return parts
}

// part is a request to one segment.
type part struct {
	segment   *segment
	other     *segment // that is looked through as well, nil for none
	request   Request
	audiences []bool            // that the viewer belongs to, by their numbers on the segment
	hidden    map[string]uint32 // editions that stand in the place of the segment's own
	groups    []group
	unknown   int  // words that no document has
	loose     bool // whatever holds any of the words is a hit
	instead   []Instead
}

// sees reports whether the viewer may be told of a document here.
func (p *part) sees(id uint32) bool {
	a := p.segment.access[id]
	if !p.audiences[a.audience] || p.request.Within != nil && !p.request.Within(a.category) {
		return false
	}
	if p.hidden != nil {
		if _, ok := p.hidden[p.segment.docs[id].reference+"."+p.request.Language]; ok {
			return false
		}
	}
	return true
}

// lookUp gives the edition of an article that the request's viewer reads, if any.
func (x *Index) lookUp(r Request, article string) (*part, uint32, bool) {
	for _, p := range x.parts(Request{Language: r.Language, Viewer: r.Viewer, Within: r.Within}) {
		for _, ref := range []string{article, article + "." + r.Language} {
			if id, ok := p.segment.byRef[ref]; ok && p.sees(id) {
				return p, id, true
			}
		}
	}
	return nil, 0, false
}

// named puts the articles first whose references stand in the words.
func (x *Index) named(r Request, hits []Hit) []Hit {
	var first []Hit
	for _, word := range strings.FieldsFunc(r.Words, func(c rune) bool { return c <= ' ' || strings.ContainsRune(",;:()?!\"'“”", c) }) {
		word = strings.TrimSuffix(strings.ToUpper(word), ".")
		if len(word) < 3 || len(word) > 12 || word[1] != '-' || len(first) == 5 {
			continue
		}
		if p, id, ok := x.lookUp(r, word); ok {
			d := p.segment.docs[id]
			hit := d.hit()
			hit.Coverage, hit.Passage = 1, d.beginning()
			if at := slices.IndexFunc(hits, func(h Hit) bool { return h.Reference == d.reference }); at >= 0 {
				hit = hits[at]
				hits = slices.Delete(hits, at, at+1)
			}
			first = append(first, hit)
		}
	}
	return append(first, hits...)
}
