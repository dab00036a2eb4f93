package outcomes

import (
	"context"
	"fmt"
	"maps"
	"reflect"
	"slices"
	"strings"
	"time"

	"gorm.io/gorm"

	"hermeneus/core/outcome"
	"hermeneus/store"
)

// verifiedAtOnce is how many askers are recomputed at once.
const verifiedAtOnce = 500

// Verify recomputes every question from the evidence, and every count from the questions, and tells each difference
// from what is kept. It first folds what waits, and looks at one state of the database.
func (a *Outcomes) Verify(ctx context.Context, tell func(string)) error {
	if err := a.FoldAll(ctx); err != nil {
		return err
	}
	return a.base.DB.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		if err := tx.Exec(`SET TRANSACTION ISOLATION LEVEL REPEATABLE READ, READ ONLY`).Error; err != nil {
			return err
		}
		g, err := a.standing(tx)
		if err != nil {
			return err
		}
		if err := verifyLinks(tx, tell); err != nil {
			return err
		}
		return verifyQuestions(tx, g, tell)
	})
}

// verifyLinks holds the askers against the keys that evidence has and the links between them.
func verifyLinks(tx *gorm.DB, tell func(string)) error {
	var kept []struct {
		Key     string
		AskerID int64
		Name    string
	}
	err := tx.Raw(`SELECT k.key, k.asker_id, a.name FROM asker_keys k JOIN askers a ON a.id = k.asker_id`).
		Scan(&kept).
		Error
	if err != nil {
		return err
	}
	var pairs []struct{ Asker, LinkedTo string }
	// Of what was put aside the links are kept.
	err = tx.Raw(`SELECT asker, CASE WHEN kind = 'linked' THEN linked_to ELSE '' END AS linked_to FROM evidence
		UNION SELECT key, linked_to FROM evidence_links`).
		Scan(&pairs).
		Error
	if err != nil {
		return err
	}
	horizon, err := horizonOf(tx)
	if err != nil {
		return err
	}
	links := make([][2]string, 0, len(pairs))
	for _, p := range pairs {
		links = append(links, [2]string{p.Asker, p.LinkedTo})
	}
	names := outcome.LinkedSets(links)
	ids := map[string]int64{} // of each name
	for _, k := range kept {
		name, there := names[k.Key]
		switch {
		case !there && horizon.After(beginning):
			continue // all evidence of it was put aside
		case !there:
			tell(fmt.Sprintf("key %s: there is no evidence of it", k.Key))
		case name != k.Name:
			tell(fmt.Sprintf("key %s: it is of %s, not of %s", k.Key, name, k.Name))
		case ids[name] != 0 && ids[name] != k.AskerID:
			tell(fmt.Sprintf("asker %s: kept twice", name))
		}
		ids[name] = k.AskerID
		delete(names, k.Key)
	}
	for _, key := range slices.Sorted(maps.Keys(names)) {
		tell(fmt.Sprintf("key %s: not kept", key))
	}
	return nil
}

// verifyQuestions holds questions against evidence, and counts against questions.
func verifyQuestions(tx *gorm.DB, g *generation, tell func(string)) error {
	counted := newTallies(g)
	var last int64
	for {
		var askers []store.Asker
		if err := tx.Where("id > ?", last).Order("id").Limit(verifiedAtOnce).Find(&askers).Error; err != nil {
			return err
		}
		if len(askers) == 0 {
			return counted.verify(tx, tell)
		}
		last = askers[len(askers)-1].ID
		if err := verifyAskers(tx, g, askers, counted, tell); err != nil {
			return err
		}
	}
}

