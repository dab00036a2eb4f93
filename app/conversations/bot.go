package conversations

import (
	"encoding/json"
	"fmt"
	"slices"

	"gorm.io/gorm"

	"hermeneus/app/evidence"
	"hermeneus/app/problem"
	"hermeneus/app/search"
	"hermeneus/core/flow"
	"hermeneus/core/outcome"
	"hermeneus/store"
)

// step runs the flow by one input, does what it needs, and keeps the new state.
func (a *Conversations) step(tx *gorm.DB, v evidence.Visitor, c *store.Conversation, in flow.Input) error {
	if len(c.State) == 0 {
		return nil
	}
	script, err := scriptOf(tx, c)
	if err != nil {
		return err
	}
	var state flow.State
	if err := json.Unmarshal(c.State, &state); err != nil {
		return fmt.Errorf("reading the state of conversation %d: %w", c.ID, err)
	}
	world, err := a.world(tx, v, script)
	if err != nil {
		return err
	}
	shell := &shell{a, tx, AsAsker(v, *c), c}
	for pending := []flow.Input{in}; len(pending) > 0; pending = pending[1:] {
		result, err := flow.Step(script, state, pending[0], world)
		if err != nil {
			return problem.From(err, "")
		}
		state = result.State
		for _, m := range result.Messages {
			if err := shell.say(m); err != nil {
				return err
			}
		}
		for _, n := range result.Needs {
			more, err := shell.meet(n, state)
			if err != nil {
				return err
			}
			pending = append(pending, more...)
		}
	}
	if c.State, err = json.Marshal(state); err != nil {
		return err
	}
	if err := tx.Save(c).Error; err != nil {
		return err
	}
	return store.Announce(tx, store.ConversationChanged, c.ID)
}

func scriptOf(db *gorm.DB, c *store.Conversation) (flow.Script, error) {
	var version store.FlowVersion
	if err := db.Take(&version, c.FlowVersionID).Error; err != nil {
		return flow.Script{}, fmt.Errorf("reading the script of conversation %d: %w", c.ID, err)
	}
	return flow.Parse(version.Script)
}

// world is what the script may know: the articles it names that the visitor may
// see, and the teams with an agent in them.
func (a *Conversations) world(tx *gorm.DB, v evidence.Visitor, script flow.Script) (flow.World, error) {
	found, err := search.LiveEditions(tx, v, script.Articles())
	if err != nil {
		return flow.World{}, err
	}
	w := flow.World{Articles: map[string]flow.Card{}, Staffed: map[string]bool{}}
	for ref, r := range found {
		w.Articles[ref] = r.Card
	}
	if v.Customer != nil {
		w.Address = v.Customer.Email
	}
	var teams []string
	err = tx.Raw(`SELECT DISTINCT t.name
		FROM teams t JOIN staff s ON s.team_id = t.id WHERE 'agent' = ANY(s.roles) AND s.disabled_at IS NULL`).
		Scan(&teams).
		Error
	for _, t := range teams {
		w.Staffed[t] = true
	}
	return w, err
}

// shell does for a running conversation what the runtime cannot.
type shell struct {
	area    *Conversations
	tx      *gorm.DB
	visitor evidence.Visitor
	c       *store.Conversation
}

func (s *shell) say(m flow.Message) error {
	row := store.Message{
		ConversationID: s.c.ID,
		At:             s.area.base.Now(),
		Speaker:        store.ByBot,
		Text:           m.Text,
		Choices:        m.Choices,
	}
	if len(m.Cards) > 0 {
		row.Cards, _ = json.Marshal(m.Cards)
	}
	return s.tx.Create(&row).Error
}

func (s *shell) notice(text string) error {
	return s.tx.Create(
		&store.Message{ConversationID: s.c.ID, At: s.area.base.Now(), Speaker: store.ByNotice, Text: text},
	).Error
}

// meet does one need, and gives the inputs that come of it.
func (s *shell) meet(n flow.Need, state flow.State) ([]flow.Input, error) {
	switch n.Kind {
	case flow.NeedRecord:
		return nil, s.area.recorder.Record(s.tx, s.visitor, outcome.Chat, n.Evidence)
	case flow.NeedSearch:
		results, err := s.area.search.SearchFor(s.tx, inSource(s.visitor), n.Text, n.Limit)
		var found []flow.Card
		for _, r := range results {
			found = append(found, r.Card)
		}
		return []flow.Input{{Kind: flow.Found, Cards: found}}, err
	case flow.NeedHandOver:
		return nil, s.handOver(n, state)
	case flow.NeedRequest:
		return nil, s.request(n)
	case flow.NeedClose:
		if s.c.Status == store.WithBot {
			now := s.area.base.Now()
			s.c.Status, s.c.ClosedAt = store.Closed, &now
		}
	}
	return nil, nil
}

func (s *shell) handOver(n flow.Need, state flow.State) error {
	subject := state.Words
	for _, step := range slices.Backward(state.Path) {
		if subject == "" && step.Said != flow.No {
			subject = step.Said
		}
	}
	return s.contact("H", n.Team, subject, outcome.HandedOff)
}

func (s *shell) request(n flow.Need) error {
	s.c.Kind, s.c.Address = store.Request, n.Address
	return s.contact("R", n.Team, n.Text, outcome.Requested)
}

// contact puts the conversation before people, unless it is only a rehearsal.
func (s *shell) contact(letter, team, subject string, kind outcome.Kind) error {
	now := s.area.base.Now()
	if s.c.Rehearsal {
		s.c.Status, s.c.ClosedAt = store.Closed, &now
		return s.notice("A rehearsal ends here: a customer would now be with the team " + team + ".")
	}
	reference, err := ContactReference(s.tx, letter)
	if err != nil {
		return err
	}
	if cut := []rune(subject); len(cut) > 120 {
		subject = string(cut[:119]) + "…"
	}
	s.c.Reference, s.c.Team, s.c.Subject, s.c.Status, s.c.WaitingSince = &reference, team, subject, store.Waiting, &now
	if err := s.notice("Your number is " + reference + "."); err != nil {
		return err
	}
	return s.area.recorder.Record(
		s.tx,
		s.visitor,
		outcome.Chat,
		outcome.Evidence{Kind: kind, Ref: reference, Refs: []string{team}},
	)
}

// inSource is the visitor, reading the language of the source: the bot speaks it.
func inSource(v evidence.Visitor) evidence.Visitor {
	v.Language = ""
	return v
}
