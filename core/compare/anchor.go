package compare

import (
	"errors"
	"slices"
	"strings"
	"unicode/utf8"

	"golang.org/x/net/html"

	"hermeneus/core/markup"
)

// Anchor remembers a passage so that it can be found again after the text changed.
// An empty Quote stands for the whole line.
type Anchor struct {
	Line  int    `json:"line"`  // among the lines of the text it was taken from
	Quote string `json:"quote"` // the passage
	Start int    `json:"start"` // where it began in its line, in bytes
	Text  string `json:"text"`  // the whole line
}

// Spot is where a passage stands in a text.
type Spot struct {
	Line    int    `json:"line"`
	Start   int    `json:"start"`   // in bytes of the line's text
	End     int    `json:"end"`     // likewise
	Quote   string `json:"quote"`   // as it reads now
	Changed bool   `json:"changed"` // it reads otherwise than when it was marked
}

// ErrNoPassage is given when a passage is not in a text, or not any more.
var ErrNoPassage = errors.New("the passage is not in the text")

// thing stands for a picture or a break in the text of a line.
const thing = "\uFFFC"

// piece is a run of text in a line, with where it begins, in bytes.
type piece struct {
	node *html.Node
	from int
}

// lineText gives the words of a line as a reader selects them.
func lineText(n *html.Node) (string, []piece) {
	var text strings.Builder
	var pieces []piece
	var walk func(*html.Node)
	walk = func(n *html.Node) {
		for c := range n.ChildNodes() {
			switch {
			case c.Type == html.TextNode:
				pieces = append(pieces, piece{c, text.Len()})
				text.WriteString(c.Data)
			case markup.Is(c, "br", "img"):
				text.WriteString(thing)
			default:
				walk(c)
			}
		}
	}
	walk(n)
	return text.String(), pieces
}

func lineTexts(body string) []string {
	var out []string
	for _, l := range markup.LinesOf(markup.Root(markup.Parse(body))) {
		text, _ := lineText(l.Node)
		out = append(out, text)
	}
	return out
}

// MakeAnchor marks a passage in a line of a text. The quote is looked for in that
// line first and then in all others, at the given occurrence in its line (from 0).
func MakeAnchor(body string, line int, quote string, occurrence int) (Anchor, error) {
	texts := lineTexts(body)
	quote = strings.TrimSpace(quote)
	if quote == "" {
		if line < 0 || line >= len(texts) {
			return Anchor{}, ErrNoPassage
		}
		return Anchor{Line: line, Text: texts[line]}, nil
	}
	in := line
	if in < 0 || in >= len(texts) || !strings.Contains(texts[in], quote) {
		in = slices.IndexFunc(texts, func(t string) bool { return strings.Contains(t, quote) })
	}
	if in < 0 {
		return Anchor{}, ErrNoPassage
	}
	found := occurrences(texts[in], quote)
	at := 0
	if occurrence > 0 && occurrence < len(found) {
		at = occurrence
	}
	return Anchor{Line: in, Quote: quote, Start: found[at], Text: texts[in]}, nil
}

func occurrences(text, quote string) []int {
	var list []int
	for from := 0; from <= len(text)-len(quote); {
		at := strings.Index(text[from:], quote)
		if at < 0 {
			break
		}
		list = append(list, from+at)
		from += at + len(quote)
	}
	return list
}

// Locate finds a passage again: where the same words stand, of several the one whose
// surroundings and place are the likest; else where the line that held it went, by
// word. ErrNoPassage says that it is gone.
func Locate(body string, a Anchor) (Spot, error) { return LocateAll(body, []Anchor{a})[0].Spot() }

// Found is what became of one passage.
type Found struct {
	place Spot
	err   error
}

// Spot gives where it is, or ErrNoPassage.
func (f Found) Spot() (Spot, error) { return f.place, f.err }

// LocateAll finds several passages in one text.
func LocateAll(body string, anchors []Anchor) []Found {
	texts := lineTexts(body)
	out := make([]Found, len(anchors))
	for i, a := range anchors {
		out[i].place, out[i].err = locate(texts, a)
	}
	return out
}

func locate(texts []string, a Anchor) (Spot, error) {
	if a.Quote == "" {
		line, ok := likestLine(texts, a)
		if !ok {
			return Spot{}, ErrNoPassage
		}
		return Spot{line, 0, len(texts[line]), texts[line], texts[line] != a.Text}, nil
	}
	if p, ok := sameWords(texts, a); ok {
		return p, nil
	}
	line, ok := likestLine(texts, a)
	if !ok {
		return Spot{}, ErrNoPassage
	}
	start, end := follow(a, texts[line])
	quote := strings.TrimSpace(texts[line][start:end])
	if quote == "" {
		return Spot{}, ErrNoPassage
	}
	start += strings.Index(texts[line][start:end], quote)
	return Spot{line, start, start + len(quote), quote, true}, nil
}

