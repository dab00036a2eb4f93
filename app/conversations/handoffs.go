package conversations

import (
	"context"
	"encoding/json"
	"fmt"
	"strings"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"hermeneus/app/problem"
	"hermeneus/app/search"
	"hermeneus/app/staff"
	"hermeneus/core/flow"
	"hermeneus/core/form"
	"hermeneus/core/outcome"
	"hermeneus/core/role"
	coresearch "hermeneus/core/search"
	"hermeneus/store"
)

// HandoffLine is a conversation in the agents' list.
type HandoffLine struct {
	Reference    string    `json:"reference"`
	Kind         string    `json:"kind"`
	Subject      string    `json:"subject"`
	Team         string    `json:"team"`
	Status       string    `json:"status"`
	Customer     string    `json:"customer"`
	Agent        string    `json:"agent"`
	AgentID      int64     `json:"agent_id"`
	WaitingSince time.Time `json:"waiting_since"`
	LastMessage  string    `json:"last_message"`
	LastSpeaker  string    `json:"last_speaker"`
}

// Handoffs lists what waits for a person, the longest waiting first; then what
// agents have accepted; then the latest closed ones.
func (a *Conversations) Handoffs(ctx context.Context, by staff.Staff) ([]HandoffLine, error) {
	if err := by.May("Reading handoffs", role.Agent); err != nil {
		return nil, err
	}
	var lines []HandoffLine
	err := a.base.DB.WithContext(ctx).Raw(`WITH shown AS (
			(SELECT * FROM conversations WHERE status IN ('waiting', 'with_agent') ORDER BY waiting_since
			LIMIT 300)
			UNION ALL
			(SELECT * FROM conversations WHERE status = 'closed' AND reference IS NOT NULL
			ORDER BY closed_at DESC LIMIT 30))
		SELECT c.reference, c.kind, c.subject, c.team, c.status,
			coalesce(cu.name, nullif(c.address, ''), 'Visitor') AS customer, coalesce(s.name, '') AS agent,
			coalesce(c.agent_id, 0) AS agent_id, c.waiting_since,
			coalesce(left(m.text, 160), '') AS last_message, coalesce(m.speaker, '') AS last_speaker
		FROM shown c LEFT JOIN customers cu ON cu.id = c.customer_id LEFT JOIN staff s ON s.id = c.agent_id
		LEFT JOIN LATERAL
			(SELECT text, speaker FROM messages WHERE conversation_id = c.id AND speaker <> 'notice'
			ORDER BY id DESC LIMIT 1) m ON true
		ORDER BY CASE c.status WHEN 'waiting' THEN 0 WHEN 'with_agent' THEN 1 ELSE 2 END, CASE
			WHEN c.status = 'closed' THEN NULL ELSE c.waiting_since END, c.closed_at DESC`).Scan(&lines).Error
	if err != nil {
		return nil, fmt.Errorf("listing handoffs: %w", err)
	}
	return lines, nil
}

// Handoff is a conversation as an agent sees it.
type Handoff struct {
	HandoffLine
	Address  string        `json:"address"`
	Brief    Brief         `json:"brief"`
	Messages []ChatMessage `json:"messages"`
	Closed   *time.Time    `json:"closed"`
	KindName string        `json:"kind_name"` // of a request, as the form calls it
	Answers  []form.Answer `json:"answers"`   // to the form's fields
	Files    []KeptFile    `json:"files"`
}

// ByReference finds a conversation by its reference, such as H-0012 or R-0012.
func ByReference(db *gorm.DB, reference string) (store.Conversation, error) {
	var c store.Conversation
	err := db.Where("reference = ?", reference).Take(&c).Error
	return c, problem.From(err, "conversation")
}

