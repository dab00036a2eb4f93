package flow

import (
	"errors"
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
)

func TestCheckFindsWhatIsWrong(t *testing.T) {
	for _, c := range []struct{ name, old, new, turn, field string }{
		{"an unknown start", `"start": "hello"`, `"start": "hullo"`, "", "start"},
		{"a lead to nowhere", `"helped": "bye", "not_helped": "person", "nothing": "find"`, `"helped": "by", "not_helped": "person", "nothing": "find"`, "bill", "helped"},
		{"a missing lead", `"nobody": "leave"`, `"nobody": ""`, "person", "nobody"},
		{"an unknown kind", `"kind": "close"`, `"kind": "vanish"`, "bye", "kind"},
		{"two of one id", `"id": "bill"`, `"id": "what"`, "what", "id"},
		{"nothing to say", `"Hello."`, `" "`, "hello", "text"},
		{"a text too long", `"Hello."`, `"` + strings.Repeat("x", MaxText+1) + `"`, "hello", "text"},
		{"a reference that is none", `"A-0001"`, `"bills"`, "bill", "articles[0]"},
		{"two choices alike", `"Something else"`, `"my BILL"`, "what", "options[1].label"},
		{"free text that leads elsewhere", `"free_text": "find"`, `"free_text": "bye"`, "", "free_text"},
		{"no team", `"team": "Accounts", "nobody"`, `"team": "", "nobody"`, "person", "team"},
		{"too many at once", `"text": "In your own words?"`, `"text": "x", "limit": 9`, "find", "limit"},
		{"a circle without a stop", `"text": "Hello.", "next": "what"`, `"text": "Hello.", "next": "hello"`, "hello", ""},
		{"a no that leads to itself", `"not_helped": "person", "nothing": "find"`, `"not_helped": "bill", "nothing": "find"`, "bill", "not_helped"},
		{"a no that leads to itself by way of another turn", `"not_helped": "person", "nothing": "find"`, `"not_helped": "back", "nothing": "find"`, "bill", "not_helped"},
		{"a no that leads to itself while nobody is there", `"team": "Accounts", "nobody": "leave"`, `"team": "Accounts", "nobody": "find"`, "find", "not_helped"},
		{"something that looks filled in", `"Hello."`, `"Hello, [first name]."`, "hello", "text"},
		{"a choice that looks filled in", `"Something else"`, `"Something in [town]"`, "what", "options[1].label"},
		{"a turn nobody comes to", `"turns": [`, `"turns": [{"id": "island", "kind": "close", "text": "x"},`, "island", ""},
	} {
		t.Run(c.name, func(t *testing.T) {
			if !strings.Contains(doorScript, c.old) {
				t.Fatal("the case changes nothing")
			}
			raw := strings.Replace(doorScript, c.old, c.new, 1)
			raw = strings.Replace(
				raw,
				`"turns": [`,
				`"turns": [{"id": "back", "kind": "say", "text": "Once more.", "next": "bill"},`,
				1,
			)
			s, err := Parse([]byte(raw))
			if err != nil {
				t.Fatal(err)
			}
			problems := Check(s)
			if !slices.ContainsFunc(
				problems,
				func(p Fault) bool { return p.Turn == c.turn && p.Field == c.field && p.Message != "" },
			) {
				t.Errorf("got %+v", problems)
			}
		})
	}
}

func TestParseRefusesWhatIsNoScript(t *testing.T) {
	for name, raw := range map[string]string{"broken": "{\n\"name\": }", "unknown field": `{"nmae":"x"}`, "two": `{}{}`, "too large": strings.Repeat(" ", MaxScript+1)} {
		if _, err := Parse([]byte(raw)); err == nil {
			t.Errorf("%s: no error", name)
		} else if name == "broken" && !strings.Contains(err.Error(), "line 2") {
			t.Errorf("%s: %v", name, err)
		}
	}
}

