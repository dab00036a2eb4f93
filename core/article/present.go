package article

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"golang.org/x/net/html"
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
	r := root(parse(body))
	lines := linesOf(r)
	list := contents(lines)
	for _, h := range list {
		setAttribute(lines[h.Line].node, "id", h.Anchor)
	}
	out := Presented{Contents: list}
	for n := range r.Descendants() {
		switch {
		case is(n, "img"):
			if out.Picture == "" {
				out.Picture = attribute(n, "src")
			}
			presentPicture(
				n,
				pictures[strings.TrimPrefix(attribute(n, "src"), FilePath)],
				out.Picture == attribute(n, "src"),
			)
		case is(n, "video"):
			setAttribute(n, "preload", "none")
		case is(n, "a") && strings.HasPrefix(attribute(n, "href"), FilePath):
			setAttribute(n, "data-attachment", "")
			if path := attribute(
				n,
				"href",
			); !slices.ContainsFunc(
				out.Attachments,
				func(a Attachment) bool { return a.Path == path },
			) {
				out.Attachments = append(out.Attachments, Attachment{plain(n), path})
			}
		case is(n, "aside"):
			if label := calloutNames[attribute(n, "data-callout")]; label != "" {
				setAttribute(n, "aria-label", label)
			}
		}
	}
	for _, figure := range descendants(r, "figure") {
		presentFilm(figure)
	}
	for _, table := range descendants(r, "table") {
		scrollable(table)
	}
	out.HTML = renderInside(r)
	return out
}

var calloutNames = map[string]string{"note": "Note", "caution": "Caution", "danger": "Danger"}

func descendants(r *html.Node, name string) []*html.Node {
	var list []*html.Node
	for n := range r.Descendants() {
		if is(n, name) {
			list = append(list, n)
		}
	}
	return list
}

func presentPicture(n *html.Node, p Picture, first bool) {
	if !first {
		setAttribute(n, "loading", "lazy") // the first is what a reader may see at once
	}
	setAttribute(n, "decoding", "async")
	if p.Width > 0 && p.Height > 0 && attribute(n, "width") == "" && attribute(n, "height") == "" {
		setAttribute(n, "width", strconv.Itoa(p.Width)) // keeps its place while it loads
		setAttribute(n, "height", strconv.Itoa(p.Height))
	}
	if len(p.Widths) == 0 {
		return
	}
	src := attribute(n, "src")
	var set []string
	for _, w := range slices.Sorted(slices.Values(p.Widths)) {
		set = append(set, fmt.Sprintf("%s?w=%d %dw", src, w, w))
	}
	if p.Width > 0 {
		set = append(set, fmt.Sprintf("%s %dw", src, p.Width))
	}
	setAttribute(n, "srcset", strings.Join(set, ", "))
	setAttribute(n, "sizes", fmt.Sprintf("(max-width: %dpx) 100vw, %dpx", shownWidth, shownWidth))
}

func presentFilm(figure *html.Node) {
	address := attribute(figure, "data-video")
	if address == "" {
		return
	}
	host, _, _ := strings.Cut(strings.TrimPrefix(address, "https://"), "/")
	play := element("a", html.Attribute{Key: "class", Val: "film"}, html.Attribute{Key: "href", Val: address},
		html.Attribute{Key: "rel", Val: "nofollow noreferrer"})
	play.AppendChild(textNode("Play the film (from " + host + ")"))
	figure.InsertBefore(play, figure.FirstChild)
}

// scrollable lets a wide table scroll by itself, by keyboard too.
func scrollable(table *html.Node) {
	box := element("div", html.Attribute{Key: "class", Val: "scroll"}, html.Attribute{Key: "tabindex", Val: "0"},
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
