package flow

import (
	"testing"
)

// Whoever is led to another flow finds its handlers there; where it has none, those of the first flow hold.
func TestInAnotherFlowItsOwnHandlersHold(t *testing.T) {
	first := Read("flow First (en)\ngo to flow second and back\nclose Good-bye.\n" +
		"whenever a person is asked for: human\n  request Accounts: What shall we answer?\n" +
		"whenever anything else is typed\n  say The first says so.\n").Script
	own := Compile(Read("flow Second (en)\nagain: choose Which?\n  - One\n    close Good.\n  - Two\n    close Good.\n" +
		"whenever a person is asked for: colleague\n  say A colleague of the second.\n" +
		"whenever anything else is typed\n  say The second says so.\n").Script)
	none := Compile(
		Read("flow Second (en)\nagain: choose Which?\n  - One\n    close Good.\n  - Two\n    close Good.\n").Script,
	)
	for _, c := range []struct {
		name   string
		second *Program
		words  string
		says   string
		at     string // where the conversation stands then
	}{
		{"its own words", own, "something", "The second says so.", "again"},
		{"its own person", own, "a colleague please", "A colleague of the second.", "again"},
		{"not the words of the first", own, "a human please", "The second says so.", "again"},
		{"the words of the first", none, "something", "The first says so.", "again"},
		{"the person of the first", none, "a human please", "What shall we answer?", "what-shall-we-answer"},
	} {
		t.Run(c.name, func(t *testing.T) {
			p, w := Compile(first), World{Flows: map[string]*Program{"second": c.second}}
			r, err := Run(p, State{}, Input{Kind: Begin}, w)
			if err != nil {
				t.Fatal(err)
			}
			if r, err = Run(p, r.State, Input{Kind: Words, Text: c.words}, w); err != nil {
				t.Fatal(err)
			}
			if r.Messages[0].Text != c.says || r.State.Turn != c.at {
				t.Errorf("said %q, and stands at %q", r.Messages[0].Text, r.State.Turn)
			}
		})
	}
}

// A bot that stays until somebody accepts does so in a flow that it was led to, too.
func TestABotStaysInAnotherFlow(t *testing.T) {
	p := Compile(Read("flow First (en)\ngo to flow second\n").Script)
	w := World{
		Flows: map[string]*Program{
			"second": Compile(Read("flow Second (en)\nhand over Accounts: Wait.\n  stays\n").Script),
		},
		Teams: map[string]Team{"Accounts": {Open: true, Presence: Free}},
	}
	r, err := Run(p, State{}, Input{Kind: Begin}, w)
	if err != nil || !Stays(p, r.State, w) {
		t.Errorf("it does not stay: %+v, %v", r.State, err)
	}
}
