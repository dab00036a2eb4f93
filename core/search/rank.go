package search

import (
	"cmp"
	"slices"
	"strings"
	"sync"
)

// Weights say how much a word in each field tells, by FieldNames.
type Weights [fieldCount]float32

// StandardWeights are taken where a site sets none.
var StandardWeights = Weights{3, 2.5, 1.5, 1}

// The ranking function is BM25F (Robertson & Zaragoza, The Probabilistic Relevance
// Framework: BM25 and Beyond, 2009, formula 3.11): the frequencies of a term in each
// field are weighed, divided by the field's length against the average, and added,
// before they are saturated by k1. How near words stand to each other, and how many
// of them stand in one block, is added for the best candidates.
const (
	k1           = 1.6
	proximity    = 0.5
	togetherness = 0.25
	titleMatch   = 0.6
)

// lengthShare is b of each field: how much its length counts.
var lengthShare = [fieldCount]float32{0.4, 0.3, 0.5, 0.75}

// candidates is how many of the best by their words alone are looked at closely.
const candidates = 64

// leastCoverage is the share of what was asked that an article must have, weighed
// by rarity: one common word of many is not enough.
const leastCoverage = 0.12

// scratch is what one search works with; it is used again by the next.
type scratch struct {
	score   []float32 // by document, 0 but while a search goes on
	touched []uint32
	group   []float32
	ofGroup []uint32
	marks   []uint8 // by term: the group that it belongs to, from 1
}

var scratches = sync.Pool{New: func() any { return new(scratch) }}

func (w *scratch) fit(docs, terms int) {
	if len(w.score) < docs {
		w.score, w.group = make([]float32, docs+docs/8), make([]float32, docs+docs/8)
	}
	if len(w.marks) < terms {
		w.marks = make([]uint8, terms+terms/8)
	}
}

func (w *scratch) clear() {
	for _, d := range w.touched {
		w.score[d] = 0
	}
	w.touched = w.touched[:0]
}

// fieldNorm is what divides a frequency: a + b·length.
type fieldNorm struct{ weight, a, b float32 }

func (p *part) norms() [fieldCount]fieldNorm {
	weights := StandardWeights
	if p.request.Rules != nil && p.request.Rules.Weights != (Weights{}) {
		weights = p.request.Rules.Weights
	}
	var norms [fieldCount]fieldNorm
	for f := range norms {
		average := float32(1)
		if p.segment.alive > 0 && p.segment.total[f] > 0 {
			average = float32(p.segment.total[f]) / float32(p.segment.alive)
		}
		norms[f] = fieldNorm{weights[f], 1 - lengthShare[f], lengthShare[f] / average}
	}
	return norms
}

// frequency is the weighed frequency of a posting's term.
func frequency(tf *[fieldCount]uint8, lengths *[fieldCount]uint16, norms *[fieldCount]fieldNorm) float32 {
	var w float32
	for f := range norms {
		if tf[f] != 0 {
			n := &norms[f]
			w += n.weight * float32(tf[f]) / (n.a + n.b*float32(lengths[f]))
		}
	}
	return w
}

func saturated(w float32) float32 { return w * (k1 + 1) / (w + k1) }

// tally adds up what each document scores by its words, the rarest word first. Once
// the words that are left cannot bring a new document among the best, only those that
// can still be among them are gone on with (the idea of MaxScore: Turtle & Flood,
// Query Evaluation: Strategies and Optimizations, 1995).
func (p *part) tally(w *scratch, want int) {
	norms := p.norms()
	order := make([]int, len(p.groups))
	var left float32
	for i := range order {
		order[i] = i
		left += p.groups[i].idf * (k1 + 1)
	}
	slices.SortFunc(order, func(a, b int) int { return cmp.Compare(p.groups[b].idf, p.groups[a].idf) })
	pruned := false
	for n, i := range order {
		g := &p.groups[i]
		if n > 0 && len(w.touched) > want {
			if least := p.worstOfBest(w, want); least > left {
				w.touched = keepAbove(w, least-left)
				pruned = true
			}
		}
		left -= g.idf * (k1 + 1)
		if len(g.variants) == 1 && len(g.variants[0].terms) == 1 && g.variants[0].factor == 1 {
			p.tallyTerm(w, g.variants[0].terms[0], g.idf, &norms, pruned)
			continue
		}
		p.gather(w, g, &norms)
		for _, doc := range w.ofGroup {
			if !pruned || w.score[doc] != 0 {
				w.add(doc, g.idf*saturated(w.group[doc]))
			}
			w.group[doc] = 0
		}
		w.ofGroup = w.ofGroup[:0]
	}
}

// tallyTerm adds what one term scores, when pruned only to documents that have a
// score already.
func (p *part) tallyTerm(w *scratch, term uint32, idf float32, norms *[fieldCount]fieldNorm, pruned bool) {
	list, lengths := p.segment.lists[term], p.segment.lengths
	if pruned && len(w.touched)*16 < len(list) {
		for _, doc := range w.touched {
			if at, ok := slices.BinarySearchFunc(
				list,
				doc,
				func(q posting, d uint32) int { return int(q.doc) - int(d) },
			); ok {
				w.score[doc] += idf * saturated(frequency(&list[at].tf, &lengths[doc], norms))
			}
		}
		return
	}
	for j := range list {
		l := &list[j]
		if pruned && w.score[l.doc] == 0 {
			continue
		}
		w.add(l.doc, idf*saturated(frequency(&l.tf, &lengths[l.doc], norms)))
	}
}

