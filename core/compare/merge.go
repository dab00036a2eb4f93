package compare

import (
	"strings"

	"hermeneus/core/markup"
)

// Beside is one place of two texts laid side by side: a block of each, either of
// which can be missing.
type Beside struct {
	Same   bool   `json:"same"`
	Ours   string `json:"ours"` // HTML of the block, "" for none
	Theirs string `json:"theirs"`
}

// SideBySide lays the blocks of two texts side by side, so that a writer can
// choose between them. Joining either side gives that text back.
func SideBySide(ours, theirs string) []Beside {
	a, b := topBlocks(ours), topBlocks(theirs)
	var rows []Beside
	var gone, come []string
	flush := func() {
		for i := range max(len(gone), len(come)) {
			row := Beside{}
			if i < len(gone) {
				row.Ours = gone[i]
			}
			if i < len(come) {
				row.Theirs = come[i]
			}
			rows = append(rows, row)
		}
		gone, come = nil, nil
	}
	for _, r := range diff(a, b) {
		switch r.mark {
		case Removed:
			gone = append(gone, r.tokens...)
		case Added:
			come = append(come, r.tokens...)
		default:
			flush()
			for _, t := range r.tokens {
				rows = append(rows, Beside{true, t, t})
			}
		}
	}
	flush()
	return rows
}

func topBlocks(body string) []string {
	var list []string
	for c := range markup.Root(markup.Parse(markup.Canonical(body))).ChildNodes() {
		list = append(list, markup.Render(c))
	}
	return list
}

// Abreast lays an edition beside its source, block by block: blocks of one kind
// stand beside each other in their order.
func Abreast(source, edition string) []Beside {
	a, b := topBlocks(source), topBlocks(edition)
	kinds := func(list []string) []string {
		names := make([]string, len(list))
		for i, block := range list {
			names[i], _, _ = strings.Cut(strings.TrimPrefix(block, "<"), ">")
			names[i], _, _ = strings.Cut(names[i], " ")
		}
		return names
	}
	var rows []Beside
	i, j := 0, 0
	var lone []int // source blocks without a partner yet
	flush := func() {
		for _, n := range lone {
			rows = append(rows, Beside{Ours: a[n]})
		}
		lone = nil
	}
	for _, r := range diff(kinds(a), kinds(b)) {
		for range r.tokens {
			switch r.mark {
			case Removed:
				lone = append(lone, i)
				i++
			case Added:
				row := Beside{Theirs: b[j]}
				if len(lone) > 0 {
					row.Ours, lone = a[lone[0]], lone[1:]
				}
				rows = append(rows, row)
				j++
			default:
				flush()
				rows = append(rows, Beside{Ours: a[i], Theirs: b[j]})
				i, j = i+1, j+1
			}
		}
	}
	flush()
	return rows
}
