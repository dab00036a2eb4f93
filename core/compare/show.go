package compare

import (
	"golang.org/x/net/html"

	"hermeneus/core/markup"
)

// show marks one unit of the later text.
func (c *Comparison) show(old []unit, u *unit) {
	n := u.node
	mark := func(change string) { n.Attr = append(n.Attr, html.Attribute{Key: "data-change", Val: change}) }
	switch {
	case u.to < 0:
		c.Added++
		mark("added")
		if markup.Lines[n.Data] {
			markup.WrapInside(n, "ins")
		}
	case u.moved:
		c.Moved++
		mark("moved")
		if old[u.to].key != u.key {
			showWords(n, old[u.to].tokens, u.tokens)
		}
	case old[u.to].key == u.key:
	case !markup.Lines[n.Data]:
		c.Changed++
		mark("added")
		before := shallow(old[u.to].node)
		before.Attr = append(before.Attr, html.Attribute{Key: "data-change", Val: "removed"})
		n.Parent.InsertBefore(before, n)
	default:
		if showWords(n, old[u.to].tokens, u.tokens) || old[u.to].node.Data != n.Data && old[u.to].text != u.text {
			c.Changed++
			mark("changed")
		} else {
			c.Formatted++
			mark("formatted")
			if was := old[u.to].node.Data; was != n.Data {
				markup.SetAttribute(n, "title", "was "+lineNames[was]+", now "+lineNames[n.Data])
			}
		}
	}
}

var lineNames = map[string]string{
	"p":          "a paragraph",
	"h2":         "a heading",
	"h3":         "a subheading",
	"h4":         "a small heading",
	"pre":        "code",
	"summary":    "the line of an expandable part",
	"figcaption": "a caption",
}

// showGone puts removed units before the one that follows them now, cells of a
// row as one line. It gives how many lines it showed.
func showGone(r *html.Node, gone []*unit, before *html.Node) int {
	shown := 0
	var row *html.Node
	var cells *html.Node
	for _, u := range gone {
		if u.cell && u.node.Parent != nil && u.node.Parent.Parent == row && row != nil {
			cells.AppendChild(markup.TextNode(" · "))
			moveInside(u.node, cells)
			continue
		}
		row = nil
		line := markup.Element("p", html.Attribute{Key: "data-change", Val: "removed"})
		if markup.Lines[u.node.Data] {
			if !u.cell && u.node.Data != "summary" && u.node.Data != "figcaption" {
				line.Data, line.DataAtom = u.node.Data, u.node.DataAtom
			}
			del := markup.Element("del")
			line.AppendChild(del)
			if u.cell {
				row, cells = u.node.Parent.Parent, del
			}
			moveInside(u.node, del)
		} else {
			copied := shallow(u.node)
			copied.Attr = append(copied.Attr, html.Attribute{Key: "data-change", Val: "removed"})
			line = copied
		}
		place(r, line, before, markup.Is(u.node.Parent, "li"))
		shown++
	}
	return shown
}

func moveInside(from, to *html.Node) {
	for _, c := range markup.Children(from) {
		from.RemoveChild(c)
		to.AppendChild(c)
	}
}

// place puts a removed line before a node of the page: as an item among items,
// else between the blocks of the top.
func place(r, gone, before *html.Node, item bool) {
	if before == nil {
		last := r.LastChild
		if item && markup.Is(last, "ul", "ol") {
			li := markup.Element("li")
			li.AppendChild(gone)
			last.AppendChild(li)
			return
		}
		r.AppendChild(gone)
		return
	}
	at := before
	for at.Parent != r {
		if item && markup.Is(at, "li") {
			li := markup.Element("li")
			li.AppendChild(gone)
			at.Parent.InsertBefore(li, at)
			return
		}
		at = at.Parent
	}
	r.InsertBefore(gone, at)
}
