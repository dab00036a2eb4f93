// Package flow holds the bot's conversations: a script as its writer types it, the checks that it must pass,
// and the runtime, a pure function that the live bot, rehearsals and tests all run.
// It promises that any input in any state gives a reply within a bounded number of moves, and that a script
// without errors leaves nobody without a way on.
// It may not look anything up, keep anything, or know what time it is.
package flow

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"
)

// MaxScript is the largest script that is read, in bytes.
const MaxScript = 4 << 20

// Format is the number of the format of scripts that is written. Format 1 is read, too (see Parse).
const Format = 2

// Kind is what a turn does.
type Kind string

// The kinds of turns.
const (
	Say      Kind = "say"       // say something and go on
	Choose   Kind = "choose"    // offer choices
	Ask      Kind = "ask"       // ask for a fact
	Suggest  Kind = "suggest"   // show named articles and ask whether they helped
	LookUp   Kind = "look_up"   // find articles for the customer's words and ask whether they helped
	Branch   Kind = "branch"    // go on by what is known
	HandOver Kind = "hand_over" // pass the conversation to a team, or go on if nobody is there
	Request  Kind = "request"   // take a question for a person to answer later
	Link     Kind = "link"      // point to a page, or to a request form
	Rate     Kind = "rate"      // ask for a mark from 1 to 5
	Close    Kind = "close"     // end the conversation
	GoTo     Kind = "go_to"     // go on at another turn, or in another flow
)

// Kinds lists them all, in the order in which they are offered.
var Kinds = []Kind{Say, Choose, Ask, Suggest, LookUp, Branch, HandOver, Request, Link, Rate, Close, GoTo}

// Texts is what is said, by language.
type Texts map[string]string

// In gives the text in a language, or in the one that the script was written in.
func (t Texts) In(language, source string) string {
	if text := t[language]; text != "" {
		return text
	}
	return t[source]
}

// Languages lists the languages that have a text, in order.
func (t Texts) Languages() []string {
	var list []string
	for language, text := range t {
		if text != "" {
			list = append(list, language)
		}
	}
	slices.Sort(list)
	return list
}

// Script is a flow as it is written: turns that follow each other from top to bottom. What follows from a
// turn alone hangs beneath it; where that ends, the conversation goes on with the turn below.
type Script struct {
	Format   int       `json:"format"`
	Name     string    `json:"name"`
	Language string    `json:"language"` // that it was written in
	Turns    []Turn    `json:"turns"`
	Whenever []Handler `json:"whenever,omitempty"`
}

// The occasions of handlers.
const (
	WheneverPerson = "person" // somebody asks for a person
	WheneverWords  = "words"  // what is typed fits nothing that was offered
)

// Handler is what the bot does at any time of a conversation. Where it ends, the conversation comes back to
// the turn at which it was left.
type Handler struct {
	On    string   `json:"on"`
	Words []string `json:"words,omitempty"` // of person: what asks for one
	Turns []Turn   `json:"turns"`
}

// Turn is one move of the bot. Which fields it needs depends on its kind.
type Turn struct {
	ID       string   `json:"id"`
	Named    bool     `json:"named,omitempty"` // its writer gave it the name
	Kind     Kind     `json:"kind"`
	Text     Texts    `json:"text,omitempty"`
	Fact     string   `json:"fact,omitempty"`     // ask: what it is kept as
	Wants    Wants    `json:"wants,omitempty"`    // ask: what is taken for an answer
	Pattern  string   `json:"pattern,omitempty"`  // ask: of a reference; 0 for a digit, A for a letter
	Skip     bool     `json:"skip,omitempty"`     // ask: may be skipped
	Personal bool     `json:"personal,omitempty"` // ask: is kept out of what others read
	Wrong    Texts    `json:"wrong,omitempty"`    // ask: what is said to what is no answer
	Articles []string `json:"articles,omitempty"` // suggest: references
	Limit    int      `json:"limit,omitempty"`    // look_up: how many articles at most; 3 if not given
	Team     string   `json:"team,omitempty"`     // hand_over, request
	Details  []string `json:"details,omitempty"`  // hand_over, request: facts that are asked for first
	Brief    string   `json:"brief,omitempty"`    // hand_over, request: for the agent alone
	Stays    bool     `json:"stays,omitempty"`    // hand_over: the bot looks things up until somebody accepts
	Form     string   `json:"form,omitempty"`     // request, link: the key of a request form
	URL      string   `json:"url,omitempty"`      // link
	To       string   `json:"to,omitempty"`       // go_to: the name of a turn
	Flow     string   `json:"flow,omitempty"`     // go_to: the name of another flow
	Back     bool     `json:"back,omitempty"`     // go_to: and come back from it
	Leads    []Lead   `json:"leads,omitempty"`    // what hangs beneath
}

// What a lead can hang on.
const (
	OnOption  = "option"  // choose, ask: a choice that is offered
	OnElse    = "else"    // branch: when nothing above holds; choose: what is typed fits nothing
	OnWhen    = "when"    // branch: when all conditions hold
	OnYes     = "yes"     // suggest, look_up: it helped
	OnNo      = "no"      // suggest, look_up: it did not
	OnNothing = "nothing" // suggest, look_up: nothing can be shown; ask: no answer was given
	OnWeak    = "weak"    // look_up: what was found fits only weakly
	OnBusy    = "busy"    // hand_over: everybody there has their hands full
	OnClosed  = "closed"  // hand_over: nobody is there
)

// leadsOf lists what can hang on a turn of each kind.
var leadsOf = map[Kind][]string{
	Choose:   {OnOption, OnElse},
	Ask:      {OnOption, OnNothing},
	Suggest:  {OnYes, OnNo, OnNothing},
	LookUp:   {OnYes, OnNo, OnWeak, OnNothing},
	Branch:   {OnWhen, OnElse},
	HandOver: {OnBusy, OnClosed},
}

