package outcomes

import (
	"cmp"
	"context"
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"strings"
	"time"

	"gorm.io/gorm"

	"hermeneus/app/evidence"
	"hermeneus/core/outcome"
	"hermeneus/store"
)

// markedAtOnce is how many additions to the evidence are folded in one transaction.
const markedAtOnce = 500

// FoldSome folds what was added to the evidence, as much as goes at once, and where that is all goes on counting anew.
// It reports whether there is more: what comes meanwhile can wait for the next time. It can be called from anywhere at
// any time: one does it, the others wait.
func (a *Outcomes) FoldSome(ctx context.Context) (more bool, err error) {
	_, more, err = a.fold(ctx)
	return more, err
}

// betweenFolds is how long what comes is gathered: every folding has a cost of its own.
const betweenFolds = 500 * time.Millisecond

// foldAsItComes folds some, and reports whether anything was there: then more will come.
func (a *Outcomes) foldAsItComes(ctx context.Context) (came bool, err error) {
	folded, more, err := a.fold(ctx)
	if err == nil && folded > 0 && !more {
		select {
		case <-ctx.Done():
		case <-time.After(betweenFolds):
		}
	}
	return folded > 0 || more, err
}

// fold folds some, and gives how many additions it folded and whether there is more.
func (a *Outcomes) fold(ctx context.Context) (folded int, more bool, err error) {
	err = a.base.DB.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		if err := tx.Exec(`SELECT pg_advisory_xact_lock(?)`, int64(foldLock)).Error; err != nil {
			return err
		}
		live, next, err := a.ensureGenerations(tx)
		if err != nil {
			return err
		}
		var marks []store.EvidenceMark
		err = tx.Raw(`DELETE FROM evidence_marks WHERE id IN (SELECT id FROM evidence_marks ORDER BY id LIMIT ?)
			RETURNING *`, markedAtOnce).Scan(&marks).Error
		if err != nil {
			return fmt.Errorf("reading whose evidence was added to: %w", err)
		}
		folded = len(marks)
		if len(marks) > 0 {
			if err := a.foldMarks(tx, marks, live, next); err != nil {
				return err
			}
		}
		if len(marks) == markedAtOnce {
			more = true
			return nil
		}
		if next != nil {
			more = true
			return a.recount(tx, live, next)
		}
		return nil
	})
	return folded, more, err
}

// FoldAll folds until nothing waits of what was there when it was called.
func (a *Outcomes) FoldAll(ctx context.Context) error {
	for {
		if more, err := a.FoldSome(ctx); err != nil || !more {
			return err
		}
	}
}

// foldMarks folds what some marks say was added.
func (a *Outcomes) foldMarks(tx *gorm.DB, marks []store.EvidenceMark, live, next *generation) error {
	var ids store.Numbers
	since := marks[0].Since
	for _, m := range marks {
		ids = append(ids, m.Items...)
		if m.Since.Before(since) {
			since = m.Since
		}
	}
	added, err := evidence.Items(tx, "e.id = ANY(?) AND e.at >= ? ORDER BY e.id", ids, since)
	if err != nil {
		return err
	}
	if err := evidence.CountUses(tx, a.base.Zone, added); err != nil {
		return err
	}
	all, err := askersOf(tx, added)
	if err != nil {
		return err
	}
	for _, g := range []*generation{live, next} {
		if g == nil {
			continue
		}
		own := all
		if !g.live {
			own = slices.DeleteFunc(slices.Clone(all), func(f *folding) bool { return f.id > g.doneTo })
		}
		if err := foldAskers(tx, g, own); err != nil {
			return err
		}
		if err := joinAnswers(tx, g.number, answered(added)); err != nil {
			return err
		}
	}
	return nil
}

// answered lists the contacts that agents answered.
func answered(items []outcome.Evidence) store.Strings {
	var refs store.Strings
	for i := range items {
		if ref := items[i].AnswersContact(); items[i].OfAgent() && ref != "" && !slices.Contains(refs, ref) {
			refs = append(refs, ref)
		}
	}
	return refs
}

// folding is an asker whose questions are folded again.
type folding struct {
	id     int64
	name   string
	known  outcome.Known
	traced *time.Time

	final   time.Time // before it nothing is folded again, where that is later than the horizon
	since   time.Time // the earliest of what was added
	whole   bool      // everything is folded again
	differs bool      // more is known of the asker than before
	carried []string  // references that what was added carries
	from    time.Time // from when on evidence is folded again

	old    []store.Question // the rows that are replaced
	before bool             // there are earlier rows, which stay, besides visits
	items  []outcome.Evidence
}

func newFolding(row store.Asker) *folding {
	f := &folding{
		id: row.ID, name: row.Name, traced: row.TracedAt, final: beginning,
		known: outcome.Known{Named: row.Named, Looked: row.Looked, Reached: row.Reached},
	}
	if row.FinalTo != nil {
		f.final = row.FinalTo.UTC()
	}
	return f
}

