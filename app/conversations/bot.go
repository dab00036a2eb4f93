package conversations

import (
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"time"

	"gorm.io/gorm"

	"hermeneus/app/evidence"
	"hermeneus/app/flows"
	"hermeneus/app/problem"
	"hermeneus/core/flow"
	"hermeneus/core/form"
	"hermeneus/core/outcome"
	"hermeneus/store"
)

// step runs the flow by one input, does what it needs, and keeps the new state and the moves that led to it; said is
// what was said before. Whoever watches the conversation is to be told once that is committed.
func (a *Conversations) step(
	tx *gorm.DB,
	v evidence.Visitor,
	c *store.Conversation,
	in flow.Input,
	said ...store.Message,
) error {
	if len(c.State) == 0 {
		return nil
	}
	before := *c
	r, err := a.running(tx, v, c)
	if err != nil {
		return err
	}
	shell := &shell{area: a, tx: tx, visitor: AsAsker(v, *c), c: c, forms: r.world.Forms, messages: said}
	shell.visitor.Language = spoken(r.program, v)
	if in.Kind == flow.Begin {
		shell.happened(outcome.Evidence{Kind: outcome.Began, Ref: fmt.Sprintf("conversation:%d", c.ID)})
	}
	var moves []flow.Move
	for pending := []flow.Input{in}; len(pending) > 0; pending = pending[1:] {
		result, err := flow.Run(r.program, r.state, pending[0], r.world)
		if err != nil {
			return problem.From(err, "")
		}
		r.state = result.State
		moves = append(moves, result.Moves...)
		for _, m := range result.Messages {
			if err := shell.say(m); err != nil {
				return err
			}
		}
		more, err := shell.meetAll(result.Needs, r)
		if err != nil {
			return err
		}
		pending = append(pending, more...)
	}
	if err := shell.keepEvidence(); err != nil {
		return err
	}
	r.pin()
	if c.State, err = json.Marshal(r.state); err != nil {
		return err
	}
	if err := keepStep(tx, before, c, shell.messages); err != nil {
		return err
	}
	if c.Rehearsal {
		return nil
	}
	return a.flows.KeepMoves(tx, c.ID, r.version.ID, r.others, moves)
}

// running is a conversation as the runtime takes it.
type running struct {
	version *flows.Version
	program *flow.Program
	others  map[string]*flows.Version // the other flows that it goes to
	state   flow.State
	world   flow.World
}

// running reads a conversation, with the scripts that it runs and the world that it is in.
func (a *Conversations) running(tx *gorm.DB, v evidence.Visitor, c *store.Conversation) (*running, error) {
	version, err := a.versionOf(tx, c)
	if err != nil {
		return nil, err
	}
	r := &running{version: version, program: version.Program}
	if err := json.Unmarshal(c.State, &r.state); err != nil {
		return nil, fmt.Errorf("reading the state of conversation %d: %w", c.ID, err)
	}
	if r.others, err = a.flows.Others(tx, r.program); err != nil {
		return nil, err
	}
	for slug, id := range r.state.Versions { // a conversation ends on the version that it began with
		if r.others[slug], err = a.flows.Version(tx, id); err != nil {
			return nil, err
		}
	}
	language := r.state.Language
	if language == "" {
		language = r.program.Language(v.Language)
	}
	others := flows.Programs(r.others)
	r.world, err = a.flows.World(
		tx,
		v,
		r.program,
		others,
		flow.Ahead(r.program, r.state, others),
		language,
		time.Time{},
	)
	return r, err
}

// nameOf is how evidence knows a flow of the conversation: name@version.
func (r *running) nameOf(slug string) string {
	if other := r.others[slug]; other != nil {
		return other.Name()
	}
	return r.version.Name()
}

// pin keeps the versions of the other flows in which the conversation is.
func (r *running) pin() {
	places := append(slices.Clone(r.state.Back), flow.Place{Flow: r.state.Flow})
	for _, at := range places {
		if other := r.others[at.Flow]; other != nil && r.state.Versions[at.Flow] == 0 {
			versions := map[string]int64{at.Flow: other.ID}
			maps.Copy(versions, r.state.Versions)
			r.state.Versions = versions
		}
	}
}

// versionOf gives the published script that a conversation runs.
func (a *Conversations) versionOf(db *gorm.DB, c *store.Conversation) (*flows.Version, error) {
	if c.FlowVersionID == nil {
		return nil, fmt.Errorf("conversation %d has no script", c.ID)
	}
	version, err := a.flows.Version(db, *c.FlowVersionID)
	if err != nil {
		return nil, fmt.Errorf("reading the script of conversation %d: %w", c.ID, err)
	}
	return version, nil
}

