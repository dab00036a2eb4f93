package app

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"slices"
	"time"

	"gorm.io/gorm"

	"hermeneus/core/audience"
	"hermeneus/core/outcome"
	"hermeneus/core/redact"
	"hermeneus/store"
)

// Visitor is somebody in the help centre or the chat.
type Visitor struct {
	Key      string // the browser's random first-party key
	Customer *Customer
	Preview  bool   // a member of staff looking at what customers see: never counted
	Site     int64  // of the help centre; 0 for none
	Whole    bool   // the help centre shows the whole library
	Crawler  bool   // a known crawler: served, never counted
	Language string // that the visitor reads, "" for that of the source
	as       string // the asker of a running conversation, whose evidence this is
}

// Customer is somebody who signed in to the help centre.
type Customer struct {
	ID    int64
	Name  string
	Email string
}

// Viewer is what the visitor may see.
func (v Visitor) Viewer() audience.Viewer {
	return audience.Viewer{SignedIn: v.Customer != nil, Staff: v.Preview}
}

// filter tells articles a of the visitor's help centre from others, as SQL.
func (v Visitor) filter() string {
	if v.Whole {
		return "true"
	}
	return siteFilter(v.Site)
}

// Asker is whom the evidence belongs to: the customer, else the browser.
func (v Visitor) Asker() string {
	if v.as != "" {
		return v.as
	}
	if v.Customer != nil {
		return fmt.Sprintf("customer:%d", v.Customer.ID)
	}
	sum := sha256.Sum256([]byte(v.Key))
	return "visitor:" + hex.EncodeToString(sum[:8])
}

// counted reports whether what the visitor does is evidence.
func (v Visitor) counted() bool {
	return !v.Preview && !v.Crawler && (v.as != "" || v.Customer != nil || v.Key != "")
}

// CustomerOf gives who holds the session; ok is false when nobody does.
func (a *App) CustomerOf(ctx context.Context, token string) (c Customer, ok bool, err error) {
	err = a.db.WithContext(ctx).Raw(`SELECT customers.id, name, email FROM sessions JOIN customers ON customers.id = customer_id
		WHERE token_hash = ? AND expires_at > ?`, tokenHash(token), a.now()).Scan(&c).Error
	return c, c.ID != 0, err
}

// witness keeps evidence of what a visitor did, in the transaction of doing it.
func (a *App) witness(tx *gorm.DB, v Visitor, channel outcome.Channel, items ...outcome.Evidence) error {
	if !v.counted() {
		return nil
	}
	return a.witnessOf(tx, v.Asker(), channel, items...)
}

// witnessOf keeps evidence of an asker. Words are redacted first. An item just
// like the asker's last one within the running question is a reload or a double
// click, and is not kept again.
func (a *App) witnessOf(tx *gorm.DB, asker string, channel outcome.Channel, items ...outcome.Evidence) error {
	now := a.now()
	var last store.Evidence
	err := tx.Raw(`SELECT * FROM evidence WHERE asker = ? AND at > ? ORDER BY at DESC, id DESC LIMIT 1`, asker, now.Add(-outcome.Silence)).Scan(&last).Error
	if err != nil {
		return fmt.Errorf("reading evidence: %w", err)
	}
	var rows []store.Evidence
	known := last.ID != 0
	for _, e := range items {
		row := store.Evidence{At: now, Asker: asker, Channel: string(channel), Kind: string(e.Kind), Text: redact.Text(e.Text),
			Ref: e.Ref, Refs: append([]string{}, e.Refs...), Source: string(e.Source)}
		if known && sameFact(last, row) {
			continue
		}
		rows = append(rows, row)
		last, known = row, true
	}
	if len(rows) == 0 {
		return nil
	}
	if err := tx.Create(&rows).Error; err != nil {
		return fmt.Errorf("keeping evidence: %w", err)
	}
	return nil
}

func sameFact(a, b store.Evidence) bool {
	return a.Kind == b.Kind && a.Channel == b.Channel && a.Text == b.Text && a.Ref == b.Ref && slices.Equal(a.Refs, b.Refs)
}

// askedAlready reports whether the asker's latest words in the running question
// were the same: a reload, or coming back to the results, is not asking again.
func askedAlready(tx *gorm.DB, asker, words string, now time.Time) (bool, error) {
	var last store.Evidence
	err := tx.Raw(`SELECT * FROM evidence WHERE asker = ? AND at > ? AND kind = 'asked' ORDER BY at DESC, id DESC LIMIT 1`,
		asker, now.Add(-outcome.Silence)).Scan(&last).Error
	return last.ID != 0 && last.Text == redact.Text(words), err
}

func item(row store.Evidence) outcome.Evidence {
	e := outcome.Evidence{At: row.At.UTC(), Asker: row.Asker, Channel: outcome.Channel(row.Channel), Kind: outcome.Kind(row.Kind),
		Text: row.Text, Ref: row.Ref, Source: outcome.Source(row.Source), Line: int(row.ID)}
	if len(row.Refs) > 0 {
		e.Refs = row.Refs
	}
	return e
}

// Evidence gives all evidence up to now, in the order it was kept.
func (a *App) Evidence(ctx context.Context) ([]outcome.Evidence, error) {
	return a.ledger.load(ctx)
}
