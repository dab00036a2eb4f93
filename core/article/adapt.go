package article

import (
	"regexp"
	"strings"

	"golang.org/x/net/html"
	"golang.org/x/net/html/atom"

	"hermeneus/core/markup"
)

// Resolve says where an address of a foreign text points to here: what is to
// stand in its place, and false where it is to be left out. picture tells what is
// shown from what is linked.
type Resolve func(address string, picture bool) (here string, keep bool)

// Adapt turns HTML from elsewhere (a page, a mail, a word processor) into the
// elements that a text here has, in canonical form. What it cannot keep is left
// for Sanitise to take out; resolve can be nil.
func Adapt(foreign string, resolve Resolve) string {
	r := markup.Root(markup.Parse(foreign))
	a := adapter{resolve}
	a.inside(r)
	return markup.Canonical(markup.RenderInside(r))
}

type adapter struct{ resolve Resolve }

var renamed = map[string]string{
	"h1":      "h2",
	"h5":      "h4",
	"h6":      "h4",
	"b":       "strong",
	"i":       "em",
	"del":     "s",
	"strike":  "s",
	"ins":     "u",
	"tt":      "code",
	"samp":    "code",
	"var":     "em",
	"cite":    "em",
	"dfn":     "em",
	"listing": "pre",
	"xmp":     "pre",
	"dir":     "ul",
	"menu":    "ul",
}

var dropped = map[string]bool{
	"script":   true,
	"style":    true,
	"head":     true,
	"title":    true,
	"meta":     true,
	"link":     true,
	"nav":      true,
	"template": true,
	"noscript": true,
	"object":   true,
	"embed":    true,
	"svg":      true,
	"math":     true,
	"form":     true,
	"button":   true,
	"input":    true,
	"select":   true,
	"textarea": true,
	"o:p":      true,
	"iframe":   true,
	"canvas":   true,
	"audio":    true,
}

var groups = map[string]bool{
	"div":      true,
	"section":  true,
	"article":  true,
	"main":     true,
	"header":   true,
	"footer":   true,
	"center":   true,
	"address":  true,
	"body":     true,
	"html":     true,
	"hgroup":   true,
	"fieldset": true,
	"dd":       true,
	"dl":       true,
	"caption":  true,
}

var (
	bold    = regexp.MustCompile(`(?i)font-weight\s*:\s*(bold|[6-9]00)`)
	normal  = regexp.MustCompile(`(?i)font-weight\s*:\s*(normal|[1-4]00)`)
	slanted = regexp.MustCompile(`(?i)font-style\s*:\s*italic`)
)

func (a adapter) inside(n *html.Node) {
	for _, c := range markup.Children(n) {
		switch c.Type {
		case html.CommentNode, html.DoctypeNode:
			n.RemoveChild(c)
		case html.ElementNode:
			a.element(n, c)
		}
	}
}

func (a adapter) element(parent, n *html.Node) {
	if dropped[n.Data] || markup.Is(n, "a") && markup.InnerText(n) == "¶" {
		parent.RemoveChild(n)
		return
	}
	if to, ok := renamed[n.Data]; ok && !(markup.Is(n, "b") && normal.MatchString(markup.Attribute(n, "style"))) {
		n.Data, n.DataAtom = to, atom.Lookup([]byte(to))
	}
	if n.Data == "pre" {
		a.code(n)
		return
	}
	a.inside(n)
	class := " " + markup.Attribute(n, "class") + " "
	switch {
	case markup.Is(n, "span", "font", "b"):
		a.span(parent, n)
	case markup.Is(n, "dt"):
		n.Data, n.DataAtom = "p", atom.P
		markup.WrapInside(n, "strong")
	case strings.Contains(class, " admonition "):
		a.callout(n, class)
	case groups[n.Data]:
		a.group(parent, n)
	case markup.Is(n, "q"):
		n.InsertBefore(markup.TextNode("“"), n.FirstChild)
		n.AppendChild(markup.TextNode("”"))
		unwrap(parent, n)
	case markup.Is(n, "a"):
		a.link(parent, n)
	case markup.Is(n, "img", "video"):
		a.picture(parent, n)
	case markup.Is(n, "figure") && markup.Attribute(n, "data-video") == "" && len(descendants(n, "img"))+len(descendants(n, "video")) == 0:
		unwrap(parent, n)
	}
}

