package search

import (
	"context"
	"fmt"
	"log/slog"
	"runtime"
	"sync"

	"hermeneus/core/article"
	"hermeneus/core/audience"
	"hermeneus/core/search"
	"hermeneus/store"
)

// liveRow is what the search index needs of a live revision.
type liveRow struct {
	Number            int
	Revision          int
	Language          string
	Title             string
	Body              string
	SearchDescription string
	Keywords          store.Strings `gorm:"type:text[]"`
	Audience          string
	CategoryID        int64
}

func (r liveRow) document() search.Document {
	outline := article.Read(r.Body)
	return search.Document{
		Reference: article.EditionReference(r.Number, r.Language),
		Revision:  r.Revision,
		Language:  r.Language,
		Title:     r.Title,
		Summary:   article.Summary(r.SearchDescription, outline),
		Keywords:  r.Keywords,
		Headings:  outline.Headings,
		Body:      outline.Text(),
		Audience:  audience.Audience(r.Audience),
		Category:  r.CategoryID,
	}
}

const liveRows = `SELECT a.number, r.number AS revision, e.language, r.title, r.body, r.search_description,
		r.keywords, a.audience, a.category_id
	FROM articles a JOIN editions e ON e.article_id = a.id JOIN revisions r ON r.id = e.live_revision_id`

// indexedAtOnce is how many live editions are read and indexed in one go.
const indexedAtOnce = 5000

// Reindex puts every live edition into the index.
func (a *Search) Reindex(ctx context.Context) error {
	a.indexing.Lock()
	defer a.indexing.Unlock()
	fresh := search.New()
	rows, err := a.base.DB.WithContext(ctx).Raw(liveRows + ` ORDER BY a.id, e.id`).Rows()
	if err != nil {
		return fmt.Errorf("reading live articles: %w", err)
	}
	defer func() { _ = rows.Close() }()
	var batch []liveRow
	put := func() error {
		err := fresh.Put(documents(batch)...)
		batch = batch[:0]
		return err
	}
	for rows.Next() {
		var row liveRow
		if err := rows.Scan(
			&row.Number,
			&row.Revision,
			&row.Language,
			&row.Title,
			&row.Body,
			&row.SearchDescription,
			&row.Keywords,
			&row.Audience,
			&row.CategoryID,
		); err != nil {
			return fmt.Errorf("reading live articles: %w", err)
		}
		if batch = append(batch, row); len(batch) == indexedAtOnce {
			if err := put(); err != nil {
				return err
			}
		}
	}
	if err := rows.Err(); err != nil {
		return fmt.Errorf("reading live articles: %w", err)
	}
	if err := put(); err != nil {
		return err
	}
	a.index.Become(fresh)
	return nil
}

// documents reads texts, on all processors.
func documents(rows []liveRow) []search.Document {
	docs := make([]search.Document, len(rows))
	inParallel(len(rows), func(i int) { docs[i] = rows[i].document() })
	return docs
}

// reindexArticle brings the index up to date with the editions of one article.
func (a *Search) reindexArticle(ctx context.Context, id int64) error {
	// After a whole index that is being read, or that would undo this change.
	a.indexing.Lock()
	defer a.indexing.Unlock()
	db := a.base.DB.WithContext(ctx)
	var number int
	if err := db.Raw(`SELECT number FROM articles WHERE id = ?`, id).Scan(&number).Error; err != nil {
		return err
	}
	var rows []liveRow
	if err := db.Raw(liveRows+` WHERE a.id = ?`, id).Scan(&rows).Error; err != nil {
		return fmt.Errorf("reading a live article: %w", err)
	}
	var live []string
	for _, r := range rows {
		live = append(live, article.EditionReference(r.Number, r.Language))
	}
	a.index.RemoveArticle(article.Reference(number), live...)
	return a.index.Put(documents(rows)...)
}

// reindexChanged brings the index up to date with a change.
func (a *Search) reindexChanged(c store.Change) {
	if c.About != store.ArticleChanged {
		return
	}
	if err := a.reindexArticle(context.Background(), c.ID); err != nil {
		slog.Error("bringing the search index up to date", "article", c.ID, "error", err)
	}
}

// reindexAll makes up for changes that may have gone by unheard.
func (a *Search) reindexAll() {
	if err := a.Reindex(context.Background()); err != nil {
		slog.Error("rebuilding the search index", "error", err)
	} else {
		a.stale.Store(false)
	}
}

// inParallel does n things on all processors, and waits for them.
func inParallel(n int, do func(i int)) {
	workers := max(1, min(runtime.GOMAXPROCS(0), n/32))
	var working sync.WaitGroup
	for w := range workers {
		working.Go(func() {
			for i := w; i < n; i += workers {
				do(i)
			}
		})
	}
	working.Wait()
}
