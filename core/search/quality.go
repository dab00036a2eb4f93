package search

import (
	"cmp"
	"math"
	"slices"
	"strings"
)

// Quality says how well rankings meet what was judged right. Shares are 0 to 1.
type Quality struct {
	Queries int     `json:"queries"`
	MRR10   float64 `json:"mrr10"`   // mean of 1/rank of the first right answer among ten, 0 for none
	Recall1 float64 `json:"recall1"` // right answers found in the first place, of those there are (at most one)
	Recall3 float64 `json:"recall3"` // right answers among the first three, of those there are (at most three)
	NDCG10  float64 `json:"ndcg10"`  // discounted gain of ten against that of the best order
}

// Judged is the ranking of one question, and what was right for it.
type Judged struct {
	Ranking []string
	Right   []string
}

// Measure gives the quality of rankings. Questions for which nothing is right are left out.
func Measure(all []Judged) Quality {
	var q Quality
	for _, j := range all {
		if len(j.Right) == 0 {
			continue
		}
		one := j.quality()
		q.Queries++
		q.MRR10 += one.MRR10
		q.Recall1 += one.Recall1
		q.Recall3 += one.Recall3
		q.NDCG10 += one.NDCG10
	}
	if n := float64(q.Queries); n > 0 {
		q.MRR10, q.Recall1, q.Recall3, q.NDCG10 = q.MRR10/n, q.Recall1/n, q.Recall3/n, q.NDCG10/n
	}
	return q
}

func (j Judged) quality() Quality {
	right := map[string]bool{}
	for _, r := range j.Right {
		right[r] = true
	}
	var q Quality
	gains := make([]float64, 0, 10)
	seen := map[string]bool{}
	for i, r := range j.Ranking[:min(10, len(j.Ranking))] {
		gain := 0.0
		if right[r] && !seen[r] {
			gain, seen[r] = 1, true
			if q.MRR10 == 0 {
				q.MRR10 = 1 / float64(i+1)
			}
			if i < 1 {
				q.Recall1++
			}
			if i < 3 {
				q.Recall3 += 1 / float64(min(3, len(right)))
			}
		}
		gains = append(gains, gain)
	}
	ideal := make([]float64, min(10, len(right)))
	for i := range ideal {
		ideal[i] = 1
	}
	if best := DCG(ideal); len(best) > 0 && len(gains) > 0 {
		got := DCG(gains)
		q.NDCG10 = got[len(got)-1] / best[len(best)-1]
	}
	return q
}

// Rank is the place of the first right answer in the ranking, from 1; 0 for none.
func (j Judged) Rank() int {
	for i, r := range j.Ranking {
		for _, right := range j.Right {
			if r == right {
				return i + 1
			}
		}
	}
	return 0
}

// Minus is how much better than another quality it is, figure by figure.
func (q Quality) Minus(other Quality) Quality {
	return Quality{
		q.Queries - other.Queries,
		q.MRR10 - other.MRR10,
		q.Recall1 - other.Recall1,
		q.Recall3 - other.Recall3,
		q.NDCG10 - other.NDCG10,
	}
}

// Places counts questions by the place of their first right answer.
type Places struct {
	First int `json:"first"`
	Three int `json:"three"` // second or third
	Ten   int `json:"ten"`   // fourth to tenth
	None  int `json:"none"`
}

// Count adds one question whose first right answer stands at a place, 0 for none.
func (p *Places) Count(place int) {
	switch {
	case place == 1:
		p.First++
	case place > 1 && place <= 3:
		p.Three++
	case place > 3 && place <= 10:
		p.Ten++
	default:
		p.None++
	}
}

// Moved is a question whose first right answer stands at another place than before; 0
// is not among ten.
type Moved struct {
	Question string `json:"question"`
	Before   int    `json:"before"`
	Now      int    `json:"now"`
	Worse    bool   `json:"worse"`
}

// Moves lists the questions that stand at another place than before, what fell
// furthest first. Questions that only one of the two has are left out.
func Moves(before, now map[string]int) []Moved {
	depth := func(place int) int {
		if place == 0 {
			return 11
		}
		return place
	}
	fall := func(m Moved) int { return depth(m.Now) - depth(m.Before) }
	moves := []Moved{}
	for question, at := range now {
		if was, known := before[question]; known && was != at {
			m := Moved{Question: question, Before: was, Now: at}
			m.Worse = fall(m) > 0
			moves = append(moves, m)
		}
	}
	slices.SortFunc(moves, func(a, b Moved) int {
		return cmp.Or(fall(b)-fall(a), strings.Compare(a.Question, b.Question))
	})
	return moves
}

// DCG is the discounted cumulated gain at each place: what comes after the first is
// divided by the logarithm (base 2) of its place (Järvelin & Kekäläinen, Cumulated
// Gain-Based Evaluation of IR Techniques, ACM TOIS 20, 2002, with b = 2).
func DCG(gains []float64) []float64 {
	out := make([]float64, len(gains))
	sum := 0.0
	for i, g := range gains {
		if i > 0 {
			g /= math.Max(1, math.Log2(float64(i+1)))
		}
		sum += g
		out[i] = sum
	}
	return out
}
