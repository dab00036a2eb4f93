package form_test

import (
	"fmt"

	"hermeneus/core/form"
)

// A field is asked for only where an earlier answer calls for it, and a wrong answer says what to mend.
func ExampleTake() {
	fields := []form.Field{
		{Key: "which", Label: "In or out?", Kind: form.Choice, Required: true, Options: []string{"In", "Out"}},
		{Key: "meter", Label: "Meter number", Kind: form.Reference, Pattern: "A00 00000"},
		{Key: "forward", Label: "Where to?", Kind: form.Text, Required: true, When: form.When{Key: "which", Is: "Out"}},
	}
	_, faults := form.Take(fields, map[string]string{"which": "Out", "meter": "12"}, nil)
	for _, f := range faults {
		fmt.Println(f.Key, f.Message)
	}
	taken, faults := form.Take(fields, map[string]string{"which": "In", "meter": "w04 12345"}, nil)
	for _, a := range taken {
		fmt.Println(a.Label, a.Value)
	}
	fmt.Println(len(faults))
	// Output:
	// meter Write it as it stands there, such as K48 21907.
	// forward This is missing.
	// In or out? In
	// Meter number w04 12345
	// 0
}
