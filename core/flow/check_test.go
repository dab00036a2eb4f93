package flow

import (
	"slices"
	"strings"
	"testing"

	"hermeneus/core/audience"
)

// sound is a script with nothing wrong in it.
const sound = `flow Front door (en)
hello: say Hello, [first name, else "and welcome"]. I am a bot.
  de: Hallo, [first name, else "und willkommen"]. Ich bin ein Bot.
topic: choose What is it about?
  de: Worum geht es?
  - My bill
    de: Meine Rechnung
    suggest A-0001, A-0002: These may help.
      de: Das könnte helfen.
      no -> person
  - Moving home
    de: Umzug
    ask postcode (reference AA0 0AA): What is your postcode?
      de: Wie ist Ihre Postleitzahl?
    request Accounts: What shall we do at [postcode, else "your home"]?
      de: Was sollen wir dort tun?
bye: close Good-bye.
  de: Auf Wiedersehen.
whenever a person is asked for: person, human
  person: hand over Accounts: I pass you on.
    de: Ich gebe Sie weiter.
    brief: about [postcode]
`

var env = Env{
	Articles: map[string]Shows{
		"A-0001": {
			Title:    "Bills",
			Audience: audience.Everyone,
		},
		"A-0002": {Title: "Tariffs", Audience: audience.Everyone},
		"A-0003": {
			Title:    "Export",
			Audience: audience.Group("exporters"),
		},
		"A-0004": {Title: "Rota", Audience: audience.Staff},
		"A-0005": {Title: "Storm", Audience: audience.Everyone, Ends: true},
	},
	Teams:     map[string]Staffing{"Accounts": {Agents: 2}, "Field": {Agents: 0}},
	Flows:     []string{"moving"},
	Groups:    []string{"members", "exporters"},
	Languages: []string{"en", "de"},
	Forms:     map[string]Form{"fault": {Name: "Fault"}},
	Avoided:   []string{"valued customer"},
}

func TestASoundScriptHasNoFaults(t *testing.T) {
	r := Read(sound)
	if faults := r.Check(env); len(faults) > 0 {
		t.Errorf("%+v", faults)
	}
}

func TestCheckFindsWhatIsWrong(t *testing.T) {
	for _, c := range []struct {
		name, old, new string
		turn, message  string
		level          Level
	}{
		{"no name", "flow Front door (en)", "flow  (en)", "", "needs a name", Error},
		{"a jump to nowhere", "no -> person", "no -> persn", "", "no turn “persn”. Did you mean “person”?", Error},
		{"an unknown word beneath", "  - Moving home", "  yes -> bye\n  - Moving home", "", "cannot hang on", Error},
		{"a choice that hangs on nothing", "bye: close", "- lost\nbye: close", "", "hangs on nothing", Error},
		{"two of one name", "bye: close", "hello: close", "hello", "Two turns have the name", Error},
		{"nothing to say", "say Hello, [first name, else \"and welcome\"]. I am a bot.", "say", "hello", "nothing to say", Error},
		{"a text too long", "I am a bot", strings.Repeat("x", MaxText), "hello", "at most 4000", Error},
		{"a reference that is none", "A-0002", "bills", "", "“bills” is not a reference", Error},
		{"an article twice", "A-0002", "A-0001", "", "A-0001 stands here twice", Error},
		{"an article that is not live", "A-0002", "A-0009", "", "A-0009 is not live", Error},
		{"an article for staff", "A-0002", "A-0004", "", "for staff only", Error},
		{"an article that some may not see", "A-0002", "A-0003", "", "may not see A-0003", Warning},
		{"an article that ends", "A-0002", "A-0005", "", "A-0005 will end", Warning},
		{"two choices alike", "- Moving home", "- my BILL", "topic", "Two choices read", Error},
		{"one choice", "  - Moving home", "  - Moving home\n    close x\nsay x\nchoose Which?\n  - Moving", "which", "there are 1", Error},
		{"a team that is not there", "hand over Accounts", "hand over Acounts", "person", "no team “Acounts”", Error},
		{"a team with nobody", "hand over Accounts", "hand over Field", "person", "Nobody is in the team", Error},
		{"a flow that is not there", "bye: close Good-bye.\n  de: Auf Wiedersehen.", "go to flow bills", "go-to-bills", "no flow “bills”", Error},
		{"a fact without a fallback", `[first name, else "and welcome"]`, "[first name]", "hello", "Say what stands there", Error},
		{"a fact nobody asks for", `[first name, else`, "[town, else", "hello", "Nothing asks for “town”", Error},
		{"a bracket that is no fact", `[first name, else "and welcome"]`, "[first name", "hello", "cannot be filled in", Error},
		{"a fact asked for later", `[first name, else "and`, `[postcode, else "and`, "hello", "only asked for later", Warning},
		{"a missing translation", "\n  de: Auf Wiedersehen.", "", "bye", "“de” is missing", Warning},
		{"a word of no voice", "I am a bot.", "Dear valued customer.", "hello", "voice avoids", Warning},
		{"a turn nobody comes to", "bye: close", "go to bye\nisland: say x\nbye: close", "island", "No conversation ever comes", Warning},
		{"a condition that is none", "bye: close", "branch\n  when it rains -> bye\nbye: close", "", "nothing that can be asked for", Error},
		{"a condition on a fact nobody asks for", "bye: close", "branch\n  when [town] is known -> bye\nbye: close", "branch", "never known", Error},
		{"a condition on no group", "bye: close", "branch\n  when group is cats -> bye\nbye: close", "branch", "no group of customers “cats”", Error},
		{"a branch of nothing", "bye: close", "branch\nbye: close", "branch", "what it goes by", Error},
		{"an unknown thing to ask for", "(reference AA0 0AA)", "(shoe size)", "", "nothing that can be asked for", Error},
		{"a fact asked again", "ask postcode (reference AA0 0AA)", "ask postcode: And where?\n    ask postcode (text)", "what-is-your-postcode", "always known here", Warning},
		{"a link to nowhere", "bye: close", "link wrenmoor: Look.\nbye: close", "look", "begins with https", Error},
		{"the same said twice", "bye: close", "say Write to us at any time of the day\nsay At any time of the day write to us!\nbye: close",
			"at-any-time-of-the", "nearly the same", Warning},
		{"a whenever that is none", "whenever a person is asked for: person", "whenever it rains: person", "", "is followed by", Error},
	} {
		t.Run(c.name, func(t *testing.T) {
			if !strings.Contains(sound, c.old) {
				t.Fatal("the case changes nothing")
			}
			r := Read(strings.Replace(sound, c.old, c.new, 1))
			faults := r.Check(env)
			if !slices.ContainsFunc(faults, func(f Fault) bool {
				return (c.turn == "" || f.Turn == c.turn) && strings.Contains(f.Message, c.message) &&
					f.Level == c.level &&
					f.Line > 0
			}) {
				t.Errorf("got %+v", faults)
			}
		})
	}
}

