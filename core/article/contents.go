package article

import (
	"fmt"
	"strings"

	"hermeneus/core/markup"
)

// Heading is an entry of a text's table of contents.
type Heading struct {
	Level  int    `json:"level"` // 2 to 4
	Text   string `json:"text"`
	Anchor string `json:"anchor"`
	Line   int    `json:"line"`
}

// Contents lists the headings among lines, each with an anchor of its own.
func Contents(lines []markup.Line) []Heading {
	var list []Heading
	used := map[string]bool{}
	for i, l := range lines {
		if level := markup.HeadingLevel(l.Node); level > 0 && l.Text != "" {
			list = append(list, Heading{level, l.Text, uniqueAnchor(l, used), i})
		}
	}
	return list
}

// uniqueAnchor is what a heading is pointed to by: its own id, or one made of its words.
func uniqueAnchor(l markup.Line, used map[string]bool) string {
	base := markup.Attribute(l.Node, "id")
	if base == "" {
		base = Slug(l.Text)
	}
	name := base
	for n := 2; used[name]; n++ {
		name = fmt.Sprintf("%s-%d", base, n)
	}
	used[name] = true
	return name
}

// Slug makes words fit for an address: small letters, digits and single hyphens,
// at most 60 of them.
func Slug(words string) string {
	var out strings.Builder
	gap := false
	for _, r := range strings.ToLower(words) {
		switch {
		case out.Len() >= 60:
		case r >= 'a' && r <= 'z', r >= '0' && r <= '9':
			if gap && out.Len() > 0 {
				out.WriteByte('-')
			}
			gap = false
			out.WriteRune(r)
		case r == '\'' || r == '’':
		default:
			if folded, ok := folds[r]; ok {
				if gap && out.Len() > 0 {
					out.WriteByte('-')
				}
				gap = false
				out.WriteString(folded)
				continue
			}
			gap = true
		}
	}
	if out.Len() == 0 {
		return "part"
	}
	return out.String()
}

var folds = map[rune]string{
	'ä': "ae",
	'ö': "oe",
	'ü': "ue",
	'ß': "ss",
	'é': "e",
	'è': "e",
	'ê': "e",
	'à': "a",
	'â': "a",
	'ç': "c",
	'î': "i",
	'ï': "i",
	'ô': "o",
	'û': "u",
	'ñ': "n",
	'í': "i",
	'ó': "o",
	'á': "a",
}