// randomScript makes scripts of every kind of turn, most of them faulty.
func randomScript(r *rand.Rand) Script {
	n := 3 + r.IntN(6)
	id := func() string { return fmt.Sprint("t", r.IntN(n)) }
	s := Script{Name: "random", Start: "t0", Person: id(), PersonWords: []string{"person"}}
	kinds := []Kind{Say, Choose, Choose, Suggest, LookUp, HandOver, Request, Close}
	for i := range n {
		t := Turn{ID: fmt.Sprint("t", i), Kind: kinds[r.IntN(len(kinds))], Text: "x", Team: "Accounts",
			Next: id(), Helped: id(), NotHelped: id(), Nothing: id(), Nobody: id(), Articles: []string{"A-0001"}}
		if t.Kind == LookUp {
			s.FreeText = t.ID
		}
		for j := range 1 + r.IntN(3) {
			t.Options = append(t.Options, Option{fmt.Sprint("o", j), id()})
		}
		s.Turns = append(s.Turns, t)
	}
	return s
}

// Whatever customers do, a script that passes its checks never hangs, never
// names a turn that is not there, and always waits for something.
func TestCheckedScriptsAlwaysAnswer(t *testing.T) {
	r := rand.New(rand.NewPCG(9, 10))
	sound := 0
	for range 30000 {
		s := randomScript(r)
		if len(Check(s)) > 0 {
			continue
		}
		sound++
		w := World{Articles: map[string]Card{}, Staffed: map[string]bool{"Accounts": r.IntN(2) == 0}}
		if r.IntN(2) == 0 {
			w.Articles["A-0001"] = bill
		}
		var state State
		in := Input{Kind: Begin}
		for range 30 {
			result, err := Step(s, state, in, w)
			if errors.Is(err, ErrEndless) || errors.Is(err, ErrNoTurn) {
				t.Fatalf("%v in %+v", err, s)
			}
			if err == nil {
				state = result.State
			}
			if state.Waiting == "" {
				t.Fatalf("it waits for nothing in %+v", s)
			}
			in = []Input{{Kind: Words, Text: "a person"}, {Kind: Words, Text: "zebra"}, {Kind: Choice, Text: "o0"}, {Kind: Choice, Text: "o1"},
				{Kind: Verdict, Helped: true}, {Kind: Verdict}, {Kind: WantPerson}, {Kind: Open, Revision: "A-0001@3"}}[r.IntN(8)]
			if state.Waiting == ForFound {
				in = Input{Kind: Found, Cards: [][]Card{nil, {bill}}[r.IntN(2)]}
			}
		}
	}
	if sound < 100 {
		t.Errorf("only %d of the scripts were sound: the test shows too little", sound)
	}
}

// In a script that passes its checks, whoever never says that something helped is not asked
// the same over and over: some way on leads to a person, a request or an end.
func TestNobodyIsKeptByTheirNo(t *testing.T) {
	r := rand.New(rand.NewPCG(11, 12))
	w := World{Articles: map[string]Card{"A-0001": bill}}
	asked := 0
	for range 10000 {
		s := randomScript(r)
		if len(Check(s)) > 0 {
			continue
		}
		result, err := Step(s, State{}, Input{Kind: Begin}, w)
		said := map[string]int{}
		for i := 0; err == nil && i < 600 && !slices.Contains([]Waiting{ForPerson, ForNothing, ForDetails}, result.State.Waiting); i++ {
			turn, _ := s.Turn(result.State.Turn)
			in := Input{Kind: Words, Text: "zebra"}
			switch result.State.Waiting {
			case ForVerdict:
				in = Input{Kind: Verdict}
				said[turn.ID]++
				asked++
			case ForChoice:
				in = Input{Kind: Choice, Text: turn.Options[r.IntN(len(turn.Options))].Label}
			case ForFound:
				in = Input{Kind: Found, Cards: []Card{bill}}
			}
			if result, err = Step(s, result.State, in, w); err != nil {
				t.Fatal(err)
			}
			if said[turn.ID] > 200 {
				t.Fatalf("the turn %q is met again and again in %+v", turn.ID, s)
			}
		}
	}
	if asked < 200 {
		t.Errorf("only %d times was no said: the test shows too little", asked)
	}
}
