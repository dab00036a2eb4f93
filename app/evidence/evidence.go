package evidence

import (
	"encoding/json"
	"fmt"
	"strings"
	"time"

	"gorm.io/gorm"

	"hermeneus/core/outcome"
	"hermeneus/core/redact"
)

// Record keeps evidence of what a visitor did, in the transaction of doing it.
func (a *Recorder) Record(tx *gorm.DB, v Visitor, channel outcome.Channel, items ...outcome.Evidence) error {
	if !v.Counted() || len(items) == 0 {
		return nil
	}
	return keep(tx, a.base.Now(), a.happened(v, channel, items))
}

// RecordAlone keeps evidence of what a visitor did, where nothing else is kept of it.
func (a *Recorder) RecordAlone(v Visitor, channel outcome.Channel, items ...outcome.Evidence) error {
	if !v.Counted() {
		return nil
	}
	return a.writer.keep(a.happened(v, channel, items))
}

// Nobody is the asker of what is not counted.
const Nobody = "uncounted"

// RecordOf keeps evidence of an asker that somebody else made happen, such as an agent.
func (a *Recorder) RecordOf(tx *gorm.DB, asker string, channel outcome.Channel, items ...outcome.Evidence) error {
	if asker == Nobody {
		return nil
	}
	return keep(tx, a.base.Now(), a.happened(Visitor{AsAsker: asker}, channel, items))
}

// happened completes items with whose they are, where and when. Words are redacted. An item that says when it
// was keeps that.
func (a *Recorder) happened(v Visitor, channel outcome.Channel, items []outcome.Evidence) *happening {
	now := a.base.Now()
	for i := range items {
		e := &items[i]
		if e.At.IsZero() {
			e.At = now
		}
		e.Asker, e.Channel, e.Text = v.Asker(), channel, redact.Text(e.Text)
		if v.Contact != "" && e.Contact == "" && e.Ref != v.Contact {
			e.Contact = v.Contact
		}
		e.NotFollowed = v.NotFollowed && strings.HasPrefix(e.Asker, outcome.VisitorKey)
		e.Stood = v.Stands(e.Stood)
	}
	return &happening{items: items, network: v.Network, done: make(chan error, 1)}
}

// happening is what an asker did, waiting to be written.
type happening struct {
	items   []outcome.Evidence // one asker's, one after the other
	network string             // from where, "" where that does not matter
	done    chan error
}

// keep adds what is new of what some askers did to the evidence.
func keep(db *gorm.DB, now time.Time, all ...*happening) error {
	before, err := tracesOf(db, now, all)
	if err != nil {
		return err
	}
	var fresh []outcome.Evidence
	for _, h := range all {
		asker := h.items[0].Asker
		trace := before[asker]
		items := trace.Dedupe(h.items...)
		if len(items) == 0 {
			continue
		}
		if trace.unlikely, err = doubted(db, now, trace, asker, h.network); err != nil {
			return err
		}
		for i := range items {
			items[i].Unlikely = items[i].Unlikely || trace.unlikely
		}
		trace.known = true
		fresh = append(fresh, items...)
	}
	return Keep(db, fresh)
}

