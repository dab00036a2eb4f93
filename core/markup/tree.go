// Package markup reads and writes the HTML of a text as a tree, and lays it out in one canonical way.
// It promises that a text in canonical form stays as it is, and that lines are numbered as a reader counts them.
// It may not decide what is allowed in a text: that is core/article.
package markup

import (
	"maps"
	"slices"
	"strings"

	"golang.org/x/net/html"
	"golang.org/x/net/html/atom"
)

// Parse gives the top nodes of a text.
func Parse(body string) []*html.Node {
	context := &html.Node{Type: html.ElementNode, Data: "body", DataAtom: atom.Body}
	nodes, err := html.ParseFragment(strings.NewReader(body), context)
	if err != nil { // only a reader can fail, and this one does not
		return nil
	}
	return nodes
}

// Root puts nodes under one parent.
func Root(nodes []*html.Node) *html.Node {
	r := &html.Node{Type: html.ElementNode, Data: "body", DataAtom: atom.Body}
	for _, n := range nodes {
		r.AppendChild(n)
	}
	return r
}

// Render writes a node as HTML.
func Render(n *html.Node) string {
	var out strings.Builder
	if html.Render(&out, n) != nil {
		return ""
	}
	return out.String()
}

// RenderInside writes what is inside a node as HTML.
func RenderInside(n *html.Node) string {
	var out strings.Builder
	for c := range n.ChildNodes() {
		out.WriteString(Render(c))
	}
	return out.String()
}

// Element makes an element.
func Element(name string, attributes ...html.Attribute) *html.Node {
	return &html.Node{Type: html.ElementNode, Data: name, DataAtom: atom.Lookup([]byte(name)), Attr: attributes}
}

// TextNode makes a text.
func TextNode(text string) *html.Node { return &html.Node{Type: html.TextNode, Data: text} }

// Is reports whether a node is one of the elements named.
func Is(n *html.Node, names ...string) bool {
	return n != nil && n.Type == html.ElementNode && slices.Contains(names, n.Data)
}

// Attribute gives an attribute of an element, "" where it has none.
func Attribute(n *html.Node, name string) string {
	for _, a := range n.Attr {
		if a.Key == name {
			return a.Val
		}
	}
	return ""
}

// SetAttribute gives an element an attribute.
func SetAttribute(n *html.Node, name, value string) {
	for i, a := range n.Attr {
		if a.Key == name {
			n.Attr[i].Val = value
			return
		}
	}
	n.Attr = append(n.Attr, html.Attribute{Key: name, Val: value})
}

func dropAttribute(n *html.Node, name string) {
	n.Attr = slices.DeleteFunc(n.Attr, func(a html.Attribute) bool { return a.Key == name })
}

// Children lists what is directly inside a node.
func Children(n *html.Node) []*html.Node {
	var list []*html.Node
	for c := range n.ChildNodes() {
		list = append(list, c)
	}
	return list
}

// InnerText is the text of a node, with one space for every run of white space.
func InnerText(n *html.Node) string {
	var out strings.Builder
	var walk func(*html.Node)
	walk = func(n *html.Node) {
		switch {
		case n.Type == html.TextNode:
			out.WriteString(n.Data)
		case Is(n, "br"):
			out.WriteByte(' ')
		}
		for c := range n.ChildNodes() {
			walk(c)
		}
	}
	walk(n)
	return strings.Join(strings.Fields(out.String()), " ")
}

// Lines are the elements that hold words: one of them is one line that a note in
// the margin can stand at.
var Lines = map[string]bool{
	"p":          true,
	"h2":         true,
	"h3":         true,
	"h4":         true,
	"pre":        true,
	"summary":    true,
	"figcaption": true,
}

// LineElements names the elements that hold a line, for whoever counts lines on a page.
func LineElements() []string { return slices.Sorted(maps.Keys(Lines)) }

// Blocks are the elements that stand by themselves.
var Blocks = map[string]bool{
	"p":          true,
	"h2":         true,
	"h3":         true,
	"h4":         true,
	"pre":        true,
	"summary":    true,
	"figcaption": true,
	"ul":         true,
	"ol":         true,
	"li":         true,
	"blockquote": true,
	"hr":         true,
	"table":      true,
	"tbody":      true,
	"tr":         true,
	"td":         true,
	"th":         true,
	"aside":      true,
	"details":    true,
	"figure":     true,
}

// Line is one line of a text with where it stands.
type Line struct {
	Node *html.Node
	Text string
	Step bool // the first line of an item of a numbered list
	cell bool
}

// LinesOf lists the lines of a text in order, empty ones too: the index of a line
// here is its index among the lines that the editor shows.
func LinesOf(r *html.Node) []Line {
	var list []Line
	var walk func(*html.Node, bool)
	walk = func(n *html.Node, cell bool) {
		if n.Type == html.ElementNode && Lines[n.Data] {
			first := n.PrevSibling == nil && Is(n.Parent, "li") && Is(n.Parent.Parent, "ol")
			list = append(list, Line{n, InnerText(n), first, cell})
			return
		}
		for c := range n.ChildNodes() {
			walk(c, cell || Is(c, "td", "th"))
		}
	}
	walk(r, false)
	return list
}

// Plain is the words of a text, a line for each of its lines.
func Plain(body string) string {
	var out []string
	for _, l := range LinesOf(Root(Parse(body))) {
		if l.Text != "" {
			out = append(out, l.Text)
		}
	}
	return strings.Join(out, "\n")
}

// WrapInside puts all that is inside a node into an element.
func WrapInside(n *html.Node, name string) {
	wrap := Element(name)
	for _, c := range Children(n) {
		n.RemoveChild(c)
		wrap.AppendChild(c)
	}
	n.AppendChild(wrap)
}

// HeadingLevel is 1 for h2, 2 for h3, 3 for h4, and 0 for what is no heading.
func HeadingLevel(n *html.Node) int {
	if Is(n, "h2", "h3", "h4") {
		return int(n.Data[1] - '0')
	}
	return 0
}
