package prose_test

import (
	"fmt"

	"hermeneus/core/prose"
)

// The margin says what is wrong with a text, where, and how it reads.
func ExampleExamine() {
	found := prose.Examine(prose.Draft{
		Title:    "Meters",
		Body:     "<h2>Steps</h2><p>Simply click here: <a href=\"/help/articles/A-0099\">here</a>.</p>",
		Keywords: []string{"reading"},
	})
	for _, c := range found.Checks {
		fmt.Println(c.Line, c.Kind, c.Message)
	}
	// Output:
	// -1 title_wording One word is no question. Say what the customer wants to do or know.
	// 1 vague “Simply” helps nobody who is stuck. Leave it out, or say what exactly.
	// 1 broken_link The link “here” points to A-0099, which is not there.
}
