package flow

import (
	"encoding/json"
	"errors"
	"fmt"
	"reflect"
	"strings"
	"testing"
)

const doorScript = `{
 "name": "Door", "language": "en", "start": "hello", "free_text": "find", "person": "person", "person_words": ["a person", "human"],
 "turns": [
  {"id": "hello", "kind": "say", "text": "Hello.", "next": "what"},
  {"id": "what", "kind": "choose", "text": "What is it about?", "options": [
    {"label": "My bill", "next": "bill"}, {"label": "Something else", "next": "find"}, {"label": "Talk to us", "next": "person"}]},
  {"id": "bill", "kind": "suggest", "text": "These may help.", "articles": ["A-0001", "A-0002"], "helped": "bye", "not_helped": "person", "nothing": "find"},
  {"id": "find", "kind": "look_up", "text": "In your own words?", "helped": "bye", "not_helped": "person", "nothing": "person"},
  {"id": "person", "kind": "hand_over", "text": "I pass you on.", "team": "Accounts", "nobody": "leave"},
  {"id": "leave", "kind": "request", "text": "Nobody is here. What shall we answer?", "team": "Accounts", "next": "bye"},
  {"id": "bye", "kind": "close", "text": "Goodbye."}
 ]}`

var (
	bill   = Card{"A-0001", "A-0001@3", "Bills", "…"}
	tariff = Card{"A-0002", "A-0002@1", "Tariffs", "…"}
	open   = World{
		Articles: map[string]Card{"A-0001": bill, "A-0002": tariff},
		Teams:    map[string]Team{"Accounts": {Open: true, Presence: Free}},
	}
	shut = World{Articles: open.Articles}
)

func door(t testing.TB) Script {
	t.Helper()
	s, err := Parse([]byte(doorScript))
	if err != nil {
		t.Fatal(err)
	}
	if faults := Check(s, Env{}); Errors(faults) > 0 {
		t.Fatal(faults)
	}
	return s
}

// play runs inputs from the beginning and gives the transcript: what the bot
// says, what it needs, and what it waits for at the end. found is what any
// search finds.
func play(t testing.TB, s Script, w World, found []Card, inputs ...Input) (string, State) {
	t.Helper()
	var lines []string
	var state State
	queue := append([]Input{{Kind: Begin}}, inputs...)
	p := Compile(s)
	for len(queue) > 0 {
		in := queue[0]
		queue = queue[1:]
		r, err := Run(p, state, in, w)
		if err != nil {
			t.Fatalf("%+v: %v", in, err)
		}
		state = r.State
		for _, m := range r.Messages {
			lines = append(lines, fmt.Sprintf("%s %d %s", m.Text, len(m.Cards), strings.Join(m.Choices, "/")))
		}
		for _, n := range r.Needs {
			switch n.Kind {
			case NeedRecord:
				lines = append(
					lines,
					strings.TrimSpace(
						fmt.Sprint(
							"+",
							n.Evidence.Kind,
							" ",
							n.Evidence.Ref,
							" ",
							strings.Join(n.Evidence.Refs, ","),
							" ",
							n.Evidence.Text,
						),
					),
				)
			case NeedSearch:
				lines = append(lines, fmt.Sprintf("?%s (%d)", n.Text, n.Limit))
				queue = append([]Input{{Kind: Found, Cards: found}}, queue...)
			default:
				lines = append(lines, strings.TrimSpace(fmt.Sprintf("!%s %s %s %s", n.Kind, n.Team, n.Text, n.Address)))
			}
		}
	}
	return strings.Join(append(lines, "="+string(state.Waiting)), "\n"), state
}

