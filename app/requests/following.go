package requests

import (
	"context"
	"crypto/hmac"
	"encoding/json"
	"errors"
	"fmt"
	"strings"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"hermeneus/app/conversations"
	"hermeneus/app/evidence"
	"hermeneus/app/notify"
	"hermeneus/app/problem"
	"hermeneus/app/staff"
	"hermeneus/core/form"
	"hermeneus/core/outcome"
	"hermeneus/core/search"
	"hermeneus/store"
)

// A request is followed by whoever holds its token, by a link in mail that is signed,
// and by the signed-in customer who sent it.

// whose tells conversations apart by what opens them: a token, a signed link, or the
// reference alone for the customer who sent it.
func (a *Requests) whose(db *gorm.DB, v evidence.Visitor, key string) (store.Conversation, error) {
	var c store.Conversation
	reference, _, linked := strings.Cut(key, ".")
	if !conversations.ContactShape.MatchString(reference) { // a token may begin like a number, and goes on otherwise
		return a.conversations.ByToken(db, key)
	}
	if err := db.Where("reference = ?", reference).Take(&c).Error; err != nil {
		return c, problem.From(err, "conversation")
	}
	if v.Customer != nil && c.CustomerID != nil && *c.CustomerID == v.Customer.ID {
		return c, nil
	}
	if linked {
		want, err := a.conversations.Signed(db, c)
		if err != nil {
			return c, err
		}
		if hmac.Equal([]byte(want), []byte(key)) {
			return c, a.conversations.RefuseEndedLink(db, c)
		}
	}
	return store.Conversation{}, problem.New(problem.NotFound, "There is no such conversation.")
}

// mailReceipt tells who sent a request that it is here, and how to follow it. Of requests that
// anybody can send, one address hears only so often.
func (a *Requests) mailReceipt(tx *gorm.DB, c store.Conversation) error {
	if c.CustomerID == nil && c.Address != "" {
		if enough, err := a.notify.Confirmed(tx, c.Address); err != nil || enough {
			return err
		}
	}
	return a.conversations.MailCustomerOf(
		tx,
		notify.MailConfirmation,
		c,
		"We have your request "+*c.Reference,
		"We have your request “"+c.Subject+"”. Its number is "+*c.Reference+".\n\nA person reads it and answers; we write to you when they have.",
	)
}

// RequestLine is one of a customer's requests.
type RequestLine struct {
	Reference string    `json:"reference"`
	Subject   string    `json:"subject"`
	Kind      string    `json:"kind"`
	Status    string    `json:"status"`
	Sent      time.Time `json:"sent"`
	Changed   time.Time `json:"changed"`
}

// myRequestsShown bounds the list of a customer's requests.
const myRequestsShown = 200

// MyRequests lists what a signed-in customer sent, what changed last first.
func (a *Requests) MyRequests(ctx context.Context, v evidence.Visitor) ([]RequestLine, error) {
	if v.Customer == nil {
		return nil, problem.New(problem.NotSigned, "Sign in to see your requests.")
	}
	var list []RequestLine
	err := a.base.DB.WithContext(ctx).
		Raw(`SELECT c.reference, c.subject, c.kind_name AS kind, c.status, c.waiting_since AS sent,
				coalesce((SELECT max(at) FROM messages m WHERE m.conversation_id = c.id), c.began_at) AS changed
			FROM conversations c WHERE c.customer_id = ? AND c.reference IS NOT NULL AND NOT c.rehearsal
			ORDER BY changed DESC LIMIT ?`,
			v.Customer.ID, myRequestsShown).
		Scan(&list).
		Error
	if err != nil {
		return nil, fmt.Errorf("listing requests: %w", err)
	}
	return list, nil
}

// FollowedRequest is a request as its customer sees it.
type FollowedRequest struct {
	conversations.ChatView
	Subject   string                   `json:"subject"`
	KindName  string                   `json:"kind_name"`
	Answers   []form.Answer            `json:"answers"`
	Files     []conversations.KeptFile `json:"files"`
	MayReopen bool                     `json:"may_reopen"`
	Until     time.Time                `json:"until"` // to when it can be reopened
}

// FollowRequest gives a request to who may follow it.
func (a *Requests) FollowRequest(ctx context.Context, v evidence.Visitor, key string) (FollowedRequest, error) {
	db := a.base.DB.WithContext(ctx)
	c, err := a.whose(db, v, key)
	if err != nil {
		return FollowedRequest{}, err
	}
	if err := a.linkFollower(ctx, v, key, c); err != nil {
		return FollowedRequest{}, err
	}
	out := FollowedRequest{Subject: c.Subject, KindName: c.KindName}
	if out.ChatView, err = a.conversations.View(db, v, c, 0); err != nil {
		return out, err
	}
	if err := json.Unmarshal(c.Answers, &out.Answers); err != nil {
		return out, fmt.Errorf("reading the answers of conversation %d: %w", c.ID, err)
	}
	if out.Files, err = conversations.FilesOf(db, c.ID); err != nil {
		return out, err
	}
	if c.Status == store.Closed && c.ClosedAt != nil {
		days, err := conversations.ReopenDays(db, c)
		if err != nil {
			return out, err
		}
		out.Until = c.ClosedAt.AddDate(0, 0, days)
		out.MayReopen = a.base.Now().Before(out.Until)
	}
	return out, nil
}

