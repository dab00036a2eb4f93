package article

import (
	"errors"
	"strings"

	"golang.org/x/net/html"
	"golang.org/x/net/html/atom"
)

// MaxDepth is how deep the elements of a text may lie within each other. What people write
// needs a dozen; reading what is far deeper takes time that grows with the square of it.
const MaxDepth = 200

// ErrTooDeep is given for a text whose elements lie deeper than MaxDepth.
var ErrTooDeep = errors.New("the elements of the text lie too deep within each other")

// unended are elements that do not need to be ended, or cannot be: many of them after each
// other are not deep.
var unended = map[atom.Atom]bool{
	atom.P:        true,
	atom.Li:       true,
	atom.Dt:       true,
	atom.Dd:       true,
	atom.Td:       true,
	atom.Th:       true,
	atom.Tr:       true,
	atom.Thead:    true,
	atom.Tbody:    true,
	atom.Tfoot:    true,
	atom.Option:   true,
	atom.Colgroup: true,
	atom.Br:       true,
	atom.Hr:       true,
	atom.Img:      true,
	atom.Input:    true,
	atom.Col:      true,
	atom.Link:     true,
	atom.Meta:     true,
	atom.Area:     true,
	atom.Base:     true,
	atom.Embed:    true,
	atom.Source:   true,
	atom.Track:    true,
	atom.Wbr:      true,
	atom.Param:    true,
}

// TooDeep reports whether the elements of a text lie deeper than MaxDepth. It reads the text
// once, without building anything.
func TooDeep(body string) bool {
	depth := 0
	tokens := html.NewTokenizer(strings.NewReader(body))
	for {
		kind := tokens.Next()
		if kind == html.ErrorToken {
			return false
		}
		if kind != html.StartTagToken && kind != html.EndTagToken {
			continue
		}
		name, _ := tokens.TagName()
		if unended[atom.Lookup(name)] {
			continue
		}
		if kind == html.StartTagToken {
			depth++
		} else {
			depth = max(0, depth-1)
		}
		if depth > MaxDepth {
			return true
		}
	}
}
