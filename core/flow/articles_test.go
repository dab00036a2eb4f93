package flow

import (
	"slices"
	"testing"

	"hermeneus/core/article"
	"hermeneus/core/outcome"
)

// What a look-up found leads on as it fits: an answer is told word for word, what fits is offered, what fits weakly goes
// its own way or is nothing, and nothing is nothing.
func TestALookUpLeadsByWhatItFound(t *testing.T) {
	with := func(weak string) *Program {
		return Compile(
			Read("flow Ask (en)\nfind: look up What is it?\n  yes: close Good.\n  no: say Not yet.\n" + weak +
				"  nothing: say Nothing.\nclose Bye.\n").Script,
		)
	}
	cards := []Card{{Reference: "A-0001", Revision: "A-0001@2", Title: "Bills"}}
	told := []Passage{
		{
			Reference: "A-0001",
			Revision:  "A-0001@2",
			Title:     "Bills",
			Blocks:    []article.Block{{Kind: "text", Text: "On the 3rd."}},
		},
	}
	for _, c := range []struct {
		name    string
		weak    string
		found   Input
		says    string
		waiting Waiting
		kinds   []outcome.Kind // of what is recorded
	}{
		{"an answer", "", Input{Cards: cards, Told: told, Sure: 0.8}, "Our articles say:", ForVerdict,
			[]outcome.Kind{outcome.Offered, outcome.Told}},
		{"what fits", "", Input{Cards: cards}, FoundText, ForVerdict, []outcome.Kind{outcome.Offered}},
		{"what fits weakly, with a way of its own", "  weak: say Is it that?\n", Input{Cards: cards, Weak: true},
			"I am not sure that this fits:", ForNothing, []outcome.Kind{outcome.Offered}},
		{"what fits weakly, and is asked about", "  weak\n", Input{Cards: cards, Weak: true},
			"I am not sure that this fits:", ForVerdict, []outcome.Kind{outcome.Offered}},
		{"what fits weakly, of which nothing is said", "", Input{Cards: cards, Weak: true}, "Nothing.", ForNothing, nil},
		{"nothing", "", Input{}, "Nothing.", ForNothing, nil},
	} {
		t.Run(c.name, func(t *testing.T) {
			p := with(c.weak)
			r, err := Run(p, State{}, Input{Kind: Begin}, World{})
			if err != nil {
				t.Fatal(err)
			}
			if r, err = Run(p, r.State, Input{Kind: Words, Text: "when do bills come"}, World{}); err != nil {
				t.Fatal(err)
			}
			c.found.Kind = Found
			if r, err = Run(p, r.State, c.found, World{}); err != nil {
				t.Fatal(err)
			}
			if r.Messages[0].Text != c.says || r.State.Waiting != c.waiting {
				t.Errorf("said %q, waits for %s", r.Messages[0].Text, r.State.Waiting)
			}
			if (len(r.Messages[0].Told) > 0) != (len(c.found.Told) > 0) {
				t.Errorf("told %+v", r.Messages[0].Told)
			}
			var kinds []outcome.Kind
			for _, n := range r.Needs {
				if n.Kind == NeedRecord {
					kinds = append(kinds, n.Evidence.Kind)
				}
				if n.Evidence.Kind == outcome.Told &&
					(n.Evidence.Ref != "turn:find" || *n.Evidence.Stood.Score != 0.8) {
					t.Errorf("told: %+v", n.Evidence)
				}
			}
			if !slices.Equal(kinds, c.kinds) {
				t.Errorf("recorded %v, want %v", kinds, c.kinds)
			}
		})
	}
}
