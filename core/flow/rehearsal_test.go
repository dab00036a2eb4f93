package flow

import (
	"encoding/json"
	"math/rand/v2"
	"reflect"
	"strings"
	"testing"

	"hermeneus/core/compare"
)

const rehearsed = `flow Door (en)
say Hello.
choose What is it about?
  - My bill
    suggest A-0005: This may help.
      no: hand over Accounts: Here is somebody.
        closed: request Accounts: What shall we answer?
  - Something else
    look up In your words?
      nothing: say We found nothing.
close Goodbye.
`

var billAtNight = Rehearsal{
	Name: "A bill at night",
	World: World{
		Articles: map[string]Card{"A-0005": {Reference: "A-0005", Revision: "A-0005@2", Title: "Estimates"}},
		Teams:    map[string]Team{"Accounts": {Presence: Away, Next: "at nine"}},
	},
	Inputs: []ExampleStep{{Kind: Choice, Text: "My bill"}, {Kind: Verdict}},
}

func noFinder(string, int) (Input, error) { return Input{Kind: Found}, nil }

// A rehearsal goes with its own script as it is kept, also out of a file, and says which lines another script changes.
func TestARehearsalGoesAsItIsKeptUntilTheScriptChanges(t *testing.T) {
	kept, err := Keep(Compile(Read(rehearsed).Script), billAtNight, noFinder)
	if err != nil {
		t.Fatal(err)
	}
	raw, err := json.Marshal(kept)
	if err != nil {
		t.Fatal(err)
	}
	var read Rehearsal
	if err := json.Unmarshal(raw, &read); err != nil {
		t.Fatal(err)
	}
	again := func(change ...string) Rehearsed {
		r := Read(strings.NewReplacer(change...).Replace(rehearsed))
		return Rehearse(Compile(r.Script), read, nil)
	}
	if went := again(); !went.Same || len(went.Lines) != len(kept.Lines) {
		t.Errorf("with its own script: %+v", went)
	}
	if went := again("We found nothing.", "We found nothing at all."); !went.Same {
		t.Errorf("what is not met makes a difference: %+v", went)
	}
	if went := again("Something else", "Anything else"); went.Same {
		t.Error("another option is not noticed, which the customer sees")
	}
	went := again("This may help.", "Read this.")
	var changed []string
	for _, l := range went.Lines {
		if l.Mark != compare.Same {
			changed = append(changed, string(l.Mark)+" "+l.Text)
		}
	}
	if want := []string{"removed This may help.", "added Read this."}; !reflect.DeepEqual(changed, want) || went.Same {
		t.Errorf("another text: %q", changed)
	}
	if r := Read(strings.Replace(rehearsed, "This may help.", "Read this.", 1)); r.Line(went.Turn, "") != 5 {
		t.Errorf("it goes otherwise at %q", went.Turn)
	}
	gone := again("My bill", "Bills")
	found := false
	for _, l := range gone.Lines {
		found = found || l.Mark == compare.Added && strings.Contains(l.Text, "“My bill” is not taken here")
	}
	if !found {
		t.Errorf("it does not say what is not taken: %+v", gone.Lines)
	}
	if went := again("A-0005", "A-0006"); went.Same {
		t.Error("another article is not noticed")
	}
}

// What could not be seen when it was kept is not seen later either; what the script names by now is there.
func TestARehearsalKeepsWhatIsHidden(t *testing.T) {
	hidden := billAtNight
	hidden.World.Articles = nil
	hidden.Inputs = hidden.Inputs[:1]
	kept, err := Keep(Compile(Read(rehearsed).Script), hidden, noFinder)
	if err != nil {
		t.Fatal(err)
	}
	if !reflect.DeepEqual(kept.Hidden, []string{"A-0005"}) {
		t.Errorf("hidden: %v", kept.Hidden)
	}
	for _, l := range kept.Lines {
		if len(l.Cards) > 0 {
			t.Errorf("it is shown: %+v", l)
		}
	}
	if went := Rehearse(Compile(Read(rehearsed).Script), kept, nil); !went.Same {
		t.Errorf("%+v", went)
	}
}

// What words found when it was kept is found again, whatever the library has by now.
func TestARehearsalKeepsWhatWasFound(t *testing.T) {
	r := Rehearsal{Inputs: []ExampleStep{{Kind: Choice, Text: "Something else"}, {Kind: Words, Text: "my meter hums"}}}
	finds := func(string, int) (Input, error) {
		return Input{Kind: Found, Cards: []Card{{Reference: "A-0009", Revision: "A-0009@1", Title: "Humming"}}}, nil
	}
	program := Compile(Read(rehearsed).Script)
	kept, err := Keep(program, r, finds)
	if err != nil {
		t.Fatal(err)
	}
	if went := Rehearse(program, kept, nil); !went.Same {
		t.Errorf("%+v", went)
	}
}

// Any conversation with any script, once kept, goes as it is kept.
func TestAnyRehearsalGoesAsItIsKept(t *testing.T) {
	r := rand.New(rand.NewPCG(16, 1))
	kept := 0
	for range 400 {
		s := randomScript(r)
		program := Compile(s)
		var inputs []ExampleStep
		w := World{Articles: map[string]Card{}, Teams: map[string]Team{}}
		for range r.IntN(6) {
			trial, err := Play(program, w, "", inputs, noFinder)
			if err != nil || trial.Refused != nil {
				break
			}
			inputs = append(inputs, []ExampleStep{
				{Kind: Words, Text: "something"}, {Kind: Verdict, Helped: r.IntN(2) == 0},
				{Kind: WantPerson, Text: "a person"},
			}[r.IntN(3)])
			if choices := trial.Lines[max(0, len(trial.Lines)-1)].Choices; len(trial.Lines) > 0 && len(choices) > 0 {
				inputs[len(inputs)-1] = ExampleStep{Kind: Choice, Text: choices[r.IntN(len(choices))]}
			}
		}
		one, err := Keep(program, Rehearsal{World: w, Inputs: inputs}, noFinder)
		if err != nil {
			continue // the last was not taken
		}
		kept++
		if went := Rehearse(program, one, nil); !went.Same {
			t.Fatalf("%s\n%+v\n%+v", Write(s), inputs, went)
		}
	}
	if kept < 100 {
		t.Errorf("only %d were kept", kept)
	}
}
