package app

import (
	"context"
	"fmt"
	"strings"
	"time"

	"hermeneus/core/article"
	"hermeneus/core/audience"
	"hermeneus/core/outcome"
)

// ArticleFilter chooses articles. Zero values choose all.
type ArticleFilter struct {
	CategoryID int64 // with everything below it
	State      article.State
	Live       bool // something is live
	OwnerID    int64
	Words      string // found in the title, keywords or reference
	Page       int    // from 1
}

// referenceSQL writes the reference of articles a.
const referenceSQL = `'A-' || lpad(a.number::text, greatest(4, length(a.number::text)), '0')`

// PageSize is how many rows a list gives at once.
const PageSize = 50

// ArticleLine is an article in a list.
type ArticleLine struct {
	Reference    string            `json:"reference"`
	Title        string            `json:"title"`
	Category     string            `json:"category"`
	State        article.State     `json:"state"`
	Live         bool              `json:"live"`
	Audience     audience.Audience `json:"audience"`
	Owner        string            `json:"owner"`
	Kind         string            `json:"kind"`
	WrittenAt    time.Time         `json:"written_at"`
	Writer       string            `json:"writer"`
	SubmittedAt  *time.Time        `json:"submitted_at"`
	DecisionNote string            `json:"decision_note"`
	Outcomes     outcome.Counts    `gorm:"-" json:"outcomes"`
}

// ListArticles gives one page of the articles that fit, in the order of the
// tree, and how many fit in all.
func (a *App) ListArticles(ctx context.Context, f ArticleFilter) ([]ArticleLine, int, error) {
	where, args := []string{"true"}, []any{}
	add := func(use bool, sql string, values ...any) {
		if use {
			where, args = append(where, sql), append(args, values...)
		}
	}
	add(f.CategoryID != 0, `a.category_id IN (WITH RECURSIVE below AS (SELECT id FROM categories WHERE id = ?
		UNION ALL SELECT c.id FROM categories c JOIN below ON c.parent_id = below.id) SELECT id FROM below)`, f.CategoryID)
	add(f.State != "", "e.state = ?", string(f.State))
	add(f.Live, "e.live_revision_id IS NOT NULL")
	add(f.OwnerID != 0, "a.owner_id = ?", f.OwnerID)
	if words := strings.TrimSpace(f.Words); words != "" {
		like := "%" + escapeLike(words) + "%"
		add(true, `(e.title ILIKE ? OR array_to_string(e.keywords, ' ') ILIKE ? OR `+referenceSQL+` ILIKE ?)`, like, like, like)
	}
	sql := ` FROM articles a JOIN editions e ON e.article_id = a.id AND e.language = '` + sourceLanguage + `'
		JOIN categories c ON c.id = a.category_id JOIN staff o ON o.id = a.owner_id JOIN staff w ON w.id = e.writer_id
		WHERE ` + strings.Join(where, " AND ")
	db := a.db.WithContext(ctx)
	var total int
	if err := db.Raw(`SELECT count(*)`+sql, args...).Scan(&total).Error; err != nil {
		return nil, 0, fmt.Errorf("counting articles: %w", err)
	}
	var lines []ArticleLine
	err := db.Raw(`SELECT `+referenceSQL+` AS reference, e.title, c.name AS category, e.state,
		e.live_revision_id IS NOT NULL AS live, a.audience, o.name AS owner, a.kind, e.written_at, w.name AS writer, e.submitted_at, e.decision_note`+sql+
		` ORDER BY c.parent_id NULLS FIRST, c.position, c.id, a.position, a.id LIMIT ? OFFSET ?`, append(args, PageSize, max(0, f.Page-1)*PageSize)...).Scan(&lines).Error
	if err != nil {
		return nil, 0, fmt.Errorf("listing articles: %w", err)
	}
	byArticle, err := a.outcomesByArticle(ctx)
	if err != nil {
		return nil, 0, err
	}
	for i := range lines {
		lines[i].Outcomes = byArticle[lines[i].Reference]
	}
	return lines, total, nil
}

// escapeLike takes the meaning out of the wildcards of LIKE.
func escapeLike(words string) string {
	return strings.NewReplacer(`\`, `\\`, `%`, `\%`, `_`, `\_`).Replace(words)
}
