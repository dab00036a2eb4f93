package flow

import (
	"encoding/json"
	"testing"
)

// States as the program before kept them, of the door in format 1: each goes on.
func TestKeptStatesOfFormatOneGoOn(t *testing.T) {
	p := Compile(door(t))
	for name, c := range map[string]struct {
		kept    string
		in      Input
		says    string
		waiting Waiting
	}{
		"for a choice": {`{"turn":"what","waiting":"choice","path":[{"turn":"hello"},{"turn":"what"}],"heard":"What is it about?"}`,
			Input{Kind: Choice, Text: "My bill"}, "These may help.", ForVerdict},
		"for words": {`{"turn":"find","waiting":"words","path":[{"turn":"find"}],"heard":"In your own words?"}`,
			Input{Kind: Words, Text: "tariff"}, "", ForFound},
		"for what was found": {`{"turn":"find","waiting":"found","words":"tariff"}`,
			Input{Kind: Found, Cards: []Card{tariff}}, FoundText, ForVerdict},
		"for a verdict": {`{"turn":"bill","waiting":"verdict","offer":["A-0001@3"],"shown":[{"card":{"reference":"A-0001",
			"revision":"A-0001@3","title":"Bills","summary":"…"},"opened":true}],"heard":"These may help."}`,
			Input{Kind: Choice, Text: Yes}, "Goodbye.", ForNothing},
		"for details": {`{"turn":"leave","waiting":"details","heard":"Nobody is here. What shall we answer?"}`,
			Input{Kind: Words, Text: "my bill"}, In("en").Address, ForAddress},
		"for an address": {`{"turn":"leave","waiting":"address","facts":{"request":"my bill"}}`,
			Input{Kind: Words, Text: "skip"}, "Goodbye.", ForNothing},
	} {
		t.Run(name, func(t *testing.T) {
			var state State
			if err := json.Unmarshal([]byte(c.kept), &state); err != nil {
				t.Fatal(err)
			}
			r, err := Run(p, state, c.in, open)
			if err != nil {
				t.Fatal(err)
			}
			said := ""
			if len(r.Messages) > 0 {
				said = r.Messages[0].Text
			}
			if said != c.says || r.State.Waiting != c.waiting {
				t.Errorf("%q, waits for %s; want %q, %s", said, r.State.Waiting, c.says, c.waiting)
			}
		})
	}
	for kept, want := range map[string]error{
		`{"turn":"person","waiting":"person"}`: ErrWithPeople, `{"turn":"bye","waiting":"nothing"}`: ErrClosed,
	} {
		var state State
		if err := json.Unmarshal([]byte(kept), &state); err != nil {
			t.Fatal(err)
		}
		if _, err := Run(p, state, Input{Kind: Words, Text: "hello?"}, open); err != want {
			t.Errorf("%s: %v", kept, err)
		}
	}
}

// A script of format 1 is written as a text that reads as the same conversation.
func TestFormatOneIsWrittenAsText(t *testing.T) {
	s := door(t)
	r := Read(Write(s))
	if len(r.Faults) > 0 {
		t.Fatal(r.Faults)
	}
	inputs := []Input{{Kind: Choice, Text: "My bill"}, {Kind: Words, Text: "and the tariff?"}, {Kind: Choice, Text: No}}
	was, _ := play(t, s, open, []Card{bill}, inputs...)
	is, _ := play(t, r.Script, open, []Card{bill}, inputs...)
	if was != is {
		t.Errorf("was\n%s\nis\n%s", was, is)
	}
}
