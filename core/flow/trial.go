package flow

import "fmt"

// TrialLine is one thing said in a trial.
type TrialLine struct {
	Speaker string   `json:"speaker"` // bot, customer or notice
	Text    string   `json:"text"`
	Turn    string   `json:"turn,omitempty"`
	Why     string   `json:"why,omitempty"` // how the conversation came to the turn
	Cards   []Card   `json:"cards"`
	Choices []string `json:"choices"`
	Link    string   `json:"link,omitempty"`

	Told []Passage `json:"told"` // word for word
}

// Trial is how a conversation went that nobody had: it is played, keeps nothing and counts nothing.
type Trial struct {
	Lines   []TrialLine
	State   State
	Taken   int   // inputs that were taken
	Refused error // why the first after them was not, nil where all were
}

// Finder looks words up, as a NeedSearch asks for them, and gives a Found.
type Finder func(words string, limit int) (Input, error)

// Play has a conversation from the beginning of a program, or from a turn, by what the customer does. Where a verdict
// comes while words are waited for, as in a counter-example of the proof, it is supposed that words found something.
// It fails only if looking up does.
func Play(p *Program, w World, from string, inputs []ExampleStep, find Finder) (Trial, error) {
	t := &player{program: p, world: w, find: find}
	t.out.Lines = []TrialLine{}
	if err := t.take(Input{Kind: Begin, Text: from}); err != nil {
		return t.out, err
	}
	for i, in := range inputs {
		if t.out.Refused != nil {
			break
		}
		if t.out.State.Waiting == ForWords && in.Kind == Verdict {
			t.say("notice", "Suppose that something was looked up, and found.")
			t.say("customer", "…")
			if err := t.suppose(); err != nil {
				return t.out, err
			}
		}
		t.say("customer", in.said(p.Language(w.Language)))
		if err := t.take(Input{Kind: in.Kind, Text: in.Text, Helped: in.Helped}); err != nil {
			return t.out, err
		}
		if t.out.Refused != nil {
			t.out.Lines = t.out.Lines[:len(t.out.Lines)-1]
			break
		}
		t.out.Taken = i + 1
	}
	return t.out, nil
}

// said is what a step says in a language.
func (s ExampleStep) said(language string) string {
	switch {
	case s.Kind != Verdict:
		return s.Text
	case s.Helped:
		return In(language).Yes
	}
	return In(language).No
}

// player plays a trial.
type player struct {
	program *Program
	world   World
	find    Finder
	out     Trial
}

func (t *player) say(speaker, text string) {
	t.out.Lines = append(
		t.out.Lines,
		TrialLine{Speaker: speaker, Text: text, Cards: []Card{}, Choices: []string{}, Told: []Passage{}},
	)
}

// suppose goes on as if an article had been found.
func (t *player) suppose() error {
	find := t.find
	defer func() { t.find = find }()
	t.find = func(string, int) (Input, error) {
		fits := Card{Reference: "A-0000", Revision: "A-0000@1", Title: "An article that fits"}
		return Input{Kind: Found, Cards: []Card{fits}}, nil
	}
	return t.take(Input{Kind: Words, Text: "something"})
}

// take takes one input and all that comes of it.
func (t *player) take(in Input) error {
	for pending := []Input{in}; len(pending) > 0; pending = pending[1:] {
		result, err := Run(t.program, t.out.State, pending[0], t.world)
		if err != nil {
			t.out.Refused = err
			return nil
		}
		t.out.State = result.State
		for _, m := range result.Messages {
			line := TrialLine{
				Speaker: "bot", Text: m.Text, Turn: m.Turn, Why: m.Why, Cards: append([]Card{}, m.Cards...),
				Choices: append([]string{}, m.Choices...), Told: append([]Passage{}, m.Told...),
			}
			if m.Link != nil {
				line.Link = m.Link.URL + m.Link.Form
			}
			t.out.Lines = append(t.out.Lines, line)
		}
		for _, n := range result.Needs {
			switch n.Kind {
			case NeedSearch:
				found, err := t.find(n.Text, n.Limit)
				if err != nil {
					return err
				}
				pending = append(pending, found)
			case NeedHandOver:
				t.say("notice", fmt.Sprintf("A person of the team %s has it now.%s", n.Team, briefly(n.Brief)))
			case NeedRequest:
				t.say("notice", fmt.Sprintf("A request for the team %s is filed.%s", n.Team, briefly(n.Brief)))
			case NeedClose:
				t.say("notice", "The conversation is closed.")
			}
		}
	}
	return nil
}

func briefly(brief string) string {
	if brief == "" {
		return ""
	}
	return " They read: “" + brief + "”."
}
