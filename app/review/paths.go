package review

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strings"

	"gorm.io/gorm"

	"hermeneus/app/problem"
	"hermeneus/app/staff"
	"hermeneus/core/review"
	"hermeneus/core/role"
	"hermeneus/store"
)

// ReviewPath is a configured review path.
type ReviewPath struct {
	ID int64 `json:"id"`
	review.Path
	Standard   bool     `json:"standard"`   // of every category that names none
	Categories []string `json:"categories"` // that name it
	Inside     int      `json:"inside"`     // working copies that entered it and are still in review
	Who        []string `json:"who"`        // for each gate, whose it is, in words
}

// Ship gives a new library the paths that ship.
func Ship(tx *gorm.DB) error {
	var n int
	if err := tx.Raw(`SELECT count(*) FROM paths`).Scan(&n).Error; err != nil || n > 0 {
		return err
	}
	for i, p := range review.ShippedPaths("") {
		gates, err := json.Marshal(p.Gates)
		if err != nil {
			return err
		}
		if err := tx.Create(&store.Path{Name: p.Name, Gates: gates, Standard: i == 0}).Error; err != nil {
			return err
		}
	}
	return nil
}

// Paths lists the review paths, the standard one first.
func (a *Review) Paths(ctx context.Context) ([]ReviewPath, error) {
	db := a.base.DB.WithContext(ctx)
	var rows []store.Path
	if err := db.Where("retired_at IS NULL").Order("NOT standard, id").Find(&rows).Error; err != nil {
		return nil, err
	}
	roster, err := staff.ReadRoster(db)
	if err != nil {
		return nil, err
	}
	list := make([]ReviewPath, len(rows))
	for i, row := range rows {
		p := ReviewPath{ID: row.ID, Standard: row.Standard, Path: review.Path{Name: row.Name}}
		if err := json.Unmarshal(row.Gates, &p.Gates); err != nil {
			return nil, fmt.Errorf("reading the path %s: %w", row.Name, err)
		}
		for _, g := range p.Gates {
			p.Who = append(p.Who, g.Who(roster.Name))
		}
		if err := db.Raw(`SELECT name FROM categories WHERE path_id = ? ORDER BY name`, row.ID).
			Scan(&p.Categories).
			Error; err != nil {
			return nil, err
		}
		if err := db.Raw(`SELECT count(*) FROM reviews WHERE path_id = ? AND ended_at IS NULL AND gate <> ''`, row.ID).
			Scan(&p.Inside).
			Error; err != nil {
			return nil, err
		}
		list[i] = p
	}
	return list, nil
}

// KeepPath makes a review path, or changes one (id not 0). What is in review stays
// on the path it entered, as that was then.
func (a *Review) KeepPath(ctx context.Context, by staff.Staff, id int64, p review.Path, standard bool) (int64, error) {
	if err := by.May("Changing a review path", role.Administrator); err != nil {
		return 0, err
	}
	p = tidyPath(p)
	err := a.base.Transaction(ctx, func(tx *gorm.DB) error {
		if err := checkPath(tx, p); err != nil {
			return err
		}
		gates, err := json.Marshal(p.Gates)
		if err != nil {
			return err
		}
		var row store.Path
		if id != 0 {
			if err := tx.Where("retired_at IS NULL").First(&row, id).Error; err != nil {
				return problem.From(err, "review path")
			}
		}
		var taken int
		if err := tx.Raw(`SELECT count(*) FROM paths WHERE lower(name) = lower(?) AND id <> ?`, p.Name, id).
			Scan(&taken).
			Error; err != nil {
			return err
		}
		if taken > 0 {
			return problem.OfField("name", "Another review path has this name.")
		}
		if row.Standard && !standard {
			return problem.New(
				problem.NotNow,
				"Some path must be the one of every category that names none. Make another path the standard one "+
					"instead.",
			)
		}
		if standard {
			if err := tx.Exec(`UPDATE paths SET standard = false WHERE standard`).Error; err != nil {
				return err
			}
		}
		row.Name, row.Gates, row.Standard = p.Name, gates, standard
		if err := tx.Save(&row).Error; err != nil {
			return err
		}
		id = row.ID
		return a.trail.Note(
			tx,
			by,
			store.Trail{Subject: "review path " + p.Name, Action: "changed review path", Note: gateNames(p)},
		)
	})
	return id, err
}

func tidyPath(p review.Path) review.Path {
	p.Name = strings.TrimSpace(p.Name)
	p.Gates = slices.Clone(p.Gates)
	for i := range p.Gates {
		p.Gates[i].Name = strings.TrimSpace(p.Gates[i].Name)
	}
	return p
}

func gateNames(p review.Path) string {
	var names []string
	for _, g := range p.Gates {
		names = append(names, g.Name)
	}
	return strings.Join(names, ", then ")
}

func checkPath(tx *gorm.DB, p review.Path) error {
	var f problem.Fields
	for _, fault := range p.Check() {
		name := fault.Field
		if fault.Gate >= 0 {
			name = fmt.Sprintf("gates[%d].%s", fault.Gate, fault.Field)
		}
		f = append(f, problem.Field{Name: name, Message: fault.Message})
	}
	roster, err := staff.ReadRoster(tx)
	if err != nil {
		return err
	}
	for i, g := range p.Gates {
		for _, id := range g.People {
			_, there := roster.By[id]
			f.Require(
				there,
				fmt.Sprintf("gates[%d].people", i),
				"One of the people is not on the staff, or cannot sign in any more.",
			)
		}
		f.Require(
			g.Team == "" || roster.HasTeam(tx, g.Team),
			fmt.Sprintf("gates[%d].team", i),
			fmt.Sprintf("There is no team %q.", g.Team),
		)
	}
	return f.Err()
}

