package conversations

import (
	"context"
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"strings"
	"time"

	"gorm.io/gorm"

	"hermeneus/app/evidence"
	"hermeneus/app/library"
	"hermeneus/core/flow"
	"hermeneus/core/outcome"
	"hermeneus/store"
)

// Brief is what is known of a customer's question before a person takes it: what was done
// in the help centre, and what was said to the bot.
type Brief struct {
	Before []BriefLook  `json:"before"` // in the help centre and beside the form, in order
	Path   []BriefStep  `json:"path"`   // with the bot
	Shown  []flow.Shown `json:"shown"`  // by the bot
	Words  string       `json:"words"`
	Note   string       `json:"note"`  // that the script leaves for the agent
	Facts  []BriefFact  `json:"facts"` // that the customer gave
}

// BriefFact is something that the customer gave.
type BriefFact struct {
	Name  string `json:"name"`
	Value string `json:"value"`
}

// BriefStep is one move of the path: what the bot had said, and what the customer did.
type BriefStep struct {
	Turn string `json:"turn"`
	Bot  string `json:"bot"`
	Said string `json:"said"`
}

// BriefLook is one thing that the customer did in the same question before.
type BriefLook struct {
	At       time.Time        `json:"at"`
	Kind     outcome.Kind     `json:"kind"`
	Text     string           `json:"text"` // that was asked
	Articles []library.Titled `json:"articles"`
}

func (a *Conversations) brief(ctx context.Context, c store.Conversation) (Brief, error) {
	b := Brief{Before: []BriefLook{}, Path: []BriefStep{}, Shown: []flow.Shown{}, Facts: []BriefFact{}}
	db := a.base.DB.WithContext(ctx)
	if len(c.State) > 0 {
		if err := a.withBot(db, c, &b); err != nil {
			return b, err
		}
	}
	looked, err := a.looked(db, c)
	if err != nil {
		return b, err
	}
	titles, err := a.outcomes.Titles(ctx, looked)
	for _, e := range looked {
		look := BriefLook{At: e.At, Kind: e.Kind, Text: e.Text, Articles: []library.Titled{}}
		for _, ref := range append([]string{e.Ref}, e.Refs...) {
			bare, _, ok := strings.Cut(ref, "@")
			if title, there := titles[bare]; ok && there {
				look.Articles = append(look.Articles, library.Titled{Reference: bare, Title: title})
			}
		}
		b.Before = append(b.Before, look)
	}
	return b, err
}

// withBot tells what was said to the bot. What the bot had said is kept with each step;
// in conversations from before that was kept, it is told by the turn.
func (a *Conversations) withBot(db *gorm.DB, c store.Conversation, b *Brief) error {
	version, err := a.versionOf(db, &c)
	if err != nil {
		return err
	}
	script := version.Program.Script()
	b.Note = c.Brief
	var state flow.State
	if err := json.Unmarshal(c.State, &state); err != nil {
		return fmt.Errorf("reading the state of conversation %d: %w", c.ID, err)
	}
	b.Words = state.Words
	for _, name := range slices.Sorted(maps.Keys(state.Facts)) {
		if flow.Tellable(name) {
			b.Facts = append(b.Facts, BriefFact{name, state.Facts[name]})
		}
	}
	b.Shown = append(b.Shown, state.Shown...)
	for _, step := range state.Path {
		out := BriefStep{Turn: step.Turn, Bot: step.Heard, Said: step.Said}
		if turn, _ := script.Turn(step.Turn); out.Bot == "" {
			out.Bot = turn.Text[script.Language]
			if turn.Kind == flow.LookUp && (step.Said == flow.Yes || step.Said == flow.No) {
				out.Bot = flow.FoundText
			}
		}
		b.Path = append(b.Path, out)
	}
	return nil
}

// lookedBack is how far before a contact its question is looked for, and lookedShown how
// much of it is told.
const (
	lookedBack  = 24 * time.Hour
	lookedShown = 60
)

// looked gives what the customer did in the help centre and beside the form in the same
// question, before they reached a person.
func (a *Conversations) looked(db *gorm.DB, c store.Conversation) ([]outcome.Evidence, error) {
	if c.Reference == nil {
		return nil, nil
	}
	items, err := evidence.Items(db, `e.asker = ? AND e.at BETWEEN ? AND ? ORDER BY e.at, e.id LIMIT 2000`,
		c.Asker, c.BeganAt.Add(-lookedBack), c.BeganAt.Add(lookedBack))
	if err != nil {
		return nil, fmt.Errorf("reading what came before %s: %w", *c.Reference, err)
	}
	list := outcome.LedTo(items, *c.Reference, a.base.Now())
	return list[max(0, len(list)-lookedShown):], nil
}
