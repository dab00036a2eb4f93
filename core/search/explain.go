package search

import (
	"errors"
	"slices"
)

// ErrNoSuch is given for an article that is not in the index.
var ErrNoSuch = errors.New("the search does not know this article: it is not live")

// Explanation says why an article ranks where it does for a question.
type Explanation struct {
	Reference string          `json:"reference"` // of the edition
	Title     string          `json:"title"`
	Seen      bool            `json:"seen"`     // the viewer may see it; nothing ranks what they may not
	Place     int             `json:"place"`    // from 1; 0 where it is not among the first hundred
	Score     float64         `json:"score"`    // the sum of its words' and of nearness
	Coverage  float64         `json:"coverage"` // share of the question that it holds, weighed by rarity
	Words     []ExplainedWord `json:"words"`
	Nearness  float64         `json:"nearness"` // for words near each other, together in a block, or making up its title
	Pinned    bool            `json:"pinned"`
	Buried    bool            `json:"buried"`
	Unknown   int             `json:"unknown"` // words of the question that no article holds
	Instead   []Instead       `json:"instead"`
}

// ExplainedWord is one word, or one phrase with synonyms, of the question.
type ExplainedWord struct {
	Word   string         `json:"word"`
	Rarity float64        `json:"rarity"` // its inverse document frequency
	Held   int            `json:"held"`   // how many articles hold it, said in whichever way
	Score  float64        `json:"score"`
	Ways   []ExplainedWay `json:"ways"`
}

// ExplainedWay is one way of saying it that the article uses.
type ExplainedWay struct {
	Why    string  `json:"why"`    // "" for the word itself
	Factor float64 `json:"factor"` // what it counts beside the word itself
	Counts []int   `json:"counts"` // how often in each field, by FieldNames
}

// explained is how far down the place of an article is looked for.
const explained = 100

// Explain says why an article (A-0042) ranks where it does. It returns ErrNoSuch
// for one that is not in the index, and ErrTooLong as Find does.
func (x *Index) Explain(r Request, article string) (Explanation, error) {
	r.Limit = explained
	result, err := x.Find(r)
	if err != nil {
		return Explanation{}, err
	}
	x.mu.RLock()
	defer x.mu.RUnlock()
	var out Explanation
	for _, p := range x.parts(r) {
		for _, ref := range []string{article, article + "." + r.Language} {
			id, ok := p.segment.byRef[ref]
			if !ok || out.Reference != "" && !p.sees(id) {
				continue
			}
			out = p.explain(id)
		}
	}
	if out.Reference == "" {
		return out, ErrNoSuch
	}
	out.Place = 1 + slices.IndexFunc(result.Hits, func(h Hit) bool { return articleOf(h.Reference) == article })
	for _, pin := range r.Rules.pinsFor(x, r.Language, r.Words) {
		if pin.Reference == article {
			out.Pinned, out.Buried = !pin.Bury, pin.Bury
		}
	}
	return out, nil
}

func (p *part) explain(id uint32) Explanation {
	d := &p.segment.docs[id]
	out := Explanation{
		Reference: d.reference,
		Title:     d.title,
		Seen:      p.sees(id),
		Unknown:   p.unknown,
		Instead:   p.instead,
		Words:     []ExplainedWord{},
	}
	norms := p.norms()
	for _, g := range p.groups {
		w := ExplainedWord{Word: g.word, Rarity: float64(g.idf), Ways: []ExplainedWay{}}
		holders := map[uint32]bool{}
		var sum float32
		for _, v := range g.variants {
			least, counts := float32(-1), make([]int, fieldCount)
			for _, t := range v.terms {
				f := float32(0)
				for i := range p.segment.lists[t] {
					l := &p.segment.lists[t][i]
					if !p.segment.gone[l.doc] && len(v.terms) == 1 {
						holders[l.doc] = true
					}
					if l.doc == id {
						f = frequency(&l.tf, &p.segment.lengths[id], &norms)
						for field, n := range l.tf {
							counts[field] += int(n)
						}
					}
				}
				if least < 0 || f < least {
					least = f
				}
			}
			if least > 0 {
				sum += least * v.factor
				w.Ways = append(w.Ways, ExplainedWay{v.why, float64(v.factor), counts})
			}
		}
		w.Held = len(holders)
		w.Score = float64(g.idf * saturated(sum))
		out.Score += w.Score
		out.Words = append(out.Words, w)
	}
	w := scratches.Get().(*scratch)
	defer scratches.Put(w)
	w.fit(len(p.segment.docs), len(p.segment.lists))
	p.mark(w, true)
	near, covered := p.nearness(w, d)
	p.mark(w, false)
	out.Nearness = float64(near)
	out.Score += float64(near)
	if whole := p.weight(); whole > 0 {
		out.Coverage = float64(min(1, covered/whole))
	}
	return out
}