func TestConversations(t *testing.T) {
	hello := "Hello. 0 \nWhat is it about? 0 My bill/Something else/Talk to us\n"
	shown := "These may help. 2 Yes, that helped/No, not yet\n+offered turn:bill A-0001@3,A-0002@1\n"
	for _, c := range []struct {
		name   string
		world  World
		found  []Card
		inputs []Input
		want   string
	}{
		{"it greets and offers choices", open, nil, nil, hello + "=choice"},
		{"a suggestion that helped, about the turn while nothing was opened", open, nil,
			[]Input{{Kind: Choice, Text: "My bill"}, {Kind: Verdict, Helped: true}},
			hello + shown[:strings.Index(shown, "+")] + "+asked turn:what  My bill\n+offered turn:bill A-0001@3,A-0002@1\nGoodbye. 0 \n+helped turn:bill\n!close\n=nothing"},
		{"the verdict is about the article that was opened; no leads to a person", open, nil,
			[]Input{{Kind: Choice, Text: "My bill"}, {Kind: Open, Revision: "A-0002@1"}, {Kind: Choice, Text: No}},
			hello + "These may help. 2 Yes, that helped/No, not yet\n+asked turn:what  My bill\n+offered turn:bill A-0001@3,A-0002@1\n+opened A-0002@1\nI pass you on. 0 \n+not_helped A-0002@1\n!hand_over Accounts\n=person"},
		{"a choice that leads to a person is a wish for one", open, nil,
			[]Input{{Kind: Choice, Text: "Talk to us"}},
			hello + "I pass you on. 0 \n+wanted_person turn:what  Talk to us\n!hand_over Accounts\n=person"},
		{"words that name a choice are that choice", open, nil,
			[]Input{{Kind: Words, Text: " talk to US! "}},
			hello + "I pass you on. 0 \n+wanted_person turn:what  Talk to us\n!hand_over Accounts\n=person"},
		{"words that ask for a person", open, nil,
			[]Input{{Kind: Words, Text: "let me speak to a human, please"}},
			hello + "I pass you on. 0 \n+wanted_person turn:what  let me speak to a human, please\n!hand_over Accounts\n=person"},
		{"free words are looked up at once", open, []Card{bill},
			[]Input{{Kind: Words, Text: "why so high"}, {Kind: Words, Text: "yes"}},
			hello + "+asked turn:what  why so high\n?why so high (3)\nThis is what I found. 1 Yes, that helped/No, not yet\n+offered turn:find A-0001@3\nGoodbye. 0 \n+helped A-0001@3\n!close\n=nothing"},
		{"a second question after an answer is looked up too", open, []Card{bill},
			[]Input{{Kind: Choice, Text: "My bill"}, {Kind: Words, Text: "and the tariff?"}},
			hello + "These may help. 2 Yes, that helped/No, not yet\n+asked turn:what  My bill\n+offered turn:bill A-0001@3,A-0002@1\n+asked turn:bill  and the tariff?\n?and the tariff? (3)\nThis is what I found. 1 Yes, that helped/No, not yet\n+offered turn:find A-0001@3\n=verdict"},
		{"nothing found leads on", open, nil,
			[]Input{{Kind: Choice, Text: "Something else"}, {Kind: Words, Text: "zebra"}},
			hello + "In your own words? 0 \n+asked turn:what  Something else\n+asked turn:find  zebra\n?zebra (3)\nI pass you on. 0 \n!hand_over Accounts\n=person"},
		{"nobody there: a request, with an address asked for until it reads like one", shut, nil,
			[]Input{{Kind: WantPerson}, {Kind: Words, Text: "my bill is wrong"}, {Kind: Words, Text: "ada at home"}, {Kind: Words, Text: "ada@post.example"}},
			hello + "Nobody is here. What shall we answer? 0 \n+wanted_person turn:what\nThe answer comes here, on this page. By which mail address do we know you? Type it, or “skip”. 0 \n+asked turn:leave  my bill is wrong\nThat does not read like a mail address. Type it again, such as name@post.example, or “skip”. 0 \nGoodbye. 0 \n!request Accounts my bill is wrong ada@post.example\n!close\n=nothing"},
		{"articles that may not be seen are not shown", World{Teams: open.Teams}, nil,
			[]Input{{Kind: Choice, Text: "My bill"}},
			hello + "In your own words? 0 \n+asked turn:what  My bill\n=words"},
	} {
		t.Run(c.name, func(t *testing.T) {
			got, _ := play(t, door(t), c.world, c.found, c.inputs...)
			if got != c.want {
				t.Errorf("\ngot\n%s\n\nwant\n%s", got, c.want)
			}
		})
	}
}

