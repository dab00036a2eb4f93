package compare

import (
	"slices"
	"strings"
	"unicode"

	"github.com/sergi/go-diff/diffmatchpatch"
	"golang.org/x/net/html"

	"hermeneus/core/markup"
)

// token is a word, a space, a mark, or a picture or break in a line, with the
// dress it wears.
type token struct {
	text  string
	dress string      // the elements around it, from the outside in
	wraps []html.Node // the same, to be put back
	atom  *html.Node  // a picture or break
}

func tokensOf(n *html.Node) []token {
	var list []token
	var walk func(*html.Node, []html.Node, string)
	walk = func(n *html.Node, wraps []html.Node, dress string) {
		for c := range n.ChildNodes() {
			switch {
			case c.Type == html.TextNode:
				for _, w := range words(c.Data) {
					list = append(list, token{text: w, dress: dress, wraps: wraps})
				}
			case markup.Is(c, "br", "img"):
				list = append(list, token{text: "\x00" + markup.Render(c), dress: dress, wraps: wraps, atom: c})
			case c.Type == html.ElementNode:
				name := c.Data
				if name == "a" {
					name += " " + markup.Attribute(c, "href")
				}
				walk(c, append(slices.Clone(wraps), *shallow(c)), dress+"/"+name)
			}
		}
	}
	walk(n, nil, "")
	return list
}

// step is a run of tokens that stayed, came or went.
type step struct {
	mark   Mark
	tokens []token
	before []token // of what stayed, how it was dressed
}

// compareTokens compares two lines by word, and tells how many bytes stayed.
func compareTokens(a, b []token) (steps []step, kept int) {
	var gone, come []token
	flush := func() {
		if len(gone) > 0 {
			steps = append(steps, step{Removed, gone, nil})
		}
		if len(come) > 0 {
			steps = append(steps, step{Added, come, nil})
		}
		gone, come = nil, nil
	}
	texts := func(tokens []token) []string {
		list := make([]string, len(tokens))
		for i, t := range tokens {
			list[i] = t.text
		}
		return list
	}
	runs := diff(texts(a), texts(b))
	i, j := 0, 0
	for n, r := range runs {
		size := len(r.tokens)
		text := strings.Join(r.tokens, "")
		between := n > 0 && n < len(runs)-1
		switch {
		case r.mark == Removed:
			gone = append(gone, a[i:i+size]...)
			i += size
			continue
		case r.mark == Added:
			come = append(come, b[j:j+size]...)
			j += size
			continue
		case between && len(strings.TrimSpace(text)) <= 2:
			// A lone “a” or space between changes reads better as part of them.
			gone, come = append(gone, a[i:i+size]...), append(come, b[j:j+size]...)
		default:
			flush()
			kept += len(text)
			steps = append(steps, step{Same, b[j : j+size], a[i : i+size]})
		}
		i, j = i+size, j+size
	}
	flush()
	return steps, kept
}

// showWords fills a line with the words of both texts, and reports whether the
// words differ, not only their dress.
func showWords(n *html.Node, before, after []token) (words bool) {
	for _, c := range markup.Children(n) {
		n.RemoveChild(c)
	}
	steps, _ := compareTokens(before, after)
	for _, s := range steps {
		switch s.mark {
		case Same:
			for i := 0; i < len(s.tokens); {
				same := s.tokens[i].dress == s.before[i].dress
				end := i + 1
				for end < len(s.tokens) && (s.tokens[end].dress == s.before[end].dress) == same {
					end++
				}
				into := n
				if !same {
					into = markup.Element(
						"span",
						html.Attribute{Key: "data-change", Val: "formatted"},
						html.Attribute{
							Key: "title",
							Val: "was " + dressed(s.before[i].dress) + ", now " + dressed(s.tokens[i].dress),
						},
					)
					n.AppendChild(into)
				}
				dress(into, s.tokens[i:end])
				i = end
			}
		default:
			words = true
			wrap := markup.Element(map[Mark]string{Added: "ins", Removed: "del"}[s.mark])
			n.AppendChild(wrap)
			dress(wrap, s.tokens)
		}
	}
	return words
}

var dressNames = strings.NewReplacer(
	"/strong",
	", bold",
	"/em",
	", italic",
	"/u",
	", underlined",
	"/s",
	", struck out",
	"/code",
	", code",
	"/kbd",
	", key",
	"/a ",
	", link to ",
)

func dressed(dress string) string {
	if dress == "" {
		return "plain"
	}
	return strings.TrimPrefix(dressNames.Replace(dress), ", ")
}

// dress puts tokens into a node, with the elements they stood in.
func dress(into *html.Node, tokens []token) {
	for i := 0; i < len(tokens); {
		end := i + 1
		for end < len(tokens) && tokens[end].dress == tokens[i].dress {
			end++
		}
		at := into
		for _, w := range tokens[i].wraps {
			inner := markup.Element(w.Data, w.Attr...)
			at.AppendChild(inner)
			at = inner
		}
		var text strings.Builder
		put := func() {
			if text.Len() > 0 {
				at.AppendChild(markup.TextNode(text.String()))
				text.Reset()
			}
		}
		for _, t := range tokens[i:end] {
			if t.atom != nil {
				put()
				at.AppendChild(shallow(t.atom))
				continue
			}
			text.WriteString(t.text)
		}
		put()
		i = end
	}
}

// words cuts a text into words, spaces and marks, so that joining gives it back.
func words(text string) []string {
	var out []string
	class := func(r rune) int {
		switch {
		case unicode.IsLetter(r) || unicode.IsDigit(r):
			return 1
		case unicode.IsSpace(r):
			return 2
		}
		return 3
	}
	last := 0
	for _, r := range text {
		if c := class(r); c == last && c != 3 {
			out[len(out)-1] += string(r)
		} else {
			out, last = append(out, string(r)), c
		}
	}
	return out
}

type run struct {
	mark   Mark
	tokens []string
}

// diff compares two lists of tokens, by giving each distinct token a rune of its own.
func diff(before, after []string) []run {
	names, table := map[string]rune{}, []string{}
	encode := func(tokens []string) []rune {
		out := make([]rune, len(tokens))
		for i, t := range tokens {
			if _, known := names[t]; !known {
				names[t] = tokenRune(len(table))
				table = append(table, t)
			}
			out[i] = names[t]
		}
		return out
	}
	a, b := encode(before), encode(after)
	var runs []run
	for _, d := range diffmatchpatch.New().DiffMainRunes(a, b, false) {
		r := run{mark: map[diffmatchpatch.Operation]Mark{
			diffmatchpatch.DiffEqual: Same, diffmatchpatch.DiffInsert: Added, diffmatchpatch.DiffDelete: Removed,
		}[d.Type]}
		for _, name := range d.Text {
			r.tokens = append(r.tokens, table[tokenIndex(name)])
		}
		runs = append(runs, r)
	}
	return runs
}

// Tokens are numbered by runes that step over the surrogates, which no string
// can hold. An article of at most MaxBody bytes has fewer tokens than runes.
const surrogates, surrogateCount = 0xD800, 0x800

func tokenRune(index int) rune {
	if index+1 >= surrogates {
		return rune(index + 1 + surrogateCount)
	}
	return rune(index + 1)
}

func tokenIndex(r rune) int {
	if r >= surrogates {
		return int(r) - 1 - surrogateCount
	}
	return int(r) - 1
}
