package exchange_test

import (
	"fmt"

	"hermeneus/core/exchange"
)

// A file of CommonMark with a YAML head is an article; written again, it reads the same.
func ExampleReadMarkdown() {
	page, err := exchange.ReadMarkdown("bills/estimated.md", []byte(`---
title: Why a bill is estimated
kind: reference
keywords: [guess, bill too high]
---
No reading reached us in time.

1. Send **one**.
2. We correct the bill.
`))
	if err != nil {
		fmt.Println(err)
		return
	}
	body, err := exchange.FromMarkdown(page.Body, nil)
	fmt.Println(page.Title, page.Keywords, err)
	fmt.Println(body)
	fmt.Print(exchange.ToMarkdown(body))
	// Output:
	// Why a bill is estimated [guess bill too high] <nil>
	// <p>No reading reached us in time.</p><ol><li><p>Send <strong>one</strong>.</p></li><li><p>We correct the bill.</p></li></ol>
	// No reading reached us in time.
	//
	// 1. Send **one**.
	// 2. We correct the bill.
}
