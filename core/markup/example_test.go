package markup_test

import (
	"fmt"

	"hermeneus/core/markup"
)

// The same text written two ways has one canonical form, and lines counted as a reader counts them.
func ExampleCanonical() {
	loose := "<ul><li>one<li>two</ul>"
	fmt.Println(markup.Canonical(loose))
	fmt.Println(markup.Canonical(loose) == markup.Canonical("<ul>\n<li><p>one</p></li>\n<li><p>two</p></li></ul>"))
	for i, line := range markup.LinesOf(markup.Root(markup.Parse(markup.Canonical(loose)))) {
		fmt.Println(i, line.Text)
	}
	// Output:
	// <ul><li><p>one</p></li><li><p>two</p></li></ul>
	// true
	// 0 one
	// 1 two
}
