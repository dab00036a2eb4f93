package app

import (
	"context"
	"fmt"
	"sync"
	"time"

	"gorm.io/gorm"

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
	var mark ledgerMark
	db := l.db.WithContext(ctx)
	if err := db.Raw(`SELECT count(*) AS n, coalesce(max(id), 0) AS max FROM evidence`).Scan(&mark).Error; err != nil {
		return nil, fmt.Errorf("reading evidence: %w", err)
	}
	if mark == l.mark {
		return l.items, nil
	}
	var rows []store.Evidence
	if err := db.Order("id").Find(&rows).Error; err != nil {
		return nil, fmt.Errorf("reading evidence: %w", err)
	}
	items := make([]outcome.Evidence, len(rows))
	for i, r := range rows {
		items[i] = item(r)
	}
	l.mark, l.items = ledgerMark{len(rows), 0}, items
	if len(rows) > 0 {
		l.mark.Max = rows[len(rows)-1].ID
	}
	return items, nil
}