// span keeps what a word processor says by looks alone.
func (a adapter) span(parent, n *html.Node) {
	style := markup.Attribute(n, "style")
	if markup.InnerText(n) != "" {
		if bold.MatchString(style) {
			markup.WrapInside(n, "strong")
		}
		if slanted.MatchString(style) {
			markup.WrapInside(n, "em")
		}
	}
	unwrap(parent, n)
}

func unwrap(parent, n *html.Node) {
	for _, c := range markup.Children(n) {
		n.RemoveChild(c)
		parent.InsertBefore(c, n)
	}
	parent.RemoveChild(n)
}

// group takes away a grouping; words straight in it were a paragraph.
func (a adapter) group(parent, n *html.Node) {
	if markup.Is(parent, "p", "h2", "h3", "h4", "span", "a", "strong", "em") {
		unwrap(parent, n)
		return
	}
	for _, c := range markup.Children(n) {
		if c.Type == html.ElementNode && markup.Blocks[c.Data] {
			markup.WrapWords(n)
			unwrap(parent, n)
			return
		}
	}
	if markup.InnerText(n) == "" && len(descendants(n, "img")) == 0 {
		parent.RemoveChild(n)
		return
	}
	n.Data, n.DataAtom, n.Attr = "p", atom.P, nil
}

func (a adapter) callout(n *html.Node, class string) {
	kind := "note"
	for _, k := range []struct{ word, kind string }{{"danger", "danger"}, {"error", "danger"}, {"warning", "caution"}, {"caution", "caution"}, {"attention", "caution"}, {"important", "caution"}} {
		if strings.Contains(class, k.word) {
			kind = k.kind
			break
		}
	}
	for _, c := range markup.Children(n) {
		if markup.Is(c, "p") && strings.Contains(markup.Attribute(c, "class"), "admonition-title") {
			n.RemoveChild(c)
		}
	}
	n.Data, n.DataAtom, n.Attr = "aside", atom.Aside, []html.Attribute{{Key: "data-callout", Val: kind}}
}

// code makes code of one element, and keeps which language it is in.
func (a adapter) code(n *html.Node) {
	class := ""
	for _, c := range descendants(n, "code") {
		for _, name := range strings.Fields(markup.Attribute(c, "class")) {
			if language.MatchString(name) {
				class = name
			}
		}
	}
	text := strings.TrimRight(markup.RawText(n), "\n")
	for _, c := range markup.Children(n) {
		n.RemoveChild(c)
	}
	n.Attr = nil
	code := markup.Element("code")
	if class != "" {
		markup.SetAttribute(code, "class", class)
	}
	code.AppendChild(markup.TextNode(text))
	n.AppendChild(code)
}

func (a adapter) link(parent, n *html.Node) {
	address := strings.TrimSpace(markup.Attribute(n, "href"))
	if address == "" {
		unwrap(parent, n)
		return
	}
	if a.resolve != nil {
		here, keep := a.resolve(address, false)
		if !keep {
			unwrap(parent, n)
			return
		}
		markup.SetAttribute(n, "href", here)
	}
	download := markup.Attribute(n, "download")
	n.Attr = []html.Attribute{{Key: "href", Val: markup.Attribute(n, "href")}}
	if download != "" {
		markup.SetAttribute(n, "download", download)
	}
}

func (a adapter) picture(parent, n *html.Node) {
	if a.resolve == nil {
		return
	}
	here, keep := a.resolve(strings.TrimSpace(markup.Attribute(n, "src")), true)
	if !keep {
		if alt := strings.TrimSpace(markup.Attribute(n, "alt")); alt != "" {
			parent.InsertBefore(markup.TextNode(alt), n)
		}
		parent.RemoveChild(n)
		return
	}
	markup.SetAttribute(n, "src", here)
}
