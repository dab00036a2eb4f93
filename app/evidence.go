package app

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"time"

	"github.com/lib/pq"
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
	Preview  bool     // a member of staff looking at what customers see: never counted
	Groups   []string // that a member of staff sees: all there are
	Site     int64    // of the help centre; 0 for none
	Whole    bool     // the help centre shows the whole library
	Crawler  bool     // a known crawler: served, never counted
	Language string   // that the visitor reads, "" for that of the source
	as       string   // the asker of a running conversation, whose evidence this is
}

// Customer is somebody who signed in to the help centre.
type Customer struct {
	ID     int64
	Name   string
	Email  string
	Groups []string // keys of the groups the customer is in
}

// Viewer is what the visitor may see.
func (v Visitor) Viewer() audience.Viewer {
	viewer := audience.Viewer{SignedIn: v.Customer != nil, Staff: v.Preview}
	if v.Customer != nil {
		viewer.Groups = v.Customer.Groups
	}
	if v.Preview {
		viewer.Groups = v.Groups
	}
	return viewer
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
	if v.Crawler {
		return nobody
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
	var row struct {
		ID          int64
		Name, Email string
		Groups      pq.StringArray `gorm:"type:text[]"`
	}
	err = a.steady.WithContext(ctx).
		Raw(`SELECT customers.id, name, email,
				ARRAY(SELECT g.key FROM customer_group_members m JOIN customer_groups g ON g.id = m.group_id
				WHERE m.customer_id = customers.id ORDER BY g.key) AS groups
			FROM sessions JOIN customers ON customers.id = customer_id
			WHERE token_hash = ? AND expires_at > ? AND disabled_at IS NULL`, tokenHash(token), a.now()).
		Scan(&row).
		Error
	return Customer{row.ID, row.Name, row.Email, row.Groups}, row.ID != 0, err
}

// witness keeps evidence of what a visitor did, in the transaction of doing it.
func (a *App) witness(tx *gorm.DB, v Visitor, channel outcome.Channel, items ...outcome.Evidence) error {
	if !v.counted() {
		return nil
	}
	return a.witnessOf(tx, v.Asker(), channel, items...)
}

// witnessAlone keeps evidence of what a visitor did, where nothing else is kept of it.
func (a *App) witnessAlone(v Visitor, channel outcome.Channel, items ...outcome.Evidence) error {
	if !v.counted() {
		return nil
	}
	return a.keeper.keep(a.evidenceOf(v.Asker(), channel, items))
}

// nobody is the asker of what is not counted.
const nobody = "uncounted"

// witnessOf keeps evidence of an asker.
func (a *App) witnessOf(tx *gorm.DB, asker string, channel outcome.Channel, items ...outcome.Evidence) error {
	if asker == nobody {
		return nil
	}
	now := a.now()
	before, err := tracesOf(tx, now, asker)
	if err != nil {
		return err
	}
	return keepEvidence(tx, before[asker].Fresh(a.evidenceOf(asker, channel, items)...))
}

// evidenceOf completes items with whose they are, where and when. Words are redacted.
func (a *App) evidenceOf(asker string, channel outcome.Channel, items []outcome.Evidence) []outcome.Evidence {
	now := a.now()
	for i := range items {
		e := &items[i]
		e.At, e.Asker, e.Channel, e.Text = now, asker, channel, redact.Text(e.Text)
	}
	return items
}

// tracesOf reads what each asker did last within the running question; every asker has an entry.
func tracesOf(db *gorm.DB, now time.Time, askers ...string) (map[string]*outcome.Trace, error) {
	var rows []struct {
		store.Evidence
		LastAsked string
	}
	since := now.Add(-outcome.Silence)
	err := db.Raw(`SELECT l.*, coalesce(q.text, '') AS last_asked
		FROM unnest(?::text[]) AS w(asker)
		CROSS JOIN LATERAL
			(SELECT e.* FROM evidence e WHERE e.asker = w.asker AND e.at > ? ORDER BY e.at DESC, e.id DESC
			LIMIT 1) l
		LEFT JOIN LATERAL
			(SELECT e.text FROM evidence e WHERE e.asker = w.asker AND e.at > ? AND e.kind = 'asked'
			ORDER BY e.at DESC, e.id DESC LIMIT 1) q ON true`,
		pq.StringArray(askers), since, since).Scan(&rows).Error
	if err != nil {
		return nil, fmt.Errorf("reading evidence: %w", err)
	}
	before := make(map[string]*outcome.Trace, len(askers))
	for _, asker := range askers {
		before[asker] = &outcome.Trace{}
	}
	for _, r := range rows {
		last := item(r.Evidence)
		before[r.Asker] = &outcome.Trace{Last: &last, Asked: r.LastAsked}
	}
	return before, nil
}

// keepEvidence adds items to the evidence, in their order.
func keepEvidence(db *gorm.DB, items []outcome.Evidence) error {
	if len(items) == 0 {
		return nil
	}
	n := len(items)
	at, askers, channels, kinds := make(
		pq.StringArray,
		n,
	), make(
		pq.StringArray,
		n,
	), make(
		pq.StringArray,
		n,
	), make(
		pq.StringArray,
		n,
	)
	texts, named, lists, sources := make(
		pq.StringArray,
		n,
	), make(
		pq.StringArray,
		n,
	), make(
		pq.StringArray,
		n,
	), make(
		pq.StringArray,
		n,
	)
	for i, e := range items {
		at[i], askers[i], channels[i], kinds[i] = e.At.Format(
			time.RFC3339Nano,
		), e.Asker, string(
			e.Channel,
		), string(
			e.Kind,
		)
		texts[i], named[i], lists[i], sources[i] = e.Text, e.Ref, "{}", string(e.Source)
		if list, err := pq.StringArray(e.Refs).Value(); err == nil && list != nil {
			lists[i] = fmt.Sprint(list)
		}
	}
	// One statement for any number of items, so that the database plans it once.
	err := db.Exec(`INSERT INTO evidence (at, asker, channel, kind, text, ref, refs, source)
		SELECT t.at, t.asker, t.channel, t.kind, t.text, t.ref, t.refs::text[], t.source
		FROM unnest(?::timestamptz[], ?::text[], ?::text[], ?::text[], ?::text[], ?::text[], ?::text[],
			?::text[])
		WITH ORDINALITY AS t(at, asker, channel, kind, text, ref, refs, source, n) ORDER BY t.n`, at, askers, channels, kinds, texts, named, lists, sources).Error
	if err != nil {
		return fmt.Errorf("keeping evidence: %w", err)
	}
	return nil
}

func item(row store.Evidence) outcome.Evidence {
	e := outcome.Evidence{
		At:      row.At.UTC(),
		Asker:   row.Asker,
		Channel: outcome.Channel(row.Channel),
		Kind:    outcome.Kind(row.Kind),
		Text:    row.Text,
		Ref:     row.Ref,
		Source:  outcome.Source(row.Source),
		Line:    int(row.ID),
	}
	if len(row.Refs) > 0 {
		e.Refs = row.Refs
	}
	return e
}

// Evidence gives all evidence up to now, in the order it was kept.
func (a *App) Evidence(ctx context.Context) ([]outcome.Evidence, error) {
	return a.ledger.load(ctx)
}
