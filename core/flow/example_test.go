package flow_test

import (
	"fmt"

	"hermeneus/core/flow"
)

// A script is read and checked, and one conversation walked: the runtime is a pure function,
// so that whoever calls it meets its needs and steps again.
func ExampleRun() {
	reading := flow.Read(`flow Front door (en)
choose What is it about?
  - My bill
    suggest A-0005: This may help.
      no: request Accounts: What shall we answer?
  - Something else
    look up In your words?
      no: request Accounts: What shall we answer?
close Goodbye.
whenever a person is asked for: person, human
  request Accounts: What shall we answer?
`)
	program := flow.Compile(reading.Script)
	fmt.Println("faults:", len(reading.Check(flow.Env{})))

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
		result, err := flow.Run(program, state, input, world)
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
