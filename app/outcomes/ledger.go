package outcomes

import (
	"context"
	"fmt"
	"sync"
	"time"

	"gorm.io/gorm"

	"hermeneus/app/evidence"
	"hermeneus/core/outcome"
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
	more, err := evidence.Items(db, "e.id > ? ORDER BY e.id", mark.Max)
	if err != nil {
		return err
	}
	items = append(items, more...)
	if len(more) > 0 {
		mark.Max = int64(more[len(more)-1].Line)
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
