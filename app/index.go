package app

import (
	"context"
	"fmt"

	"github.com/lib/pq"

	"hermeneus/core/article"
	"hermeneus/core/audience"
	"hermeneus/core/search"
)

// liveRow is what the search index needs of a live revision.
type liveRow struct {
	Number   int
	Title    string
	Body     string
	Keywords pq.StringArray `gorm:"type:text[]"`
	Audience string
}

func (r liveRow) document() search.Document {
	outline := article.Read(r.Body)
	return search.Document{Reference: article.Reference(r.Number), Title: r.Title, Keywords: r.Keywords,
		Headings: outline.Headings, Body: outline.Text(), Audience: audience.Audience(r.Audience)}
}

const liveRows = `SELECT a.number, r.title, r.body, r.keywords, a.audience FROM articles a
	JOIN editions e ON e.article_id = a.id AND e.language = '` + sourceLanguage + `'
	JOIN revisions r ON r.id = e.live_revision_id`

// reindex puts every live article into the index.
func (a *App) reindex(ctx context.Context) error {
	var rows []liveRow
	if err := a.db.WithContext(ctx).Raw(liveRows).Scan(&rows).Error; err != nil {
		return fmt.Errorf("reading live articles: %w", err)
	}
	docs := make([]search.Document, len(rows))
	for i, r := range rows {
		docs[i] = r.document()
	}
	return a.index.Replace(docs...)
}

// reindexArticle brings the index up to date with one article.
func (a *App) reindexArticle(ctx context.Context, id int64) error {
	db := a.db.WithContext(ctx)
	var rows []liveRow
	if err := db.Raw(liveRows+` WHERE a.id = ?`, id).Scan(&rows).Error; err != nil {
		return fmt.Errorf("reading a live article: %w", err)
	}
	if len(rows) == 1 {
		return a.index.Put(rows[0].document())
	}
	var number int
	if err := db.Raw(`SELECT number FROM articles WHERE id = ?`, id).Scan(&number).Error; err != nil {
		return err
	}
	return a.index.Remove(article.Reference(number))
}