// linkFollower keeps that who opens a link that was mailed has the address it was mailed to.
func (a *Requests) linkFollower(ctx context.Context, v evidence.Visitor, key string, c store.Conversation) error {
	if _, _, linked := strings.Cut(key, "."); !linked || v.Customer != nil || c.Rehearsal {
		return nil
	}
	return a.base.DB.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		return a.recorder.LinkAddress(tx, v, outcome.Mail, c.Address)
	})
}

// ContactByLink gives the reference of the contact whose mail a link stood in, "" for a link that says nothing, and
// keeps that whoever followed it has the address that the mail went to.
func (a *Requests) ContactByLink(ctx context.Context, v evidence.Visitor, key string) (string, error) {
	if reference, _, linked := strings.Cut(key, "."); !linked || !conversations.ContactShape.MatchString(reference) {
		return "", nil
	}
	c, err := a.whose(a.base.DB.WithContext(ctx), v, key)
	var p *problem.Problem
	if errors.As(err, &p) || c.Rehearsal {
		return "", nil
	}
	if err != nil {
		return "", err
	}
	return conversations.ContactOf(c), a.linkFollower(ctx, v, key, c)
}

// AddToRequest adds words and files to a request. A closed one is reopened by it, as
// long as that is possible; the contact is evidence like a new one.
func (a *Requests) AddToRequest(ctx context.Context, v evidence.Visitor, key, text string, files []form.Upload) error {
	text = strings.TrimSpace(text)
	var f problem.Fields
	f.Require(text != "" || len(files) > 0, "text", "Write something, or add a file.")
	f.AtMost("text", text, search.MaxQuery)
	conversations.CheckFiles(&f, files)
	if err := f.Err(); err != nil {
		return err
	}
	return a.base.Transaction(ctx, func(tx *gorm.DB) error {
		c, err := a.whose(tx.Clauses(clause.Locking{Strength: "UPDATE"}).Session(&gorm.Session{}), v, key)
		if err != nil {
			return err
		}
		if c.Status == store.WithBot {
			return problem.New(problem.NotNow, "This conversation is still with the bot. Go on in the chat.")
		}
		now := a.base.Now()
		if c.Status == store.Closed {
			if err := a.reopen(tx, v, &c, now); err != nil {
				return err
			}
		}
		message := store.Message{ConversationID: c.ID, At: now, Speaker: store.ByCustomer, Text: text}
		if err := tx.Create(&message).Error; err != nil {
			return err
		}
		if err := a.keepUploads(tx, c.ID, message.ID, files); err != nil {
			return err
		}
		return store.Announce(tx, store.ConversationChanged, c.ID)
	})
}

// reopen puts a closed request before people again.
func (a *Requests) reopen(tx *gorm.DB, v evidence.Visitor, c *store.Conversation, now time.Time) error {
	days, err := conversations.ReopenDays(tx, *c)
	if err != nil {
		return err
	}
	if c.ClosedAt == nil || !now.Before(c.ClosedAt.AddDate(0, 0, days)) {
		return problem.New(
			problem.NotNow,
			"This request was closed more than %d days ago and cannot be reopened. Send a new one.",
			days,
		)
	}
	c.Status, c.WaitingSince, c.ClosedAt, c.AgentID, c.AcceptedAt = store.Waiting, &now, nil, nil, nil
	c.Reopened++
	c.AnsweredAt = nil
	if err := tx.Save(c).Error; err != nil {
		return err
	}
	if err := tx.Create(
		&store.Message{ConversationID: c.ID, At: now, Speaker: store.ByNotice, Text: "The request was reopened."},
	).Error; err != nil {
		return err
	}
	return a.recorder.Record(
		tx,
		conversations.AsAsker(v, *c),
		outcome.Form,
		outcome.Evidence{Kind: outcome.Requested, Ref: conversations.ContactOf(*c)},
	)
}

// RequestFile gives a file of a request to who may follow it.
func (a *Requests) RequestFile(
	ctx context.Context,
	v evidence.Visitor,
	key string,
	id int64,
) (store.RequestFile, error) {
	db := a.base.DB.WithContext(ctx)
	c, err := a.whose(db, v, key)
	if err != nil {
		return store.RequestFile{}, err
	}
	return conversations.RequestFile(db, c.ID, id)
}

// HandoffFile gives a file of a request to an agent.
func (a *Requests) HandoffFile(
	ctx context.Context,
	by staff.Staff,
	reference string,
	id int64,
) (store.RequestFile, error) {
	if err := by.MayAnswer(); err != nil {
		return store.RequestFile{}, err
	}
	db := a.base.DB.WithContext(ctx)
	c, err := conversations.ByReference(db, reference)
	if err != nil {
		return store.RequestFile{}, err
	}
	return conversations.RequestFile(db, c.ID, id)
}
