package flow

import (
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"strings"

	"hermeneus/core/compare"
)

// Rehearsal is a conversation that a script must go on having word for word: who comes, what they do, and what is said.
// The world stands in it as it was, so that it goes the same at any hour, and without a database.
type Rehearsal struct {
	Name   string              `json:"name"`
	From   string              `json:"from,omitempty"` // the turn that it begins at; nothing for the beginning
	Who    ExampleWorld        `json:"who"`            // what the world was made from
	World  World               `json:"world"`
	Found  map[string]LookedUp `json:"found,omitempty"`  // what the library had, by the words that were looked up
	Hidden []string            `json:"hidden,omitempty"` // articles that were named and that who came could not see
	Inputs []ExampleStep       `json:"inputs"`
	Lines  []RehearsedLine     `json:"lines"` // that are expected
}

// LookedUp is what the library had for some words.
type LookedUp struct {
	Cards []Card    `json:"cards,omitempty"`
	Weak  bool      `json:"weak,omitempty"`
	Told  []Passage `json:"told,omitempty"`
	Sure  float64   `json:"sure,omitempty"`
}

// RehearsedLine is what is said in a rehearsal, as far as a script makes it: of articles it is which, not their words.
type RehearsedLine struct {
	Speaker string   `json:"speaker"` // bot, customer or notice
	Text    string   `json:"text"`
	Cards   []string `json:"cards,omitempty"` // references
	Choices []string `json:"choices,omitempty"`
	Link    string   `json:"link,omitempty"`
	Told    []string `json:"told,omitempty"` // references of the articles whose words are told
}

// ChangedLine is a line of two transcripts laid over each other.
type ChangedLine struct {
	Mark compare.Mark `json:"mark"`
	RehearsedLine
}

// Rehearsed is how a rehearsal went.
type Rehearsed struct {
	Name  string        `json:"name"`
	Same  bool          `json:"same"` // just as it is kept
	Lines []ChangedLine `json:"lines"`
	Turn  string        `json:"turn,omitempty"` // at which it first goes otherwise, or stands before that
}

// Keep plays a conversation and makes a rehearsal of it. It is refused where the script does not take all inputs.
func Keep(p *Program, r Rehearsal, find Finder) (Rehearsal, error) {
	r.Found = map[string]LookedUp{}
	trial, err := Play(p, r.World, r.From, r.Inputs, func(words string, limit int) (Input, error) {
		in, err := find(words, limit)
		r.Found[words] = LookedUp{in.Cards, in.Weak, in.Told, in.Sure}
		return in, err
	})
	if err == nil {
		err = trial.Refused
	}
	r.World.Teams = maps.Clone(r.World.Teams)
	if r.World.Teams == nil {
		r.World.Teams = map[string]Team{}
	}
	p.Script().Each(func(t *Turn) {
		if _, there := r.World.Teams[t.Team]; !there && t.Team != "" {
			r.World.Teams[t.Team] = Team{} // as nothing is known of it
		}
	})
	r.Hidden = nil
	for _, ref := range ArticlesOf(p, r.World.Flows) {
		if _, there := r.World.Articles[ref]; !there && !slices.Contains(r.Hidden, ref) {
			r.Hidden = append(r.Hidden, ref)
		}
	}
	r.Lines = rehearsedLines(trial.Lines)
	return r, err
}

// Accept says that a rehearsal should go as it does with a script as it is now, in the world of then. It is refused
// where the script does not take all inputs.
func Accept(p *Program, r Rehearsal, flows map[string]*Program) (Rehearsal, error) {
	trial := r.again(p, flows)
	r.Lines = rehearsedLines(trial.Lines)
	return r, trial.Refused
}

// again has the conversation in the world of then. Of it, only the other flows are those of now; what the script names
// by now that was not there then is taken to be there.
func (r Rehearsal) again(p *Program, flows map[string]*Program) Trial {
	w := r.World
	w.Flows = flows
	w.Articles, w.Teams = maps.Clone(w.Articles), maps.Clone(w.Teams)
	if w.Articles == nil {
		w.Articles = map[string]Card{}
	}
	if w.Teams == nil {
		w.Teams = map[string]Team{}
	}
	for _, ref := range ArticlesOf(p, flows) {
		if _, there := w.Articles[ref]; !there && !slices.Contains(r.Hidden, ref) {
			w.Articles[ref] = Card{Reference: ref, Revision: ref + "@1", Title: ref}
		}
	}
	p.Script().Each(func(t *Turn) {
		if _, there := w.Teams[t.Team]; !there && t.Team != "" {
			w.Teams[t.Team] = Team{Open: true, Presence: Free}
		}
	})
	trial, _ := Play(p, w, r.From, r.Inputs, func(words string, _ int) (Input, error) { // looks nothing up: never fails
		found := r.Found[words]
		return Input{Kind: Found, Cards: found.Cards, Weak: found.Weak, Told: found.Told, Sure: found.Sure}, nil
	})
	return trial
}

// Rehearse has a kept conversation again, with a script as it is now, and lays it over how it is kept.
func Rehearse(p *Program, r Rehearsal, flows map[string]*Program) Rehearsed {
	trial := r.again(p, flows)
	got := rehearsedLines(trial.Lines)
	if trial.Refused != nil {
		got = append(got, RehearsedLine{
			Speaker: "notice",
			Text: fmt.Sprintf(
				"“%s” is not taken here: %s.",
				r.Inputs[trial.Taken].said(p.Language(r.World.Language)),
				trial.Refused,
			),
		})
	}
	out := Rehearsed{Name: r.Name}
	at, differs, found := 0, false, false // at is how far the new transcript is
	for _, line := range compare.CompareLines(encoded(r.Lines), encoded(got)) {
		changed := ChangedLine{Mark: line.Mark}
		_ = json.Unmarshal([]byte(line.Text), &changed.RehearsedLine) // it was encoded here
		out.Lines = append(out.Lines, changed)
		turn := ""
		if line.Mark != compare.Removed {
			turn = turnOf(trial.Lines, at)
			at++
		}
		differs = differs || line.Mark != compare.Same
		if turn != "" && !found {
			out.Turn, found = turn, differs
		}
	}
	out.Same = !differs
	return out
}

// ArticlesOf lists the articles that a script and the other flows name that it goes to.
func ArticlesOf(p *Program, flows map[string]*Program) []string {
	refs := p.Script().Articles()
	for _, other := range flows {
		refs = append(refs, other.Script().Articles()...)
	}
	return refs
}

func turnOf(lines []TrialLine, i int) string {
	if i < len(lines) {
		return lines[i].Turn
	}
	return ""
}

// rehearsedLines leaves of a trial what a script makes of it.
func rehearsedLines(lines []TrialLine) []RehearsedLine {
	out := make([]RehearsedLine, len(lines))
	for i, l := range lines {
		out[i] = RehearsedLine{Speaker: l.Speaker, Text: l.Text, Choices: l.Choices, Link: l.Link}
		for _, c := range l.Cards {
			out[i].Cards = append(out[i].Cards, c.Reference)
		}
		for _, p := range l.Told {
			out[i].Told = append(out[i].Told, p.Reference)
		}
	}
	return out
}

// encoded writes lines so that each is one line of a text.
func encoded(lines []RehearsedLine) string {
	var b strings.Builder
	for _, l := range lines {
		raw, _ := json.Marshal(l) // nothing in it can fail
		b.Write(raw)
		b.WriteByte('\n')
	}
	return b.String()
}
