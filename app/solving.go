package app

import (
	"context"
	"strings"

	"gorm.io/gorm"

	"hermeneus/core/article"
	"hermeneus/core/audience"
	"hermeneus/core/role"
	"hermeneus/store"
)

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
	row := store.KnownProblem{Name: strings.TrimSpace(name), OpenedAt: a.Now(), Audience: string(audience.Everyone)}
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
		now := a.Now()
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
