package audience_test

import (
	"fmt"

	"hermeneus/core/audience"
)

// Whom something is for, and who sees it, is decided here alone.
func ExampleViewer_Sees() {
	fmt.Println(audience.Viewer{}.Sees())
	fmt.Println(audience.Viewer{SignedIn: true, Groups: []string{"solar"}}.Sees())
	fmt.Println(audience.SignedIn.WiderThan(audience.Group("solar")))
	// Output:
	// [everyone]
	// [everyone signed_in group:solar]
	// true
}
