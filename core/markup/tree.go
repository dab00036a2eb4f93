// Package markup reads and writes the HTML of a text as a tree, and lays it out in one canonical way.
// It promises that a text in canonical form stays as it is, and that lines are numbered as a reader counts them.
// It may not decide what is allowed in a text: that is core/article.
package markup

import (
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

func Render(n *html.Node) string {
	var out strings.Builder
	if html.Render(&out, n) != nil {
		return ""
	}
	return out.String()
}

func RenderInside(n *html.Node) string {
	var out strings.Builder
	for c := range n.ChildNodes() {
		out.WriteString(Render(c))
	}
	return out.String()
}

func Element(name string, attributes ...html.Attribute) *html.Node {
	return &html.Node{Type: html.ElementNode, Data: name, DataAtom: atom.Lookup([]byte(name)), Attr: attributes}
}

func TextNode(text string) *html.Node { return &html.Node{Type: html.TextNode, Data: text} }

func Is(n *html.Node, names ...string) bool {
	return n != nil && n.Type == html.ElementNode && slices.Contains(names, n.Data)
}

func Attribute(n *html.Node, name string) string {
	for _, a := range n.Attr {
		if a.Key == name {
			return a.Val
		}
	}
	return ""
}

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

// holders are the elements that hold blocks; words straight inside them belong
// into a paragraph.
var holders = map[string]bool{
	"body":       true,
	"li":         true,
	"td":         true,
	"th":         true,
	"blockquote": true,
	"aside":      true,
	"details":    true,
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

// Canonical gives a sanitised text in the one form that the editor also makes:
// words always stand in a paragraph or a heading, tables have one body, white
// space that does not show is gone. Canonical texts that read the same are the
// same; Canonical of a canonical text changes nothing.
func Canonical(body string) string {
	r := Root(Parse(body))
	Canonicalise(r)
	return RenderInside(r)
}

func Canonicalise(n *html.Node) {
	if n.Data == "pre" {
		canonicalCode(n)
		return
	}
	if n.Data == "table" {
		oneBody(n)
	}
	for _, c := range Children(n) {
		switch {
		case c.Type == html.CommentNode, Is(c, "p") && c.FirstChild == nil && n.Data == "body":
			n.RemoveChild(c)
		case c.Type == html.ElementNode:
			if Is(c, "video") {
				SetAttribute(c, "controls", "")
			}
			dropIf(c, "colspan", "1")
			dropIf(c, "rowspan", "1")
			dropIf(c, "start", "1")
			Canonicalise(c)
		}
	}
	if Lines[n.Data] {
		trimLine(n)
		return
	}
	if holders[n.Data] {
		WrapWords(n)
	}
	if n.Data == "figure" && n.FirstChild != nil &&
		!slices.ContainsFunc(Children(n), func(c *html.Node) bool { return Is(c, "figcaption") }) {
		n.AppendChild(Element("figcaption"))
	}
	if Blocks[n.Data] || n.Data == "body" {
		for _, c := range Children(n) {
			if c.Type == html.TextNode && strings.TrimSpace(c.Data) == "" {
				n.RemoveChild(c)
			}
		}
	}
	fillHolder(n)
}

// fillHolder gives an item or a cell the paragraph that the editor needs in it.
func fillHolder(n *html.Node) {
	switch {
	case Is(n, "li") && (n.FirstChild == nil || !Is(n.FirstChild, "p")):
		n.InsertBefore(Element("p"), n.FirstChild)
	case Is(n, "td", "th", "blockquote", "aside") && n.FirstChild == nil:
		n.AppendChild(Element("p"))
	case Is(n, "details"):
		if !Is(n.FirstChild, "summary") {
			n.InsertBefore(Element("summary"), n.FirstChild)
		}
		if n.FirstChild.NextSibling == nil {
			n.AppendChild(Element("p"))
		}
	}
}

func dropIf(n *html.Node, name, value string) {
	if Attribute(n, name) == value {
		dropAttribute(n, name)
	}
}

// canonicalCode makes the inside of a pre one code element.
func canonicalCode(n *html.Node) {
	inside := Children(n)
	if len(inside) == 1 && Is(inside[0], "code") {
		return
	}
	var text strings.Builder
	for _, c := range inside {
		text.WriteString(RawText(c))
		n.RemoveChild(c)
	}
	code := Element("code")
	code.AppendChild(TextNode(text.String()))
	n.AppendChild(code)
}

func RawText(n *html.Node) string {
	if n.Type == html.TextNode {
		return n.Data
	}
	var out strings.Builder
	for c := range n.ChildNodes() {
		out.WriteString(RawText(c))
	}
	return out.String()
}

// oneBody moves all rows of a table into one body.
func oneBody(table *html.Node) {
	var rows []*html.Node
	for _, part := range Children(table) {
		if Is(part, "tr") {
			rows = append(rows, part)
		}
		if Is(part, "thead", "tbody", "tfoot") {
			for _, row := range Children(part) {
				part.RemoveChild(row)
				if Is(row, "tr") {
					rows = append(rows, row)
				}
			}
		}
		table.RemoveChild(part)
	}
	body := Element("tbody")
	for _, row := range rows {
		body.AppendChild(row)
	}
	table.AppendChild(body)
}

// WrapWords puts runs of words between blocks into paragraphs.
func WrapWords(n *html.Node) {
	var paragraph *html.Node
	for _, c := range Children(n) {
		if c.Type == html.ElementNode && Blocks[c.Data] || Is(c, "video") {
			paragraph = nil
			continue
		}
		if paragraph == nil {
			if c.Type == html.TextNode && strings.TrimSpace(c.Data) == "" {
				n.RemoveChild(c)
				continue
			}
			paragraph = Element("p")
			n.InsertBefore(paragraph, c)
		}
		n.RemoveChild(c)
		paragraph.AppendChild(c)
	}
	for _, c := range Children(n) {
		if Is(c, "p") {
			trimLine(c)
		}
	}
}

// trimLine makes every run of white space in a line one space, and takes it away
// at the line's two ends and around breaks.
func trimLine(n *html.Node) {
	var texts []*html.Node // nil for a break, which ends a run
	var collect func(*html.Node)
	collect = func(n *html.Node) {
		for _, c := range Children(n) {
			switch {
			case c.Type == html.TextNode:
				texts = append(texts, c)
			case Is(c, "br"):
				texts = append(texts, nil)
			case Is(c, "img"):
				texts = append(texts, TextNode("x")) // stands for something that is not a space
			}
			collect(c)
		}
	}
	collect(n)
	space := true // a space here would not show
	var last *html.Node
	for _, t := range texts {
		if t == nil {
			if last != nil {
				last.Data = strings.TrimRight(last.Data, " ")
			}
			space, last = true, nil
			continue
		}
		var out strings.Builder
		for _, r := range t.Data {
			if strings.ContainsRune(" \t\n\r\f", r) {
				if !space {
					out.WriteByte(' ')
				}
				space = true
			} else {
				out.WriteRune(r)
				space = false
			}
		}
		t.Data = out.String()
		if t.Data != "" {
			last = t
		}
	}
	if last != nil {
		last.Data = strings.TrimRight(last.Data, " ")
	}
	for _, t := range texts {
		if t != nil && t.Data == "" && t.Parent != nil {
			parent := t.Parent
			parent.RemoveChild(t)
			for parent != n && parent.FirstChild == nil { // a mark around nothing
				up := parent.Parent
				up.RemoveChild(parent)
				parent = up
			}
		}
	}
	for Is(n.LastChild, "br") {
		n.RemoveChild(n.LastChild)
	}
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

func WrapInside(n *html.Node, name string) {
	wrap := Element(name)
	for _, c := range Children(n) {
		n.RemoveChild(c)
		wrap.AppendChild(c)
	}
	n.AppendChild(wrap)
}

func HeadingLevel(n *html.Node) int {
	if Is(n, "h2", "h3", "h4") {
		return int(n.Data[1] - '0')
	}
	return 0
}
