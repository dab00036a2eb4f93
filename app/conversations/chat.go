package conversations

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"hermeneus/app/accounts"
	"hermeneus/app/customers"
	"hermeneus/app/evidence"
	"hermeneus/app/helpcentre"
	"hermeneus/app/problem"
	"hermeneus/app/search"
	"hermeneus/core/article"
	"hermeneus/core/flow"
	"hermeneus/core/outcome"
	coresearch "hermeneus/core/search"
	"hermeneus/store"
)

// FrontDoor is the flow that meets who opens the chat.
const FrontDoor = "front-door"

// wantsPerson is what a customer says by asking for a person without words.
const wantsPerson = "I would like to talk to a person."

// ChatMessage is one thing said in a conversation.
type ChatMessage struct {
	ID      int64       `json:"id"`
	At      time.Time   `json:"at"`
	Speaker string      `json:"speaker"`
	Name    string      `json:"name"` // of the agent
	Text    string      `json:"text"`
	Cards   []flow.Card `json:"cards"`
	Choices []string    `json:"choices"`
	Files   []KeptFile  `json:"files"`
}

// ChatView is a conversation as the customer sees it.
type ChatView struct {
	Status    string        `json:"status"`
	Reference string        `json:"reference"`
	Agent     string        `json:"agent"`
	Waiting   flow.Waiting  `json:"waiting"`
	MayAsk    bool          `json:"may_ask"` // a person can be asked for
	Rehearsal bool          `json:"rehearsal"`
	Messages  []ChatMessage `json:"messages"`
}

// StartChat begins a conversation and gives the token that the customer holds.
func (a *Conversations) StartChat(ctx context.Context, v evidence.Visitor) (string, error) {
	token, hash := accounts.NewToken()
	now := a.base.Now()
	err := a.base.Transaction(ctx, func(tx *gorm.DB) error {
		var version store.FlowVersion
		err := tx.Raw(`SELECT v.*
			FROM flows f JOIN flow_versions v ON v.id = f.live_version_id WHERE f.slug = ?`, FrontDoor).
			Take(&version).
			Error
		if err != nil {
			return problem.From(err, "live flow: the bot has nothing to say yet")
		}
		c := store.Conversation{
			TokenHash:     hash,
			Kind:          store.Chat,
			Answers:       json.RawMessage(`[]`),
			Asker:         v.Asker(),
			FlowVersionID: &version.ID,
			Status:        store.WithBot,
			BeganAt:       now,
			Rehearsal:     v.Preview,
			State:         json.RawMessage(`{}`),
		}
		if v.Customer != nil {
			c.CustomerID = &v.Customer.ID
		}
		if err := tx.Create(&c).Error; err != nil {
			return err
		}
		return a.step(tx, v, &c, flow.Input{Kind: flow.Begin})
	})
	return token, err
}

// conversation finds what a token opens, locked, since every step changes it.
func (a *Conversations) conversation(tx *gorm.DB, token string) (store.Conversation, error) {
	return a.ByToken(tx.Clauses(clause.Locking{Strength: "UPDATE"}).Session(&gorm.Session{}), token)
}

// SayInChat takes what a customer typed or chose, to the bot or to an agent.
func (a *Conversations) SayInChat(ctx context.Context, v evidence.Visitor, token string, in flow.Input) error {
	in.Text = strings.TrimSpace(in.Text)
	if len([]rune(in.Text)) > coresearch.MaxQuery {
		return problem.From(coresearch.ErrTooLong, "")
	}
	return a.base.Transaction(ctx, func(tx *gorm.DB) error {
		c, err := a.conversation(tx, token)
		if err != nil {
			return err
		}
		said := in.Text
		if in.Kind == flow.WantPerson {
			said = wantsPerson
		}
		if said == "" {
			return problem.New(problem.Invalid, "Type something first.")
		}
		switch {
		case c.Status == store.Closed:
			return problem.New(problem.NotNow, "This conversation is closed. Start a new one.")
		case c.Status != store.WithBot && in.Kind != flow.Words:
			return problem.New(problem.NotNow, "You are talking to a person now.")
		}
		if err := tx.Create(
			&store.Message{ConversationID: c.ID, At: a.base.Now(), Speaker: store.ByCustomer, Text: said},
		).Error; err != nil {
			return err
		}
		if c.Status == store.WithBot {
			return a.step(tx, v, &c, in)
		}
		return store.Announce(tx, store.ConversationChanged, c.ID)
	})
}

