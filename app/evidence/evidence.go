package evidence

import (
	"fmt"
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
	return a.RecordOf(tx, v.Asker(), channel, items...)
}

// RecordAlone keeps evidence of what a visitor did, where nothing else is kept of it.
func (a *Recorder) RecordAlone(v Visitor, channel outcome.Channel, items ...outcome.Evidence) error {
	if !v.Counted() {
		return nil
	}
	return a.writer.keep(a.evidenceOf(v.Asker(), channel, items))
}

// Nobody is the asker of what is not counted.
const Nobody = "uncounted"

// RecordOf keeps evidence of an asker.
func (a *Recorder) RecordOf(tx *gorm.DB, asker string, channel outcome.Channel, items ...outcome.Evidence) error {
	if asker == Nobody {
		return nil
	}
	now := a.base.Now()
	before, err := tracesOf(tx, now, asker)
	if err != nil {
		return err
	}
	return keepEvidence(tx, before[asker].Dedupe(a.evidenceOf(asker, channel, items)...))
}

// evidenceOf completes items with whose they are, where and when. Words are redacted.
func (a *Recorder) evidenceOf(asker string, channel outcome.Channel, items []outcome.Evidence) []outcome.Evidence {
	now := a.base.Now()
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
		store.Strings(askers), since, since).Scan(&rows).Error
	if err != nil {
		return nil, fmt.Errorf("reading evidence: %w", err)
	}
	before := make(map[string]*outcome.Trace, len(askers))
	for _, asker := range askers {
		before[asker] = &outcome.Trace{}
	}
	for _, r := range rows {
		last := FromRow(r.Evidence)
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
	at := make(store.Strings, n)
	askers := make(store.Strings, n)
	channels := make(store.Strings, n)
	kinds := make(store.Strings, n)
	texts := make(store.Strings, n)
	named := make(store.Strings, n)
	lists := make(store.Strings, n)
	sources := make(store.Strings, n)
	for i, e := range items {
		at[i] = e.At.Format(time.RFC3339Nano)
		askers[i] = e.Asker
		channels[i] = string(e.Channel)
		kinds[i] = string(e.Kind)
		texts[i], named[i], lists[i], sources[i] = e.Text, e.Ref, "{}", string(e.Source)
		if list, err := store.Strings(e.Refs).Value(); err == nil && list != nil {
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

// FromRow is an item of evidence as it was kept.
func FromRow(row store.Evidence) outcome.Evidence {
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