// ReadHandoff gives one conversation with its brief.
func (a *Conversations) ReadHandoff(ctx context.Context, by staff.Staff, reference string) (Handoff, error) {
	if err := by.May("Reading handoffs", role.Agent); err != nil {
		return Handoff{}, err
	}
	db := a.base.DB.WithContext(ctx)
	c, err := ByReference(db, reference)
	if err != nil {
		return Handoff{}, err
	}
	h := Handoff{
		HandoffLine: HandoffLine{
			Reference:    reference,
			Kind:         c.Kind,
			Subject:      c.Subject,
			Team:         c.Team,
			Status:       c.Status,
			WaitingSince: *c.WaitingSince,
		},
		Address:  c.Address,
		Closed:   c.ClosedAt,
		KindName: c.KindName,
	}
	if err := json.Unmarshal(c.Answers, &h.Answers); err != nil {
		return h, fmt.Errorf("reading the answers of %s: %w", reference, err)
	}
	if h.Files, err = FilesOf(db, c.ID); err != nil {
		return h, err
	}
	var names struct{ Agent, Customer string }
	err = db.Raw(`SELECT coalesce((SELECT name FROM staff WHERE id = ?), '') AS agent,
			coalesce((SELECT name FROM customers WHERE id = ?), nullif(?, ''), 'Visitor') AS customer`,
		c.AgentID, c.CustomerID, c.Address).
		Scan(&names).
		Error
	if err != nil {
		return h, err
	}
	h.Customer, h.Agent = names.Customer, names.Agent
	if c.AgentID != nil {
		h.AgentID = *c.AgentID
	}
	if h.Messages, err = messages(db, c.ID, 0); err != nil {
		return h, err
	}
	h.Brief, err = a.brief(ctx, c)
	return h, err
}

// change finds a conversation, lets work change it, and keeps and tells it.
func (a *Conversations) change(
	ctx context.Context,
	by staff.Staff,
	reference string,
	work func(tx *gorm.DB, c *store.Conversation) error,
) error {
	if err := by.MayAnswer(); err != nil {
		return err
	}
	return a.base.Transaction(ctx, func(tx *gorm.DB) error {
		c, err := ByReference(tx.Clauses(clause.Locking{Strength: "UPDATE"}), reference)
		if err != nil {
			return err
		}
		if err := work(tx, &c); err != nil {
			return err
		}
		if err := tx.Save(&c).Error; err != nil {
			return err
		}
		return store.Announce(tx, store.ConversationChanged, c.ID)
	})
}

// Accept takes a waiting conversation. The first to accept has it.
func (a *Conversations) Accept(ctx context.Context, by staff.Staff, reference string) error {
	return a.change(ctx, by, reference, func(tx *gorm.DB, c *store.Conversation) error {
		if c.Status == store.WithAgent && *c.AgentID == by.ID {
			return nil
		}
		if c.Status != store.Waiting {
			return problem.New(problem.NotNow, "Somebody else accepted this conversation first, or it is closed.")
		}
		now := a.base.Now()
		c.Status, c.AgentID, c.AcceptedAt = store.WithAgent, &by.ID, &now
		return tx.Create(
			&store.Message{ConversationID: c.ID, At: now, Speaker: store.ByNotice, Text: by.Name + " is with you now."},
		).Error
	})
}

// mine refuses what somebody else has, or nobody.
func mine(by staff.Staff, c *store.Conversation) error {
	if c.Status != store.WithAgent || *c.AgentID != by.ID {
		return problem.New(
			problem.NotNow,
			"Accept the conversation before answering it; if somebody else has, it is theirs.",
		)
	}
	return nil
}

// AgentReply is an agent's answer to a customer.
type AgentReply struct {
	Text     string
	Articles []string // references, shown beneath the words
	Files    []int64  // that the agent chose for it, by KeepReplyFile
}

func (r AgentReply) check() error {
	var f problem.Fields
	f.Require(r.Text != "" || len(r.Articles)+len(r.Files) > 0, "text", "Write something first.")
	f.AtMost("text", r.Text, coresearch.MaxQuery)
	f.Require(
		len(r.Articles) <= flow.MaxShown,
		"articles",
		fmt.Sprintf("Show at most %d articles at once.", flow.MaxShown),
	)
	f.Require(len(r.Files) <= form.MaxFiles, "files", fmt.Sprintf("At most %d files at once.", form.MaxFiles))
	return f.Err()
}

