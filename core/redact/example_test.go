package redact_test

import (
	"fmt"

	"hermeneus/core/redact"
)

// What people type is kept without what names them.
func ExampleText() {
	fmt.Println(redact.Text("I am wim@post.example, call 01632 960123, card 4111 1111 1111 1111"))
	fmt.Println(redact.Text("meter W04 12345 shows 48213"))
	// Output:
	// I am [mail address], call [phone number], card [card number]
	// meter W04 12345 shows 48213
}
