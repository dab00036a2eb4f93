package outcomes

import (
	"context"
	"fmt"
	"sync"
	"time"

	"gorm.io/gorm"

	"hermeneus/app/evidence"
	"hermeneus/core/outcome"
	"hermeneus/store"
)

// ledger keeps the evidence read last. Evidence is append-only, so it is the
// same evidence as long as its number and its highest id are the same.
type ledger struct {
	db *gorm.DB

	mu    sync.Mutex
	mark  ledgerMark
	items []outcome.Evidence

	lately    sync.Mutex
	byArticle map[string]outcome.Counts
	folded    foldedAs
}

// foldedAs says of which evidence, by which window and when something was folded.
type foldedAs struct {
	mark   ledgerMark
	window time.Duration
	at     time.Time
}

// seen marks the evidence that was read last.
func (l *ledger) seen() ledgerMark {
	l.mu.Lock()
	defer l.mu.Unlock()
	return l.mark
}

type ledgerMark struct {
	N   int
	Max int64
}

// load gives all evidence. The result is shared and must not be changed.
func (l *ledger) load(ctx context.Context) ([]outcome.Evidence, error) {
	l.mu.Lock()
	defer l.mu.Unlock()
	db := l.db.WithContext(ctx)
	if err := l.readFrom(db, l.mark, l.items); err != nil {
		return nil, err
	}
	return l.items, nil
}

// readFrom goes on from evidence that was read up to a mark. A transaction may commit
// evidence with lower ids than were read already: then there is more of it up to the
// mark than was read, and all is read again.
func (l *ledger) readFrom(db *gorm.DB, mark ledgerMark, items []outcome.Evidence) error {
	var rows []store.Evidence
	if err := db.Where("id > ?", mark.Max).Order("id").Find(&rows).Error; err != nil {
		return fmt.Errorf("reading evidence: %w", err)
	}
	for _, r := range rows {
		items = append(items, evidence.FromRow(r))
	}
	if len(rows) > 0 {
		mark.Max = rows[len(rows)-1].ID
	}
	mark.N = len(items)
	var there int
	if err := db.Raw(`SELECT count(*) FROM evidence WHERE id <= ?`, mark.Max).Scan(&there).Error; err != nil {
		return fmt.Errorf("counting evidence: %w", err)
	}
	if there != mark.N && l.mark.N > 0 {
		l.mark, l.items = ledgerMark{}, nil
		return l.readFrom(db, l.mark, nil)
	}
	l.mark, l.items = mark, items
	return nil
}

// Evidence gives all evidence up to now, in the order it was kept.
func (a *Outcomes) Evidence(ctx context.Context) ([]outcome.Evidence, error) {
	return a.ledger.load(ctx)
}
