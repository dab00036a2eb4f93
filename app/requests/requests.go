package requests

import (
	"cmp"
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"gorm.io/gorm"

	"hermeneus/app/accounts"
	"hermeneus/app/conversations"
	"hermeneus/app/evidence"
	"hermeneus/app/forms"
	"hermeneus/app/helpcentre"
	"hermeneus/app/problem"
	"hermeneus/app/search"
	"hermeneus/core/form"
	"hermeneus/core/outcome"
	coresearch "hermeneus/core/search"
	"hermeneus/store"
)

// OfferForForm finds answers to what is being typed into the request form, its subject
// and its description, and keeps that they were offered when they are others than before.
func (a *Requests) OfferForForm(
	ctx context.Context,
	v evidence.Visitor,
	subject, text string,
) ([]search.Result, error) {
	subject, text = problem.CleanText(subject), problem.CleanText(text)
	if subject == "" && text == "" {
		return nil, nil
	}
	if len([]rune(subject)) > coresearch.MaxQuery || len([]rune(text)) > coresearch.MaxQuery {
		return nil, problem.From(coresearch.ErrTooLong, "")
	}
	words := []rune(strings.TrimSpace(subject + "\n" + text))
	results, err := a.search.SearchFor(
		a.base.DB.WithContext(ctx),
		v,
		string(words[:min(len(words), coresearch.MaxQuery)]),
		3,
	)
	if err != nil || len(results) == 0 || !v.Counted() {
		return results, err
	}
	refs := search.Revisions(results)
	err = a.base.Transaction(ctx, func(tx *gorm.DB) error {
		var last store.Evidence
		err := tx.Raw(`SELECT *
			FROM evidence WHERE asker = ? AND at > ? AND kind = 'offered' AND channel = 'form'
			ORDER BY at DESC, id DESC LIMIT 1`,
			v.Asker(), a.base.Now().Add(-outcome.Silence)).
			Scan(&last).
			Error
		if err != nil || slices.Equal([]string(last.Refs), refs) {
			return err
		}
		return a.recorder.Record(
			tx,
			v,
			outcome.Form,
			outcome.Evidence{Kind: outcome.Offered, Text: subject, Refs: refs, Source: outcome.FromForm},
		)
	})
	return results, err
}

// BeginForm keeps that the request form was opened.
func (a *Requests) BeginForm(v evidence.Visitor, kind string) error {
	form := "form"
	if kind != "" {
		form += ":" + kind
	}
	return a.recorder.RecordAlone(v, outcome.Form, outcome.Evidence{Kind: outcome.Began, Ref: form})
}

// AnsweredInForm keeps that an article offered beside the request form answered what
// was being asked: the form is closed, and no request is sent. The article counts as
// a vote for it, as on its own page.
func (a *Requests) AnsweredInForm(ctx context.Context, v evidence.Visitor, reference string) error {
	return a.helpCentre.VoteIn(ctx, v, outcome.Form, reference, helpcentre.Verdict{Helped: true})
}

// NewRequest is a question sent in for a person to answer later.
type NewRequest struct {
	Kind    string // of the site's kinds of request, "" for none
	Subject string
	Text    string
	Address string            // a mail address; a signed-in customer's own is used
	Answers map[string]string // to the kind's fields, by key
	Uploads map[string]form.Upload
	Files   []form.Upload // beside the fields
	Team    string        // where no kind says
}

// Sent says how a request that was taken can be followed.
type Sent struct {
	Reference string // R-0012
	Token     string // opens its page
}

