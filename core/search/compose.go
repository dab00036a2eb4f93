package search

import (
	"maps"
	"math"
	"slices"

	"hermeneus/core/article"
)

// Source is a live article that an answer may be composed from.
type Source struct {
	Reference string // of the edition
	Title     string
	Chapters  []article.Chapter
}

// Answer is made of passages taken word for word from one to three articles.
type Answer struct {
	Parts      []Part
	Confidence float64 // how likely the first article is the right one, 0 to 1; see confidence
}

// Part is a passage of one article.
type Part struct {
	Reference string
	Title     string
	Heading   string // under which it stands, "" for none
	Anchor    string
	Blocks    []article.Block
}

// Threshold is the confidence from which an answer is composed.
const Threshold = 0.6

// Bounds of a composed answer.
const (
	maxParts      = 3
	maxAnswer     = 700 // bytes of text in a part
	maxSteps      = 9
	addsAtLeast   = 0.2 // share of the question that a further part must add
	leastOfFirst  = 0.5 // share of the question that the first part must say
	chaptersTried = 60
)

// Likely reports whether an answer may be composed at all: with the whole question
// said, its confidence would be enough.
func Likely(hits []Hit) bool {
	return len(hits) > 0 && confidence(1, hits) >= Threshold
}

// Compose makes an answer of the articles found, the best first; hits are those of
// the same request. ok is false when it would not be sure enough: then there is no
// answer at all. No word of it is not in a source.
func (x *Index) Compose(r Request, hits []Hit, sources []Source) (answer Answer, ok bool) {
	if len(hits) == 0 || len(sources) == 0 {
		return Answer{}, false
	}
	x.mu.RLock()
	defer x.mu.RUnlock()
	have := map[int]bool{}
	var covered, whole float32
	for i, s := range sources[:min(len(sources), maxParts)] {
		p := x.partFor(r, s.Reference)
		if p == nil || len(p.groups) == 0 {
			continue
		}
		c := p.compose(s)
		if c.part.Blocks == nil {
			continue
		}
		whole = p.weight()
		adds := float32(0)
		for g := range c.groups {
			if !have[g] {
				adds += p.groups[g].idf
			}
		}
		if i == 0 {
			if adds < leastOfFirst*whole {
				return Answer{}, false
			}
			answer.Confidence = confidence(float64(adds/whole), hits)
		} else if len(answer.Parts) == 0 || adds < addsAtLeast*whole {
			continue
		}
		for g := range c.groups {
			have[g] = true
		}
		covered += adds
		answer.Parts = append(answer.Parts, c.part)
	}
	if len(answer.Parts) == 0 || answer.Confidence < Threshold {
		return Answer{Confidence: answer.Confidence}, false
	}
	return answer, true
}

// partFor is the request to the segment in which an edition stands.
func (x *Index) partFor(r Request, reference string) *part {
	for _, p := range x.parts(r) {
		if id, ok := p.segment.byRef[reference]; ok && p.sees(id) {
			return p
		}
	}
	return nil
}

// confidence is the chance that the first article found is the right one: a logistic
// function of how much of the question its passage says, and of how far it stands
// before the second. Its constants were fitted to the questions of two open FAQs and
// checked on a third; docs/search.md has the table, bench/retrieval makes it.
func confidence(said float64, hits []Hit) float64 {
	if hits[0].Pinned {
		return 1
	}
	ahead := 1.0
	if len(hits) > 1 && hits[0].Score > 0 {
		ahead = 1 - math.Min(1, hits[1].Score/hits[0].Score)
	}
	return 1 / (1 + math.Exp(-(confidenceBase + confidenceSaid*said + confidenceAhead*ahead)))
}

const (
	confidenceBase  = -1.45
	confidenceSaid  = 0.68
	confidenceAhead = 4.72
)

// composed is the passage of an article that fits best, and the groups it holds.
type composed struct {
	part   Part
	groups map[int]bool
}

