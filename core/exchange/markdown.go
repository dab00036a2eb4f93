// Package exchange brings articles in and out: CommonMark with YAML front matter, sets of HTML pages, mail
// and agents' replies.
// It promises that what was written reads as it was, and that what cannot be read is reported by file and line.
// It may not touch a database.
package exchange

import (
	"bytes"
	"strings"

	"github.com/JohannesKaufmann/html-to-markdown/v2/converter"
	"github.com/JohannesKaufmann/html-to-markdown/v2/plugin/base"
	"github.com/JohannesKaufmann/html-to-markdown/v2/plugin/commonmark"
	"github.com/JohannesKaufmann/html-to-markdown/v2/plugin/table"
	"github.com/yuin/goldmark"
	"github.com/yuin/goldmark/extension"
	"github.com/yuin/goldmark/renderer/html"
	nethtml "golang.org/x/net/html"
	"golang.org/x/net/html/atom"

	"hermeneus/core/article"
	"hermeneus/core/markup"
)

var reader = goldmark.New(
	goldmark.WithExtensions(extension.NewTable(extension.WithTableCellAlignMethod(extension.TableCellAlignNone))),
	goldmark.WithRendererOptions(html.WithUnsafe()),
)

// FromMarkdown turns CommonMark (with tables) into a text in canonical form.
// Addresses go through resolve, which can be nil. The result is not sanitised yet.
func FromMarkdown(source string, resolve article.Resolve) (string, error) {
	if markedTooDeep(source) {
		return "", article.ErrTooDeep
	}
	var out bytes.Buffer
	if err := reader.Convert([]byte(source), &out); err != nil {
		return "", err
	}
	if article.TooDeep(out.String()) {
		return "", article.ErrTooDeep
	}
	return captions(article.Adapt(out.String(), resolve)), nil
}

// markedTooDeep reports whether a line begins with more marks of quotes and lists than a text
// may be deep: each opens a block within the one before.
func markedTooDeep(source string) bool {
	for line := range strings.Lines(source) {
		marks := 0
		for _, r := range line {
			if r != ' ' && r != '\t' && !strings.ContainsRune(">-+*", r) {
				break
			}
			if r != ' ' && r != '\t' {
				marks++
			}
		}
		if marks > article.MaxDepth && strings.Trim(line, "-* \t\r\n") != "" { // a rule is a line of them
			return true
		}
	}
	return false
}

// captions makes a picture that stands alone and has a title one with a caption.
func captions(body string) string {
	if !strings.Contains(body, "title=") {
		return body
	}
	r := fragment(body)
	for n := range r.Descendants() {
		if n.Data != "p" || n.FirstChild == nil || n.FirstChild != n.LastChild || n.FirstChild.Data != "img" {
			continue
		}
		img := n.FirstChild
		for i, a := range img.Attr {
			if a.Key == "title" {
				img.Attr = append(img.Attr[:i:i], img.Attr[i+1:]...)
				caption := &nethtml.Node{Type: nethtml.ElementNode, Data: "figcaption", DataAtom: atom.Figcaption}
				caption.AppendChild(&nethtml.Node{Type: nethtml.TextNode, Data: a.Val})
				n.Data, n.DataAtom = "figure", atom.Figure
				n.AppendChild(caption)
				break
			}
		}
	}
	return markup.Canonical(inside(r))
}

var writer = converter.NewConverter(converter.WithPlugins(base.NewBasePlugin(),
	commonmark.NewCommonmarkPlugin(commonmark.WithLinkEmptyContentBehavior(commonmark.LinkBehaviorSkip)),
	table.NewTablePlugin(table.WithSpanCellBehavior(table.SpanBehaviorEmpty))))

