package lists

import (
	"context"
	"fmt"
	"strings"
	"time"

	"hermeneus/app/instance"
	"hermeneus/app/library"
	"hermeneus/app/problem"
	"hermeneus/core/article"
	"hermeneus/core/audience"
	"hermeneus/core/outcome"
	"hermeneus/core/review"
)

// ArticleFilter chooses articles. Zero values choose all.
type ArticleFilter struct {
	CategoryID int64             `json:"category,omitempty"` // with everything below it
	Here       bool              `json:"here,omitempty"`     // the category alone
	State      review.State      `json:"state,omitempty"`
	Live       bool              `json:"live,omitempty"` // something is live
	OwnerID    int64             `json:"owner,omitempty"`
	LeftOwner  bool              `json:"left,omitempty"` // the owner has left
	Kind       string            `json:"kind,omitempty"`
	Audience   audience.Audience `json:"audience,omitempty"`
	Language   string            `json:"language,omitempty"` // an edition in it is there
	Behind     bool              `json:"behind,omitempty"`   // an edition says something else than the source
	Overdue    bool              `json:"overdue,omitempty"`  // its recheck date has passed, or what it waited for
	Interim    bool              `json:"interim,omitempty"`
	Unlinked   bool              `json:"unlinked,omitempty"`   // no other article points to it
	Unopened   bool              `json:"unopened,omitempty"`   // live, and nobody has opened it
	DeadLinks  bool              `json:"dead_links,omitempty"` // it points to an address outside that does not answer
	Feedback   bool              `json:"feedback,omitempty"`   // a reader waits for an answer
	SiteID     int64             `json:"site,omitempty"`       // shown there
	Words      string            `json:"words,omitempty"`      // found in the title, keywords or reference
	Sort       string            `json:"sort,omitempty"`       // "", title, written, owner, recheck, state, opened; a leading - turns it round
	Page       int               `json:"page,omitempty"`       // from 1
}

// ArticleLine is an article in a list.
type ArticleLine struct {
	ID           int64             `json:"id"`
	Reference    string            `json:"reference"`
	Title        string            `json:"title"`
	CategoryID   int64             `json:"category_id"`
	Category     string            `json:"category"`
	State        review.State      `json:"state"`
	Live         bool              `json:"live"`
	Audience     audience.Audience `json:"audience"`
	Owner        string            `json:"owner"`
	OwnerLeft    bool              `json:"owner_left"`
	Kind         string            `json:"kind"`
	WrittenAt    time.Time         `json:"written_at"`
	Writer       string            `json:"writer"`
	SubmittedAt  *time.Time        `json:"submitted_at"`
	DecisionNote string            `json:"decision_note"`
	RecheckOn    time.Time         `json:"recheck_on"`
	Overdue      bool              `json:"overdue"`
	Interim      bool              `json:"interim"`
	Languages    string            `json:"languages"` // of its editions besides the source, with commas; behind ones end in !
	Outcomes     outcome.Counts    `gorm:"-" json:"outcomes"`
}

// overdueSQL tells articles a that must be looked at again; it takes the day it is
// twice.
const overdueSQL = `(e.live_revision_id IS NOT NULL AND (a.recheck_on <= ? OR a.interim_until <= ?
	OR EXISTS (SELECT 1 FROM known_problems k WHERE k.id = a.known_problem_id AND k.solved_at IS NOT NULL)))`

const behindSQL = `(x.language <> '` + article.SourceLanguage + `' AND e.live_revision_id IS NOT NULL
	AND x.source_revision_id IS DISTINCT FROM e.live_revision_id)`

// listFrom joins what the conditions and the order speak of, and no more: the
// source editions are wide, and a count need not look at them.
func listFrom(conditions string) string {
	from := ` FROM articles a`
	if strings.Contains(conditions, "e.") {
		from += ` JOIN editions e ON e.article_id = a.id AND e.language = '` + article.SourceLanguage + `'`
	}
	if strings.Contains(conditions, "o.") {
		from += ` JOIN staff o ON o.id = a.owner_id`
	}
	return from + ` WHERE `
}

