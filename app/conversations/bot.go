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
	script, name, err := scriptOf(tx, c)
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
	shell.visitor.Where.Flow = name
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

// scriptOf gives the script that a conversation runs, and its flow's name@version.
func scriptOf(db *gorm.DB, c *store.Conversation) (flow.Script, string, error) {
	var version struct {
		store.FlowVersion
		Slug string
	}
	err := db.Raw(`SELECT v.*, f.slug FROM flow_versions v JOIN flows f ON f.id = v.flow_id WHERE v.id = ?`,
		c.FlowVersionID).Take(&version).Error
	if err != nil {
		return flow.Script{}, "", fmt.Errorf("reading the script of conversation %d: %w", c.ID, err)
	}
	script, err := flow.Parse(version.Script)
	return script, fmt.Sprintf("%s@%d", version.Slug, version.Number), err
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
		return nil, s.record(n.Evidence, state)
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
		return nil, s.request(n, state)
	case flow.NeedClose:
		if s.c.Status == store.WithBot {
			now := s.area.base.Now()
			s.c.Status, s.c.ClosedAt = store.Closed, &now
		}
	}
	return nil, nil
}

// record keeps evidence of what happened at a turn. An article opened after another of the same offer means that
// the other was not all they wanted: that they came back for it is kept just before.
func (s *shell) record(e outcome.Evidence, state flow.State) error {
	s.visitor.Where.Turn = "turn:" + state.Turn
	if e.Kind == outcome.Opened {
		where, err := s.area.helpCentre.Where(s.tx, e.Ref)
		if err != nil {
			return err
		}
		e.Stood = where
		back, err := s.area.recorder.CameBack(s.tx, s.visitor, s.visitor.Where.Turn, e.Ref)
		if err != nil {
			return err
		}
		return s.area.recorder.Record(s.tx, s.visitor, outcome.Chat, append(back, e)...)
	}
	return s.area.recorder.Record(s.tx, s.visitor, outcome.Chat, e)
}

func (s *shell) handOver(n flow.Need, state flow.State) error {
	subject := state.Words
	for _, step := range slices.Backward(state.Path) {
		if subject == "" && step.Said != flow.No {
			subject = step.Said
		}
	}
	return s.contact("H", n.Team, subject, outcome.HandedOff, state)
}

func (s *shell) request(n flow.Need, state flow.State) error {
	s.c.Kind, s.c.Address = store.Request, n.Address
	if err := s.renew(n.Address); err != nil {
		return err
	}
	if err := s.contact("R", n.Team, n.Text, outcome.Requested, state); err != nil {
		return err
	}
	return s.area.recorder.LinkAddress(s.tx, s.visitor, outcome.Chat, n.Address)
}

// renew lets the conversation go on under another key where the address that is given is not that of the person to
// whom the browser's key belongs: from now on somebody else sits there.
func (s *shell) renew(address string) error {
	if s.c.CustomerID != nil || s.c.Rehearsal || !s.visitor.Counted() {
		return nil
	}
	another, err := s.area.recorder.AnotherPerson(s.tx, s.c.Asker, address)
	if err != nil || !another {
		return err
	}
	key := evidence.NewKey()
	s.c.Asker = evidence.Visitor{Key: key}.Asker()
	s.visitor.AsAsker = s.c.Asker
	if s.visitor.Renew != nil {
		s.visitor.Renew(key)
	}
	return nil
}

// contact puts the conversation before people, unless it is only a rehearsal.
func (s *shell) contact(letter, team, subject string, kind outcome.Kind, state flow.State) error {
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
	waits := ""
	if kind == outcome.Requested {
		if waits, err = s.area.Untaken(s.tx, s.visitor); err != nil {
			return err
		}
	}
	s.visitor.Where.Team = team
	err = s.record(outcome.Evidence{Kind: kind, Ref: reference, Contact: waits}, state)
	s.visitor.Contact = reference
	return err
}

// Untaken gives the reference of a conversation of the same asker that waits for a person and that nobody took,
// "" for none: a request that they send meanwhile is the same contact.
func (a *Conversations) Untaken(tx *gorm.DB, v evidence.Visitor) (string, error) {
	if !v.Counted() {
		return "", nil
	}
	var waiting []store.Conversation
	var customer int64
	if v.Customer != nil {
		customer = v.Customer.ID
	}
	err := tx.Raw(`SELECT * FROM conversations
		WHERE status = 'waiting' AND accepted_at IS NULL AND reference LIKE 'H-%' AND NOT rehearsal
			AND (asker IN ? OR customer_id = ?)
		ORDER BY waiting_since LIMIT 1`, v.Askers(), customer).Scan(&waiting).Error
	if err != nil || len(waiting) == 0 {
		return "", err
	}
	return ContactOf(waiting[0]), nil
}

// inSource is the visitor, reading the language of the source: the bot speaks it.
func inSource(v evidence.Visitor) evidence.Visitor {
	v.Language = ""
	return v
}