func (w *scratch) add(doc uint32, score float32) {
	if score == 0 {
		return // it holds the word only where words tell nothing
	}
	if w.score[doc] == 0 {
		w.touched = append(w.touched, doc)
	}
	w.score[doc] += score
}

// worstOfBest is the lowest score among so many of the best that the viewer may see.
func (p *part) worstOfBest(w *scratch, want int) float32 {
	top := p.best(w, want)
	if len(top) < want {
		return 0
	}
	return top[0].score
}

// keepAbove forgets the documents that score less.
func keepAbove(w *scratch, least float32) []uint32 {
	kept := w.touched[:0]
	for _, doc := range w.touched {
		if w.score[doc] >= least {
			kept = append(kept, doc)
		} else {
			w.score[doc] = 0
		}
	}
	return kept
}

// best gives so many of the documents with the highest scores that the viewer may see.
func (p *part) best(w *scratch, want int) heap {
	top := make(heap, 0, want)
	for _, doc := range w.touched {
		score := w.score[doc]
		if len(top) == want && score <= top[0].score || !p.sees(doc) {
			continue
		}
		top.push(best{doc, score}, want)
	}
	return top
}

// gather adds the frequencies of a group's variants, document by document, each with
// its factor; of a variant of several terms, the rarest of them counts.
func (p *part) gather(w *scratch, g *group, norms *[fieldCount]fieldNorm) {
	s := p.segment
	for _, v := range g.variants {
		lists := make([][]posting, len(v.terms))
		for i, t := range v.terms {
			lists[i] = s.lists[t]
		}
		slices.SortFunc(lists, func(a, b []posting) int { return len(a) - len(b) })
		for j := range lists[0] {
			l := &lists[0][j]
			least := frequency(&l.tf, &s.lengths[l.doc], norms)
			for _, other := range lists[1:] {
				at, ok := slices.BinarySearchFunc(
					other,
					l.doc,
					func(q posting, doc uint32) int { return int(q.doc) - int(doc) },
				)
				if !ok {
					least = 0
					break
				}
				least = min(least, frequency(&other[at].tf, &s.lengths[l.doc], norms))
			}
			if least == 0 {
				continue
			}
			if w.group[l.doc] == 0 {
				w.ofGroup = append(w.ofGroup, l.doc)
			}
			w.group[l.doc] += least * v.factor
		}
	}
}

// best is a document with its score, in a heap with the worst on top.
type best struct {
	doc   uint32
	score float32
}

// find gives the best hits of the segment.
func (p *part) find() []Hit {
	if len(p.groups) == 0 {
		return nil
	}
	w := scratches.Get().(*scratch)
	defer scratches.Put(w)
	w.fit(len(p.segment.docs), len(p.segment.lists))
	defer w.clear()
	want := max(candidates, p.request.Limit)
	p.tally(w, want)
	top := p.best(w, want)
	whole := p.weight()
	p.mark(w, true)
	defer p.mark(w, false)
	kept := top[:0]
	coverage := make(map[uint32]float32, len(top))
	for _, b := range top {
		near, covered := p.nearness(w, &p.segment.docs[b.doc])
		if covered >= leastCoverage*whole || p.loose {
			coverage[b.doc] = min(1, covered/whole)
			kept = append(kept, best{b.doc, b.score + near})
		}
	}
	slices.SortFunc(kept, func(a, b best) int {
		return cmp.Or(
			cmp.Compare(b.score, a.score),
			strings.Compare(p.segment.docs[a.doc].reference, p.segment.docs[b.doc].reference),
		)
	})
	hits := make([]Hit, min(len(kept), p.request.Limit))
	for i := range hits {
		d := &p.segment.docs[kept[i].doc]
		hits[i] = d.hit()
		hits[i].Score = float64(kept[i].score)
		hits[i].Coverage = float64(coverage[kept[i].doc])
		hits[i].Passage = p.passage(w, d)
	}
	return hits
}

type heap []best

// push keeps the most best.
func (h *heap) push(b best, most int) {
	list := *h
	if len(list) < most {
		list = append(list, b)
		for i := len(list) - 1; i > 0; {
			up := (i - 1) / 2
			if list[up].score <= list[i].score {
				break
			}
			list[up], list[i] = list[i], list[up]
			i = up
		}
		*h = list
		return
	}
	list[0] = b
	for i := 0; ; {
		down := 2*i + 1
		if down >= len(list) {
			return
		}
		if down+1 < len(list) && list[down+1].score < list[down].score {
			down++
		}
		if list[i].score <= list[down].score {
			return
		}
		list[i], list[down] = list[down], list[i]
		i = down
	}
}
