package article

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"golang.org/x/net/html"

	"hermeneus/core/markup"
)

// Presented is a text made ready to be read in a help centre.
type Presented struct {
	HTML        string
	Contents    []Heading // the automatic table of contents
	Attachments []Attachment
	Picture     string // path of the first one, "" for none
}

// Attachment is a file to be fetched that a text points to.
type Attachment struct {
	Name string `json:"name"`
	Path string `json:"path"`
}

// Widths are the widths, in pixels, that pictures are also kept in.
var Widths = []int{400, 800, 1600}

// Picture is what is known of a kept picture, in pixels.
type Picture struct {
	Width, Height int
	Widths        []int // it is also kept in
}

// shownWidth is how wide a picture is shown at most, in CSS pixels.
const shownWidth = 720

// Present makes a sanitised text ready: headings get anchors; pictures are offered
// in the widths kept of them, and load when they come near; callouts say what they
// are; a film from elsewhere is a link until it is asked for, so that nothing of
// another site loads before.
func Present(body string, pictures map[string]Picture) Presented {
	r := markup.Root(markup.Parse(body))
	lines := markup.LinesOf(r)
	list := Contents(lines)
	for _, h := range list {
		markup.SetAttribute(lines[h.Line].Node, "id", h.Anchor)
	}
	out := Presented{Contents: list}
	for n := range r.Descendants() {
		switch {
		case markup.Is(n, "img"):
			if out.Picture == "" {
				out.Picture = markup.Attribute(n, "src")
			}
			presentPicture(
				n,
				pictures[strings.TrimPrefix(markup.Attribute(n, "src"), FilePath)],
				out.Picture == markup.Attribute(n, "src"),
			)
		case markup.Is(n, "video"):
			markup.SetAttribute(n, "preload", "none")
		case markup.Is(n, "a") && strings.HasPrefix(markup.Attribute(n, "href"), FilePath):
			markup.SetAttribute(n, "data-attachment", "")
			if path := markup.Attribute(
				n,
				"href",
			); !slices.ContainsFunc(
				out.Attachments,
				func(a Attachment) bool { return a.Path == path },
			) {
				out.Attachments = append(out.Attachments, Attachment{markup.InnerText(n), path})
			}
		case markup.Is(n, "aside"):
			if label := calloutNames[markup.Attribute(n, "data-callout")]; label != "" {
				markup.SetAttribute(n, "aria-label", label)
			}
		}
	}
	for _, figure := range descendants(r, "figure") {
		presentFilm(figure)
	}
	for _, table := range descendants(r, "table") {
		scrollable(table)
	}
	out.HTML = markup.RenderInside(r)
	return out
}

var calloutNames = map[string]string{"note": "Note", "caution": "Caution", "danger": "Danger"}

func descendants(r *html.Node, name string) []*html.Node {
	var list []*html.Node
	for n := range r.Descendants() {
		if markup.Is(n, name) {
			list = append(list, n)
		}
	}
	return list
}

func presentPicture(n *html.Node, p Picture, first bool) {
	if !first {
		markup.SetAttribute(n, "loading", "lazy") // the first is what a reader may see at once
	}
	markup.SetAttribute(n, "decoding", "async")
	if p.Width > 0 && p.Height > 0 && markup.Attribute(n, "width") == "" && markup.Attribute(n, "height") == "" {
		markup.SetAttribute(n, "width", strconv.Itoa(p.Width)) // keeps its place while it loads
		markup.SetAttribute(n, "height", strconv.Itoa(p.Height))
	}
	if len(p.Widths) == 0 {
		return
	}
	src := markup.Attribute(n, "src")
	var set []string
	for _, w := range slices.Sorted(slices.Values(p.Widths)) {
		set = append(set, fmt.Sprintf("%s?w=%d %dw", src, w, w))
	}
	if p.Width > 0 {
		set = append(set, fmt.Sprintf("%s %dw", src, p.Width))
	}
	markup.SetAttribute(n, "srcset", strings.Join(set, ", "))
	markup.SetAttribute(n, "sizes", fmt.Sprintf("(max-width: %dpx) 100vw, %dpx", shownWidth, shownWidth))
}

func presentFilm(figure *html.Node) {
	address := markup.Attribute(figure, "data-video")
	if address == "" {
		return
	}
	host, _, _ := strings.Cut(strings.TrimPrefix(address, "https://"), "/")
	play := markup.Element("a", html.Attribute{Key: "class", Val: "film"}, html.Attribute{Key: "href", Val: address},
		html.Attribute{Key: "rel", Val: "nofollow noreferrer"})
	play.AppendChild(markup.TextNode("Play the film (from " + host + ")"))
	figure.InsertBefore(play, figure.FirstChild)
}

// scrollable lets a wide table scroll by itself, by keyboard too.
func scrollable(table *html.Node) {
	box := markup.Element("div", html.Attribute{Key: "class", Val: "scroll"}, html.Attribute{Key: "tabindex", Val: "0"},
		html.Attribute{Key: "role", Val: "group"}, html.Attribute{Key: "aria-label", Val: "Table"})
	table.Parent.InsertBefore(box, table)
	table.Parent.RemoveChild(table)
	box.AppendChild(table)
}

// Summary is what an article is about in a line: what its writer says, else how it begins.
func Summary(description string, outline Outline) string {
	if description != "" {
		return description
	}
	return outline.Summary(160)
}
