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

// passage picks the block with the most distinct terms, the earliest of equals,
// and shows it from shortly before the first of them.
func (x *Index) passage(body string, terms []string) Passage {
	wanted := map[string]bool{}
	for _, t := range terms {
		wanted[t] = true
	}
	best, most := "", -1
	var marks []span
	for _, block := range strings.Split(body, "\n") {
		found := x.find(block, wanted)
		distinct := map[string]bool{}
		for _, s := range found {
			distinct[s.term] = true
		}
		if len(distinct) > most {
			best, most, marks = block, len(distinct), found
		}
	}
	return cut(best, marks)
}

func (x *Index) find(block string, wanted map[string]bool) []span {
	var found []span
	for _, token := range x.analyzer.Analyze([]byte(block)) {
		if t := string(token.Term); wanted[t] {
			found = append(found, span{token.Start, token.End, t})
		}
	}
	return found
}

// cut shows about passageLength bytes of the block around its first mark, at
// word boundaries, with an ellipsis where something was left out.
func cut(block string, marks []span) Passage {
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
