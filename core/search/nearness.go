package search

// window is how many words may stand between two of the question, at most.
const window = 8

// nearness is what a document gains by how near to each other the words stand in
// it: each pair of neighbours in the question by the least distance between them,
// the block with the most of them, and a title that says just what was asked. covered
// is what the groups weigh that it holds.
func (p *part) nearness(w *scratch, d *document) (near, covered float32) {
	var last [maxGroups + 8]int
	for i := range last {
		last[i] = -1000
	}
	var pair [maxGroups + 8]float32
	var inBlock, inAll uint64
	var blockWeight, bestBlock float32
	for at, t := range d.terms {
		if t == blockEnd {
			bestBlock = max(bestBlock, blockWeight)
			inBlock, blockWeight = 0, 0
			continue
		}
		m := w.marks[t]
		if m == 0 {
			continue
		}
		g := int(m - 1)
		if g >= len(pair) {
			continue
		}
		if inAll&(1<<g) == 0 {
			inAll |= 1 << g
			covered += p.groups[g].idf
		}
		if inBlock&(1<<g) == 0 {
			inBlock |= 1 << g
			blockWeight += p.groups[g].idf
		}
		if g > 0 {
			if gap := at - last[g-1]; gap <= window {
				pair[g] = max(pair[g], 1/float32(gap))
			}
		}
		if g+1 < len(p.groups) {
			if gap := at - last[g+1]; gap <= window {
				pair[g+1] = max(pair[g+1], 0.6/float32(gap))
			}
		}
		last[g] = at
	}
	bestBlock = max(bestBlock, blockWeight)
	var sum float32
	for g := 1; g < len(p.groups) && g < len(pair); g++ {
		sum += pair[g] * min(p.groups[g].idf, p.groups[g-1].idf)
	}
	return proximity*sum + togetherness*bestBlock + titleMatch*p.titleMatch(w, d), covered
}

// titleMatch is how much of the question the title says, times how much of the
// title the question says.
func (p *part) titleMatch(w *scratch, d *document) float32 {
	var seen uint64
	var weight, count float32
	for _, t := range d.terms {
		if t == blockEnd {
			break
		}
		if m := w.marks[t]; m != 0 && seen&(1<<(m-1)) == 0 {
			seen |= 1 << (m - 1)
			weight += p.groups[m-1].idf
			count++
		}
	}
	return weight * count / max(1, count, float32(d.titleTells))
}

// mark writes which group each term belongs to, or wipes it.
func (p *part) mark(w *scratch, set bool) {
	for i, g := range p.groups {
		for _, v := range g.variants {
			for _, t := range v.terms {
				w.marks[t] = 0
				if set {
					w.marks[t] = uint8(i + 1)
				}
			}
		}
	}
}
