package compare

import (
	"strings"

	"github.com/sergi/go-diff/diffmatchpatch"
)

// Line is a line of two texts laid over each other.
type Line struct {
	Mark Mark
	Text string
}

// CompareLines lays two plain texts over each other, line by line: those that are the same, removed and added make
// up both of them.
func CompareLines(before, after string) []Line {
	d := diffmatchpatch.New()
	a, b, known := d.DiffLinesToRunes(ended(before), ended(after))
	var out []Line
	for _, part := range d.DiffMainRunes(a, b, false) {
		mark := Same
		switch part.Type {
		case diffmatchpatch.DiffInsert:
			mark = Added
		case diffmatchpatch.DiffDelete:
			mark = Removed
		}
		for _, r := range part.Text {
			out = append(out, Line{mark, strings.TrimSuffix(known[r], "\n")})
		}
	}
	return out
}

// ended gives a text whose last line ends, too.
func ended(text string) string {
	if text == "" || strings.HasSuffix(text, "\n") {
		return text
	}
	return text + "\n"
}