// A fault of the graph comes with a conversation that meets it: run it, and it does.
func TestFaultsOfTheGraphComeWithAConversation(t *testing.T) {
	for _, c := range []struct{ name, script, turn, message string }{
		{"a way that runs out", "flow x (en)\nchoose What?\n  - One\n    close Bye.\n  - Two\n    say Two.\n", "two", "runs out"},
		{"a circle without a stop", "flow x (en)\na: say One.\nb: say Two.\ngo to a\n", "a", "never waits"},
		{"a circle the customer cannot leave", "flow x (en)\na: choose What?\n  - One\n    go to a\n  - Two\n    go to a\n", "a", "gets no further"},
		{"a no that comes back", "flow x (en)\na: suggest A-0001: This?\n  yes: close Good.\n  no -> a\n", "a", "says no gets no further"},
		{"two that send each other", "flow x (en)\na: suggest A-0001: This?\n  yes: close Good.\n  no: suggest A-0002: Or this?\n    yes: close Good.\n    no -> a\n",
			"a", "says no gets no further"},
		{"only while nobody is there",
			"flow x (en)\na: look up What?\n  yes: close Good.\n  no -> p\n  nothing -> p\np: hand over Accounts: Here.\n  closed -> a\n",
			"a", "finds Accounts closed and says no"},
		{"only at night, for visitors",
			"flow x (en)\nbranch\n  when we are open: close Come in.\n  when signed in: request Accounts: What is it?\n  else: say Closed.\n", "closed", "runs out"},
	} {
		t.Run(c.name, func(t *testing.T) {
			r := Read(c.script)
			faults := r.Check(Env{})
			i := slices.IndexFunc(faults, func(f Fault) bool {
				return f.Turn == c.turn && strings.Contains(f.Message, c.message) && f.Level == Error
			})
			if i < 0 {
				t.Fatalf("got %+v", faults)
			}
			if faults[i].Example == nil {
				t.Fatal("no example")
			}
			state := playExample(t, r.Script, *faults[i].Example)
			stood := slices.ContainsFunc(state.Path, func(s Step) bool { return s.Turn == c.turn })
			if !stood {
				t.Errorf("the example %+v does not come to %q: %+v", faults[i].Example, c.turn, state.Path)
			}
		})
	}
}

// World is the world that an example is in.
func (e ExampleWorld) world() World {
	w := World{
		Groups:   e.Groups,
		SignedIn: e.SignedIn,
		Language: e.Language,
		Channel:  e.Channel,
		Page:     e.Page,
		Open:     !e.Closed,
		Teams:    map[string]Team{},
		Articles: map[string]Card{"A-0001": bill, "A-0002": tariff},
	}
	for team, state := range e.Teams {
		w.Teams[team] = Team{Open: state != "closed", Presence: Presence(state)}
	}
	return w
}

func playExample(t *testing.T, s Script, e CounterExample) State {
	t.Helper()
	p := Compile(s)
	world := e.World.world()
	inputs := []Input{{Kind: Begin}}
	for _, step := range e.Inputs {
		inputs = append(inputs, Input{Kind: step.Kind, Text: step.Text, Helped: step.Helped})
	}
	var state State
	for _, in := range inputs {
		if in.Kind == Verdict && state.Waiting == ForWords {
			r, err := Run(p, state, Input{Kind: Words, Text: "anything"}, world)
			if err != nil {
				t.Fatal(err)
			}
			if r, err = Run(p, r.State, Input{Kind: Found, Cards: []Card{bill}}, world); err != nil {
				t.Fatal(err)
			}
			state = r.State
		}
		r, err := Run(p, state, in, world)
		if err != nil {
			t.Fatalf("%+v: %v", in, err)
		}
		state = r.State
		if state.Waiting == ForFound {
			if r, err = Run(p, state, Input{Kind: Found}, world); err != nil {
				t.Fatal(err)
			}
			state = r.State
		}
	}
	return state
}

func TestParseRefusesWhatIsNoScript(t *testing.T) {
	for name, raw := range map[string]string{
		"broken": "{\n\"name\": }", "unknown field": `{"nmae":"x"}`, "two": `{}{}`, "too large": strings.Repeat(" ", MaxScript+1),
		"from the future": `{"format": 9}`, "an unknown field of the present": `{"format": 2, "nmae": "x"}`,
	} {
		if _, err := Parse([]byte(raw)); err == nil {
			t.Errorf("%s: no error", name)
		} else if name == "broken" && !strings.Contains(err.Error(), "line 2") {
			t.Errorf("%s: %v", name, err)
		}
	}
}
