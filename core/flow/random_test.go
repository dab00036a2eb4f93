package flow

import (
	"encoding/json"
	"errors"
	"fmt"
	"math/rand/v2"
	"reflect"
	"strings"
	"testing"

	"gonum.org/v1/gonum/graph"
	"gonum.org/v1/gonum/graph/simple"
	"gonum.org/v1/gonum/graph/traverse"
)

// randomScript makes scripts of every kind of turn, most of them faulty.
func randomScript(r *rand.Rand) Script {
	g := &generator{r: r, names: 2 + r.IntN(4)}
	s := Script{Format: Format, Name: "random", Language: "en"}
	s.Turns = g.turns(0)
	for i := range g.named {
		s.Turns = append(s.Turns, g.turn(1))
		s.Turns[len(s.Turns)-1].ID, s.Turns[len(s.Turns)-1].Named = fmt.Sprintf("n%d", i), true
	}
	if r.IntN(2) == 0 {
		s.Whenever = append(s.Whenever, Handler{On: WheneverPerson, Words: []string{"person"}, Turns: g.turns(1)})
	}
	if r.IntN(2) == 0 {
		s.Whenever = append(s.Whenever, Handler{On: WheneverWords, Turns: g.turns(1)})
	}
	s.identify()
	return s
}

type generator struct {
	r     *rand.Rand
	names int
	named int
	count int
}

func (g *generator) turns(depth int) []Turn {
	n := 1 + g.r.IntN(3)
	if depth > 2 {
		n = g.r.IntN(2)
	}
	var list []Turn
	for range n {
		list = append(list, g.turn(depth))
	}
	return list
}

func (g *generator) text() Texts {
	g.count++
	t := Texts{"en": fmt.Sprintf("Text number %d", g.count)}
	if g.r.IntN(4) == 0 {
		t["de"] = fmt.Sprintf("Text Nummer %d", g.count)
	}
	if g.r.IntN(6) == 0 {
		t["en"] += "\nand more -> of it\n\n[first name, else \"you\"]"
	}
	return t
}

func (g *generator) turn(depth int) Turn {
	r := g.r
	kinds := []Kind{Say, Say, Choose, Suggest, LookUp, HandOver, Request, Close, GoTo, GoTo, Branch, Ask, Rate, Link}
	t := Turn{Kind: kinds[r.IntN(len(kinds))]}
	if t.Kind != Branch && t.Kind != GoTo {
		t.Text = g.text()
	}
	lead := func(on string, chance int) {
		if r.IntN(chance) > 0 {
			return
		}
		l := Lead{On: on, Then: g.turns(depth + 1)}
		if on == OnOption || on == OnBusy || on == OnClosed {
			l.Text = Texts{"en": fmt.Sprintf("choice %d", len(t.Leads))}
		}
		if on == OnWhen {
			l.When = []Condition{{What: IfTeam, Of: "Accounts", Is: []string{"free", "away", "closed"}[r.IntN(3)]}}
		}
		t.Leads = append(t.Leads, l)
	}
	switch t.Kind {
	case Choose:
		for range 2 + r.IntN(2) {
			lead(OnOption, 1)
		}
		lead(OnElse, 3)
	case Suggest:
		t.Articles = []string{fmt.Sprintf("A-000%d", 1+r.IntN(4))}
		lead(OnYes, 2)
		lead(OnNo, 2)
		lead(OnNothing, 3)
	case LookUp:
		lead(OnYes, 2)
		lead(OnNo, 2)
		lead(OnWeak, 4)
		lead(OnNothing, 2)
	case HandOver:
		t.Team = "Accounts"
		lead(OnBusy, 4)
		lead(OnClosed, 2)
	case Request:
		t.Team, t.Brief = "Accounts", "about [shoe size]"
		if r.IntN(3) == 0 {
			t.Form = "a-fault"
		}
	case Branch:
		lead(OnWhen, 1)
		lead(OnElse, 2)
	case Ask:
		t.Fact, t.Wants, t.Skip, t.Personal = "shoe size", AllWants[r.IntN(4)], r.IntN(2) == 0, r.IntN(4) == 0
		lead(OnNothing, 3)
	case Link:
		t.URL = "https://wrenmoor.example/a:b"
	case GoTo:
		n := r.IntN(g.names)
		t.To, g.named = fmt.Sprintf("n%d", n), max(g.named, n+1)
	}
	return t
}