// askersOf finds, makes and joins the askers of what was added, and keeps what is known of them by it.
func askersOf(tx *gorm.DB, added []outcome.Evidence) ([]*folding, error) {
	ids, err := askerIDs(tx, added)
	if err != nil {
		return nil, err
	}
	joined, err := joinLinked(tx, added, ids)
	if err != nil {
		return nil, err
	}
	var rows []store.Asker
	if err := tx.Where("id = ANY(?)", numbersOf(ids)).Find(&rows).Error; err != nil {
		return nil, fmt.Errorf("reading askers: %w", err)
	}
	all := map[int64]*folding{}
	for _, row := range rows {
		all[row.ID] = newFolding(row)
		all[row.ID].whole = joined[row.ID]
	}
	changed := map[int64]bool{}
	for i := range added {
		e := &added[i]
		f := all[ids[e.Asker]]
		before, traced := f.known, f.traced
		f.known.Know(e)
		if e.Trace() && (f.traced == nil || e.At.Before(*f.traced)) {
			f.traced = &e.At
		}
		// What is known by now may change what was set aside before.
		f.differs = f.differs || f.known != before
		if f.known != before || traced != f.traced {
			changed[f.id] = true
		}
		if f.since.IsZero() || e.At.Before(f.since) {
			f.since = e.At
		}
		f.carried = append(f.carried, referencesOf(e)...)
	}
	if err := keepKnown(tx, all, changed); err != nil {
		return nil, err
	}
	list := make([]*folding, 0, len(all))
	for _, f := range all {
		list = append(list, f)
	}
	slices.SortFunc(list, func(x, y *folding) int { return cmp.Compare(x.id, y.id) })
	return list, nil
}

// keepKnown keeps what is known of those askers of whom it changed.
func keepKnown(tx *gorm.DB, all map[int64]*folding, changed map[int64]bool) error {
	var known []map[string]any
	for id := range changed {
		f := all[id]
		known = append(known, map[string]any{
			"id":        id,
			"named":     f.known.Named,
			"looked":    f.known.Looked,
			"reached":   f.known.Reached,
			"traced_at": f.traced,
		})
	}
	if len(known) == 0 {
		return nil
	}
	list, err := json.Marshal(known)
	if err != nil {
		return err
	}
	err = tx.Exec(`UPDATE askers a SET named = k.named, looked = k.looked, reached = k.reached, traced_at = k.traced_at
		FROM jsonb_to_recordset(?::jsonb) AS k(id bigint, named boolean, looked boolean, reached boolean,
			traced_at timestamptz) WHERE a.id = k.id`, string(list)).Error
	if err != nil {
		return fmt.Errorf("keeping what is known of askers: %w", err)
	}
	return nil
}

// referencesOf lists the references of contacts and threads that an item carries, or is.
func referencesOf(e *outcome.Evidence) []string {
	var refs []string
	if e.Contact != "" && !e.OfAgent() {
		refs = append(refs, e.Contact)
	}
	if e.Reaches() && e.Ref != "" && e.Ref != e.Contact {
		refs = append(refs, e.Ref)
	}
	return refs
}

// askerIDs gives the asker of every key, new ones where there were none.
func askerIDs(tx *gorm.DB, added []outcome.Evidence) (map[string]int64, error) {
	ids := map[string]int64{}
	for _, e := range added {
		ids[e.Asker] = 0
		if e.To != "" {
			ids[e.To] = 0
		}
	}
	var rows []store.AskerKey
	var keys store.Strings
	for key := range ids {
		keys = append(keys, key)
	}
	slices.Sort(keys)
	if err := tx.Where("key = ANY(?)", keys).Find(&rows).Error; err != nil {
		return nil, fmt.Errorf("reading whose keys they are: %w", err)
	}
	for _, r := range rows {
		ids[r.Key] = r.AskerID
	}
	var fresh []store.Asker
	for _, key := range keys {
		if ids[key] == 0 {
			fresh = append(fresh, store.Asker{Name: key, Named: !strings.HasPrefix(key, outcome.VisitorKey)})
		}
	}
	if len(fresh) == 0 {
		return ids, nil
	}
	if err := tx.Create(&fresh).Error; err != nil {
		return nil, fmt.Errorf("keeping askers: %w", err)
	}
	links := make([]store.AskerKey, len(fresh))
	for i, row := range fresh {
		ids[row.Name] = row.ID
		links[i] = store.AskerKey{Key: row.Name, AskerID: row.ID}
	}
	return ids, tx.Create(&links).Error
}

// joinLinked makes one asker of those whose keys were linked, and gives which askers got others' evidence by that.
func joinLinked(tx *gorm.DB, added []outcome.Evidence, ids map[string]int64) (map[int64]bool, error) {
	joined := map[int64]bool{}
	for _, e := range added {
		if e.Kind != outcome.Linked || e.To == "" || ids[e.Asker] == ids[e.To] {
			continue
		}
		stays, goes := min(ids[e.Asker], ids[e.To]), max(ids[e.Asker], ids[e.To])
		for _, sql := range []string{
			`UPDATE asker_keys SET asker_id = @stays WHERE asker_id = @goes`,
			`UPDATE questions SET asker_id = @stays WHERE asker_id = @goes`,
			`UPDATE askers s SET named = s.named OR g.named, looked = s.looked OR g.looked,
				reached = s.reached OR g.reached, traced_at = least(s.traced_at, g.traced_at), name = least(
					s.name COLLATE "C", g.name COLLATE "C"), final_to = greatest(s.final_to, g.final_to)
			FROM askers g WHERE s.id = @stays AND g.id = @goes`,
			`DELETE FROM askers WHERE id = @goes`,
		} {
			if err := tx.Exec(sql, map[string]any{"stays": stays, "goes": goes}).Error; err != nil {
				return nil, fmt.Errorf("joining askers: %w", err)
			}
		}
		for key, id := range ids {
			if id == goes {
				ids[key] = stays
			}
		}
		delete(joined, goes)
		joined[stays] = true
	}
	if len(joined) == 0 {
		return joined, nil
	}
	horizon, err := horizonOf(tx)
	if err != nil {
		return nil, err
	}
	return joined, closeFinal(tx, horizon, slices.Collect(maps.Keys(joined)))
}

// numbersOf lists the different ids.
func numbersOf(ids map[string]int64) store.Numbers {
	var list store.Numbers
	for _, id := range ids {
		if !slices.Contains(list, id) {
			list = append(list, id)
		}
	}
	return list
}