// OpenInChat gives an article that was shown in the conversation, and keeps that
// it was opened.
func (a *Conversations) OpenInChat(
	ctx context.Context,
	v evidence.Visitor,
	token, reference string,
) (helpcentre.Page, error) {
	var page helpcentre.Page
	err := a.base.Transaction(ctx, func(tx *gorm.DB) error {
		c, err := a.conversation(tx, token)
		if err != nil {
			return err
		}
		offered, err := offeredRevision(tx, c.ID, reference)
		if err != nil {
			return err
		}
		if page, err = a.helpCentre.BrowseRevision(tx, v, reference, offered); err != nil {
			return err
		}
		err = a.step(tx, v, &c, flow.Input{Kind: flow.Open, Revision: page.Revision})
		if errors.Is(err, flow.ErrNoSuch) || len(c.State) == 0 {
			// An agent showed it, or it has a newer revision: opened all the same.
			return a.recorder.Record(
				tx,
				AsAsker(v, c),
				outcome.Chat,
				outcome.Evidence{Kind: outcome.Opened, Ref: page.Revision},
			)
		}
		return err
	})
	return page, err
}

// ReadInChat keeps that an article opened in the conversation was really read.
func (a *Conversations) ReadInChat(
	ctx context.Context,
	v evidence.Visitor,
	token, reference string,
	visible time.Duration,
) error {
	c, err := a.ByToken(a.base.DB.WithContext(ctx), token)
	if err != nil {
		return err
	}
	offered, err := offeredRevision(a.base.DB.WithContext(ctx), c.ID, reference)
	if err != nil {
		return err
	}
	return a.helpCentre.MarkRevisionRead(ctx, AsAsker(v, c), outcome.Chat, reference, offered, visible)
}

// offeredRevision gives the revision of an article that a conversation showed last,
// 0 for none: who is in the middle of a conversation reads what it spoke of.
func offeredRevision(db *gorm.DB, conversation int64, reference string) (int, error) {
	var shown string
	err := db.Raw(`SELECT card->>'revision'
		FROM messages m, jsonb_array_elements(m.cards) card
		WHERE m.conversation_id = ? AND m.cards IS NOT NULL AND jsonb_typeof(m.cards) = 'array'
			AND card->>'reference' = ?
		ORDER BY m.id DESC LIMIT 1`, conversation, reference).Scan(&shown).Error
	_, revision, _ := article.ParseReference(shown)
	return revision, err
}

// AsAsker gives the visitor with the asker that the conversation began with, so that
// signing in half-way does not tear a question apart.
func AsAsker(v evidence.Visitor, c store.Conversation) evidence.Visitor {
	v.AsAsker, v.Preview, v.Crawler = c.Asker, v.Preview || c.Rehearsal, v.Crawler || c.Asker == evidence.Nobody
	return v
}

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
	app     *Conversations
	tx      *gorm.DB
	visitor evidence.Visitor
	c       *store.Conversation
}

func (s *shell) say(m flow.Message) error {
	row := store.Message{
		ConversationID: s.c.ID,
		At:             s.app.base.Now(),
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
		&store.Message{ConversationID: s.c.ID, At: s.app.base.Now(), Speaker: store.ByNotice, Text: text},
	).Error
}