// ToMarkdown writes a canonical text as CommonMark (with tables). Each block is
// read back at once; one that would not come back the same, since CommonMark has
// nothing for it, is written as the HTML it is, which CommonMark allows. So
// FromMarkdown(ToMarkdown(body)) is body again, sanitised.
func ToMarkdown(body string) string {
	body = strings.ReplaceAll(body, ` rel="nofollow noreferrer"`, "") // Sanitise adds it again
	var out []string
	r := fragment(body)
	for n := range r.ChildNodes() {
		md := block(n)
		if len(out) > 0 && mergeable(n) && n.PrevSibling != nil && n.PrevSibling.Data == n.Data {
			out = append(out, "<!-- -->")
		}
		out = append(out, md)
	}
	md := strings.Join(out, "\n\n")
	if md != "" {
		md += "\n"
	}
	if !comesBack(md, body) { // blocks that are right alone and wrong together
		out = nil
		for n := range r.ChildNodes() {
			out = append(out, raw(n))
		}
		md = strings.Join(out, "\n\n") + "\n"
	}
	return md
}

// mergeable blocks run into a neighbour of their kind.
func mergeable(n *nethtml.Node) bool {
	return n.Data == "ul" || n.Data == "ol" || n.Data == "blockquote" || n.Data == "pre"
}

func comesBack(md, body string) bool {
	again, err := FromMarkdown(md, nil)
	return err == nil && again == body
}

func block(n *nethtml.Node) string {
	source := render(n)
	var md string
	switch n.Data {
	case "aside", "details":
		md = framed(n)
	case "figure":
		md = figure(n)
	default:
		converted, err := writer.ConvertString(source)
		if err != nil {
			return raw(n)
		}
		md = strings.TrimRight(strings.TrimLeft(converted, "\n"), " \n")
	}
	if md == "" || !comesBack(md+"\n", source) {
		return raw(n)
	}
	return md
}

// framed writes a block that holds others: its tags on lines of their own, and
// CommonMark between them.
func framed(n *nethtml.Node) string {
	open := &nethtml.Node{Type: nethtml.ElementNode, Data: n.Data, Attr: n.Attr}
	tag, _, _ := strings.Cut(render(open), "</")
	body := n.FirstChild
	if n.Data == "details" && body != nil && body.Data == "summary" {
		tag += "\n" + oneLine(render(body))
		body = body.NextSibling
	}
	var inner strings.Builder
	for c := body; c != nil; c = c.NextSibling {
		inner.WriteString(render(c))
	}
	return tag + "\n\n" + strings.TrimRight(ToMarkdown(inner.String()), "\n") + "\n\n</" + n.Data + ">"
}

// figure writes a picture with a plain caption as CommonMark's picture with a title.
func figure(n *nethtml.Node) string {
	img, caption := n.FirstChild, n.LastChild
	if img == nil || img.Data != "img" || img.NextSibling != caption || caption.FirstChild == nil ||
		caption.FirstChild != caption.LastChild {
		return ""
	}
	withTitle := &nethtml.Node{
		Type:     nethtml.ElementNode,
		Data:     "img",
		DataAtom: atom.Img,
		Attr: append(
			img.Attr[:len(img.Attr):len(img.Attr)],
			nethtml.Attribute{Key: "title", Val: caption.FirstChild.Data},
		),
	}
	md, err := writer.ConvertString(render(withTitle))
	if err != nil {
		return ""
	}
	return strings.TrimSpace(md)
}

// raw writes a block as HTML that no blank line cuts short.
func raw(n *nethtml.Node) string { return oneLine(render(n)) }

func oneLine(source string) string { return strings.ReplaceAll(source, "\n", "&#10;") }

func fragment(body string) *nethtml.Node {
	r := &nethtml.Node{Type: nethtml.ElementNode, Data: "body", DataAtom: atom.Body}
	nodes, err := nethtml.ParseFragment(strings.NewReader(body), r)
	if err != nil {
		return r
	}
	top := &nethtml.Node{Type: nethtml.ElementNode, Data: "body", DataAtom: atom.Body}
	for _, n := range nodes {
		top.AppendChild(n)
	}
	return top
}

func render(n *nethtml.Node) string {
	var out strings.Builder
	if nethtml.Render(&out, n) != nil {
		return ""
	}
	return out.String()
}

func inside(n *nethtml.Node) string {
	var out strings.Builder
	for c := range n.ChildNodes() {
		out.WriteString(render(c))
	}
	return out.String()
}
