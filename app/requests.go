package app

import (
	"context"
	"fmt"
	"net/mail"
	"slices"
	"strings"

	"gorm.io/gorm"

	"hermeneus/core/outcome"
	"hermeneus/core/search"
	"hermeneus/store"
)

// OfferForForm finds answers to a subject that is being typed into the request
// form, and keeps that they were offered when they are others than before.
func (a *App) OfferForForm(ctx context.Context, v Visitor, subject string) ([]Result, error) {
	subject = strings.TrimSpace(subject)
	if subject == "" {
		return nil, nil
	}
	results, err := a.searchFor(a.db.WithContext(ctx), v.Viewer(), v.Site, subject, 3)
	if err != nil || len(results) == 0 || !v.counted() {
		return results, err
	}
	refs := revisions(results)
	err = a.transaction(ctx, func(tx *gorm.DB) error {
		var last store.Evidence
		err := tx.Raw(`SELECT * FROM evidence WHERE asker = ? AND at > ? AND kind = 'offered' AND channel = 'form' ORDER BY at DESC, id DESC LIMIT 1`,
			v.Asker(), a.now().Add(-outcome.Silence)).Scan(&last).Error
		if err != nil || slices.Equal([]string(last.Refs), refs) {
			return err
		}
		return a.witness(tx, v, outcome.Form, outcome.Evidence{Kind: outcome.Offered, Text: subject, Refs: refs, Source: outcome.FromForm})
	})
	return results, err
}

// NewRequest is a question sent in for a person to answer later.
type NewRequest struct {
	Subject string
	Text    string
	Address string // a mail address; a signed-in customer's own is used
	Team    string
}

// Sent says how a request that was taken can be followed.
type Sent struct {
	Reference string // R-0012
	Token     string // opens its page
}

// SendRequest takes a request from the form.
func (a *App) SendRequest(ctx context.Context, v Visitor, n NewRequest) (Sent, error) {
	if v.Preview {
		return Sent{}, problem(NotNow, "This is a preview for staff: the request was not sent. Visit as a customer to send one.")
	}
	if v.Customer != nil {
		n.Address = v.Customer.Email
	}
	var f fields
	f.text("subject", n.Subject, 200)
	f.text("text", n.Text, search.MaxQuery)
	f.text("address", n.Address, 200)
	if _, err := mail.ParseAddress(n.Address); err != nil && strings.TrimSpace(n.Address) != "" {
		f.require(false, "address", "This does not read like a mail address, such as name@post.example.")
	}
	if err := f.err(); err != nil {
		return Sent{}, err
	}
	token, hash := newToken()
	now := a.now()
	row := store.Conversation{TokenHash: hash, Kind: store.Request, Asker: v.Asker(), Status: store.Waiting, Subject: strings.TrimSpace(n.Subject),
		Address: n.Address, Team: n.Team, BeganAt: now, WaitingSince: &now}
	if v.Customer != nil {
		row.CustomerID = &v.Customer.ID
	}
	err := a.transaction(ctx, func(tx *gorm.DB) error {
		reference, err := contactReference(tx, "R")
		if err != nil {
			return err
		}
		row.Reference = &reference
		if err := tx.Create(&row).Error; err != nil {
			return err
		}
		if err := tx.Create(&store.Message{ConversationID: row.ID, At: now, Speaker: store.ByCustomer, Text: strings.TrimSpace(n.Text)}).Error; err != nil {
			return err
		}
		err = a.witness(tx, v, outcome.Form, outcome.Evidence{Kind: outcome.Asked, Text: n.Subject}, outcome.Evidence{Kind: outcome.Requested, Ref: reference})
		if err != nil {
			return err
		}
		return store.Announce(tx, store.ConversationChanged, row.ID)
	})
	if err != nil {
		return Sent{}, err
	}
	return Sent{*row.Reference, token}, nil
}

// contactReference gives the next number of a contact, as in H-0012 or R-0012.
func contactReference(tx *gorm.DB, letter string) (string, error) {
	var n int
	if err := tx.Raw(`SELECT nextval('contact_numbers')`).Scan(&n).Error; err != nil {
		return "", err
	}
	return fmt.Sprintf("%s-%04d", letter, n), nil
}