func verifyAskers(tx *gorm.DB, g *generation, askers []store.Asker, counted *tallies, tell func(string)) error {
	all := make([]*folding, len(askers))
	ids := store.Numbers{}
	for i, row := range askers {
		all[i] = newFolding(row)
		all[i].whole, all[i].final = true, later(all[i].final, g.horizon)
		if g.horizon.Equal(beginning) {
			all[i].known, all[i].traced = outcome.Known{}, nil // all is known by the evidence at hand
		}
		ids = append(ids, row.ID)
	}
	if err := readItems(tx, all); err != nil {
		return err
	}
	var rows []store.Question
	if err := tx.Where("generation = ? AND asker_id = ANY(?)", g.number, ids).Find(&rows).Error; err != nil {
		return err
	}
	kept := map[int64]store.Question{}
	final := map[int64]time.Time{} // of each asker
	for _, f := range all {
		final[f.id] = f.final
	}
	for _, row := range rows {
		counted.add(inUTC(row), 1)
		if !row.SittingAt.Before(final[row.AskerID]) {
			kept[row.FirstItem] = inUTC(row)
		}
	}
	for i, f := range all {
		for j := range f.items {
			if e := &f.items[j]; e.Trace() && (f.traced == nil || e.At.Before(*f.traced)) {
				f.traced = &e.At
			}
		}
		computed := f.rows(g)
		if known := (outcome.Known{Named: askers[i].Named, Looked: askers[i].Looked, Reached: askers[i].Reached}); true {
			is := outcome.Known{Named: !strings.HasPrefix(f.name, outcome.VisitorKey)}
			for j := range f.items {
				is.Know(&f.items[j])
			}
			whole := g.horizon.Equal(beginning)
			if whole && (known.Looked != is.Looked || known.Reached != is.Reached) || (is.Named && !known.Named) {
				tell(fmt.Sprintf("asker %s: known %+v, by evidence %+v", f.name, known, is))
			}
		}
		for _, row := range computed {
			before, there := kept[row.FirstItem]
			delete(kept, row.FirstItem)
			row.Answers, row.AnsweredAt = before.Answers, before.AnsweredAt
			if !row.Repeats {
				row.Repeats = before.Repeats // an asker of several who has but one left is still looked at
			}
			if row.LabelItem == 0 || row.TypedItem == 0 { // forgotten
				row.LabelItem, row.TypedItem = before.LabelItem, before.TypedItem
			}
			if !there {
				tell(fmt.Sprintf("question %d: %s by evidence, not kept", row.FirstItem, row.Outcome))
			} else if !reflect.DeepEqual(row, before) {
				tell(fmt.Sprintf("question %d: kept as\n  %+v\nby evidence\n  %+v", row.FirstItem, before, row))
			}
		}
	}
	for _, row := range kept {
		tell(fmt.Sprintf("question %d: kept as %s, not there by evidence", row.FirstItem, row.Outcome))
	}
	return nil
}

// verify holds what is counted by day and by article against what the questions come to.
func (t *tallies) verify(tx *gorm.DB, tell func(string)) error {
	var days []store.QuestionDay
	if err := tx.Where("generation = ?", t.g.number).Find(&days).Error; err != nil {
		return err
	}
	for _, d := range days {
		sum := tally{d.Questions, d.AskedAgain, d.Traced, d.NotFollowed}
		d.Questions, d.AskedAgain, d.Traced, d.NotFollowed = 0, 0, 0, 0
		d.Day = dateOf(d.Day)
		if want := t.days[d]; want != sum {
			tell(
				fmt.Sprintf(
					"day %s, %s: counted %+v, the questions come to %+v",
					d.Day.Format(time.DateOnly),
					d.Outcome,
					sum,
					want,
				),
			)
		}
		delete(t.days, d)
	}
	for d, sum := range t.days {
		if sum != (tally{}) {
			tell(fmt.Sprintf("day %s, %s: %+v are not counted", d.Day.Format(time.DateOnly), d.Outcome, sum))
		}
	}
	var articles []store.ArticleDay
	if err := tx.Where("generation = ?", t.g.number).Find(&articles).Error; err != nil {
		return err
	}
	ever := map[store.ArticleOutcome]int{}
	for key, n := range t.articles {
		ever[store.ArticleOutcome{Generation: key.Generation, Article: key.Article, Outcome: key.Outcome}] += n
	}
	for _, d := range articles {
		n := d.Questions
		d.Questions, d.Day = 0, dateOf(d.Day)
		if t.articles[d] != n {
			tell(fmt.Sprintf("article %d: %d counted, the questions come to %d", d.Article, n, t.articles[d]))
		}
		delete(t.articles, d)
	}
	for key, n := range t.articles {
		if n != 0 {
			tell(fmt.Sprintf("article %d: %d are not counted", key.Article, n))
		}
	}
	var totals []store.ArticleOutcome
	if err := tx.Where("generation = ?", t.g.number).Find(&totals).Error; err != nil {
		return err
	}
	for _, o := range totals {
		n := o.Questions
		if o.Questions = 0; ever[o] != n {
			tell(fmt.Sprintf("article %d: %d in all, the questions come to %d", o.Article, n, ever[o]))
		}
	}
	return nil
}

// dateOf is a date as it is counted by, in UTC.
func dateOf(t time.Time) time.Time {
	y, m, d := t.Date()
	return time.Date(y, m, d, 0, 0, 0, 0, time.UTC)
}
