package evidence

import (
	"fmt"
	"strings"
	"time"

	"gorm.io/gorm"

	"hermeneus/core/outcome"
	"hermeneus/store"
)

// trace is what an asker did before.
type trace struct {
	outcome.Trace
	known    bool // there is evidence of the asker
	unlikely bool // some of it is unlikely
}

// tracesOf reads what each asker did before; every asker has an entry.
func tracesOf(db *gorm.DB, now time.Time, all []*happening) (map[string]*trace, error) {
	var askers, refs, texts store.Strings
	for _, h := range all {
		askers = append(askers, h.items[0].Asker)
		refs = append(refs, h.items[0].Ref)
		texts = append(texts, h.items[0].Text)
	}
	var rows []struct {
		store.Evidence
		Whose     string
		Words     string
		LastAsked string
		AskedAt   time.Time
		AskedRef  string
		Since     bool
		Known     bool
		Doubted   bool
		Submitted bool
	}
	since, until := now.Add(-outcome.Silence), now.Add(time.Minute) // so that few months are looked into
	err := db.Raw(`SELECT l.*, w.asker AS whose, coalesce(lw.text, '') AS words, coalesce(qw.text, '') AS last_asked,
			coalesce(q.at, 'epoch') AS asked_at, coalesce(q.ref, '') AS asked_ref,
			coalesce(q.id IS NOT NULL AND EXISTS (SELECT FROM evidence e WHERE e.asker = w.asker AND e.at >= q.at
				AND e.at > ? AND e.at < ? AND e.kind IN ('helped', 'not_helped', 'handed_off', 'requested')), false) AS since,
			k.key IS NOT NULL AS known, coalesce(k.unlikely, false) AS doubted,
			w.ref <> '' AND EXISTS (SELECT FROM evidence e JOIN evidence_words ew ON ew.evidence_id = e.id
				WHERE e.asker = w.asker AND e.at > ? AND e.at < ? AND e.kind = 'asked' AND e.ref = w.ref
				AND ew.text = w.text) AS submitted
		FROM unnest(?::text[], ?::text[], ?::text[]) AS w(asker, ref, text)
		LEFT JOIN evidence_keys k ON k.key = w.asker
		LEFT JOIN LATERAL
			(SELECT e.* FROM evidence e WHERE e.asker = w.asker AND e.at > ? AND e.at < ? AND e.kind NOT IN ('linked', 'seen', 'began')
			ORDER BY e.at DESC, e.id DESC LIMIT 1) l ON true
		LEFT JOIN evidence_words lw ON lw.evidence_id = l.id
		LEFT JOIN LATERAL
			(SELECT e.id, e.at, e.ref FROM evidence e WHERE e.asker = w.asker AND e.at > ? AND e.at < ?
			AND e.kind = 'asked' ORDER BY e.at DESC, e.id DESC LIMIT 1) q ON true
		LEFT JOIN evidence_words qw ON qw.evidence_id = q.id`,
		since, until, now.Add(-24*time.Hour), until, askers, refs, texts, since, until, since, until).Scan(&rows).Error
	if err != nil {
		return nil, fmt.Errorf("reading evidence: %w", err)
	}
	before := make(map[string]*trace, len(rows))
	for _, r := range rows {
		if before[r.Whose] != nil {
			before[r.Whose].Submitted = before[r.Whose].Submitted || r.Submitted
			continue
		}
		t := &trace{known: r.Known, unlikely: r.Doubted}
		t.Asked, t.AskedAt, t.AskedRef, t.Settled, t.Submitted = r.LastAsked, r.AskedAt, r.AskedRef, r.Since, r.Submitted
		if r.ID != 0 {
			last := FromRow(r.Evidence, r.Words)
			t.Last = &last
		}
		before[r.Whose] = t
	}
	return before, nil
}

// defaultNewcomers is how many new askers of one network in an hour are likely: generous, since an office or
// a telephone company is one network for many.
const defaultNewcomers = 200

// doubted reports whether what an asker does is unlikely: it was before, or the asker is new and too many new
// ones came from the network within the hour.
func doubted(db *gorm.DB, now time.Time, t *trace, asker, network string) (bool, error) {
	if t.unlikely || t.known || network == "" || !strings.HasPrefix(asker, outcome.VisitorKey) {
		return t.unlikely, nil
	}
	var many bool
	err := db.Raw(`INSERT INTO newcomers AS n VALUES (?, ?, 1)
		ON CONFLICT (network, hour) DO UPDATE SET askers = n.askers + 1
		RETURNING askers > coalesce((SELECT (value #>> '{}')::integer FROM settings WHERE name = ?), ?)`,
		network, now.Truncate(time.Hour), newcomersSetting, defaultNewcomers).Scan(&many).Error
	return many, err
}