// Keep adds items to the evidence as they are, in their order, and their words beside it, and marks their askers.
func Keep(db *gorm.DB, items []outcome.Evidence) error {
	if len(items) == 0 {
		return nil
	}
	rows := make([]row, len(items))
	for i := range items {
		rows[i] = rowOf(&items[i])
	}
	// One statement with one parameter for any number of items, so that the database plans it once, and little is spent
	// on sending it.
	list, err := json.Marshal(rows)
	if err != nil {
		return err
	}
	err = db.Exec(`WITH t AS MATERIALIZED (
			SELECT nextval('evidence_id_seq') AS id, s.* FROM (
				SELECT * FROM ROWS FROM (jsonb_to_recordset(?::jsonb) AS (at timestamptz, asker text,
					channel text, kind text, text text, ref text, refs text[], source text, linked_to text, contact text, unlikely boolean, site text,
					language text, groups text[], page text, conversation text, flow text, turn text, intent text,
					score double precision, category text, team text, reason text, chosen boolean, not_followed boolean))
				WITH ORDINALITY ORDER BY ordinality) s),
		kept AS (INSERT INTO evidence (id, at, asker, channel, kind, ref, refs, source, linked_to, contact,
				unlikely, site, language, groups, page, conversation, flow, turn, intent, score, category, team, reason, chosen,
				not_followed)
			SELECT id, at, asker, channel, kind, ref, refs, source, linked_to, contact, unlikely, site, language,
				groups, page, conversation, flow, turn, intent, score, category, team, reason, chosen, not_followed
			FROM t ORDER BY ordinality),
		marked AS (INSERT INTO evidence_marks (asker, items, since)
			SELECT asker, array_agg(id ORDER BY ordinality), min(at) FROM t GROUP BY asker),
		known AS (INSERT INTO evidence_keys AS k
			SELECT asker, bool_or(unlikely), bool_or(kind = 'seen') FROM t
			WHERE NOT coalesce((SELECT had.unlikely >= t.unlikely AND had.seen >= (t.kind = 'seen')
				FROM evidence_keys had WHERE had.key = t.asker), false)
			GROUP BY asker ORDER BY asker
			ON CONFLICT (key) DO UPDATE SET unlikely = k.unlikely OR excluded.unlikely, seen = k.seen OR excluded.seen
				WHERE excluded.unlikely > k.unlikely OR excluded.seen > k.seen),
		linked AS (INSERT INTO evidence_links (key, linked_to, at)
			SELECT asker, linked_to, min(at) FROM t WHERE kind = 'linked' GROUP BY asker, linked_to
			ON CONFLICT DO NOTHING)
		INSERT INTO evidence_words SELECT id, at, text FROM t WHERE text <> ''`, string(list)).Error
	if err != nil {
		return fmt.Errorf("keeping evidence: %w", err)
	}
	return nil
}

// row is what is kept of an item.
type row struct {
	At           time.Time `json:"at"`
	Asker        string    `json:"asker"`
	Channel      string    `json:"channel"`
	Kind         string    `json:"kind"`
	Text         string    `json:"text"`
	Ref          string    `json:"ref"`
	Refs         []string  `json:"refs"`
	Source       string    `json:"source"`
	LinkedTo     string    `json:"linked_to"`
	Contact      string    `json:"contact"`
	Unlikely     bool      `json:"unlikely"`
	Site         string    `json:"site"`
	Language     string    `json:"language"`
	Groups       []string  `json:"groups"`
	Page         string    `json:"page"`
	Conversation string    `json:"conversation"`
	Flow         string    `json:"flow"`
	Turn         string    `json:"turn"`
	Intent       string    `json:"intent"`
	Score        *float64  `json:"score"`
	Category     string    `json:"category"`
	Team         string    `json:"team"`
	Reason       string    `json:"reason"`
	Chosen       bool      `json:"chosen"`
	NotFollowed  bool      `json:"not_followed"`
}

func rowOf(e *outcome.Evidence) row {
	where := outcome.Stood{}
	if e.Stood != nil {
		where = *e.Stood
	}
	return row{
		At:           e.At,
		Asker:        e.Asker,
		Channel:      string(e.Channel),
		Kind:         string(e.Kind),
		Text:         e.Text,
		Ref:          e.Ref,
		Refs:         append([]string{}, e.Refs...),
		Source:       string(e.Source),
		LinkedTo:     e.To,
		Contact:      e.Contact,
		Unlikely:     e.Unlikely,
		Site:         where.Site,
		Language:     where.Language,
		Groups:       append([]string{}, where.Groups...),
		Page:         where.Page,
		Conversation: where.Conversation,
		Flow:         where.Flow,
		Turn:         where.Turn,
		Intent:       where.Intent,
		Score:        where.Score,
		Category:     where.Category,
		Team:         where.Team,
		Reason:       where.Reason,
		Chosen:       where.Chosen,
		NotFollowed:  e.NotFollowed,
	}
}
