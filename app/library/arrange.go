package library

import (
	"context"
	"fmt"
	"slices"

	"gorm.io/gorm"

	"hermeneus/app/problem"
	"hermeneus/app/staff"
	"hermeneus/core/article"
	"hermeneus/core/role"
	"hermeneus/store"
)

// Place is where something goes in the tree: inside a category (0 for the top),
// before one of its neighbours (0 for the end).
type Place struct {
	ParentID int64 `json:"parent_id"`
	BeforeID int64 `json:"before_id"`
}

// MoveCategory puts a category, with everything in it, at another place.
func (a *Library) MoveCategory(ctx context.Context, by staff.Staff, id int64, to Place) error {
	if err := by.May("Moving a category", role.Author, role.Publisher, role.Administrator); err != nil {
		return err
	}
	return a.base.Change(ctx, store.SiteChanged, func(tx *gorm.DB) error {
		if err := lockTree(tx); err != nil {
			return err
		}
		var row store.Category
		if err := tx.First(&row, id).Error; err != nil {
			return problem.From(err, "category")
		}
		if err := fits(tx, id, to.ParentID); err != nil {
			return err
		}
		row.ParentID = nil
		if to.ParentID != 0 {
			row.ParentID = &to.ParentID
		}
		if err := tx.Save(&row).Error; err != nil {
			return err
		}
		var order []int64
		err := tx.Raw(`SELECT id
			FROM categories WHERE coalesce(parent_id, 0) = ? AND id <> ? ORDER BY position, id`, to.ParentID, id).
			Scan(&order).
			Error
		if err != nil {
			return err
		}
		if err := inOrder(tx, "categories", putBefore(order, id, to.BeforeID)); err != nil {
			return err
		}
		return a.trail.Note(tx, by, store.Trail{CategoryID: &row.ID, Subject: row.Name, Action: "moved category"})
	})
}

// lockTree lets one person at a time change the shape of the tree.
func lockTree(tx *gorm.DB) error {
	return tx.Exec(`LOCK TABLE categories IN SHARE ROW EXCLUSIVE MODE`).Error
}

// fits checks that a category can stand inside another: not in itself, and not too deep.
func fits(tx *gorm.DB, id, parent int64) error {
	if parent == 0 {
		return nil
	}
	depth, err := depthOf(tx, parent)
	if err != nil {
		return err
	}
	var below struct {
		Height int
		Inside bool
	}
	err = tx.Raw(`WITH RECURSIVE below AS (SELECT id, 1 AS depth FROM categories WHERE id = ?
		UNION ALL SELECT c.id, depth + 1 FROM categories c JOIN below ON c.parent_id = below.id)
		SELECT max(depth) AS height, bool_or(id = ?) AS inside FROM below`, id, parent).Scan(&below).Error
	if err != nil {
		return err
	}
	if below.Inside {
		return problem.New(problem.NotNow, "A category cannot stand inside itself.")
	}
	if depth+below.Height > MaxDepth {
		return problem.New(
			problem.TooDeep,
			"Categories can stand %d deep; this would be level %d. Put it higher up.",
			MaxDepth,
			depth+below.Height,
		)
	}
	return nil
}

// putBefore gives the order with id before another, at the end when that is not in it.
func putBefore(order []int64, id, before int64) []int64 {
	if at := slices.Index(order, before); at >= 0 {
		return slices.Insert(order, at, id)
	}
	return append(order, id)
}

// inOrder writes an order down.
func inOrder(tx *gorm.DB, table string, order []int64) error {
	for i, id := range order {
		if err := tx.Exec(
			`UPDATE `+table+` SET position = ? WHERE id = ? AND position <> ?`,
			i+1,
			id,
			i+1,
		).Error; err != nil {
			return fmt.Errorf("ordering %s: %w", table, err)
		}
	}
	return nil
}

// MoveArticle puts an article into a category (ParentID), before one of its
// articles.
func (a *Library) MoveArticle(ctx context.Context, by staff.Staff, reference string, to Place) error {
	if err := by.May("Moving an article", role.Author, role.Publisher); err != nil {
		return err
	}
	return a.base.Change(ctx, store.SiteChanged, func(tx *gorm.DB) error {
		row, _, err := FindEdition(tx, reference, true)
		if err != nil {
			return err
		}
		before := row
		row.CategoryID = to.ParentID
		if err := a.KeepProperties(tx, by, before, row); err != nil {
			return err
		}
		var order []int64
		err = tx.Raw(`SELECT id
			FROM articles WHERE category_id = ? AND id <> ? ORDER BY position, id`, to.ParentID, row.ID).
			Scan(&order).
			Error
		if err != nil {
			return err
		}
		return inOrder(tx, "articles", putBefore(order, row.ID, to.BeforeID))
	})
}

