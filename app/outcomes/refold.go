package outcomes

import (
	"encoding/json"
	"fmt"
	"reflect"
	"slices"
	"time"

	"gorm.io/gorm"

	"hermeneus/app/evidence"
	"hermeneus/core/outcome"
	"hermeneus/store"
)

// foldAskers folds again what can still change of some askers, and replaces the rows of a generation that came out
// otherwise.
func foldAskers(tx *gorm.DB, g *generation, all []*folding) error {
	if len(all) == 0 {
		return nil
	}
	if err := findChanging(tx, g, all); err != nil {
		return err
	}
	if err := readItems(tx, all); err != nil {
		return err
	}
	var gone store.Numbers
	var earliest, latest time.Time // of those that go: only in these months it is looked for them
	goes := func(row store.Question) {
		if len(gone) == 0 || row.ClosedAt.Before(earliest) {
			earliest = row.ClosedAt
		}
		if len(gone) == 0 || row.ClosedAt.After(latest) {
			latest = row.ClosedAt
		}
		gone = append(gone, row.FirstItem)
	}
	var fresh []store.Question
	counts := newTallies(g)
	refs := store.Strings{}
	for _, f := range all {
		rows := f.rows(g)
		old := map[int64]store.Question{}
		for _, row := range f.old {
			old[row.FirstItem] = row
		}
		for _, row := range rows {
			before, there := old[row.FirstItem]
			if there {
				// Answers belong to contacts: where those are others, they are joined anew.
				if slices.Equal(row.Contacts, before.Contacts) {
					row.Answers, row.AnsweredAt = before.Answers, before.AnsweredAt
				} else {
					refs = append(refs, before.Contacts...)
				}
				if row.LabelItem == 0 {
					row.LabelItem = before.LabelItem // its words are forgotten
				}
				if row.TypedItem == 0 {
					row.TypedItem = before.TypedItem
				}
			}
			delete(old, row.FirstItem)
			if there && reflect.DeepEqual(row, before) {
				continue
			}
			if there {
				goes(before)
				counts.add(before, -1)
			}
			fresh = append(fresh, row)
			counts.add(row, 1)
			if !there || !slices.Equal(row.Contacts, before.Contacts) {
				refs = append(refs, row.Contacts...)
			}
		}
		for _, row := range old {
			goes(row)
			counts.add(row, -1)
			refs = append(refs, row.Contacts...)
		}
	}
	if len(gone) > 0 {
		err := tx.Exec(
			`DELETE FROM questions WHERE generation = ? AND first_item = ANY(?) AND closed_at BETWEEN ? AND ?`,
			g.number,
			gone,
			earliest,
			latest,
		).Error
		if err != nil {
			return fmt.Errorf("replacing questions: %w", err)
		}
	}
	if len(fresh) > 0 {
		if err := keepQuestions(tx, fresh); err != nil {
			return err
		}
	}
	if err := markRepeats(tx, g, all); err != nil {
		return err
	}
	if err := counts.keep(tx); err != nil {
		return err
	}
	return joinAnswers(tx, g.number, refs)
}

// keepQuestions adds rows, by one statement for any number of them, so that the database need not read a long one.
func keepQuestions(tx *gorm.DB, rows []store.Question) error {
	list, err := json.Marshal(rows)
	if err != nil {
		return err
	}
	err = tx.Exec(`INSERT INTO questions SELECT * FROM jsonb_populate_recordset(NULL::questions, ?::jsonb)`,
		string(list)).Error
	if err != nil {
		return fmt.Errorf("keeping questions: %w", err)
	}
	return nil
}

// findChanging finds, for each asker, from when on evidence must be folded again: from the beginning of the sitting of
// the earliest question that what was added can still change, or that reaches into what is folded again.
func findChanging(tx *gorm.DB, g *generation, all []*folding) error {
	byID := map[int64]*folding{}
	var ids store.Numbers
	var carriers, different store.Numbers
	var carried store.Strings
	for _, f := range all {
		f.final = later(f.final, g.horizon)
		byID[f.id] = f
		ids = append(ids, f.id)
		f.from = f.since.Add(-g.window - outcome.Silence)
		for _, ref := range f.carried {
			carriers, carried = append(carriers, f.id), append(carried, ref)
		}
		if f.differs {
			different = append(different, f.id)
		}
	}
	// An older question that what was added carries the reference of, or that is not set aside any more.
	var older []int64
	err := tx.Raw(`SELECT DISTINCT q.asker_id FROM unnest(?::bigint[], ?::text[]) AS w(asker_id, ref)
			JOIN questions q ON q.asker_id = w.asker_id AND q.generation = ? AND w.ref = ANY(q.refs)
		UNION SELECT DISTINCT asker_id FROM questions
			WHERE asker_id = ANY(?) AND generation = ? AND outcome IN ('unseen', 'unlikely')`,
		carriers, carried, g.number, different, g.number).Scan(&older).Error
	if err != nil {
		return fmt.Errorf("reading which questions are referred to: %w", err)
	}
	// A question that is referred to is folded again with all that came since it began.
	if len(older) > 0 {
		if err := reachBack(tx, g, byID, older, different, carriers, carried); err != nil {
			return err
		}
	}
	for changed := true; changed; {
		changed = false
		var from []string
		for _, id := range ids {
			from = append(from, byID[id].start().Format(time.RFC3339Nano))
		}
		var rows []store.Question
		err := tx.Raw(`SELECT q.* FROM unnest(?::bigint[], ?::timestamptz[]) AS w(asker_id, since)
			JOIN questions q ON q.asker_id = w.asker_id AND q.generation = ? AND q.last_at >= w.since`,
			ids, store.Strings(from), g.number).Scan(&rows).Error
		if err != nil {
			return fmt.Errorf("reading questions that may change: %w", err)
		}
		for _, f := range all {
			f.old = nil
		}
		for _, row := range rows {
			f := byID[row.AskerID]
			row = inUTC(row)
			f.old = append(f.old, row)
			if row.SittingAt.Before(f.start()) {
				f.from, changed = row.SittingAt, true
			}
		}
	}
	return findEarlier(tx, g, byID, ids)
}

