package compare_test

import (
	"fmt"

	"hermeneus/core/compare"
)

// Two revisions are compared: what was put in and taken out stands in the flow of the later text.
func ExampleCompare() {
	before := "<p>Type the digits.</p><p>Send them.</p>"
	after := "<p>Type the five black digits.</p><p>Send them.</p><p>Keep the receipt.</p>"
	c := compare.Compare(before, after)
	fmt.Println("added", c.Added, "changed", c.Changed, "removed", c.Removed)
	fmt.Println(c.HTML)
	// Output:
	// added 1 changed 1 removed 0
	// <p data-change="changed">Type the <ins>five black </ins>digits.</p><p>Send them.</p><p data-change="added"><ins>Keep the receipt.</ins></p>
}

// A comment stays at its passage when the text around it changes.
func ExampleLocate() {
	was := "<p>Send a reading once a month.</p>"
	anchor, err := compare.MakeAnchor(was, 0, "once a month", 0)
	if err != nil {
		fmt.Println(err)
		return
	}
	spot, err := compare.Locate("<p>New.</p><p>Please send a reading once a month, by the app.</p>", anchor)
	fmt.Println(spot.Line, spot.Quote, err)
	// Output:
	// 1 once a month <nil>
}