// sameWords finds the quote as it was.
func sameWords(texts []string, a Anchor) (Spot, bool) {
	before, after := a.Text[:a.Start], a.Text[a.Start+len(a.Quote):]
	best, bestScore := Spot{}, -1
	for i, text := range texts {
		for _, at := range occurrences(text, a.Quote) {
			around := commonEnd(before, text[:at]) + commonStart(after, text[at+len(a.Quote):])
			// Fewer than four letters are found anywhere: then the surroundings must speak for it.
			if len([]rune(a.Quote)) < 4 && around == 0 && text != a.Text {
				continue
			}
			score := 1000*around - min(999, max(i-a.Line, a.Line-i))
			if text == a.Text {
				score += 1000 * len(text)
			}
			if score > bestScore || bestScore == -1 {
				best, bestScore = Spot{i, at, at + len(a.Quote), a.Quote, false}, max(score, 0)
			}
		}
	}
	return best, bestScore >= 0
}

func commonStart(a, b string) int {
	n := 0
	for n < len(a) && n < len(b) && a[n] == b[n] {
		n++
	}
	return n
}

func commonEnd(a, b string) int {
	n := 0
	for n < len(a) && n < len(b) && a[len(a)-1-n] == b[len(b)-1-n] {
		n++
	}
	return n
}

// likestLine finds the line that has at least half of its words in common with the
// one the passage was in; of equals the nearest.
func likestLine(texts []string, a Anchor) (line int, ok bool) {
	line = -1
	best := 0.0
	for i, text := range texts {
		like := wordsInCommon(a.Text, text)
		if text == a.Text {
			like = 2
		}
		nearer := line < 0 || max(i-a.Line, a.Line-i) < max(line-a.Line, a.Line-line)
		if like >= 0.5 && (like > best || like == best && nearer) {
			line, best = i, like
		}
	}
	return line, line >= 0
}

// follow gives where a passage of a line went in a later state of the line.
func follow(a Anchor, now string) (start, end int) {
	at, there := 0, 0
	from, to := a.Start, a.Start+len(a.Quote)
	start, end = -1, -1
	for _, r := range diff(words(a.Text), words(now)) {
		for _, t := range r.tokens {
			switch r.mark {
			case Same:
				if at < to && at+len(t) > from {
					start, end = first(start, there), there+len(t)
				}
				at, there = at+len(t), there+len(t)
			case Removed:
				if at < to && at+len(t) > from {
					start, end = first(start, there), max(end, there)
				}
				at += len(t)
			case Added: // within the passage, or in the place of its words
				if at > from && at < to || start >= 0 && end == there && at == to {
					start, end = first(start, there), there+len(t)
				}
				there += len(t)
			}
		}
	}
	if start < 0 {
		return 0, 0
	}
	for start < end && !utf8.RuneStart(now[start]) {
		start++
	}
	return start, end
}

func first(a, b int) int {
	if a >= 0 {
		return a
	}
	return b
}

// wordsInCommon is the share, 0 to 1, of words that two lines have in common.
func wordsInCommon(a, b string) float64 {
	count := map[string]int{}
	wordsOfA, wordsOfB := strings.Fields(a), strings.Fields(b)
	for _, w := range wordsOfA {
		count[w]++
	}
	common := 0
	for _, w := range wordsOfB {
		if count[w] > 0 {
			count[w]--
			common++
		}
	}
	if most := max(len(wordsOfA), len(wordsOfB)); most > 0 {
		return float64(common) / float64(most)
	}
	return 0
}

// Replace puts other words in the place of a passage, in the marks that its first
// letter wears. A passage that reads otherwise by now is left alone: ErrNoPassage.
func Replace(body string, a Anchor, text string) (string, error) {
	place, err := Locate(body, a)
	if err != nil || place.Changed {
		return body, ErrNoPassage
	}
	r := markup.Root(markup.Parse(body))
	line := markup.LinesOf(r)[place.Line].Node
	_, pieces := lineText(line)
	put := text
	for _, p := range pieces {
		from, to := max(place.Start-p.from, 0), min(place.End-p.from, len(p.node.Data))
		if from >= to {
			continue
		}
		p.node.Data = p.node.Data[:from] + put + p.node.Data[to:]
		put = ""
		for n := p.node; n != line && n.FirstChild == nil && (n.Type != html.TextNode || n.Data == ""); {
			up := n.Parent
			up.RemoveChild(n) // a mark around nothing
			n = up
		}
	}
	return markup.Canonical(markup.RenderInside(r)), nil
}
