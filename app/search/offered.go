package search

import (
	"context"
	"fmt"
	"log/slog"
	"slices"
	"sync"
	"time"

	"gorm.io/gorm"

	"hermeneus/app/evidence"
	"hermeneus/core/article"
	"hermeneus/core/search"
)

// What counts as popular.
const (
	readLately      = 14 * 24 * time.Hour
	askedLately     = 90 * 24 * time.Hour
	askersOfPopular = 3   // a question that fewer asked is offered to nobody: it may tell who asked
	answersPopular  = 0.6 // the share of a question that an article must hold to answer it for others
	popularKept     = 2000
	refreshPopular  = time.Minute
)

// popular keeps which articles are opened by many, the most first.
type popular struct {
	mu   sync.Mutex
	refs []string
}

// followPopular keeps what is popular up to date, until the context ends.
func (a *Search) followPopular(ctx context.Context) {
	tick := time.NewTicker(refreshPopular)
	defer tick.Stop()
	for {
		if err := a.RefreshPopular(ctx); err != nil && ctx.Err() == nil {
			slog.Warn("counting what is popular", "error", err)
		}
		select {
		case <-ctx.Done():
			return
		case <-tick.C:
		}
	}
}

// RefreshPopular counts anew what is opened and asked often.
func (a *Search) RefreshPopular(ctx context.Context) error {
	db := a.base.DB.WithContext(ctx)
	var rows []struct {
		Number int
		N      float32
	}
	err := db.Raw(`SELECT substring(ref from '^A-(\d+)@')::integer AS number, count(DISTINCT asker) AS n
		FROM evidence WHERE kind = 'opened' AND at > ? AND ref ~ '^A-\d{1,9}@' GROUP BY 1
		ORDER BY n DESC, number LIMIT ?`, a.base.Now().Add(-readLately), popularKept).Scan(&rows).Error
	if err != nil {
		return fmt.Errorf("counting what is opened: %w", err)
	}
	reads := map[string]float32{}
	var refs []string
	for _, r := range rows {
		ref := article.Reference(r.Number)
		reads[ref] = r.N
		refs = append(refs, ref)
	}
	a.popular.mu.Lock()
	a.popular.refs = refs
	a.popular.mu.Unlock()
	a.index.SetPopular(reads)
	return a.refreshQuestions(db)
}

// refreshQuestions tells the index which questions many ask, and what answers them.
func (a *Search) refreshQuestions(db *gorm.DB) error {
	var asked []struct {
		Text string
		N    int
	}
	err := db.Raw(`SELECT min(w.text) AS text, count(DISTINCT e.asker) AS n
		FROM evidence_words w JOIN evidence e ON e.id = w.evidence_id AND e.at = w.at
		WHERE w.at > ? AND e.kind = 'asked' AND NOT e.chosen AND length(w.text) BETWEEN 8 AND 120
		GROUP BY lower(w.text)
		HAVING count(DISTINCT e.asker) >= ? ORDER BY n DESC, text LIMIT 300`,
		a.base.Now().Add(-askedLately), askersOfPopular).
		Scan(&asked).
		Error
	if err != nil {
		return fmt.Errorf("counting what is asked: %w", err)
	}
	all, err := a.sites.ReadSettings(db)
	if err != nil {
		return err
	}
	for id, site := range all.ByID {
		var questions []search.Question
		for _, q := range asked {
			// What answers it is looked for with staff's eyes; whoever may not see that is not offered the question.
			found, err := a.index.Find(
				search.Request{
					Words:  q.Text,
					Viewer: all.StaffEyes(),
					Within: site.Within(),
					Limit:  1,
					Rules:  site.Rules,
				},
			)
			if err == nil && len(found.Hits) == 1 && found.Hits[0].Coverage >= answersPopular {
				questions = append(
					questions,
					search.Question{Text: q.Text, Reference: found.Hits[0].Reference, Times: q.N},
				)
			}
		}
		a.index.SetQuestions(id, questions)
	}
	return nil
}

// popularShown is how many articles the home page names as read by many.
const popularShown = 6

// Popular gives what many read now, of what the visitor may see.
func (a *Search) Popular(ctx context.Context, v evidence.Visitor) ([]Result, error) {
	a.popular.mu.Lock()
	refs := a.popular.refs[:min(len(a.popular.refs), 10*popularShown)]
	a.popular.mu.Unlock()
	return a.editionsOf(a.base.Steady.WithContext(ctx), v, refs, popularShown)
}

// editionsOf gives cards of articles in the visitor's language where they are written
// in it, else in the source's, in the order of the references.
func (a *Search) editionsOf(db *gorm.DB, v evidence.Visitor, references []string, most int) ([]Result, error) {
	var ask []string
	for _, ref := range references {
		ask = append(ask, ref)
		if v.Language != "" && v.Language != article.SourceLanguage {
			ask = append(ask, ref+"."+v.Language)
		}
	}
	known, err := LiveEditions(db, v, ask)
	if err != nil {
		return nil, err
	}
	var list []Result
	for _, ref := range references {
		r, ok := known[ref+"."+v.Language]
		if !ok {
			r, ok = known[ref]
		}
		if ok && len(list) < most {
			list = append(list, r)
		}
	}
	return list, nil
}

// suggested is how many suggestions stand under a field.
const suggested = 8

// Suggest completes what a visitor is typing. Nothing is kept: it is not asked yet.
// While the index may be behind, the database is asked once more who may see what it gave.
func (a *Search) Suggest(ctx context.Context, v evidence.Visitor, typed string) ([]search.Suggestion, error) {
	if len(typed) > 200 {
		return nil, nil
	}
	db := a.base.Steady.WithContext(ctx)
	r, err := a.request(db, v, typed, suggested)
	if err != nil {
		return nil, err
	}
	offered := a.index.Complete(r, v.Site)
	if !a.stale.Load() {
		return offered, nil
	}
	var references []string
	for _, s := range offered {
		references = append(references, s.Reference)
	}
	known, err := LiveEditions(db, v, references)
	return slices.DeleteFunc(offered, func(s search.Suggestion) bool { _, ok := known[s.Reference]; return !ok }), err
}

// relatedShown is how many articles are named beside one.
const relatedShown = 4

// Related gives articles near to one, of what the visitor may see.
func (a *Search) Related(ctx context.Context, v evidence.Visitor, reference, title string) ([]Result, error) {
	number, language, _ := article.ParseEdition(reference)
	db := a.base.Steady.WithContext(ctx)
	reader := v
	reader.Language = language
	found, err := a.lookFor(db, reader, title, relatedShown+1)
	if err != nil {
		return nil, err
	}
	others := slices.DeleteFunc(found.Fitting(), func(h search.Hit) bool {
		n, _, _ := article.ParseEdition(h.Reference)
		return n == number
	})
	return a.Confirm(db, v, others[:min(len(others), relatedShown)])
}

// Near gives a few articles that fit words, and keeps nothing: nobody asked.
func (a *Search) Near(ctx context.Context, v evidence.Visitor, words string) ([]Result, error) {
	return a.SearchFor(a.base.Steady.WithContext(ctx), v, words, relatedShown)
}
