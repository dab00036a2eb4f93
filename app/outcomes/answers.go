package outcomes

import (
	"cmp"
	"fmt"
	"slices"
	"time"

	"gorm.io/gorm"

	"hermeneus/app/evidence"
	"hermeneus/core/outcome"
	"hermeneus/store"
)

// joinAnswers puts agents' answers to contacts of some references into the questions in which those were made: where
// several askers have a contact of one reference, into that of the answered asker, else of the first.
func joinAnswers(tx *gorm.DB, generation int, refs store.Strings) error {
	if len(refs) == 0 {
		return nil
	}
	horizon, err := horizonOf(tx)
	if err != nil {
		return err
	}
	rows, err := withContacts(tx, generation, refs, horizon)
	if err != nil || len(rows) == 0 {
		return err
	}
	for _, row := range rows { // all contacts of these questions
		for _, ref := range row.Contacts {
			if !slices.Contains(refs, ref) {
				refs = append(refs, ref)
			}
		}
	}
	if rows, err = withContacts(tx, generation, refs, horizon); err != nil {
		return err
	}
	items, err := evidence.Items(tx, `(e.kind IN ('handed_off', 'requested', 'agent_answered') AND e.ref = ANY(?))
		OR (e.kind = 'agent_answered' AND e.contact <> '' AND e.contact = ANY(?)) ORDER BY e.at, e.id`, refs, refs)
	if err != nil {
		return err
	}
	var answers store.Strings
	for _, e := range items {
		if e.OfAgent() {
			answers = append(answers, e.Asker)
		}
	}
	if len(answers) == 0 {
		return clearAnswers(tx, rows)
	}
	var keys []store.AskerKey
	if err := tx.Where("key = ANY(?)", answers).Find(&keys).Error; err != nil {
		return err
	}
	asker := map[string]int64{}
	for _, k := range keys {
		asker[k.Key] = k.AskerID
	}
	return keepAnswers(tx, rows, items, asker)
}

// named is a row with the name of its asker.
type named struct {
	store.Question
	Name string
}

// withContacts reads the questions with contacts of some references that are not final.
func withContacts(tx *gorm.DB, generation int, refs store.Strings, horizon time.Time) ([]named, error) {
	var rows []named
	err := tx.Raw(`SELECT q.*, a.name FROM questions q JOIN askers a ON a.id = q.asker_id
		WHERE q.contacts <> '{}' AND q.contacts && ? AND q.generation = ? AND `+notFinal,
		refs, generation, horizon).Scan(&rows).Error
	if err != nil {
		return nil, fmt.Errorf("reading questions by their contacts: %w", err)
	}
	return rows, nil
}

// keepAnswers gives each answer to the question it belongs to.
func keepAnswers(tx *gorm.DB, rows []named, items []outcome.Evidence, asker map[string]int64) error {
	type home struct {
		row *named
		at  time.Time
	}
	homes := map[string][]home{} // of each reference, the first made first
	for _, e := range items {
		for i := range rows {
			if e.Reaches() && slices.Contains(rows[i].Items, int64(e.Line)) {
				homes[e.Ref] = append(homes[e.Ref], home{&rows[i], e.At})
			}
		}
	}
	answers := map[*named][]outcome.Evidence{}
	for _, e := range items {
		in := homes[e.AnswersContact()]
		if !e.OfAgent() || len(in) == 0 {
			continue
		}
		best := slices.MinFunc(in, func(a, b home) int {
			return cmp.Or(foreign(a.row, asker[e.Asker])-foreign(b.row, asker[e.Asker]), a.at.Compare(b.at),
				cmp.Compare(a.row.Name, b.row.Name))
		})
		answers[best.row] = append(answers[best.row], e)
	}
	for i := range rows {
		ids := store.Numbers{}
		var at *time.Time
		for _, e := range answers[&rows[i]] {
			ids = append(ids, int64(e.Line))
			if at == nil {
				at = &e.At
			}
		}
		if slices.Equal(ids, rows[i].Answers) {
			continue
		}
		err := tx.Exec(
			`UPDATE questions SET answers = ?, answered_at = ? WHERE generation = ? AND first_item = ? AND closed_at = ?`,
			ids,
			at,
			rows[i].Generation,
			rows[i].FirstItem,
			rows[i].ClosedAt,
		).Error
		if err != nil {
			return fmt.Errorf("joining answers: %w", err)
		}
	}
	return nil
}

func foreign(row *named, asker int64) int {
	if row.AskerID == asker {
		return 0
	}
	return 1
}

func clearAnswers(tx *gorm.DB, rows []named) error {
	return keepAnswers(tx, rows, nil, nil)
}
