package flow_test

import (
	"fmt"

	"hermeneus/core/flow"
)

// A script is read and checked, and one conversation walked: the runtime is a pure function,
// so that whoever calls it meets its needs and steps again.
func ExampleStep() {
	script, err := flow.Parse([]byte(`{
		"name": "Front door", "language": "en", "start": "hello", "free_text": "find",
		"turns": [
			{"id": "hello", "kind": "choose", "text": "What is it about?",
				"options": [{"label": "My bill", "next": "bill"}, {"label": "Something else", "next": "find"}]},
			{"id": "bill", "kind": "suggest", "text": "This may help.", "articles": ["A-0005"],
				"helped": "bye", "not_helped": "ask", "nothing": "find"},
			{"id": "find", "kind": "look_up", "text": "In your words?",
				"helped": "bye", "not_helped": "ask", "nothing": "ask"},
			{"id": "ask", "kind": "request", "text": "What shall we answer?", "team": "Accounts", "next": "bye"},
			{"id": "bye", "kind": "close", "text": "Goodbye."}
		]}`))
	if err != nil {
		fmt.Println(err)
		return
	}
	fmt.Println("faults:", len(flow.Check(script)))

	world := flow.World{Articles: map[string]flow.Card{
		"A-0005": {Reference: "A-0005", Revision: "A-0005@2", Title: "Why a bill is estimated"},
	}}
	var state flow.State
	for _, input := range []flow.Input{
		{Kind: flow.Begin},
		{Kind: flow.Choice, Text: "My bill"},
		{Kind: flow.Open, Revision: "A-0005@2"},
		{Kind: flow.Verdict, Helped: true},
	} {
		result, err := flow.Step(script, state, input, world)
		if err != nil {
			fmt.Println(err)
			return
		}
		state = result.State
		for _, m := range result.Messages {
			fmt.Println("bot:", m.Text, m.Choices)
			for _, c := range m.Cards {
				fmt.Println("  ", c.Title)
			}
		}
	}
	// Output:
	// faults: 0
	// bot: What is it about? [My bill Something else]
	// bot: This may help. [Yes, that helped No, not yet]
	//    Why a bill is estimated
	// bot: Goodbye. []
}
