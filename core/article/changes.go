package article

import (
	"strings"
	"unicode"

	"github.com/sergi/go-diff/diffmatchpatch"
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

// Change is one block of the compared texts: all Same, all Added, all Removed,
// or a mixture where the words of a block were changed.
type Change struct {
	Mark  Mark   `json:"mark"` // of the whole block; Same for a mixture too
	Spans []Span `json:"spans"`
}

// Compare gives the blocks of after, with what came and what went since before
// marked by word.
func Compare(before, after Outline) []Change {
	var changes []Change
	var gone, come []string
	flush := func() {
		paired := min(len(gone), len(come))
		for i := range paired {
			changes = append(changes, compareBlock(gone[i], come[i])...)
		}
		for _, b := range gone[paired:] {
			changes = append(changes, whole(Removed, b))
		}
		for _, b := range come[paired:] {
			changes = append(changes, whole(Added, b))
		}
		gone, come = nil, nil
	}
	for _, d := range diff(before.Blocks, after.Blocks) {
		switch d.mark {
		case Removed:
			gone = append(gone, d.tokens...)
		case Added:
			come = append(come, d.tokens...)
		default:
			flush()
			for _, b := range d.tokens {
				changes = append(changes, whole(Same, b))
			}
		}
	}
	flush()
	return changes
}

func whole(mark Mark, block string) Change { return Change{mark, []Span{{mark, block}}} }

// compareBlock compares two blocks by word. Blocks with less than a third of
// their words in common are shown as one gone and one come.
func compareBlock(before, after string) []Change {
	var spans []Span
	var gone, come string
	kept := 0
	flush := func() {
		for _, s := range []Span{{Removed, gone}, {Added, come}} {
			if s.Text != "" {
				spans = append(spans, s)
			}
		}
		gone, come = "", ""
	}
	runs := diff(words(before), words(after))
	for i, d := range runs {
		text := strings.Join(d.tokens, "")
		between := i > 0 && i < len(runs)-1
		switch {
		case d.mark == Removed:
			gone += text
		case d.mark == Added:
			come += text
		case between && len(strings.TrimSpace(text)) <= 2:
			// A lone “a” or space between changes reads better as part of them.
			gone, come = gone+text, come+text
		default:
			flush()
			kept += len(text)
			spans = append(spans, Span{Same, text})
		}
	}
	flush()
	if 3*kept < max(len(before), len(after)) {
		return []Change{whole(Removed, before), whole(Added, after)}
	}
	return []Change{{Same, spans}}
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