// meet does one need, and gives the inputs that come of it.
func (s *shell) meet(n flow.Need, state flow.State) ([]flow.Input, error) {
	switch n.Kind {
	case flow.NeedRecord:
		return nil, s.app.recorder.Record(s.tx, s.visitor, outcome.Chat, n.Evidence)
	case flow.NeedSearch:
		results, err := s.app.search.SearchFor(s.tx, inSource(s.visitor), n.Text, n.Limit)
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
			now := s.app.base.Now()
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
	now := s.app.base.Now()
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
	return s.app.recorder.Record(
		s.tx,
		s.visitor,
		outcome.Chat,
		outcome.Evidence{Kind: kind, Ref: reference, Refs: []string{team}},
	)
}

// ReadChat gives a conversation as its customer sees it, with the messages after
// the given one (0 for all).
func (a *Conversations) ReadChat(ctx context.Context, v evidence.Visitor, token string, after int64) (ChatView, error) {
	db := a.base.DB.WithContext(ctx)
	c, err := a.ByToken(db, token)
	if err != nil {
		return ChatView{}, err
	}
	return View(db, v, c, after)
}

// View gives a conversation to who holds it, without what the articles shown in it say
// that the visitor may not see, or see any more.
func View(db *gorm.DB, v evidence.Visitor, c store.Conversation, after int64) (ChatView, error) {
	view := ChatView{Status: c.Status, Rehearsal: c.Rehearsal}
	if c.Reference != nil {
		view.Reference = *c.Reference
	}
	if len(c.State) > 0 {
		var state flow.State
		if err := json.Unmarshal(c.State, &state); err != nil {
			return view, err
		}
		script, err := scriptOf(db, &c)
		if err != nil {
			return view, err
		}
		view.Waiting, view.MayAsk = state.Waiting, script.Person != "" && c.Status == store.WithBot
	}
	if c.AgentID != nil {
		if err := db.Raw(`SELECT name FROM staff WHERE id = ?`, c.AgentID).Scan(&view.Agent).Error; err != nil {
			return view, err
		}
	}
	var err error
	if view.Messages, err = messages(db, c.ID, after); err != nil {
		return view, err
	}
	return view, hideCards(db, v, view.Messages)
}

// hideCards empties the cards of articles that the visitor may not see, or that are not
// live any more, whatever they said when they were shown.
func hideCards(db *gorm.DB, v evidence.Visitor, messages []ChatMessage) error {
	var references []string
	for _, m := range messages {
		for _, card := range m.Cards {
			references = append(references, card.Reference)
		}
	}
	v.Site = 0 // an agent shows what another help centre has, too
	seen, err := search.LiveRevisions(db, v, references)
	if err != nil {
		return err
	}
	for _, m := range messages {
		for i, card := range m.Cards {
			if _, ok := seen[card.Reference]; !ok {
				m.Cards[i] = flow.Card{}
			}
		}
	}
	return nil
}

func messages(db *gorm.DB, conversation, after int64) ([]ChatMessage, error) {
	var rows []struct {
		store.Message
		Name string
	}
	err := db.Raw(`SELECT m.*, coalesce(s.name, '') AS name FROM messages m LEFT JOIN staff s ON s.id = m.staff_id
		WHERE conversation_id = ? AND m.id > ? ORDER BY m.id`, conversation, after).Scan(&rows).Error
	if err != nil {
		return nil, fmt.Errorf("reading messages: %w", err)
	}
	files, err := FilesOf(db, conversation)
	if err != nil {
		return nil, err
	}
	list := make([]ChatMessage, len(rows))
	for i, r := range rows {
		list[i] = ChatMessage{
			ID:      r.ID,
			At:      r.At,
			Speaker: r.Speaker,
			Name:    r.Name,
			Text:    r.Text,
			Choices: r.Choices,
			Files:   []KeptFile{},
		}
		for _, f := range files {
			if f.MessageID == r.ID {
				list[i].Files = append(list[i].Files, f)
			}
		}
		if len(r.Cards) > 0 {
			if err := json.Unmarshal(r.Cards, &list[i].Cards); err != nil {
				return nil, fmt.Errorf("reading message %d: %w", r.ID, err)
			}
		}
	}
	return list, nil
}

// WatchChat rings after every change to the conversation, until stop.
func (a *Conversations) WatchChat(ctx context.Context, token string) (bell <-chan struct{}, stop func(), err error) {
	c, err := a.ByToken(a.base.DB.WithContext(ctx), token)
	if err != nil {
		return nil, nil, err
	}
	bell, stop = a.base.Watch(func(change store.Change) bool {
		return change.About == store.ConversationChanged && change.ID == c.ID
	})
	return bell, stop, nil
}

// visitorOf is the customer of a conversation, as far as what they may see goes.
func visitorOf(db *gorm.DB, c store.Conversation) (evidence.Visitor, error) {
	if c.CustomerID == nil {
		return evidence.Visitor{}, nil
	}
	groups, err := customers.GroupsOf(db, *c.CustomerID)
	return evidence.Visitor{Customer: &evidence.Customer{ID: *c.CustomerID, Groups: groups}}, err
}

// inSource is the visitor, reading the language of the source: the bot speaks it.
func inSource(v evidence.Visitor) evidence.Visitor {
	v.Language = ""
	return v
}
