package desk

import (
	"context"
	"fmt"

	"hermeneus/app/library"
	"hermeneus/app/review"
	"hermeneus/core/article"
	"hermeneus/core/outcome"
)

// ArticleFigures is how a live article is doing.
type ArticleFigures struct {
	Opened  int                `json:"opened"`  // in the last 90 days, every opening
	Read    int                `json:"read"`    // likewise, really read
	Helpful outcome.Proportion `json:"helpful"` // of what readers last said of its revisions, ever
	Contact outcome.Proportion `json:"contact"` // contact after reading, of settled questions that ended with it
}

// ArticleFigures counts what became of those who opened an article.
func (a *Desk) ArticleFigures(ctx context.Context, reference string) (ArticleFigures, error) {
	db := a.base.DB.WithContext(ctx)
	row, _, err := library.FindEdition(db, reference, false)
	if err != nil {
		return ArticleFigures{}, err
	}
	ref := article.Reference(row.Number)
	var n struct{ Helped, Said int }
	err = db.Raw(`SELECT count(*) FILTER (WHERE v.helped) AS helped, count(*) AS said
		FROM votes v JOIN revisions r ON r.id = v.revision_id JOIN editions e ON e.id = r.edition_id
		WHERE e.article_id = ?`, row.ID).Scan(&n).Error
	if err != nil {
		return ArticleFigures{}, fmt.Errorf("counting how %s is doing: %w", ref, err)
	}
	opened, read, err := a.outcomes.Uses(ctx, ref, a.base.Now().Add(-review.ReadsOver))
	if err != nil {
		return ArticleFigures{}, err
	}
	byArticle, err := a.outcomes.OfArticles(ctx, []string{ref})
	if err != nil {
		return ArticleFigures{}, err
	}
	c := byArticle[ref]
	return ArticleFigures{
		opened,
		read,
		outcome.Wilson(n.Helped, n.Said),
		outcome.Wilson(c.Person+c.Returned, c.Settled()),
	}, nil
}
