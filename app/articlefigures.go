package app

import (
	"context"
	"fmt"

	"hermeneus/core/article"
	"hermeneus/core/outcome"
)

// Doing is how a live article is doing.
type Doing struct {
	Opened  int                `json:"opened"`  // in the last 90 days, every opening
	Read    int                `json:"read"`    // likewise, really read
	Helpful outcome.Proportion `json:"helpful"` // of what readers last said of its revisions, ever
	Contact outcome.Proportion `json:"contact"` // contact after reading, of settled questions that ended with it
}

// HowItIsDoing counts what became of those who opened an article.
func (a *App) HowItIsDoing(ctx context.Context, reference string) (Doing, error) {
	db := a.db.WithContext(ctx)
	row, _, err := find(db, reference, false)
	if err != nil {
		return Doing{}, err
	}
	ref := article.Reference(row.Number)
	var n struct{ Opened, Read, Helped, Said int }
	err = db.Raw(`SELECT
			(SELECT count(*) FROM evidence WHERE kind = 'opened' AND ref LIKE @ref AND at > @since) AS opened,
			(SELECT count(*) FROM evidence WHERE kind = 'read' AND ref LIKE @ref AND at > @since) AS read,
			count(*) FILTER (WHERE v.helped) AS helped, count(*) AS said
		FROM votes v JOIN revisions r ON r.id = v.revision_id JOIN editions e ON e.id = r.edition_id
		WHERE e.article_id = @id`,
		map[string]any{"ref": ref + "@%", "since": a.Now().Add(-readsOver), "id": row.ID}).
		Scan(&n).
		Error
	if err != nil {
		return Doing{}, fmt.Errorf("counting how %s is doing: %w", ref, err)
	}
	byArticle, err := a.outcomesByArticle(ctx)
	if err != nil {
		return Doing{}, err
	}
	c := byArticle[ref]
	return Doing{
		n.Opened,
		n.Read,
		outcome.Wilson(n.Helped, n.Said),
		outcome.Wilson(c.Person+c.Returned, c.Settled()),
	}, nil
}
