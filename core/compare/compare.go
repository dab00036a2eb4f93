// Package compare tells two states of a text apart, brings them together, and finds passages again.
// It promises that what is shown as taken away and put in, together, are the two texts.
// It may not know whose the texts are.
package compare

import (
	"strings"

	"golang.org/x/net/html"

	"hermeneus/core/markup"
)

// Mark says whether words stayed, came or went.
type Mark string

// The marks.
const (
	Same    Mark = "same"
	Added   Mark = "added"
	Removed Mark = "removed"
)

// Span is a run of words with one mark.
type Span struct {
	Mark Mark   `json:"mark"`
	Text string `json:"text"`
}

// Comparison is what became of a text.
type Comparison struct {
	// HTML is the later text with the changes in its flow: ins and del around
	// words, data-change (added, removed, changed, moved, formatted) on lines.
	HTML      string `json:"html"`
	Added     int    `json:"added"` // lines and pictures
	Removed   int    `json:"removed"`
	Changed   int    `json:"changed"`
	Moved     int    `json:"moved"`
	Formatted int    `json:"formatted"` // the same words in another dress
}

// Any reports whether there is any difference.
func (c Comparison) Any() bool { return c.Added+c.Removed+c.Changed+c.Moved+c.Formatted > 0 }

// CompareWords compares two short texts, such as titles, by word. Texts with less
// than a third of their words in common are shown as one gone and one come.
func CompareWords(before, after string) []Span {
	var spans []Span
	a, b := wordTokens(before), wordTokens(after)
	ops, kept := compareTokens(a, b)
	if 3*kept < max(len(before), len(after)) {
		for _, s := range []Span{{Removed, before}, {Added, after}} {
			if s.Text != "" {
				spans = append(spans, s)
			}
		}
		return spans
	}
	for _, o := range ops {
		var text strings.Builder
		for _, t := range o.tokens {
			text.WriteString(t.text)
		}
		spans = append(spans, Span{o.mark, text.String()})
	}
	return spans
}

func wordTokens(text string) []token {
	var list []token
	for _, w := range words(text) {
		list = append(list, token{text: w})
	}
	return list
}

// unit is what a comparison moves about: a line, or a picture or film on its own.
type unit struct {
	node   *html.Node
	key    string // the same for units that look the same
	text   string // its words alone
	tokens []token
	to     int  // index of the unit it became or came from, -1 for none
	moved  bool // and it stands elsewhere now
	cell   bool
}

// Compare shows what became of a text: by line, recognising lines that moved, and
// within lines by word, telling another wording from another dress.
func Compare(before, after string) Comparison {
	oldRoot, newRoot := markup.Root(markup.Parse(before)), markup.Root(markup.Parse(after))
	markup.Canonicalise(oldRoot)
	markup.Canonicalise(newRoot)
	old, now := unitsOf(oldRoot), unitsOf(newRoot)
	match(old, now)
	var c Comparison
	var gone []*unit
	next := 0
	for i := range now {
		switch to := now[i].to; {
		case to >= 0 && !now[i].moved:
			for ; next < to; next++ {
				if old[next].to < 0 {
					gone = append(gone, &old[next])
				}
			}
			next = max(next, to+1)
		default:
			for ; next < len(old) && old[next].to < 0; next++ {
				gone = append(gone, &old[next])
			}
		}
		c.Removed += showGone(newRoot, gone, now[i].node)
		gone = nil
		c.show(old, &now[i])
	}
	for ; next < len(old); next++ {
		if old[next].to < 0 {
			gone = append(gone, &old[next])
		}
	}
	c.Removed += showGone(newRoot, gone, nil)
	c.HTML = markup.RenderInside(newRoot)
	return c
}

func unitsOf(r *html.Node) []unit {
	var list []unit
	var walk func(*html.Node, bool)
	walk = func(n *html.Node, cell bool) {
		switch {
		case n.Type == html.ElementNode && markup.Lines[n.Data]:
			u := unit{node: n, to: -1, cell: cell, tokens: tokensOf(n), text: markup.InnerText(n)}
			if u.text == "" && len(u.tokens) == 0 {
				return
			}
			u.key = n.Data + "\x00" + markup.RenderInside(n)
			list = append(list, u)
			return
		case markup.Is(n, "img", "video", "hr") || markup.Is(n, "figure") && markup.Attribute(n, "data-video") != "":
			list = append(
				list,
				unit{node: n, to: -1, key: "\x00" + markup.Render(shallow(n)), text: markup.Attribute(n, "alt")},
			)
			if n.Data != "figure" {
				return
			}
		}
		for c := range n.ChildNodes() {
			walk(c, cell || markup.Is(c, "td", "th"))
		}
	}
	walk(r, false)
	return list
}