// Reply answers the customer. An article that the customer may not see is refused. The
// first reply is evidence.
func (a *Conversations) Reply(ctx context.Context, by staff.Staff, reference string, r AgentReply) error {
	r.Text = strings.TrimSpace(r.Text)
	if err := r.check(); err != nil {
		return err
	}
	return a.change(ctx, by, reference, func(tx *gorm.DB, c *store.Conversation) error {
		if err := mine(by, c); err != nil {
			return err
		}
		row := store.Message{
			ConversationID: c.ID,
			At:             a.base.Now(),
			Speaker:        store.ByAgent,
			StaffID:        &by.ID,
			Text:           r.Text,
		}
		shown, err := cardsFor(tx, *c, r.Articles)
		if err != nil {
			return err
		}
		if len(shown) > 0 {
			if row.Cards, err = json.Marshal(shown); err != nil {
				return err
			}
		}
		if err := tx.Create(&row).Error; err != nil {
			return err
		}
		if err := sendFiles(tx, by, row, r.Files); err != nil {
			return err
		}
		if err := a.mailReply(tx, by, *c, row, shown); err != nil {
			return err
		}
		if c.AnsweredAt != nil {
			return nil
		}
		now := a.base.Now()
		c.AnsweredAt = &now
		return a.recorder.RecordOf(
			tx,
			c.Asker,
			channelOf(*c),
			outcome.Evidence{Kind: outcome.AgentAnswered, Ref: ContactOf(*c), Stood: &outcome.Stood{Team: c.Team}},
		)
	})
}

// cardsFor gives articles as the customer of a conversation may see them.
func cardsFor(tx *gorm.DB, c store.Conversation, articles []string) ([]flow.Card, error) {
	if len(articles) == 0 {
		return nil, nil
	}
	customer, err := visitorOf(tx, c)
	if err != nil {
		return nil, err
	}
	found, err := search.LiveEditions(tx, customer, articles)
	if err != nil {
		return nil, err
	}
	var shown []flow.Card
	for _, ref := range articles {
		card, ok := found[ref]
		if !ok {
			return nil, &problem.Problem{
				Kind:   problem.Invalid,
				Detail: "This customer may not see " + ref + ", or it is not live.",
				Fields: []problem.Field{{Name: "articles", Message: "Not for this customer: " + ref}},
			}
		}
		shown = append(shown, card.Card)
	}
	return shown, nil
}

// CloseHandoff ends a conversation that the agent has.
func (a *Conversations) CloseHandoff(ctx context.Context, by staff.Staff, reference string) error {
	return a.change(ctx, by, reference, func(tx *gorm.DB, c *store.Conversation) error {
		if err := mine(by, c); err != nil {
			return err
		}
		now := a.base.Now()
		c.Status, c.ClosedAt = store.Closed, &now
		return tx.Create(
			&store.Message{
				ConversationID: c.ID,
				At:             now,
				Speaker:        store.ByNotice,
				Text:           by.Name + " closed the conversation.",
			},
		).Error
	})
}

// SuggestForReply finds articles that the customer of a conversation may see, for
// the words given or, without any, for what was asked as a whole: its subject first, then
// everything that the customer said, the latest first. Nothing is kept.
func (a *Conversations) SuggestForReply(
	ctx context.Context,
	by staff.Staff,
	reference, words string,
) ([]search.Result, error) {
	if err := by.May("Reading handoffs", role.Agent); err != nil {
		return nil, err
	}
	db := a.base.DB.WithContext(ctx)
	c, err := ByReference(db, reference)
	if err != nil {
		return nil, err
	}
	customer, err := visitorOf(db, c)
	if err != nil {
		return nil, err
	}
	subject, text := "", words
	if strings.TrimSpace(words) == "" {
		subject = c.Subject
		if text, err = saidByCustomer(db, c.ID); err != nil {
			return nil, err
		}
	}
	found, err := a.search.LookForRequest(db, customer, subject, text, 5)
	if err != nil {
		return nil, err
	}
	return a.search.Confirm(db, customer, found.Hits)
}

// saidByCustomer is what the customer of a conversation said, the latest first, without
// what only answers the bot.
func saidByCustomer(db *gorm.DB, conversation int64) (string, error) {
	var said []string
	err := db.Raw(`SELECT text
		FROM messages WHERE conversation_id = ? AND speaker = 'customer' AND text NOT IN ? ORDER BY id DESC
		LIMIT 100`,
		conversation, append(flow.Verdicts(), wantsPerson)).
		Scan(&said).
		Error
	if err != nil {
		return "", fmt.Errorf("reading what the customer said: %w", err)
	}
	return strings.Join(said, "\n"), nil
}

// WatchHandoffs rings after every change to any conversation, until stop.
func (a *Conversations) WatchHandoffs(by staff.Staff) (bell <-chan struct{}, stop func(), err error) {
	if err := by.May("Reading handoffs", role.Agent); err != nil {
		return nil, nil, err
	}
	bell, stop = a.base.Watch(func(c store.Change) bool { return c.About == store.ConversationChanged })
	return bell, stop, nil
}
