package conversations

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"strconv"
	"strings"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"hermeneus/app/accounts"
	"hermeneus/app/customers"
	"hermeneus/app/evidence"
	"hermeneus/app/helpcentre"
	"hermeneus/app/problem"
	"hermeneus/core/article"
	"hermeneus/core/flow"
	"hermeneus/core/outcome"
	coresearch "hermeneus/core/search"
	"hermeneus/store"
)

// FrontDoor is what the flow is called that meets whoever opens the chat, where there is but one.
const FrontDoor = "front-door"

// wantsPerson is what a customer says by asking for a person without words.
const wantsPerson = "I would like to talk to a person."

// StartChat begins a conversation and gives the token that the customer holds.
func (a *Conversations) StartChat(ctx context.Context, v evidence.Visitor) (string, error) {
	token, hash := accounts.NewToken()
	now := a.base.Now()
	var began int64
	err := a.base.Often(ctx, func(tx *gorm.DB) error {
		stands, err := a.hours.Stands(tx, v.Site, v.Language, time.Time{})
		if err != nil {
			return err
		}
		arrival := flow.Arrival{Site: v.Site, Channel: string(outcome.Chat), Page: v.Page, Open: stands.Open}
		if v.Customer != nil {
			arrival.Groups = v.Customer.Groups
		}
		version, err := a.flows.Met(tx, arrival)
		if err != nil {
			return err
		}
		if version == nil {
			return problem.New(
				problem.NotFound,
				"There is no live flow that meets you here: the bot has nothing to say yet.",
			)
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
		began = c.ID
		return a.step(tx, v, &c, flow.Input{Kind: flow.Begin})
	})
	if err == nil {
		a.base.Tell(store.ConversationChanged, began)
	}
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
	var changed int64
	err := a.base.Often(ctx, func(tx *gorm.DB) error {
		c, err := a.conversation(tx, token)
		if err != nil {
			return err
		}
		changed = c.ID
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
		message := store.Message{ConversationID: c.ID, At: a.base.Now(), Speaker: store.ByCustomer, Text: said}
		if c.Status == store.WithBot && len(c.State) > 0 {
			return a.step(tx, v, &c, in, message)
		}
		if err := tx.Create(&message).Error; err != nil {
			return err
		}
		if c.Status == store.Waiting && in.Kind == flow.Words {
			return a.meanwhile(tx, v, &c, in)
		}
		return nil
	})
	if err == nil {
		a.base.Tell(store.ConversationChanged, changed)
	}
	return err
}

// meanwhile lets a bot that stays look up what somebody types who waits for a person.
func (a *Conversations) meanwhile(tx *gorm.DB, v evidence.Visitor, c *store.Conversation, in flow.Input) error {
	if c.FlowVersionID == nil || len(c.State) == 0 {
		return nil
	}
	r, err := a.running(tx, v, c)
	if err != nil || !flow.Stays(r.program, r.state, r.world) {
		return err
	}
	return a.step(tx, v, c, in)
}

// OpenInChat gives an article that was shown in the conversation, and keeps that
// it was opened.
func (a *Conversations) OpenInChat(
	ctx context.Context,
	v evidence.Visitor,
	token, reference string,
) (helpcentre.Page, error) {
	var page helpcentre.Page
	var changed int64
	err := a.base.Often(ctx, func(tx *gorm.DB) error {
		c, err := a.conversation(tx, token)
		if err != nil {
			return err
		}
		changed = c.ID
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
			return a.recorder.Record(tx, AsAsker(v, c), outcome.Chat, opened(page))
		}
		return err
	})
	if err == nil {
		a.base.Tell(store.ConversationChanged, changed)
	}
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

// opened is an article that was opened, where it stands.
func opened(page helpcentre.Page) outcome.Evidence {
	return outcome.Evidence{Kind: outcome.Opened, Ref: page.Revision, Stood: page.Stood()}
}

// AsAsker gives the visitor with the asker that the conversation began with, so that
// signing in half-way does not tear a question apart, and with the contact that it became.
func AsAsker(v evidence.Visitor, c store.Conversation) evidence.Visitor {
	v.AsAsker, v.Preview, v.Crawler = c.Asker, v.Preview || c.Rehearsal, v.Crawler || c.Asker == evidence.Nobody
	v.Contact = ContactOf(c)
	v.Where.Conversation, v.Where.Team = strconv.FormatInt(c.ID, 10), c.Team
	return v
}

// ContactOf is the reference by which evidence knows what a conversation became, "" as long as nobody was asked
// for. Each time that a request is opened again is a contact of its own.
func ContactOf(c store.Conversation) string {
	switch {
	case c.Reference == nil:
		return ""
	case c.Reopened > 0:
		return fmt.Sprintf("%s.%d", *c.Reference, c.Reopened+1)
	}
	return *c.Reference
}

// visitorOf is the customer of a conversation, as far as what they may see goes.
func visitorOf(db *gorm.DB, c store.Conversation) (evidence.Visitor, error) {
	if c.CustomerID == nil {
		return evidence.Visitor{}, nil
	}
	groups, err := customers.GroupsOf(db, *c.CustomerID)
	return evidence.Visitor{Customer: &evidence.Customer{ID: *c.CustomerID, Groups: groups}}, err
}