// shell does for a running conversation what the runtime cannot.
type shell struct {
	area    *Conversations
	tx      *gorm.DB
	visitor evidence.Visitor
	c       *store.Conversation
	forms   map[string]flow.Form // request forms of the site

	messages []store.Message    // that are said in this step, kept together at its end
	evidence []outcome.Evidence // likewise
}

func (s *shell) say(m flow.Message) error {
	row := store.Message{
		ConversationID: s.c.ID,
		At:             s.area.base.Now(),
		Speaker:        store.ByBot,
		Text:           m.Text,
		Choices:        m.Choices,
	}
	var err error
	if len(m.Cards) > 0 {
		if row.Cards, err = json.Marshal(m.Cards); err != nil {
			return err
		}
	}
	if len(m.Told) > 0 {
		if row.Told, err = json.Marshal(ToldAnswer{Turn: m.Turn, Passages: m.Told}); err != nil {
			return err
		}
	}
	if m.Link != nil {
		if row.Link, err = json.Marshal(m.Link); err != nil {
			return err
		}
	}
	s.messages = append(s.messages, row)
	return nil
}

func (s *shell) notice(text string) {
	s.messages = append(s.messages, store.Message{
		ConversationID: s.c.ID, At: s.area.base.Now(), Speaker: store.ByNotice, Text: text,
	})
}

// meetAll does what a step needs, in its order, and gives the inputs that come of it.
func (s *shell) meetAll(needs []flow.Need, r *running) ([]flow.Input, error) {
	var inputs []flow.Input
	for _, n := range needs {
		s.visitor.Where.Flow = r.nameOf(n.Flow)
		more, err := s.meet(n, r.state)
		if err != nil {
			return nil, err
		}
		inputs = append(inputs, more...)
	}
	return inputs, nil
}

// meet does one need, and gives the inputs that come of it.
func (s *shell) meet(n flow.Need, state flow.State) ([]flow.Input, error) {
	switch n.Kind {
	case flow.NeedRecord:
		return nil, s.record(n.Evidence, state)
	case flow.NeedSearch:
		looked, err := s.area.search.LookUp(s.tx, s.visitor, n.Text, n.Limit)
		return []flow.Input{flows.Found(looked)}, err
	case flow.NeedHandOver:
		s.c.Brief = n.Brief
		return nil, s.handOver(n, state)
	case flow.NeedRequest:
		s.c.Brief = n.Brief
		return nil, s.request(n, state)
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
		if subject == "" && !slices.Contains(flow.Verdicts(), step.Said) {
			subject = step.Said
		}
	}
	return s.contact("H", n.Team, subject, outcome.HandedOff, state)
}

func (s *shell) request(n flow.Need, state flow.State) error {
	s.c.Kind, s.c.Address = store.Request, n.Address
	if f, there := s.forms[n.Form]; there {
		answers, _ := form.Take(f.Fields, n.Answers, nil) // what the bot could not take is left out
		raw, err := json.Marshal(append([]form.Answer{}, answers...))
		if err != nil {
			return err
		}
		s.c.KindName, s.c.Answers = f.Name, raw
	}
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
	if err := s.keepEvidence(); err != nil {
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
		s.notice("A rehearsal ends here: a customer would now be with the team " + team + ".")
		return nil
	}
	reference, err := ContactReference(s.tx, letter)
	if err != nil {
		return err
	}
	if cut := []rune(subject); len(cut) > 120 {
		subject = string(cut[:119]) + "…"
	}
	s.c.Reference, s.c.Team, s.c.Subject, s.c.Status, s.c.WaitingSince = &reference, team, subject, store.Waiting, &now
	s.notice("Your number is " + reference + ".")
	waits := ""
	if kind == outcome.Requested {
		if waits, err = s.area.Untaken(s.tx, s.visitor); err != nil {
			return err
		}
	}
	s.visitor.Where.Team = team
	if err := s.record(outcome.Evidence{Kind: kind, Ref: reference, Contact: waits}, state); err != nil {
		return err
	}
	err = s.keepEvidence()
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

// spoken is the language in which the bot speaks to a visitor, "" for that of the script.
func spoken(program *flow.Program, v evidence.Visitor) string {
	if language := program.Language(v.Language); language != program.Script().Language {
		return language
	}
	return ""
}
