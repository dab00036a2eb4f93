package article

import (
	"strings"

	"golang.org/x/net/html"

	"hermeneus/core/markup"
)

// Chapter is a heading with what stands under it, up to the next one. The first
// chapter of a text may have no heading.
type Chapter struct {
	Heading string
	Anchor  string // of the heading on the page, "" for none
	Blocks  []Block
}

// BlockKind says what a block of a chapter is.
type BlockKind string

// The kinds of blocks. Cells of tables stand apart, since one alone says little.
const (
	TextBlock BlockKind = "text"
	StepBlock BlockKind = "step" // of a numbered list
	ItemBlock BlockKind = "item" // of any other list
	CellBlock BlockKind = "cell"
)

// Block is one line of a chapter, as it stands in the text.
type Block struct {
	Kind BlockKind `json:"kind"`
	Text string    `json:"text"`
}

// WordsOf counts the words of blocks.
func WordsOf(blocks []Block) int {
	n := 0
	for _, b := range blocks {
		n += len(strings.Fields(b.Text))
	}
	return n
}

// Chapters takes a sanitised text apart at its headings.
func Chapters(body string) []Chapter {
	lines := markup.LinesOf(markup.Root(markup.Parse(body)))
	headings := Contents(lines)
	anchors := map[int]string{}
	for _, h := range headings {
		anchors[h.Line] = h.Anchor
	}
	list := []Chapter{{}}
	for i, l := range lines {
		if l.Text == "" {
			continue
		}
		if anchor, ok := anchors[i]; ok {
			list = append(list, Chapter{Heading: l.Text, Anchor: anchor})
			continue
		}
		at := &list[len(list)-1]
		at.Blocks = append(at.Blocks, Block{kindOf(l.Node), l.Text})
	}
	if len(list[0].Blocks) == 0 {
		list = list[1:]
	}
	return list
}

func kindOf(n *html.Node) BlockKind {
	for up := n; up != nil; up = up.Parent {
		switch {
		case markup.Is(up, "td", "th"):
			return CellBlock
		case markup.Is(up, "li") && markup.Is(up.Parent, "ol"):
			return StepBlock
		case markup.Is(up, "li"):
			return ItemBlock
		}
	}
	return TextBlock
}