// SendRequest takes a request from the form.
func (a *Requests) SendRequest(ctx context.Context, v evidence.Visitor, n NewRequest) (Sent, error) {
	if v.Preview {
		return Sent{}, problem.New(
			problem.NotNow,
			"This is a preview for staff: the request was not sent. Visit as a customer to send one.",
		)
	}
	if v.Customer != nil {
		n.Address = v.Customer.Email
	}
	token, hash := accounts.NewToken()
	now := a.base.Now()
	var sent Sent
	err := a.base.Transaction(ctx, func(tx *gorm.DB) error {
		kind, err := forms.Named(tx, v.Site, n.Kind)
		if err != nil {
			return err
		}
		answers, err := n.check(kind)
		if err != nil {
			return err
		}
		row := store.Conversation{
			TokenHash:    hash,
			Kind:         store.Request,
			Asker:        v.Asker(),
			Status:       store.Waiting,
			Subject:      strings.TrimSpace(n.Subject),
			Address:      strings.TrimSpace(n.Address),
			Team:         n.Team,
			BeganAt:      now,
			WaitingSince: &now,
			KindName:     kind.Name,
		}
		if kind.Team != "" {
			row.Team = kind.Team
		}
		if v.Customer != nil {
			row.CustomerID = &v.Customer.ID
		}
		if v.Site != 0 {
			row.SiteID = &v.Site
		}
		if row.Answers, err = json.Marshal(answers); err != nil {
			return err
		}
		reference, err := conversations.ContactReference(tx, "R")
		if err != nil {
			return err
		}
		row.Reference = &reference
		if err := tx.Create(&row).Error; err != nil {
			return err
		}
		message := store.Message{
			ConversationID: row.ID,
			At:             now,
			Speaker:        store.ByCustomer,
			Text:           strings.TrimSpace(n.Text),
		}
		if err := tx.Create(&message).Error; err != nil {
			return err
		}
		if err := a.keepUploads(tx, row.ID, message.ID, n.uploads(kind)); err != nil {
			return err
		}
		if err := a.recordRequest(tx, v, n, row); err != nil {
			return err
		}
		if err := a.mailReceipt(tx, row); err != nil {
			return err
		}
		sent = Sent{reference, token}
		return store.Announce(tx, store.ConversationChanged, row.ID)
	})
	return sent, err
}

// recordRequest keeps that a request was sent, and by whose address. While a handoff of the same asker waits
// that nobody took, it is the same contact.
func (a *Requests) recordRequest(tx *gorm.DB, v evidence.Visitor, n NewRequest, row store.Conversation) error {
	waits, err := a.conversations.Untaken(tx, v)
	if err != nil {
		return err
	}
	v.Where.Team, v.Where.Conversation = row.Team, strconv.FormatInt(row.ID, 10)
	contact := cmp.Or(waits, *row.Reference)
	err = a.recorder.Record(
		tx,
		v,
		outcome.Form,
		outcome.Evidence{Kind: outcome.Asked, Text: n.Subject, Contact: contact},
		outcome.Evidence{Kind: outcome.Requested, Ref: *row.Reference, Contact: waits},
	)
	if err != nil || v.Customer != nil {
		return err
	}
	return a.recorder.LinkAddress(tx, v, outcome.Form, row.Address)
}

// check says what is wrong with a request, field by field, or gives what it answers.
func (n NewRequest) check(kind forms.RequestKind) ([]form.Answer, error) {
	var f problem.Fields
	f.Text("subject", n.Subject, 200)
	f.Text("text", n.Text, coresearch.MaxQuery)
	f.Address("address", n.Address)
	answers, faults := form.Take(kind.Fields, n.Answers, n.Uploads)
	for _, fault := range faults {
		f.Require(false, fault.Key, fault.Message)
	}
	if answers == nil {
		answers = []form.Answer{}
	}
	conversations.CheckFiles(&f, n.Files)
	return answers, f.Err()
}

// uploads are all files of the request that are asked for.
func (n NewRequest) uploads(kind forms.RequestKind) []form.Upload {
	files := slices.Clone(n.Files)
	for _, f := range form.Asked(kind.Fields, n.Answers) {
		if upload, ok := n.Uploads[f.Key]; ok && f.Kind == form.File && len(upload.Content) > 0 {
			files = append(files, upload)
		}
	}
	return files
}

func (a *Requests) keepUploads(tx *gorm.DB, conversation, message int64, files []form.Upload) error {
	for _, file := range files {
		row := conversations.FileRow(conversation, file, a.base.Now())
		row.MessageID = &message
		if err := tx.Create(&row).Error; err != nil {
			return fmt.Errorf("keeping a file: %w", err)
		}
	}
	return nil
}