// MergeCategory puts everything of a category at the end of another and removes it.
func (a *Library) MergeCategory(ctx context.Context, by staff.Staff, id, into int64) error {
	if err := by.May("Merging categories", role.Publisher, role.Administrator); err != nil {
		return err
	}
	return a.base.Change(ctx, store.SiteChanged, func(tx *gorm.DB) error {
		if err := lockTree(tx); err != nil {
			return err
		}
		var from, to store.Category
		if err := tx.First(&from, id).Error; err != nil {
			return problem.From(err, "category")
		}
		if err := tx.First(&to, into).Error; err != nil {
			return problem.From(err, "category")
		}
		var children []int64
		if err := tx.Raw(`SELECT id FROM categories WHERE parent_id = ? ORDER BY position, id`, id).
			Scan(&children).
			Error; err != nil {
			return err
		}
		if id == into {
			return problem.New(problem.NotNow, "A category cannot be merged with itself.")
		}
		for _, c := range children {
			if c == into {
				return problem.New(problem.NotNow, "%s stands inside %s. Move it out first.", to.Name, from.Name)
			}
			if err := fits(tx, c, into); err != nil {
				return err
			}
		}
		var moved []int64
		if err := tx.Raw(`SELECT id FROM articles WHERE category_id = ?`, id).Scan(&moved).Error; err != nil {
			return err
		}
		for _, sql := range []string{
			`UPDATE articles
				SET category_id = @into, position = position +
					(SELECT coalesce(max(position), 0) FROM articles WHERE category_id = @into)
				WHERE category_id = @id`,
			`UPDATE categories
				SET parent_id = @into, position = position +
					(SELECT coalesce(max(position), 0) FROM categories WHERE parent_id = @into)
				WHERE parent_id = @id`,
			`INSERT INTO site_categories
				SELECT site_id, @into FROM site_categories WHERE category_id = @id ON CONFLICT DO NOTHING`,
			`DELETE FROM categories WHERE id = @id`,
		} {
			if err := tx.Exec(sql, map[string]any{"id": id, "into": into}).Error; err != nil {
				return fmt.Errorf("merging categories: %w", err)
			}
		}
		for _, article := range moved { // the index knows an article's category
			if err := store.Announce(tx, store.ArticleChanged, article); err != nil {
				return err
			}
		}
		return a.trail.Note(
			tx,
			by,
			store.Trail{
				CategoryID: &to.ID,
				Subject:    to.Name,
				Action:     "merged category",
				Note:       from.Name + " into " + to.Name,
			},
		)
	})
}

// SetCategoryPicture gives a category a picture, or takes it away ("").
func (a *Library) SetCategoryPicture(ctx context.Context, by staff.Staff, id int64, hash string) error {
	if err := by.May("Changing a category", role.Author, role.Publisher, role.Administrator); err != nil {
		return err
	}
	var picture *string
	if hash != "" {
		picture = &hash
	}
	done := a.base.DB.WithContext(ctx).
		Exec(`UPDATE categories
			SET picture = ?
			WHERE id = ? AND (?::text IS NULL OR EXISTS (SELECT 1 FROM files WHERE hash = ?))`, picture, id, picture, hash)
	if done.Error == nil && done.RowsAffected == 0 {
		return problem.New(problem.NotFound, "There is no such category or picture.")
	}
	return done.Error
}

// Dismiss sets a check of the margin aside, with the reason, or takes that back ("").
func (a *Library) Dismiss(ctx context.Context, by staff.Staff, reference, key, reason string) error {
	if err := by.May("Setting a note aside", role.Author, role.Reviewer); err != nil {
		return err
	}
	var f problem.Fields
	f.Text("key", key, 60)
	f.AtMost("reason", reason, 300)
	if err := f.Err(); err != nil {
		return err
	}
	return a.base.Change(ctx, store.SiteChanged, func(tx *gorm.DB) error {
		row, e, err := FindEdition(tx, reference, true)
		if err != nil {
			return err
		}
		if reason == "" {
			return tx.Exec(`DELETE FROM dismissals WHERE edition_id = ? AND key = ?`, e.ID, key).Error
		}
		err = tx.Exec(
			`INSERT INTO dismissals
				VALUES (?, ?, ?, ?, ?) ON CONFLICT (edition_id, key)
				DO UPDATE SET reason = excluded.reason, staff_id = excluded.staff_id, at = excluded.at`,
			e.ID,
			key,
			reason,
			by.ID,
			a.base.Now(),
		).Error
		if err != nil {
			return err
		}
		return a.trail.Note(
			tx,
			by,
			store.Trail{
				ArticleID: &row.ID,
				Subject:   article.Reference(row.Number),
				Action:    "set a note aside",
				Note:      reason,
			},
		)
	})
}