func (p *part) compose(s Source) composed {
	inTitle := p.held(s.Title)
	var best composed
	most := float32(-1)
	for _, chapter := range s.Chapters[:min(len(s.Chapters), chaptersTried)] {
		heading := p.held(chapter.Heading)
		blocks, held := p.pick(chapter.Blocks)
		if len(blocks) == 0 {
			continue
		}
		weight := headingSays*p.told(heading, inTitle) + together*p.told(held, inTitle) + p.most(blocks, inTitle)
		if weight > most {
			most = weight
			for g := range heading {
				held[g] = true
			}
			best = composed{Part{s.Reference, s.Title, chapter.Heading, chapter.Anchor, blocks}, held}
		}
	}
	if best.part.Blocks == nil {
		return best
	}
	for g := range inTitle {
		best.groups[g] = true
	}
	return best
}

// How a chapter is chosen: by the block that says most, and less by its heading and by
// what its blocks say together. What the title says already, every chapter is about.
const (
	headingSays = 0.7
	together    = 0.3
	inTitleToo  = 0.4
)

// told weighs groups, those of the title less.
func (p *part) told(groups, inTitle map[int]bool) float32 {
	var sum float32
	for g := range groups {
		if inTitle[g] {
			sum += inTitleToo * p.groups[g].idf
		} else {
			sum += p.groups[g].idf
		}
	}
	return sum
}

// most is what the block says that says most; the steps of a list are one block.
func (p *part) most(blocks []article.Block, inTitle map[int]bool) float32 {
	var most float32
	steps := map[int]bool{}
	for _, b := range blocks {
		held := p.held(b.Text)
		if b.Kind == article.StepBlock {
			maps.Copy(steps, held)
		}
		most = max(most, p.told(held, inTitle))
	}
	return max(most, p.told(steps, inTitle))
}

// held are the groups that a text holds.
func (p *part) held(text string) map[int]bool {
	terms := map[uint32]bool{}
	for _, t := range cut(text) {
		if id, _ := p.segment.lexicon.lookUp(t.word); id != 0 {
			terms[id] = true
		}
	}
	found := map[int]bool{}
	for i, g := range p.groups {
		for _, v := range g.variants {
			if !slices.ContainsFunc(v.terms, func(t uint32) bool { return !terms[t] }) {
				found[i] = true
			}
		}
	}
	return found
}

func (p *part) sum(groups map[int]bool) float32 {
	var sum float32
	for g := range groups {
		sum += p.groups[g].idf
	}
	return sum
}

// pick takes the steps of a section whole, or else its block that says most of what
// was asked with those after it, as far as there is room. A table's cells are left out.
func (p *part) pick(blocks []article.Block) ([]article.Block, map[int]bool) {
	groups := map[int]bool{}
	add := func(list []article.Block) []article.Block {
		for _, b := range list {
			for g := range p.held(b.Text) {
				groups[g] = true
			}
		}
		return list
	}
	if first := slices.IndexFunc(
		blocks,
		func(b article.Block) bool { return b.Kind == article.StepBlock },
	); first >= 0 {
		end := first
		for end < len(blocks) && blocks[end].Kind == article.StepBlock {
			end++
		}
		if end-first <= maxSteps {
			from := first
			if from > 0 && blocks[from-1].Kind == article.TextBlock && size(blocks[from-1:end]) <= maxAnswer*2 {
				from-- // what leads up to the steps
			}
			if size(blocks[from:end]) <= maxAnswer*2 {
				return add(blocks[from:end]), groups
			}
		}
	}
	at, most := -1, float32(-1)
	for i, b := range blocks {
		if w := p.sum(p.held(b.Text)); b.Kind != article.CellBlock && w > most && len(b.Text) <= maxAnswer {
			at, most = i, w
		}
	}
	if at < 0 {
		return nil, groups
	}
	for at > 0 && blocks[at].Kind == article.ItemBlock && blocks[at-1].Kind != article.CellBlock && size(blocks[at-1:at+1]) <= maxAnswer {
		at-- // a list from its beginning, with what leads up to it
		if blocks[at].Kind != article.ItemBlock {
			break
		}
	}
	end := at + 1
	for end < len(blocks) && blocks[end].Kind != article.CellBlock && size(blocks[at:end+1]) <= maxAnswer {
		end++
	}
	return add(blocks[at:end]), groups
}

func size(blocks []article.Block) int {
	n := 0
	for _, b := range blocks {
		n += len(b.Text)
	}
	return n
}