// What is written as text is read as the same script, and as JSON too.
func TestScriptsGoToAndFro(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 4))
	for range 3000 {
		s := randomScript(r)
		text := Write(s)
		reading := Read(text)
		if len(reading.Faults) > 0 {
			t.Fatalf("%+v\n%s", reading.Faults, text)
		}
		if again := Write(reading.Script); again != text {
			t.Fatalf("written again it is another text:\n%s\n---\n%s", text, again)
		}
		raw, err := json.Marshal(reading.Script)
		if err != nil {
			t.Fatal(err)
		}
		parsed, err := Parse(raw)
		if err != nil {
			t.Fatalf("%v\n%s", err, raw)
		}
		if back, _ := json.Marshal(parsed); string(back) != string(raw) {
			t.Fatalf("as JSON it is another script\n%s\n%s", raw, back)
		}
	}
}

var (
	storm = Card{Reference: "A-0003", Revision: "A-0003@1", Title: "After a storm"}
	solar = Card{Reference: "A-0004", Revision: "A-0004@2", Title: "Panels"}
)

var randomWorlds = func() []World {
	var list []World
	for _, team := range []Team{{true, Free, ""}, {true, Busy, ""}, {true, Away, ""}, {false, Free, "tomorrow"}} {
		list = append(list, World{
			Articles: map[string]Card{"A-0001": bill, "A-0002": tariff, "A-0003": storm, "A-0004": solar},
			Forms:    map[string]Form{"a-fault": faultForm},
			Teams:    map[string]Team{"Accounts": team},
			Open:     true,
			Channel:  "chat",
		})
	}
	return list
}()

// inputsAt lists what a customer can do where a conversation waits, without asking for a person.
func inputsAt(state State, messages []Message) []Input {
	switch state.Waiting {
	case ForVerdict:
		return []Input{{Kind: Verdict, Helped: true}, {Kind: Verdict}}
	case ForFound:
		return []Input{
			{Kind: Found, Cards: []Card{bill}}, {Kind: Found}, {Kind: Found, Cards: []Card{bill}, Weak: true},
			{Kind: Found, Cards: []Card{bill}, Told: []Passage{{Revision: "A-0001@3"}}, Sure: 0.7},
		}
	case ForChoice, ForMark:
		var list []Input
		for _, c := range messages[len(messages)-1].Choices {
			list = append(list, Input{Kind: Choice, Text: c})
		}
		return append(list, Input{Kind: Words, Text: "zebra"})
	case ForFact, ForDetail:
		return []Input{
			{Kind: Words, Text: "ada@post.example"},
			{Kind: Words, Text: "01632 960123"},
			{Kind: Words, Text: "skip"},
		}
	case ForField:
		return []Input{{Kind: Words, Text: "Mill Lane"}, {Kind: Words, Text: "dark"}, {Kind: Words, Text: "skip"}}
	case ForAddress:
		return []Input{{Kind: Words, Text: "skip"}, {Kind: Words, Text: "not an address"}}
	}
	return []Input{{Kind: Words, Text: "zebra"}}
}

// Whatever customers do in whatever script: there is no panic, no endless loop, and it always waits for something.
func TestAnyScriptAlwaysAnswers(t *testing.T) {
	r := rand.New(rand.NewPCG(9, 10))
	for range 6000 {
		s := randomScript(r)
		p := Compile(s)
		w := randomWorlds[r.IntN(len(randomWorlds))]
		var state State
		var messages []Message
		in := Input{Kind: Begin}
		for range 25 {
			result, err := Run(p, state, in, w)
			switch {
			case err == nil:
				state = result.State
				if len(result.Messages) > 0 {
					messages = result.Messages
				}
			case !errors.Is(err, ErrNotNow) && !errors.Is(err, ErrNoSuch) && !errors.Is(err, ErrClosed) && !errors.Is(err, ErrWithPeople):
				t.Fatal(err)
			}
			if state.Waiting == "" {
				t.Fatalf("it waits for nothing in\n%s", Write(s))
			}
			raw, err := json.Marshal(state)
			if err != nil {
				t.Fatal(err)
			}
			var kept State
			if err := json.Unmarshal(
				raw,
				&kept,
			); err != nil ||
				!reflect.DeepEqual(kept, state) && string(mustJSON(kept)) != string(raw) {
				t.Fatalf("the state does not survive being kept: %s", raw)
			}
			all := append(
				inputsAt(state, append([]Message{{}}, messages...)),
				Input{
					Kind: WantPerson,
				},
				Input{Kind: Words, Text: "person"},
				Input{Kind: Open, Revision: "A-0001@3"},
				Input{Kind: Choice, Text: "choice 0"},
			)
			in = all[r.IntN(len(all))]
		}
	}
}

func mustJSON(v any) []byte {
	raw, err := json.Marshal(v)
	if err != nil {
		panic(err)
	}
	return raw
}