func shallow(n *html.Node) *html.Node { return markup.Element(n.Data, n.Attr...) }

// match finds for each unit what it became.
func match(old, now []unit) {
	var gone, come []int
	pairUp := func() {
		pairSimilar(old, now, gone, come)
		gone, come = nil, nil
	}
	i, j := 0, 0
	for _, r := range diff(keys(old), keys(now)) {
		for range r.tokens {
			switch r.mark {
			case Removed:
				gone = append(gone, i)
				i++
			case Added:
				come = append(come, j)
				j++
			default:
				pairUp()
				old[i].to, now[j].to = j, i
				i, j = i+1, j+1
			}
		}
	}
	pairUp()
	pairMoved(old, now)
}

func keys(units []unit) []string {
	list := make([]string, len(units))
	for i, u := range units {
		list[i] = u.key
	}
	return list
}

// manyPairs bounds how many pairs of lines are looked at one by one.
const manyPairs = 60_000

// pairSimilar pairs the units of one gap in their order, so that the sum of their
// likenesses is greatest. Units less than a third alike are no pair.
func pairSimilar(old, now []unit, gone, come []int) {
	if len(gone) == 0 || len(come) == 0 {
		return
	}
	if len(gone)*len(come) > manyPairs {
		for i := range min(len(gone), len(come)) {
			if likeness(&old[gone[i]], &now[come[i]]) >= 1.0/3 {
				old[gone[i]].to, now[come[i]].to = come[i], gone[i]
			}
		}
		return
	}
	best := make([][]float64, len(gone)+1)
	like := make([][]float64, len(gone))
	best[len(gone)] = make([]float64, len(come)+1)
	for i := len(gone) - 1; i >= 0; i-- {
		best[i], like[i] = make([]float64, len(come)+1), make([]float64, len(come))
		for j := len(come) - 1; j >= 0; j-- {
			like[i][j] = likeness(&old[gone[i]], &now[come[j]])
			best[i][j] = max(best[i+1][j], best[i][j+1])
			if like[i][j] >= 1.0/3 {
				best[i][j] = max(best[i][j], like[i][j]+best[i+1][j+1])
			}
		}
	}
	for i, j := 0, 0; i < len(gone) && j < len(come); {
		switch {
		case like[i][j] >= 1.0/3 && best[i][j] == like[i][j]+best[i+1][j+1]:
			old[gone[i]].to, now[come[j]].to = come[j], gone[i]
			i, j = i+1, j+1
		case best[i][j] == best[i+1][j]:
			i++
		default:
			j++
		}
	}
}

// pairMoved pairs what is left over and stands elsewhere now: the same words, or
// nearly, and enough of them to be no accident.
func pairMoved(old, now []unit) {
	byText := map[string][]int{}
	for i := range old {
		if old[i].to < 0 && len(strings.Fields(old[i].text)) >= 4 {
			byText[old[i].text] = append(byText[old[i].text], i)
		}
	}
	join := func(i, j int) {
		old[i].to, now[j].to, old[i].moved, now[j].moved = j, i, true, true
	}
	tried := 0
	for j := range now {
		if now[j].to >= 0 || len(strings.Fields(now[j].text)) < 4 {
			continue
		}
		if same := byText[now[j].text]; len(same) > 0 {
			byText[now[j].text] = same[1:]
			join(same[0], j)
			continue
		}
		for i := range old {
			if old[i].to >= 0 || len(strings.Fields(old[i].text)) < 4 {
				continue
			}
			if tried++; tried > manyPairs {
				return
			}
			if likeness(&old[i], &now[j]) >= 0.8 {
				join(i, j)
				break
			}
		}
	}
}

// likeness is the share, 0 to 1, of words that two units have in common.
func likeness(a, b *unit) float64 {
	if a.node.Data != b.node.Data && (!markup.Lines[a.node.Data] || !markup.Lines[b.node.Data]) {
		return 0
	}
	if !markup.Lines[a.node.Data] {
		return 0.5 // one picture in the place of another
	}
	return wordsInCommon(a.text, b.text)
}
