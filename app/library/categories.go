package library

import (
	"context"
	"fmt"

	"gorm.io/gorm"

	"hermeneus/app/customers"
	"hermeneus/app/problem"
	"hermeneus/app/staff"
	"hermeneus/core/article"
	"hermeneus/core/audience"
	"hermeneus/core/role"
	"hermeneus/store"
)

// MaxDepth is how deep the category tree can be.
const MaxDepth = 12

// Category is a node of the tree with what is in it.
type Category struct {
	ID          int64             `json:"id"`
	ParentID    int64             `json:"parent_id"` // 0 at the top
	Name        string            `json:"name"`
	Description string            `json:"description"`
	Audience    audience.Audience `json:"audience"`
	Depth       int               `json:"depth"`    // 1 at the top
	Articles    int               `json:"articles"` // in it, not counting its children
	Picture     string            `json:"picture"`  // path, "" for none
}

// Tree lists all categories, parents before children, in their order.
func (a *Library) Tree(ctx context.Context) ([]Category, error) {
	return a.tree(a.base.DB.WithContext(ctx), `SELECT category_id, count(*) AS n FROM articles GROUP BY category_id`)
}

// tree orders the categories by walking them; counts is a query of category_id and n.
func (a *Library) tree(db *gorm.DB, counts string, args ...any) ([]Category, error) {
	var list []Category
	err := db.Raw(`WITH RECURSIVE counts AS (`+counts+`), walk AS (
		SELECT c.*, 1 AS depth, ARRAY[c.position, c.id] AS way FROM categories c WHERE parent_id IS NULL
		UNION ALL
		SELECT c.*, depth + 1, way || c.position::bigint || c.id FROM categories c JOIN walk ON c.parent_id = walk.id)
		SELECT walk.id, coalesce(parent_id, 0) AS parent_id, name, description, audience, depth, coalesce(n, 0) AS articles,
			coalesce('`+article.FilePath+`' || picture, '') AS picture
		FROM walk LEFT JOIN counts ON category_id = walk.id ORDER BY way`, args...).Scan(&list).Error
	if err != nil {
		return nil, fmt.Errorf("reading the tree: %w", err)
	}
	return list, nil
}

// NewCategory is a category to be made, or what one is changed to.
type NewCategory struct {
	ParentID    int64             `json:"parent_id"` // 0 for the top
	Name        string            `json:"name"`
	Description string            `json:"description"`
	Audience    audience.Audience `json:"audience"`
}

func (n NewCategory) check(db *gorm.DB) error {
	var f problem.Fields
	if err := customers.KnownAudience(db, &f, "audience", n.Audience); err != nil {
		return err
	}
	f.Text("name", n.Name, 80)
	f.AtMost("description", n.Description, 400)
	return f.Err()
}

// AddCategory adds a category at the end of its parent's children.
func (a *Library) AddCategory(ctx context.Context, by staff.Staff, n NewCategory) (int64, error) {
	if err := by.May("Adding a category", role.Author, role.Publisher, role.Administrator); err != nil {
		return 0, err
	}
	var id int64
	err := a.base.Change(ctx, store.SiteChanged, func(tx *gorm.DB) (err error) {
		id, err = a.InsertCategory(tx, by, n, 0)
		return err
	})
	return id, err
}

// InsertCategory adds a category at a place among its neighbours, 0 for the end.
func (a *Library) InsertCategory(tx *gorm.DB, by staff.Staff, n NewCategory, position int) (int64, error) {
	if err := n.check(tx); err != nil {
		return 0, err
	}
	row := store.Category{Name: n.Name, Description: n.Description, Audience: string(n.Audience), Position: position}
	if n.ParentID != 0 {
		row.ParentID = &n.ParentID
		depth, err := depthOf(tx, n.ParentID)
		if err != nil {
			return 0, err
		}
		if depth >= MaxDepth {
			return 0, problem.New(
				problem.TooDeep,
				"Categories can stand %d deep; this would be level %d. Put it higher up.",
				MaxDepth,
				depth+1,
			)
		}
	}
	if position == 0 {
		if err := tx.Raw(`SELECT coalesce(max(position), 0) + 1
			FROM categories
			WHERE coalesce(parent_id, 0) = ?`, n.ParentID).
			Scan(&row.Position).
			Error; err != nil {
			return 0, err
		}
	}
	if err := tx.Create(&row).Error; err != nil {
		return 0, err
	}
	return row.ID, a.trail.Note(tx, by, store.Trail{CategoryID: &row.ID, Subject: n.Name, Action: "added category"})
}

func depthOf(tx *gorm.DB, id int64) (int, error) {
	var depth int
	err := tx.Raw(`WITH RECURSIVE up AS (SELECT id, parent_id FROM categories WHERE id = ?
		UNION ALL SELECT c.id, c.parent_id FROM categories c JOIN up ON c.id = up.parent_id)
		SELECT count(*) FROM up`, id).Scan(&depth).Error
	if err == nil && depth == 0 {
		return 0, problem.New(problem.NotFound, "There is no such category.")
	}
	return depth, err
}

// ChangeCategory renames a category or changes its description or audience.
func (a *Library) ChangeCategory(ctx context.Context, by staff.Staff, id int64, n NewCategory) error {
	if err := by.May("Changing a category", role.Author, role.Publisher, role.Administrator); err != nil {
		return err
	}
	if err := n.check(a.base.DB.WithContext(ctx)); err != nil {
		return err
	}
	return a.base.Change(ctx, store.SiteChanged, func(tx *gorm.DB) error {
		var row store.Category
		if err := tx.First(&row, id).Error; err != nil {
			return problem.From(err, "category")
		}
		old := row.Name
		row.Name, row.Description, row.Audience = n.Name, n.Description, string(n.Audience)
		if err := tx.Save(&row).Error; err != nil {
			return err
		}
		return a.trail.Note(
			tx,
			by,
			store.Trail{CategoryID: &id, Subject: n.Name, Action: "changed category", Note: "was " + old},
		)
	})
}

// RemoveCategory removes a category. What it holds goes to another one first; with
// 0 for that it must hold nothing.
func (a *Library) RemoveCategory(ctx context.Context, by staff.Staff, id, moveTo int64) error {
	if moveTo != 0 {
		return a.MergeCategory(ctx, by, id, moveTo)
	}
	if err := by.May("Removing a category", role.Publisher, role.Administrator); err != nil {
		return err
	}
	return a.base.Change(ctx, store.SiteChanged, func(tx *gorm.DB) error {
		var row store.Category
		if err := tx.First(&row, id).Error; err != nil {
			return problem.From(err, "category")
		}
		var holds struct{ Articles, Categories int }
		err := tx.Raw(`SELECT (SELECT count(*) FROM articles WHERE category_id = ?) AS articles,
				(SELECT count(*) FROM categories WHERE parent_id = ?) AS categories`, id, id).
			Scan(&holds).
			Error
		if err != nil {
			return err
		}
		if holds.Articles+holds.Categories > 0 {
			return problem.New(
				problem.NotNow,
				"%s still holds articles (%d) and categories (%d). Choose where they go.",
				row.Name,
				holds.Articles,
				holds.Categories,
			)
		}
		if err := tx.Delete(&row).Error; err != nil {
			return err
		}
		return a.trail.Note(tx, by, store.Trail{CategoryID: &id, Subject: row.Name, Action: "removed category"})
	})
}
