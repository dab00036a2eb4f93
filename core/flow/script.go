// Package flow holds the bot's conversations: their script, the checks a script
// must pass, and the runtime, a pure function that the live bot, rehearsals and
// tests all run.
package flow

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
)

// MaxScript is the largest script that is read, in bytes.
const MaxScript = 1 << 20

// Kind is what a turn does.
type Kind string

// The kinds of turns.
const (
	Say      Kind = "say"       // say something and go on
	Choose   Kind = "choose"    // offer choices
	Suggest  Kind = "suggest"   // show named articles and ask whether they helped
	LookUp   Kind = "look_up"   // find articles for the customer's words and ask whether they helped
	HandOver Kind = "hand_over" // pass the conversation to a team, or go on if nobody is there
	Request  Kind = "request"   // take a question for a person to answer later
	Close    Kind = "close"     // end the conversation
)

// Script is a flow as it is written.
type Script struct {
	Name        string   `json:"name"`
	Language    string   `json:"language"`
	Start       string   `json:"start"`                  // the turn a conversation begins with
	FreeText    string   `json:"free_text,omitempty"`    // the look-up turn for words that are no choice
	Person      string   `json:"person,omitempty"`       // the turn for who asks for a person
	PersonWords []string `json:"person_words,omitempty"` // words that ask for one
	Turns       []Turn   `json:"turns"`
}

// Turn is one move of the bot. Which fields it needs depends on its kind.
type Turn struct {
	ID        string   `json:"id"`
	Kind      Kind     `json:"kind"`
	Text      string   `json:"text"`
	Next      string   `json:"next,omitempty"`       // say, request: the turn after
	Options   []Option `json:"options,omitempty"`    // choose
	Articles  []string `json:"articles,omitempty"`   // suggest: references
	Limit     int      `json:"limit,omitempty"`      // look_up: how many articles at most; 3 if not given
	Helped    string   `json:"helped,omitempty"`     // suggest, look_up: where "yes" leads
	NotHelped string   `json:"not_helped,omitempty"` // suggest, look_up: where "no" leads
	Nothing   string   `json:"nothing,omitempty"`    // suggest, look_up: where it leads when nothing can be shown
	Team      string   `json:"team,omitempty"`       // hand_over, request
	Nobody    string   `json:"nobody,omitempty"`     // hand_over: where it leads when nobody is there
}

// Option is one choice and where it leads.
type Option struct {
	Label string `json:"label"`
	Next  string `json:"next"`
}

// Parse reads a script. It refuses what is not a script at all; Check says what
// is wrong with one that can be read.
func Parse(raw []byte) (Script, error) {
	var s Script
	if len(raw) > MaxScript {
		return s, fmt.Errorf("the script is larger than %d bytes", MaxScript)
	}
	dec := json.NewDecoder(bytes.NewReader(raw))
	dec.DisallowUnknownFields()
	if err := dec.Decode(&s); err != nil {
		var syntax *json.SyntaxError
		if errors.As(err, &syntax) {
			line := 1 + bytes.Count(raw[:min(int(syntax.Offset), len(raw))], []byte("\n"))
			return s, fmt.Errorf("not JSON: line %d: %w", line, err)
		}
		return s, fmt.Errorf("not a script: %w", err)
	}
	if _, err := dec.Token(); !errors.Is(err, io.EOF) {
		return s, errors.New("something follows the script")
	}
	return s, nil
}

// Turn finds a turn by its id.
func (s Script) Turn(id string) (Turn, bool) {
	for _, t := range s.Turns {
		if t.ID == id {
			return t, true
		}
	}
	return Turn{}, false
}

// Articles lists the references of every article the script names, once each.
func (s Script) Articles() []string {
	var refs []string
	seen := map[string]bool{}
	for _, t := range s.Turns {
		for _, ref := range t.Articles {
			if !seen[ref] {
				seen[ref] = true
				refs = append(refs, ref)
			}
		}
	}
	return refs
}

// leads lists where a turn can lead, by the name of the field.
func (t Turn) leads() []lead {
	var out []lead
	add := func(field, to string, required bool) {
		if to != "" || required {
			out = append(out, lead{field, to})
		}
	}
	switch t.Kind {
	case Say, Request:
		add("next", t.Next, true)
	case Choose:
		for i, o := range t.Options {
			add(fmt.Sprintf("options[%d].next", i), o.Next, true)
		}
	case Suggest, LookUp:
		add("helped", t.Helped, true)
		add("not_helped", t.NotHelped, true)
		add("nothing", t.Nothing, true)
	case HandOver:
		add("nobody", t.Nobody, true)
	}
	return out
}

type lead struct{ field, to string }
