package app

import (
	"context"
	"fmt"
	"strings"
	"time"

	"gorm.io/gorm"

	"hermeneus/core/article"
	"hermeneus/core/audience"
	"hermeneus/core/role"
	"hermeneus/store"
)

// KnownProblem is one cause that interim articles wait for the end of.
type KnownProblem struct {
	ID       int64      `json:"id"`
	Name     string     `json:"name"`
	OpenedAt time.Time  `json:"opened_at"`
	SolvedAt *time.Time `json:"solved_at"`

	Notice    string            `json:"notice"` // what the help centre tells customers while it is open; "" for nothing
	Audience  audience.Audience `json:"audience"`
	Reference string            `json:"reference"` // of an article that says more, "" for none
}

// KnownProblems lists them, the open ones first.
func (a *App) KnownProblems(ctx context.Context) ([]KnownProblem, error) {
	var list []KnownProblem
	err := a.db.WithContext(ctx).
		Raw(`SELECT k.*, coalesce('A-' || lpad(a.number::text, 4, '0'), '') AS reference
			FROM known_problems k LEFT JOIN articles a ON a.id = k.article_id
			ORDER BY solved_at DESC NULLS FIRST, id DESC LIMIT 200`).
		Scan(&list).
		Error
	return list, err
}

// AddKnownProblem opens one.
func (a *App) AddKnownProblem(ctx context.Context, by Staff, name string) (KnownProblem, error) {
	if err := by.may("Opening a known problem", role.Author, role.Publisher); err != nil {
		return KnownProblem{}, err
	}
	var f fields
	f.text("name", name, 120)
	if err := f.err(); err != nil {
		return KnownProblem{}, err
	}
	row := store.KnownProblem{Name: strings.TrimSpace(name), OpenedAt: a.now(), Audience: string(audience.Everyone)}
	err := a.transaction(ctx, func(tx *gorm.DB) error {
		if err := tx.Create(&row).Error; err != nil {
			return err
		}
		return a.note(tx, by, store.Trail{Subject: row.Name, Action: "opened known problem"})
	})
	return KnownProblem{ID: row.ID, Name: row.Name, OpenedAt: row.OpenedAt, Audience: audience.Everyone}, err
}

// SolveKnownProblem ends one; the interim articles that waited for it end with it.
func (a *App) SolveKnownProblem(ctx context.Context, by Staff, id int64) error {
	if err := by.may("Solving a known problem", role.Author, role.Publisher); err != nil {
		return err
	}
	return a.transaction(ctx, func(tx *gorm.DB) error {
		var row store.KnownProblem
		if err := tx.First(&row, id).Error; err != nil {
			return asProblem(err, "known problem")
		}
		if row.SolvedAt != nil {
			return nil
		}
		now := a.now()
		row.SolvedAt = &now
		if err := tx.Save(&row).Error; err != nil {
			return err
		}
		if err := a.note(tx, by, store.Trail{Subject: row.Name, Action: "solved known problem"}); err != nil {
			return err
		}
		var numbers []int
		if err := tx.Raw(`SELECT number FROM articles WHERE known_problem_id = ? ORDER BY id`, id).
			Scan(&numbers).
			Error; err != nil {
			return err
		}
		for _, n := range numbers {
			if err := a.endInterim(tx, by, n, row.Name); err != nil {
				return err
			}
		}
		return nil
	})
}

// NewNotice is what customers are told of a known problem.
type NewNotice struct {
	Notice    string            `json:"notice"` // "" takes it away
	Audience  audience.Audience `json:"audience"`
	Reference string            `json:"reference"`
}

// SetNotice changes what the help centre says of a known problem while it is open.
func (a *App) SetNotice(ctx context.Context, by Staff, id int64, n NewNotice) error {
	if err := by.may("Telling customers of a known problem", role.Publisher, role.Administrator); err != nil {
		return err
	}
	var f fields
	f.atMost("notice", n.Notice, 300)
	if err := knownAudience(a.db.WithContext(ctx), &f, "audience", n.Audience); err != nil {
		return err
	}
	if err := f.err(); err != nil {
		return err
	}
	return a.transaction(ctx, func(tx *gorm.DB) error {
		var row store.KnownProblem
		if err := tx.First(&row, id).Error; err != nil {
			return asProblem(err, "known problem")
		}
		row.Notice, row.Audience, row.ArticleID = strings.TrimSpace(n.Notice), string(n.Audience), nil
		if n.Reference != "" {
			number, _, _ := article.ParseReference(n.Reference)
			var found store.Article
			if err := tx.Where("number = ?", number).Take(&found).Error; err != nil {
				return &Problem{
					Kind:   Invalid,
					Detail: "There is no such article.",
					Fields: []Field{{"reference", "There is no article " + n.Reference + "."}},
				}
			}
			row.ArticleID = &found.ID
		}
		if err := tx.Save(&row).Error; err != nil {
			return err
		}
		return a.note(
			tx,
			by,
			store.Trail{Subject: row.Name, Action: "changed what customers are told", Note: row.Notice},
		)
	})
}

// Notice is what customers are told of a known problem.
type Notice struct {
	Name   string
	Text   string
	Since  time.Time
	Number int
}

// Reference is that of the article which says more, "" for none.
func (n Notice) Reference() string {
	if n.Number == 0 {
		return ""
	}
	return article.Reference(n.Number)
}

// Notices gives the notices of open problems that are for a visitor, the newest first.
// An article is named only to who may read it.
func (a *App) Notices(ctx context.Context, v Visitor) ([]Notice, error) {
	var list []Notice
	err := a.db.WithContext(ctx).Raw(`SELECT k.name, k.notice AS text, k.opened_at AS since,
			coalesce((SELECT a.number FROM articles a
			JOIN editions e ON e.article_id = a.id AND e.language = ? AND e.live_revision_id IS NOT NULL
			WHERE a.id = k.article_id AND a.audience IN ? AND `+v.filter()+`), 0) AS number
					FROM known_problems k WHERE k.solved_at IS NULL AND k.notice <> '' AND k.audience IN ?
					ORDER BY k.id DESC LIMIT 5`,
		article.SourceLanguage, v.Viewer().Sees(), v.Viewer().Sees()).Scan(&list).Error
	if err != nil {
		return nil, fmt.Errorf("reading notices: %w", err)
	}
	return list, nil
}
