package markup

import (
	"slices"
	"strings"

	"golang.org/x/net/html"
)

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

// Canonical gives a sanitised text in the one form that the editor also makes:
// words always stand in a paragraph or a heading, tables have one body, white
// space that does not show is gone. Canonical texts that read the same are the
// same; Canonical of a canonical text changes nothing.
func Canonical(body string) string {
	r := Root(Parse(body))
	Canonicalise(r)
	return RenderInside(r)
}

// Canonicalise lays out what is inside a node in the canonical way.
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

// RawText is the text inside a node as it is, white space and all.
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