// Lead is one way on from a turn, with what hangs beneath it.
type Lead struct {
	On     string      `json:"on"`
	Text   Texts       `json:"text,omitempty"`   // option: its words; busy, closed: what is said
	Groups []string    `json:"groups,omitempty"` // option: shown to these groups of customers alone
	When   []Condition `json:"when,omitempty"`
	Then   []Turn      `json:"then,omitempty"`
}

// Parse reads a script in JSON, of the present format or of format 1. It refuses what is not a script at
// all; Check says what is wrong with one that can be read.
func Parse(raw []byte) (Script, error) {
	var s Script
	if len(raw) > MaxScript {
		return s, fmt.Errorf("the script is larger than %d bytes", MaxScript)
	}
	var head struct {
		Format int `json:"format"`
	}
	if json.Unmarshal(raw, &head) == nil && head.Format > Format {
		return s, fmt.Errorf("the script is of format %d; formats up to %d are read here", head.Format, Format)
	}
	if head.Format < 2 {
		old := older{}
		if err := strictly(raw, &old); err != nil {
			return s, err
		}
		return old.script(), nil
	}
	err := strictly(raw, &s)
	return s, err
}

// ReadAny reads a script as it is typed, or as JSON.
func ReadAny(source string) (Reading, error) {
	if !strings.HasPrefix(strings.TrimSpace(source), "{") {
		return Read(source), nil
	}
	script, err := Parse([]byte(source))
	if err != nil {
		return Reading{}, err
	}
	return Read(Write(script)), nil
}

// strictly reads one JSON value and refuses fields that nobody knows.
func strictly(raw []byte, into any) error {
	dec := json.NewDecoder(bytes.NewReader(raw))
	dec.DisallowUnknownFields()
	if err := dec.Decode(into); err != nil {
		var syntax *json.SyntaxError
		if errors.As(err, &syntax) {
			line := 1 + bytes.Count(raw[:min(int(syntax.Offset), len(raw))], []byte("\n"))
			return fmt.Errorf("not JSON: line %d: %w", line, err)
		}
		return fmt.Errorf("not a script: %w", err)
	}
	if _, err := dec.Token(); !errors.Is(err, io.EOF) {
		return errors.New("something follows the script")
	}
	return nil
}

// Each calls a function with every turn of the script, in the order in which it is read.
func (s *Script) Each(do func(t *Turn)) {
	eachTurn(s.Turns, do)
	for i := range s.Whenever {
		eachTurn(s.Whenever[i].Turns, do)
	}
}

func eachTurn(turns []Turn, do func(t *Turn)) {
	for i := range turns {
		do(&turns[i])
		for j := range turns[i].Leads {
			eachTurn(turns[i].Leads[j].Then, do)
		}
	}
}

// Turn finds a turn by its id.
func (s *Script) Turn(id string) (Turn, bool) {
	var found Turn
	ok := false
	s.Each(func(t *Turn) {
		if t.ID == id && !ok {
			found, ok = *t, true
		}
	})
	return found, ok
}

// Articles lists the references of every article the script names, once each.
func (s *Script) Articles() []string {
	var refs []string
	s.Each(func(t *Turn) {
		for _, ref := range t.Articles {
			if !slices.Contains(refs, ref) {
				refs = append(refs, ref)
			}
		}
	})
	return refs
}

// Forms lists the keys of the request forms that the script names, once each.
func (s *Script) Forms() []string {
	var list []string
	s.Each(func(t *Turn) {
		if t.Form != "" && !slices.Contains(list, t.Form) {
			list = append(list, t.Form)
		}
	})
	return list
}

// Facts lists what the script asks for, once each.
func (s *Script) Facts() []string {
	var list []string
	s.Each(func(t *Turn) {
		for _, fact := range append([]string{t.Fact}, t.Details...) {
			if fact != "" && !slices.Contains(list, fact) {
				list = append(list, fact)
			}
		}
	})
	return list
}

// Flows lists the other flows that the script goes to, once each.
func (s *Script) Flows() []string {
	var list []string
	s.Each(func(t *Turn) {
		if t.Flow != "" && !slices.Contains(list, t.Flow) {
			list = append(list, t.Flow)
		}
	})
	return list
}

// handler finds what is done on an occasion.
func (s *Script) handler(on string) *Handler {
	for i := range s.Whenever {
		if s.Whenever[i].On == on {
			return &s.Whenever[i]
		}
	}
	return nil
}

// named makes a name of words: small letters, digits and dashes, at most five words.
func named(words string) string {
	parts := strings.Fields(plain(words))
	name := strings.Join(parts[:min(5, len(parts))], "-")
	if r := []rune(name); len(r) > 40 {
		name = strings.Trim(string(r[:40]), "-")
	}
	return name
}

// identify gives every turn without an id one of its words and kind, the same for the same script.
func (s *Script) identify() {
	taken := map[string]bool{}
	s.Each(func(t *Turn) { taken[t.ID] = t.ID != "" })
	s.Each(func(t *Turn) {
		if t.ID != "" {
			return
		}
		words := named(t.Text[s.Language])
		if words == "" {
			words = strings.Trim(named(strings.ReplaceAll(string(t.Kind), "_", " ")+" "+
				strings.Join(append(slices.Clone(t.Articles), t.Fact, t.Team, t.Flow, t.To), " ")), "-")
		}
		id := words
		for n := 2; taken[id]; n++ {
			id = fmt.Sprintf("%s-%d", words, n)
		}
		t.ID = id
		taken[id] = true
	})
}