// The proofs of the checks, against the graph that the runtime itself walks, searched by a general library
// (gonum): where a script has no errors of the graph, from every state that any customer comes to in any world an end,
// a person, a request or an answer can be reached.
func TestProofsAgreeWithAGeneralGraphLibrary(t *testing.T) {
	r := rand.New(rand.NewPCG(21, 22))
	sound, faulty := 0, 0
	for range 1500 {
		s := randomScript(r)
		s.Whenever = nil // the proof is of what is offered
		lost := false
		for _, f := range Check(s, Env{}) {
			lost = lost || strings.Contains(f.Message, "gets no further than here") ||
				strings.Contains(f.Message, "never waits") ||
				strings.Contains(f.Message, "runs out")
		}
		found := ""
		for _, w := range randomWorlds {
			if found = trapped(t, Compile(s), w); found != "" {
				break
			}
		}
		if (found != "") != lost {
			t.Fatalf("the checks say %v, the graph %q, of\n%s\n%+v", lost, found, Write(s), Check(s, Env{}))
		}
		if lost {
			faulty++
		} else {
			sound++
		}
	}
	if sound < 60 || faulty < 60 {
		t.Errorf("%d sound and %d faulty scripts show too little", sound, faulty)
	}
}

// trapped walks every state of a conversation, and gives the turn of one from which no end can be reached, or at which
// the conversation runs out or goes in a circle; "" for none.
func trapped(t *testing.T, p *Program, w World) string {
	t.Helper()
	type at struct {
		state    State
		messages []Message
	}
	key := func(s State) string {
		s.Path, s.Shown, s.Words, s.Heard, s.Offer, s.Asked = nil, nil, "", "", nil, false
		return string(mustJSON(s))
	}
	ids := map[string]int64{}
	reversed := simple.NewDirectedGraph()
	const ends = int64(0)
	reversed.AddNode(simple.Node(ends))
	var queue []at
	stuck := ""
	visit := func(from int64, result Result) {
		s := result.State
		for _, m := range result.Messages {
			if m.Text == In("en").Stuck {
				stuck = s.Turn
			}
		}
		last, _ := p.Script().Turn(s.Turn)
		if s.Waiting == ForMore && last.Kind != Request && last.Kind != HandOver {
			stuck = s.Turn // it ran out, and not after a request
		}
		k := key(s)
		id, known := ids[k]
		if !known {
			id = int64(len(ids) + 1)
			ids[k] = id
			reversed.AddNode(simple.Node(id))
			queue = append(queue, at{s, result.Messages})
			if s.Waiting == ForPerson || s.Waiting == ForNothing || s.Waiting == ForDetails || s.Waiting == ForMore {
				reversed.SetEdge(reversed.NewEdge(simple.Node(ends), simple.Node(id)))
			}
		}
		if from > 0 && from != id {
			reversed.SetEdge(reversed.NewEdge(simple.Node(id), simple.Node(from)))
		}
	}
	first, err := Run(p, State{}, Input{Kind: Begin}, w)
	if err != nil {
		t.Fatal(err)
	}
	visit(0, first)
	states := []at{}
	for i := 0; i < len(queue) && i < 3000; i++ {
		s := queue[i]
		states = append(states, s)
		if s.state.Waiting == ForMore {
			continue
		}
		for _, in := range inputsAt(s.state, append([]Message{{}}, s.messages...)) {
			n := p.nodes[s.state.Turn]
			if lead, _ := n.way(OnElse); s.state.Waiting == ForChoice && in.Kind == Words && lead == nil {
				continue // what is typed and fits nothing asks the same again
			}
			if result, err := Run(p, s.state, in, w); err == nil {
				visit(ids[key(s.state)], result)
			}
		}
	}
	if stuck != "" {
		return stuck
	}
	good := map[int64]bool{}
	search := traverse.BreadthFirst{Visit: func(n graph.Node) { good[n.ID()] = true }}
	search.Walk(reversed, simple.Node(ends), nil)
	for _, s := range states {
		if !good[ids[key(s.state)]] {
			return s.state.Turn
		}
	}
	return ""
}

func FuzzRead(f *testing.F) {
	f.Add(sound)
	f.Add("flow x\nchoose\n - a\n\t- b -> c\n  when x and y: ask z (q): [a, else \"b\n    / more\nde: x")
	f.Fuzz(func(t *testing.T, text string) {
		r := Read(text)
		for _, fault := range r.Check(Env{}) {
			if fault.Message == "" || fault.Line < 1 {
				t.Fatalf("%+v", fault)
			}
		}
	})
}