func TestTheStateIsABrief(t *testing.T) {
	_, state := play(
		t,
		door(t),
		open,
		nil,
		Input{Kind: Choice, Text: "My bill"},
		Input{Kind: Open, Revision: "A-0001@3"},
		Input{Kind: Verdict},
	)
	raw, _ := json.Marshal(state)
	var back State
	if err := json.Unmarshal(raw, &back); err != nil || !reflect.DeepEqual(state, back) {
		t.Errorf("the state does not survive being kept: %v", err)
	}
	wantPath := []Step{
		{Turn: "hello"},
		{"what", "What is it about?", "My bill"},
		{"bill", "These may help.", No},
		{Turn: "person"},
	}
	wantShown := []Shown{{bill, true, "not_helped"}, {tariff, false, ""}}
	if !reflect.DeepEqual(state.Path, wantPath) || !reflect.DeepEqual(state.Shown, wantShown) {
		t.Errorf("path %+v\nshown %+v", state.Path, state.Shown)
	}
}

func TestThePathKeepsEverythingThatWasSaid(t *testing.T) {
	_, state := play(
		t,
		door(t),
		open,
		[]Card{bill},
		Input{Kind: Choice, Text: "Something else"},
		Input{Kind: Words, Text: "why so high"},
		Input{Kind: Verdict},
	)
	want := []Step{
		{Turn: "hello"},
		{"what", "What is it about?", "Something else"},
		{"find", "In your own words?", "why so high"},
		{"find", FoundText, No},
		{Turn: "person"},
	}
	if !reflect.DeepEqual(state.Path, want) {
		t.Errorf("path %+v", state.Path)
	}
}

// Words that are looked up at once never meet the question of the look-up turn: a verdict
// on what was found is no answer to it.
func TestAVerdictStandsBesideWhatItIsAbout(t *testing.T) {
	_, state := play(t, door(t), open, []Card{bill}, Input{Kind: Words, Text: "why so high"}, Input{Kind: Verdict})
	want := []Step{
		{Turn: "hello"},
		{"what", "What is it about?", "why so high"},
		{"find", FoundText, No},
		{Turn: "person"},
	}
	if !reflect.DeepEqual(state.Path, want) {
		t.Errorf("path %+v", state.Path)
	}
}

func TestInputsAtTheWrongMoment(t *testing.T) {
	s := door(t)
	_, choosing := play(t, s, open, nil)
	_, closed := play(t, s, open, nil, Input{Kind: Choice, Text: "My bill"}, Input{Kind: Verdict, Helped: true})
	_, withPeople := play(t, s, open, nil, Input{Kind: WantPerson})
	for _, c := range []struct {
		name  string
		state State
		in    Input
		want  error
	}{
		{"a verdict when none is asked for", choosing, Input{Kind: Verdict}, ErrNotNow},
		{"a choice that is not offered", choosing, Input{Kind: Choice, Text: "Free beer"}, ErrNoSuch},
		{"results that nobody asked for", choosing, Input{Kind: Found}, ErrNotNow},
		{"empty words", choosing, Input{Kind: Words, Text: "  "}, ErrNotNow},
		{"opening what was not shown", choosing, Input{Kind: Open, Revision: "A-0009@1"}, ErrNoSuch},
		{"beginning twice", choosing, Input{Kind: Begin}, ErrNotNow},
		{"an unknown input", choosing, Input{Kind: "shout"}, ErrNotNow},
		{"words after the end", closed, Input{Kind: Words, Text: "hello?"}, ErrClosed},
		{"words to the bot while people have it", withPeople, Input{Kind: Words, Text: "hello?"}, ErrWithPeople},
	} {
		t.Run(c.name, func(t *testing.T) {
			r, err := Run(Compile(s), c.state, c.in, open)
			if !errors.Is(err, c.want) || !reflect.DeepEqual(r.State, c.state) {
				t.Errorf("got %v", err)
			}
		})
	}
}

func FuzzParse(f *testing.F) {
	f.Add([]byte(doorScript))
	f.Fuzz(func(t *testing.T, raw []byte) {
		if s, err := Parse(raw); err == nil {
			Check(s, Env{})
		}
	})
}

func BenchmarkRun(b *testing.B) {
	s := door(b)
	p := Compile(s)
	_, state := play(b, s, open, nil)
	b.ReportAllocs()
	for b.Loop() {
		if _, err := Run(p, state, Input{Kind: Choice, Text: "My bill"}, open); err != nil {
			b.Fatal(err)
		}
	}
}