// reachBack lets what is folded again begin with the questions that are referred to, or all of it where what was set
// aside is not any more.
func reachBack(
	tx *gorm.DB,
	g *generation,
	byID map[int64]*folding,
	older []int64,
	different, carriers store.Numbers,
	carried store.Strings,
) error {
	for _, id := range older {
		if slices.Contains(different, id) {
			byID[id].whole = true
		}
	}
	var rows []struct {
		AskerID int64
		Began   time.Time
	}
	err := tx.Raw(`SELECT q.asker_id, min(q.sitting_at) AS began
		FROM unnest(?::bigint[], ?::text[]) AS w(asker_id, ref)
		JOIN questions q ON q.asker_id = w.asker_id AND q.generation = ? AND w.ref = ANY(q.refs)
		GROUP BY q.asker_id`, carriers, carried, g.number).Scan(&rows).Error
	for _, r := range rows {
		if f := byID[r.AskerID]; r.Began.Before(f.from) {
			f.from = r.Began.UTC()
		}
	}
	return err
}

// start is from when on evidence is folded again: never what is final.
func (f *folding) start() time.Time {
	if f.whole {
		return f.final
	}
	return later(f.from, f.final)
}

// findEarlier finds who has rows from before, which stay.
func findEarlier(tx *gorm.DB, g *generation, byID map[int64]*folding, ids store.Numbers) error {
	var from []string
	for _, id := range ids {
		byID[id].before = false
		from = append(from, byID[id].start().Format(time.RFC3339Nano))
	}
	var before []int64
	err := tx.Raw(`SELECT w.asker_id FROM unnest(?::bigint[], ?::timestamptz[]) AS w(asker_id, since)
		WHERE EXISTS (SELECT FROM questions q WHERE q.asker_id = w.asker_id AND q.generation = ?
			AND q.last_at < w.since AND q.outcome <> 'browsing')`,
		ids, store.Strings(from), g.number).Scan(&before).Error
	if err != nil {
		return fmt.Errorf("reading who asked before: %w", err)
	}
	for _, id := range before {
		byID[id].before = true
	}
	return nil
}

// readItems reads the evidence that is folded again.
func readItems(tx *gorm.DB, all []*folding) error {
	byKey := map[string]*folding{}
	byID := map[int64]*folding{}
	var ids store.Numbers
	for _, f := range all {
		f.items = nil // of another generation
		byID[f.id] = f
		ids = append(ids, f.id)
	}
	var rows []store.AskerKey
	if err := tx.Where("asker_id = ANY(?)", ids).Find(&rows).Error; err != nil {
		return fmt.Errorf("reading keys: %w", err)
	}
	var keys store.Strings
	var from []time.Time
	for _, r := range rows {
		byKey[r.Key] = byID[r.AskerID]
		keys, from = append(keys, r.Key), append(from, byID[r.AskerID].start())
	}
	items, err := evidence.Of(tx, keys, from)
	if err != nil {
		return err
	}
	for _, e := range items {
		byKey[e.Asker].items = append(byKey[e.Asker].items, e)
	}
	return nil
}

// rows folds the items at hand.
func (f *folding) rows(g *generation) []store.Question {
	questions := outcome.FoldOne(f.name, f.items, f.known, g.window)
	first := map[*outcome.Evidence]int64{} // the question of each contact
	asked := 0
	for _, q := range questions {
		if q.Outcome != outcome.Browsing {
			asked++
		}
		for _, e := range q.Evidence {
			if e.Reaches() {
				first[e] = int64(q.Evidence[0].Line)
			}
		}
	}
	rows := make([]store.Question, len(questions))
	for i, q := range questions {
		rows[i] = rowOf(q, f.traced)
		rows[i].Generation, rows[i].AskerID = g.number, f.id
		rows[i].Repeats = q.Outcome != outcome.Browsing && (f.before || asked > 1)
		if q.ReturnedBy != nil {
			rows[i].ReturnedIn = first[q.ReturnedBy]
		}
	}
	return rows
}

// markRepeats marks the earlier questions of those who asked again.
func markRepeats(tx *gorm.DB, g *generation, all []*folding) error {
	var ids store.Numbers
	for _, f := range all {
		if f.before {
			ids = append(ids, f.id)
		}
	}
	if len(ids) == 0 {
		return nil
	}
	err := tx.Exec(`UPDATE questions SET repeats = true
		WHERE asker_id = ANY(?) AND generation = ? AND NOT repeats AND outcome <> 'browsing'`, ids, g.number).Error
	if err != nil {
		return fmt.Errorf("marking who asked again: %w", err)
	}
	return nil
}

// inUTC gives a row with its times as they are made.
func inUTC(row store.Question) store.Question {
	for _, at := range []*time.Time{&row.SittingAt, &row.BeganAt, &row.LastAt, &row.ClosedAt} {
		*at = at.UTC()
	}
	for _, at := range []**time.Time{&row.AnsweredAt, &row.ReturnedAt} {
		if *at != nil {
			utc := (*at).UTC()
			*at = &utc
		}
	}
	return row
}
