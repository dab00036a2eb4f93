package outcome_test

import (
	"fmt"
	"time"

	"hermeneus/core/outcome"
)

// A morning of evidence is folded into questions, and those into the rates.
func ExampleFold() {
	nine := time.Date(2026, 3, 2, 9, 0, 0, 0, time.UTC)
	at := func(minutes int) time.Time { return nine.Add(time.Duration(minutes) * time.Minute) }
	morning := []outcome.Evidence{
		// Ada asks, opens an article, and says that it helped.
		{At: at(0), Asker: "ada", Channel: outcome.Help, Kind: outcome.Asked, Text: "move out"},
		{At: at(1), Asker: "ada", Channel: outcome.Help, Kind: outcome.Opened, Ref: "A-0004@2"},
		{At: at(3), Asker: "ada", Channel: outcome.Help, Kind: outcome.Helped, Ref: "A-0004@2"},
		// Ben reads one to its end and goes away.
		{At: at(5), Asker: "ben", Channel: outcome.Help, Kind: outcome.Asked, Text: "meter number"},
		{At: at(6), Asker: "ben", Channel: outcome.Help, Kind: outcome.Opened, Ref: "A-0001@1"},
		{At: at(9), Asker: "ben", Channel: outcome.Help, Kind: outcome.Read, Ref: "A-0001@1"},
		// Cara finds nothing and writes a request.
		{At: at(10), Asker: "cara", Channel: outcome.Help, Kind: outcome.Asked, Text: "my bill is wrong"},
		{At: at(14), Asker: "cara", Channel: outcome.Form, Kind: outcome.Requested, Ref: "R-0012"},
	}
	// A week later everything has settled: the window in which somebody may come back is 72 hours.
	questions := outcome.Fold(morning, nine.AddDate(0, 0, 7), 72*time.Hour)
	for _, q := range questions {
		fmt.Println(q.Asker, q.Outcome)
	}
	rates := outcome.RatesOf(questions)
	fmt.Printf("answered without a person: %d of %d\n", rates.Deflection.Count, rates.Deflection.Of)
	// Output:
	// ada confirmed
	// ben presumed
	// cara person
	// answered without a person: 2 of 3
}

// A share always comes with its interval (Wilson 1927), and says when it rests on little.
func ExampleWilson() {
	p := outcome.Wilson(81, 263) // Newcombe, Statistics in Medicine 17 (1998) 857–872, table I
	fmt.Printf("%.4f, %.4f to %.4f, thin: %v\n", p.Value, p.Low, p.High, p.Thin)
	// Output:
	// 0.3080, 0.2553 to 0.3662, thin: false
}
