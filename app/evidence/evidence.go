package evidence

import (
	"fmt"
	"strings"
	"time"

	"gorm.io/gorm"

	"hermeneus/core/outcome"
	"hermeneus/core/redact"
	"hermeneus/store"
)

// Record keeps evidence of what a visitor did, in the transaction of doing it.
func (a *Recorder) Record(tx *gorm.DB, v Visitor, channel outcome.Channel, items ...outcome.Evidence) error {
	if !v.Counted() {
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
		e.Stood = v.stood(e.Stood)
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
	rows := newColumns(len(items))
	for i, e := range items {
		rows.set(i, e)
	}
	// One statement for any number of items, so that the database plans it once.
	err := db.Exec(`WITH t AS MATERIALIZED (
			SELECT nextval('evidence_id_seq') AS id, s.* FROM (
				SELECT * FROM unnest(?::timestamptz[], ?::text[], ?::text[], ?::text[], ?::text[], ?::text[], ?::text[],
					?::text[], ?::text[], ?::text[], ?::text[], ?::text[], ?::text[], ?::text[], ?::text[], ?::text[],
					?::text[], ?::text[], ?::text[], ?::text[], ?::text[], ?::text[], ?::text[], ?::text[], ?::text[])
				WITH ORDINALITY AS t(at, asker, channel, kind, text, ref, refs, source, linked_to, contact, unlikely,
					site, language, groups, page, conversation, flow, turn, intent, score, category, team, reason,
					chosen, not_followed, n) ORDER BY n) s),
		kept AS (INSERT INTO evidence (id, at, asker, channel, kind, ref, refs, source, linked_to, contact, unlikely,
				site, language, groups, page, conversation, flow, turn, intent, score, category, team, reason, chosen,
				not_followed)
			SELECT id, at, asker, channel, kind, ref, refs::text[], source, linked_to, contact, unlikely <> '', site,
				language, groups::text[], page, conversation, flow, turn, intent, nullif(score, '')::double precision, category,
				team, reason, chosen <> '', not_followed <> '' FROM t ORDER BY n),
		marked AS (INSERT INTO evidence_marks (asker, items, since)
			SELECT asker, array_agg(id ORDER BY n), min(at) FROM t GROUP BY asker),
		known AS (INSERT INTO evidence_keys AS k
			SELECT asker, bool_or(unlikely <> ''), bool_or(kind = 'seen') FROM t GROUP BY asker ORDER BY asker
			ON CONFLICT (key) DO UPDATE SET unlikely = k.unlikely OR excluded.unlikely, seen = k.seen OR excluded.seen
				WHERE excluded.unlikely > k.unlikely OR excluded.seen > k.seen),
		linked AS (INSERT INTO evidence_links (key, linked_to, at)
			SELECT asker, linked_to, min(at) FROM t WHERE kind = 'linked' GROUP BY asker, linked_to ON CONFLICT DO NOTHING)
		INSERT INTO evidence_words SELECT id, at, text FROM t WHERE text <> ''`, rows.all()...).Error
	if err != nil {
		return fmt.Errorf("keeping evidence: %w", err)
	}
	return nil
}

// columns are items laid out as the lists of texts that one statement takes.
type columns []store.Strings

func newColumns(n int) columns {
	var c columns
	for range columnsOf(outcome.Evidence{}) {
		c = append(c, make(store.Strings, n))
	}
	return c
}

func (c columns) set(i int, e outcome.Evidence) {
	for column, text := range columnsOf(e) {
		c[column][i] = text
	}
}

// all gives the columns in the order of the statement.
func (c columns) all() []any {
	list := make([]any, len(c))
	for i, column := range c {
		list[i] = column
	}
	return list
}

// columnsOf gives what is kept of an item, in the order of the statement.
func columnsOf(e outcome.Evidence) []string {
	where := outcome.Stood{}
	if e.Stood != nil {
		where = *e.Stood
	}
	score := ""
	if where.Score != nil {
		score = fmt.Sprint(*where.Score)
	}
	return []string{
		e.At.Format(time.RFC3339Nano), e.Asker, string(e.Channel), string(e.Kind), e.Text, e.Ref, listed(e.Refs),
		string(e.Source), e.To, e.Contact, marked(e.Unlikely), where.Site, where.Language, listed(where.Groups),
		where.Page, where.Conversation, where.Flow, where.Turn, where.Intent, score, where.Category, where.Team,
		where.Reason, marked(where.Chosen), marked(e.NotFollowed),
	}
}

// marked is a mark as text: "" for none.
func marked(is bool) string {
	if is {
		return "yes"
	}
	return ""
}

// listed is a list as text in the way that the database reads one.
func listed(list []string) string {
	if value, err := store.Strings(list).Value(); err == nil && value != nil {
		return fmt.Sprint(value)
	}
	return "{}"
}
