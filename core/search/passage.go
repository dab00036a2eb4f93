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

// passage picks the block in which the terms weigh most, the earliest of equals,
// and shows it from shortly before the first of them.
func (s *shelf) passage(d *document, terms map[uint32]float32) Passage {
	best, most := 0, float32(-1)
	var weight float32
	block, seen := 0, make(map[uint32]bool, len(terms))
	for _, t := range d.terms[d.bodyFrom:] {
		if t == blockEnd {
			if weight > most {
				best, most = block, weight
			}
			block, weight = block+1, 0
			clear(seen)
			continue
		}
		if idf, ok := terms[t]; ok && !seen[t] {
			seen[t] = true
			weight += idf
		}
	}
	at := 0
	for text := range strings.SplitSeq(d.body, "\n") {
		if at == best {
			return excerpt(text, s.spans(text, terms))
		}
		at++
	}
	return nil
}

// spans finds the words of a text that are looked for.
func (s *shelf) spans(text string, terms map[uint32]float32) []span {
	var found []span
	for _, t := range cut(text) {
		id, _ := s.lexicon.lookUp(t.word)
		if _, wanted := terms[id]; !wanted || id == 0 {
			continue
		}
		if n := len(found); t.joined && n > 0 && found[n-1].end > t.start {
			continue // its words are marked already
		}
		found = append(found, span{t.start, t.end, t.word})
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