// RetirePath takes a path out of use, which no category may name any more.
func (a *Review) RetirePath(ctx context.Context, by staff.Staff, id int64) error {
	if err := by.May("Retiring a review path", role.Administrator); err != nil {
		return err
	}
	return a.base.Transaction(ctx, func(tx *gorm.DB) error {
		var row store.Path
		if err := tx.Where("retired_at IS NULL").First(&row, id).Error; err != nil {
			return problem.From(err, "review path")
		}
		var names []string
		if err := tx.Raw(`SELECT name FROM categories WHERE path_id = @id
			UNION ALL SELECT 'the flow “' || name || '”' FROM flows WHERE path_id = @id ORDER BY name LIMIT 5`, map[string]any{"id": id}).
			Scan(&names).
			Error; err != nil {
			return err
		}
		switch {
		case row.Standard:
			return problem.New(
				problem.NotNow,
				"This is the path of every category that names none. Make another the standard one first.",
			)
		case len(names) > 0:
			return problem.New(
				problem.NotNow,
				"It is still used by %s. Give them another path first.",
				strings.Join(names, ", "),
			)
		}
		// Its name is free again.
		err := tx.Exec(
			`UPDATE paths SET retired_at = ?, name = name || ' (retired ' || id || ')' WHERE id = ?`,
			a.base.Now(),
			id,
		).Error
		if err != nil {
			return err
		}
		return a.trail.Note(tx, by, store.Trail{Subject: "review path " + row.Name, Action: "retired review path"})
	})
}

// SetReviewing says which path and which steward a category has; 0 takes its
// parent's. Everything below follows, unless it names its own.
func (a *Review) SetReviewing(ctx context.Context, by staff.Staff, category, path, steward int64) error {
	if err := by.May("Choosing who reviews a category", role.Administrator); err != nil {
		return err
	}
	return a.base.Transaction(ctx, func(tx *gorm.DB) error {
		var row store.Category
		if err := tx.First(&row, category).Error; err != nil {
			return problem.From(err, "category")
		}
		before, err := ReviewingOf(tx, category)
		if err != nil {
			return err
		}
		row.PathID, row.StewardID = nil, nil
		if path != 0 {
			if err := tx.Where("retired_at IS NULL").First(&store.Path{}, path).Error; err != nil {
				return problem.OfField("path_id", "There is no such review path.")
			}
			row.PathID = &path
		}
		if steward != 0 {
			if err := tx.Where("disabled_at IS NULL").First(&store.Staff{}, steward).Error; err != nil {
				return problem.OfField("steward_id", "There is no such person, or they have left.")
			}
			row.StewardID = &steward
		}
		if err := tx.Save(&row).Error; err != nil {
			return err
		}
		after, err := ReviewingOf(tx, category)
		if err != nil {
			return err
		}
		if err := a.TellStuck(tx); err != nil {
			return err
		}
		note := fmt.Sprintf(
			"path %s → %s; steward %s → %s",
			before.Name,
			after.Name,
			orNobody(before.StewardName),
			orNobody(after.StewardName),
		)
		return a.trail.Note(
			tx,
			by,
			store.Trail{CategoryID: &category, Subject: row.Name, Action: "changed reviewing", Note: note},
		)
	})
}

func orNobody(name string) string {
	if name == "" {
		return "nobody"
	}
	return name
}

// Reviewing is which path and which steward hold for a category.
type Reviewing struct {
	PathID      int64  `json:"path_id"`
	Name        string `json:"name"`
	Gates       []byte `json:"-"`
	OwnPath     bool   `json:"own_path"` // its own, not its parent's
	StewardID   int64  `json:"steward_id"`
	StewardName string `json:"steward_name"`
	OwnSteward  bool   `json:"own_steward"`
}

// ReviewingOf finds the nearest path and steward up the tree.
func ReviewingOf(db *gorm.DB, category int64) (Reviewing, error) {
	var r Reviewing
	err := db.Raw(`WITH RECURSIVE up AS
			(SELECT id, parent_id, path_id, steward_id, 0 AS d FROM categories WHERE id = ?
			UNION ALL SELECT c.id, c.parent_id, c.path_id, c.steward_id, d + 1 FROM categories c
			JOIN up ON c.id = up.parent_id), steward AS
			(SELECT steward_id, d FROM up WHERE steward_id IS NOT NULL ORDER BY d LIMIT 1), chosen AS
			(SELECT path_id, d FROM up WHERE path_id IS NOT NULL ORDER BY d LIMIT 1)
		SELECT p.id AS path_id, p.name, p.gates, coalesce((SELECT d FROM chosen) = 0, false) AS own_path,
			coalesce((SELECT steward_id FROM steward), 0) AS steward_id,
			coalesce((SELECT d FROM steward) = 0, false) AS own_steward,
			coalesce((SELECT name FROM staff WHERE id = (SELECT steward_id FROM steward)), '') AS steward_name
		FROM paths p WHERE p.id = coalesce((SELECT path_id FROM chosen), (SELECT id FROM paths WHERE standard))`, category).Scan(&r).Error
	return r, err
}

// ReviewingOf says which path and which steward hold for a category.
func (a *Review) ReviewingOf(ctx context.Context, category int64) (Reviewing, error) {
	return ReviewingOf(a.base.DB.WithContext(ctx), category)
}

func (r Reviewing) path() (review.Path, error) {
	p := review.Path{Name: r.Name}
	if len(r.Gates) == 0 {
		return p, nil
	}
	return p, json.Unmarshal(r.Gates, &p.Gates)
}
