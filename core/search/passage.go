package search

import "strings"

// Passage is a piece of an article's text, cut into runs so that the words that
// were asked for can be marked.
type Passage []Run

// Run is a stretch of text; Hit when it is one of the words asked for.
type Run struct {
	Text string `json:"text"`
	Hit  bool   `json:"hit,omitempty"`
}

// Text is the passage without marks.
func (p Passage) Text() string {
	var out strings.Builder
	for _, r := range p {
		out.WriteString(r.Text)
	}
	return out.String()
}

// passageLength is about how many bytes of text a passage shows.
const passageLength = 220

// span is a word of the text that was asked for, by byte offsets.
type span struct {
	start, end int
	term       string
}

// passage picks the block in which the words asked for weigh most, the earliest of
// equals, and shows it from shortly before the first of them. The terms must be marked.
func (p *part) passage(w *scratch, d *document) Passage {
	best, most := 0, float32(-1)
	var weight float32
	var in uint64
	var terms []uint32
	block, from := 0, d.bodyFrom
	for at := d.bodyFrom; at < len(d.terms); at++ {
		t := d.terms[at]
		if t == blockEnd {
			if weight > most {
				best, most, terms = block, weight, d.terms[from:at]
			}
			block, from, weight, in = block+1, at+1, 0, 0
		} else if m := w.marks[t]; m != 0 && in&(1<<m) == 0 {
			in |= 1 << m
			weight += p.groups[m-1].idf
		}
	}
	text := line(d.body, best)
	return excerpt(text, p.spans(w, text, terms))
}

// beginning shows how a document begins.
func (d *document) beginning() Passage { return excerpt(line(d.body, 0), nil) }

// line gives the nth line of a text.
func line(text string, n int) string {
	for ; n > 0; n-- {
		_, text, _ = strings.Cut(text, "\n")
	}
	text, _, _ = strings.Cut(text, "\n")
	return text
}

// spans finds the words of a block that are looked for. The terms are the block's: one
// for each of its words but the empty ones.
func (p *part) spans(w *scratch, text string, terms []uint32) []span {
	var found []span
	x := p.segment.lexicon
	x.mu.RLock()
	defer x.mu.RUnlock()
	for _, t := range cut(text) {
		if x.empties[t.word] {
			continue
		}
		if len(terms) == 0 {
			break
		}
		wanted := w.marks[terms[0]] != 0
		terms = terms[1:]
		if n := len(found); wanted &&
			(!t.joined || n == 0 || found[n-1].end <= t.start) { // else its words are marked already
			found = append(found, span{t.start, t.end, t.word})
		}
	}
	return found
}

// excerpt shows about passageLength bytes of the block around its first mark, at
// word boundaries, with an ellipsis where something was left out.
func excerpt(block string, marks []span) Passage {
	from, to := 0, len(block)
	if to > passageLength {
		if len(marks) > 0 && marks[0].start > passageLength/2 {
			from = marks[0].start - passageLength/3
			if space := strings.IndexByte(block[from:], ' '); space >= 0 && from+space < marks[0].start {
				from += space + 1
			} else {
				from = marks[0].start
			}
		}
		if from+passageLength < to {
			to = from + passageLength
			if space := strings.LastIndexByte(block[from:to], ' '); space > 0 {
				to = from + space
			}
			to = len(strings.ToValidUTF8(block[:to], ""))
		}
	}
	var p Passage
	add := func(text string, hit bool) {
		if text != "" {
			p = append(p, Run{strings.ToValidUTF8(text, ""), hit})
		}
	}
	if from > 0 {
		add("… ", false)
	}
	at := from
	for _, m := range marks {
		if m.start >= at && m.end <= to {
			add(block[at:m.start], false)
			add(block[m.start:m.end], true)
			at = m.end
		}
	}
	add(block[at:to], false)
	if to < len(block) {
		add(" …", false)
	}
	return p
}
