package evidence

import (
	"context"
	"fmt"
	"slices"
	"sync/atomic"
	"time"

	"gorm.io/gorm"

	"hermeneus/core/outcome"
	"hermeneus/store"
)

// FromRow is an item of evidence as it was kept, with its words, "" where they are forgotten.
func FromRow(row store.Evidence, words string) outcome.Evidence {
	e := outcome.Evidence{
		At:          row.At.UTC(),
		Asker:       row.Asker,
		To:          row.LinkedTo,
		Channel:     outcome.Channel(row.Channel),
		Kind:        outcome.Kind(row.Kind),
		Text:        words,
		Ref:         row.Ref,
		Contact:     row.Contact,
		Source:      outcome.Source(row.Source),
		Unlikely:    row.Unlikely,
		NotFollowed: row.NotFollowed,
		Line:        int(row.ID),
	}
	if len(row.Refs) > 0 {
		e.Refs = row.Refs
	}
	where := outcome.Stood{
		Site:         row.Site,
		Language:     row.Language,
		Page:         row.Page,
		Conversation: row.Conversation,
		Flow:         row.Flow,
		Turn:         row.Turn,
		Intent:       row.Intent,
		Score:        row.Score,
		Category:     row.Category,
		Team:         row.Team,
		Reason:       row.Reason,
		Arm:          row.Arm,
		Chosen:       row.Chosen,
	}
	if len(row.Groups) > 0 {
		where.Groups = row.Groups
	}
	if !where.Empty() {
		e.Stood = &where
	}
	return e
}

// Items reads the evidence that fits a condition over e, in its order, with its words.
func Items(db *gorm.DB, condition string, args ...any) ([]outcome.Evidence, error) {
	return itemsOf(db.Raw(`SELECT e.*, coalesce(w.text, '') AS words
		FROM evidence e LEFT JOIN evidence_words w ON w.evidence_id = e.id WHERE `+condition, args...))
}

// Of reads the evidence of keys, of each from a time on, in its order, with its words. Nothing is looked for in months
// before the earliest of the times.
func Of(db *gorm.DB, keys store.Strings, from []time.Time) ([]outcome.Evidence, error) {
	if len(keys) == 0 {
		return nil, nil
	}
	since := make(store.Strings, len(from))
	for i, at := range from {
		since[i] = at.Format(time.RFC3339Nano)
	}
	return itemsOf(db.Raw(`SELECT e.*, coalesce(w.text, '') AS words
		FROM unnest(?::text[], ?::timestamptz[]) AS k(key, since)
		CROSS JOIN LATERAL (SELECT e.* FROM evidence e WHERE e.asker = k.key AND e.at >= k.since AND e.at >= ?) e
		LEFT JOIN evidence_words w ON w.evidence_id = e.id ORDER BY e.id`,
		keys, since, slices.MinFunc(from, time.Time.Compare)))
}

func itemsOf(query *gorm.DB) ([]outcome.Evidence, error) {
	var rows []struct {
		store.Evidence
		Words string
	}
	if err := query.Scan(&rows).Error; err != nil {
		return nil, fmt.Errorf("reading evidence: %w", err)
	}
	RowsRead.Add(int64(len(rows)))
	items := make([]outcome.Evidence, len(rows))
	for i, r := range rows {
		items[i] = FromRow(r.Evidence, r.Words)
	}
	return items, nil
}

// RowsRead counts the items of evidence that were read by this process.
var RowsRead atomic.Int64

// exportedAtOnce is how many items are read at once for the export.
const exportedAtOnce = 5000

// Each gives all evidence up to now to work, some at a time, in the order it was kept.
func (a *Recorder) Each(ctx context.Context, work func([]outcome.Evidence) error) error {
	var last int64
	for {
		items, err := Items(a.base.DB.WithContext(ctx), "e.id > ? ORDER BY e.id LIMIT ?", last, exportedAtOnce)
		if err != nil || len(items) == 0 {
			return err
		}
		last = int64(items[len(items)-1].Line)
		if err := work(items); err != nil {
			return err
		}
	}
}