// Where writes a filter as SQL.
func (a *Lists) Where(f ArticleFilter) (string, []any) {
	where, args := []string{"true"}, []any{}
	add := func(use bool, sql string, values ...any) {
		if use {
			where, args = append(where, sql), append(args, values...)
		}
	}
	today := a.base.Today()
	add(f.CategoryID != 0 && f.Here, "a.category_id = ?", f.CategoryID)
	add(f.CategoryID != 0 && !f.Here, `a.category_id IN (WITH RECURSIVE below AS
			(SELECT id FROM categories WHERE id = ? UNION ALL SELECT c.id FROM categories c
			JOIN below ON c.parent_id = below.id) SELECT id FROM below)`, f.CategoryID)
	add(f.State != "", "e.state = ?", string(f.State))
	add(f.Live, "e.live_revision_id IS NOT NULL")
	add(f.OwnerID != 0, "a.owner_id = ?", f.OwnerID)
	add(f.LeftOwner, "o.disabled_at IS NOT NULL")
	add(f.Kind != "", "a.kind = ?", f.Kind)
	add(f.Audience != "", "a.audience = ?", string(f.Audience))
	add(f.Language != "", "EXISTS (SELECT 1 FROM editions x WHERE x.article_id = a.id AND x.language = ?)", f.Language)
	add(f.Behind, "EXISTS (SELECT 1 FROM editions x WHERE x.article_id = a.id AND "+behindSQL+")")
	add(f.Overdue, overdueSQL, today, today)
	add(f.Interim, "(a.interim_until IS NOT NULL OR a.known_problem_id IS NOT NULL)")
	add(f.Unlinked, "NOT EXISTS (SELECT 1 FROM links l WHERE l.number = a.number AND l.edition_id <> e.id)")
	add(
		f.Unopened,
		`e.live_revision_id IS NOT NULL
				AND NOT EXISTS (SELECT FROM article_uses u WHERE u.article = a.number AND u.opened > 0)`,
	)
	add(
		f.DeadLinks,
		`EXISTS (SELECT 1 FROM outside_uses u JOIN outside_links k ON k.address = u.address
			JOIN editions x ON x.id = u.edition_id WHERE x.article_id = a.id AND k.fault <> '')`,
	)
	add(
		f.Feedback,
		`EXISTS (SELECT 1 FROM feedback f JOIN editions x ON x.id = f.edition_id
			WHERE x.article_id = a.id AND f.answer IN ('', 'passed_on'))`,
	)
	add(f.SiteID != 0, library.SiteFilter(f.SiteID))
	if words := strings.TrimSpace(f.Words); words != "" {
		like := "%" + instance.EscapeLike(words) + "%"
		add(true, `(e.named ILIKE ? OR `+library.ReferenceSQL+` ILIKE ?)`, like, like)
	}
	conditions := strings.Join(where, " AND ")
	return listFrom(conditions+orders[f.Sort]) + conditions, args
}

// orders are the ways to sort a list, each ending in what tells any two apart.
var orders = map[string]string{
	"":         `way, a.position, a.id`,
	"title":    `lower(e.title), a.id`,
	"-title":   `lower(e.title) DESC, a.id`,
	"written":  `e.written_at, a.id`,
	"-written": `e.written_at DESC, a.id`,
	"owner":    `o.name, a.id`,
	"-owner":   `o.name DESC, a.id`,
	"recheck":  `a.recheck_on, a.id`,
	"-recheck": `a.recheck_on DESC, a.id`,
	"state":    `e.state, a.id`,
	"-state":   `e.state DESC, a.id`,
}

// ListArticles gives one page of the articles that fit, in the order of the
// tree or as asked, and how many fit in all.
func (a *Lists) ListArticles(ctx context.Context, f ArticleFilter) ([]ArticleLine, int, error) {
	order, ok := orders[f.Sort]
	if !ok {
		return nil, 0, problem.OfField("sort", "There is no such order.")
	}
	sql, args := a.Where(f)
	db := a.base.DB.WithContext(ctx)
	var total int
	if err := db.Raw(`SELECT count(*)`+sql, args...).Scan(&total).Error; err != nil {
		return nil, 0, fmt.Errorf("counting articles: %w", err)
	}
	// The page is chosen by ids first, so that what is shown is looked up for its rows alone.
	ids := `SELECT id, row_number() OVER () AS n
		FROM (SELECT a.id` + sql + ` ORDER BY ` + order + ` LIMIT ? OFFSET ?) page`
	if f.Sort == "" {
		ids = strings.Replace(ids, ` FROM articles a`, ` FROM articles a JOIN walk ON walk.id = a.category_id`, 1)
	}
	today := a.base.Today()
	var lines []ArticleLine
	err := db.Raw(`WITH RECURSIVE walk AS (
			SELECT id, ARRAY[position, id] AS way FROM categories WHERE parent_id IS NULL
			UNION ALL SELECT c.id, way || c.position::bigint || c.id FROM categories c JOIN walk ON c.parent_id = walk.id
		), chosen AS (`+ids+`)
		SELECT a.id, `+library.ReferenceSQL+` AS reference, e.title, a.category_id, c.name AS category, e.state,
			e.live_revision_id IS NOT NULL AS live, a.audience, o.name AS owner, o.disabled_at IS NOT NULL AS owner_left,
			a.kind, e.written_at, w.name AS writer, e.submitted_at, e.decision_note, a.recheck_on,
			coalesce(`+overdueSQL+`, false) AS overdue,
			a.interim_until IS NOT NULL OR a.known_problem_id IS NOT NULL AS interim,
			coalesce((
				SELECT string_agg(x.language || CASE WHEN `+behindSQL+` THEN '!' ELSE '' END, ',' ORDER BY x.language)
				FROM editions x WHERE x.article_id = a.id AND x.language <> '`+article.SourceLanguage+`'
			), '') AS languages
		FROM chosen
		JOIN articles a ON a.id = chosen.id
		JOIN editions e ON e.article_id = a.id AND e.language = '`+article.SourceLanguage+`'
		JOIN categories c ON c.id = a.category_id
		JOIN staff o ON o.id = a.owner_id
		JOIN staff w ON w.id = e.writer_id
		ORDER BY chosen.n`,
		append(append(args, instance.PageSize, instance.Offset(f.Page)), today, today)...).Scan(&lines).Error
	if err != nil {
		return nil, 0, fmt.Errorf("listing articles: %w", err)
	}
	var references []string
	for _, l := range lines {
		references = append(references, l.Reference)
	}
	byArticle, err := a.outcomes.OfArticles(ctx, references)
	if err != nil {
		return nil, 0, err
	}
	for i := range lines {
		lines[i].Outcomes = byArticle[lines[i].Reference]
	}
	return lines, total, nil
}
