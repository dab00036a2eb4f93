package review

import (
	"context"
	"strings"

	"gorm.io/gorm"

	"hermeneus/app/customers"
	"hermeneus/app/library"
	"hermeneus/app/problem"
	"hermeneus/app/staff"
	"hermeneus/core/article"
	"hermeneus/core/audience"
	"hermeneus/core/role"
	"hermeneus/store"
)

// AddKnownProblem opens one.
func (a *Rechecks) AddKnownProblem(ctx context.Context, by staff.Staff, name string) (library.KnownProblem, error) {
	if err := by.May("Opening a known problem", role.Author, role.Publisher); err != nil {
		return library.KnownProblem{}, err
	}
	var f problem.Fields
	f.Text("name", name, 120)
	if err := f.Err(); err != nil {
		return library.KnownProblem{}, err
	}
	row := store.KnownProblem{
		Name:     strings.TrimSpace(name),
		OpenedAt: a.base.Now(),
		Audience: string(audience.Everyone),
	}
	err := a.base.Transaction(ctx, func(tx *gorm.DB) error {
		if err := tx.Create(&row).Error; err != nil {
			return err
		}
		return a.trail.Note(tx, by, store.Trail{Subject: row.Name, Action: "opened known problem"})
	})
	return library.KnownProblem{ID: row.ID, Name: row.Name, OpenedAt: row.OpenedAt, Audience: audience.Everyone}, err
}

// SolveKnownProblem ends one; the interim articles that waited for it end with it.
func (a *Rechecks) SolveKnownProblem(ctx context.Context, by staff.Staff, id int64) error {
	if err := by.May("Solving a known problem", role.Author, role.Publisher); err != nil {
		return err
	}
	return a.base.Transaction(ctx, func(tx *gorm.DB) error {
		var row store.KnownProblem
		if err := tx.First(&row, id).Error; err != nil {
			return problem.From(err, "known problem")
		}
		if row.SolvedAt != nil {
			return nil
		}
		now := a.base.Now()
		row.SolvedAt = &now
		if err := tx.Save(&row).Error; err != nil {
			return err
		}
		if err := a.trail.Note(tx, by, store.Trail{Subject: row.Name, Action: "solved known problem"}); err != nil {
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
func (a *Rechecks) SetNotice(ctx context.Context, by staff.Staff, id int64, n NewNotice) error {
	if err := by.May("Telling customers of a known problem", role.Publisher, role.Administrator); err != nil {
		return err
	}
	var f problem.Fields
	f.AtMost("notice", n.Notice, 300)
	if err := customers.KnownAudience(a.base.DB.WithContext(ctx), &f, "audience", n.Audience); err != nil {
		return err
	}
	if err := f.Err(); err != nil {
		return err
	}
	return a.base.Transaction(ctx, func(tx *gorm.DB) error {
		var row store.KnownProblem
		if err := tx.First(&row, id).Error; err != nil {
			return problem.From(err, "known problem")
		}
		row.Notice, row.Audience, row.ArticleID = strings.TrimSpace(n.Notice), string(n.Audience), nil
		if n.Reference != "" {
			number, _, _ := article.ParseReference(n.Reference)
			var found store.Article
			if err := tx.Where("number = ?", number).Take(&found).Error; err != nil {
				return &problem.Problem{
					Kind:   problem.Invalid,
					Detail: "There is no such article.",
					Fields: []problem.Field{{Name: "reference", Message: "There is no article " + n.Reference + "."}},
				}
			}
			row.ArticleID = &found.ID
		}
		if err := tx.Save(&row).Error; err != nil {
			return err
		}
		return a.trail.Note(
			tx,
			by,
			store.Trail{Subject: row.Name, Action: "changed what customers are told", Note: row.Notice},
		)
	})
}
