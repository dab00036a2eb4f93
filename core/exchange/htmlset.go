package exchange

import (
	"bytes"
	"net/url"
	"slices"
	"strings"

	"golang.org/x/net/html"
	"golang.org/x/net/html/atom"

	"hermeneus/core/article"
)

// ReadHTML reads a page, as one article or cut into parts. What stands around the
// content of the page (navigation, head and foot) is left behind.
func ReadHTML(file string, content []byte, split Split) ([]Page, []Line) {
	if article.TooDeep(string(content)) {
		return nil, []Line{{File: file, Action: Problem, Message: article.ErrTooDeep.Error()}}
	}
	doc, err := html.Parse(bytes.NewReader(content))
	if err != nil {
		return nil, []Line{{File: file, Action: Problem, Message: err.Error()}}
	}
	main := contentOf(doc)
	title := headingText(first(main, atom.H1))
	if title == "" {
		title = headingText(first(doc, atom.Title))
	}
	if title == "" {
		title = (&Page{Path: file}).named()
	}
	if split != Parts {
		if h1 := first(main, atom.H1); h1 != nil {
			h1.Parent.RemoveChild(h1)
		}
		p := Page{Head: Head{Title: title}, Path: file, Line: 1, Body: inside(main), HTML: true, Anchors: ids(main)}
		if words(main) == 0 {
			return nil, []Line{{File: file, Action: Note, Message: "there are no words in it"}}
		}
		return []Page{p}, nil
	}
	c := cutter{file: file, title: title}
	c.walk(main)
	c.end()
	return c.pages, nil
}

func (p *Page) named() string {
	p.titleFrom("")
	return p.Title
}

// contentOf finds where the words of a page are.
func contentOf(doc *html.Node) *html.Node {
	for _, want := range []func(*html.Node) bool{
		func(n *html.Node) bool { return n.DataAtom == atom.Main },
		func(n *html.Node) bool { return value(n, "role") == "main" },
		func(n *html.Node) bool { return n.DataAtom == atom.Article },
		func(n *html.Node) bool { return n.DataAtom == atom.Body },
	} {
		for n := range doc.Descendants() {
			if n.Type == html.ElementNode && want(n) {
				return n
			}
		}
	}
	return doc
}

func value(n *html.Node, name string) string {
	for _, a := range n.Attr {
		if a.Key == name {
			return a.Val
		}
	}
	return ""
}

func first(n *html.Node, name atom.Atom) *html.Node {
	for c := range n.Descendants() {
		if c.DataAtom == name {
			return c
		}
	}
	return nil
}

func headingText(n *html.Node) string {
	if n == nil {
		return ""
	}
	var out strings.Builder
	for c := range n.Descendants() {
		if c.Type == html.TextNode {
			out.WriteString(c.Data)
		}
	}
	return strings.Join(strings.Fields(strings.ReplaceAll(out.String(), "¶", "")), " ")
}

func words(n *html.Node) int {
	count := 0
	for c := range n.Descendants() {
		if c.Type == html.TextNode && !skipped(c.Parent) {
			count += len(strings.Fields(c.Data))
		}
	}
	return count
}

func skipped(n *html.Node) bool {
	return n.DataAtom == atom.Script || n.DataAtom == atom.Style || n.DataAtom == atom.Nav
}

func ids(n *html.Node) []string {
	var list []string
	for c := range n.Descendants() {
		if id := value(c, "id"); id != "" {
			list = append(list, id)
		}
	}
	return list
}

// cutter cuts a page at its headings, in the order of the page. A heading with
// others below it names a category; what stands between the two is an article of
// the heading's name.
type cutter struct {
	file, title string
	way         []string // the headings above, from the top
	levels      []int
	open        *Page
	body        strings.Builder
	anchors     []string // met since the last heading, and before the next
	pages       []Page
}

// walk takes groups apart and passes everything else on whole.
func (c *cutter) walk(n *html.Node) {
	for child := range n.ChildNodes() {
		switch {
		case child.Type == html.ElementNode && level(child) > 0:
			c.heading(child)
		case child.Type == html.ElementNode && holdsHeading(child):
			if id := value(child, "id"); id != "" {
				c.anchors = append(c.anchors, id)
			}
			c.walk(child)
		case child.DataAtom == atom.Nav || child.Type == html.CommentNode:
		default:
			c.body.WriteString(render(child))
			c.here(value(child, "id"))
			for _, id := range ids(child) {
				c.here(id)
			}
		}
	}
}

func (c *cutter) here(id string) {
	if id != "" && c.open != nil {
		c.open.Anchors = append(c.open.Anchors, id)
	}
}

func holdsHeading(n *html.Node) bool {
	for d := range n.Descendants() {
		if level(d) > 0 {
			return true
		}
	}
	return false
}

func level(n *html.Node) int {
	switch n.DataAtom {
	case atom.H1, atom.H2, atom.H3, atom.H4, atom.H5, atom.H6:
		return int(n.Data[1] - '0')
	}
	return 0
}

func (c *cutter) heading(n *html.Node) {
	own := append([]string{value(n, "id")}, ids(n)...)
	if len(c.anchors) > 0 {
		own = append(c.anchors[len(c.anchors)-1:], own...)
	}
	c.end()
	at, title := level(n), headingText(n)
	for len(c.levels) > 0 && c.levels[len(c.levels)-1] >= at {
		c.levels, c.way = c.levels[:len(c.levels)-1], c.way[:len(c.way)-1]
	}
	part := article.Slug(title)
	for _, id := range slices.Backward(own) {
		if id != "" {
			part = id
		}
	}
	anchors := append(c.anchors, own...)
	c.open = &Page{
		Head:     Head{Title: title},
		Path:     c.file,
		Part:     part,
		Line:     1,
		HTML:     true,
		Category: append([]string(nil), c.way...),
		Anchors:  anchors,
	}
	c.anchors = nil
	c.levels, c.way = append(c.levels, at), append(c.way, title)
}

// end keeps the part that was open, if it has words.
func (c *cutter) end() {
	if c.open == nil {
		if strings.TrimSpace(c.body.String()) == "" || c.title == "" || words(fragment(c.body.String())) == 0 {
			c.body.Reset()
			return
		}
		c.open = &Page{Head: Head{Title: c.title}, Path: c.file, Line: 1, HTML: true}
	}
	c.open.Body = c.body.String()
	c.body.Reset()
	if words(fragment(c.open.Body)) > 0 {
		c.pages = append(c.pages, *c.open)
	} else {
		// Nothing but a heading: what points to it is led to the part that follows.
		c.anchors = append(c.anchors, c.open.Anchors...)
	}
	c.open = nil
}

func unescape(file string) string {
	if plain, err := url.PathUnescape(file); err == nil {
		return plain
	}
	return file
}
