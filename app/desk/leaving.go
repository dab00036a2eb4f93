package desk

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"

	"gorm.io/gorm"

	"hermeneus/app/accounts"
	"hermeneus/app/instance"
	"hermeneus/app/library"
	"hermeneus/app/problem"
	"hermeneus/app/staff"
	"hermeneus/core/article"
	"hermeneus/core/review"
	"hermeneus/core/role"
	"hermeneus/store"
)

// Belongings is everything that is somebody's to look after.
type Belongings struct {
	Person     accounts.Person   `json:"person"`
	Articles   []CategoryBelongs `json:"articles"`   // owned, by category
	Reviews    []library.Titled  `json:"reviews"`    // handed to them
	Gates      []GateBelongs     `json:"gates"`      // of paths that name them
	Categories []instance.Name   `json:"categories"` // they are steward of
	Feedback   int               `json:"feedback"`   // passed on to them and open
	Schedules  int               `json:"schedules"`  // times they set; these stay
	Follows    int               `json:"follows"`
}

// CategoryBelongs is how many articles somebody owns in a category.
type CategoryBelongs struct {
	Category instance.Name `json:"category"`
	Count    int           `json:"count"`
}

// GateBelongs is a gate that names somebody.
type GateBelongs struct {
	PathID int64  `json:"path_id"`
	Path   string `json:"path"`
	Gate   string `json:"gate"`
}

// ReadBelongings lists what is somebody's.
func (a *Desk) ReadBelongings(ctx context.Context, by staff.Staff, id int64) (Belongings, error) {
	if err := by.May("Handing somebody’s work over", role.Administrator); err != nil {
		return Belongings{}, err
	}
	db := a.base.DB.WithContext(ctx)
	var out Belongings
	people, err := a.accounts.People.ListStaff(ctx)
	if err != nil {
		return out, err
	}
	at := slices.IndexFunc(people, func(p accounts.Person) bool { return p.ID == id })
	if at < 0 {
		return out, problem.New(problem.NotFound, "There is no such person on the staff.")
	}
	out.Person = people[at]
	var rows []struct {
		ID    int64
		Name  string
		Count int
	}
	err = db.Raw(`SELECT c.id, c.name, count(*)
		FROM articles a JOIN categories c ON c.id = a.category_id WHERE a.owner_id = ? GROUP BY c.id, c.name
		ORDER BY c.name`, id).
		Scan(&rows).
		Error
	for _, r := range rows {
		out.Articles = append(out.Articles, CategoryBelongs{instance.Name{ID: r.ID, Name: r.Name}, r.Count})
	}
	if err == nil {
		err = db.Raw(`SELECT `+library.ReferenceSQL+` || CASE e.language WHEN ? THEN ''
				ELSE '.' || e.language END AS reference, e.title
			FROM reviews r JOIN editions e ON e.id = r.text_id JOIN articles a ON a.id = e.article_id
			WHERE r.ended_at IS NULL AND r.assignee_id = ? AND r.gate <> '' ORDER BY 1`, article.SourceLanguage, id).
			Scan(&out.Reviews).
			Error
	}
	if err == nil {
		err = db.Raw(`SELECT id, name FROM categories WHERE steward_id = ? ORDER BY name`, id).
			Scan(&out.Categories).
			Error
	}
	var n struct{ Feedback, Schedules, Follows int }
	if err == nil {
		err = db.Raw(`SELECT (SELECT count(*) FROM feedback WHERE for_id = @id AND answer = 'passed_on') AS feedback,
			(SELECT count(*) FROM schedules WHERE staff_id = @id AND state = 'waiting') AS schedules,
			(SELECT count(*) FROM followers WHERE staff_id = @id) AS follows`, map[string]any{"id": id}).Scan(&n).Error
		out.Feedback, out.Schedules, out.Follows = n.Feedback, n.Schedules, n.Follows
	}
	if err != nil {
		return out, fmt.Errorf("reading what is somebody’s: %w", err)
	}
	return out, a.eachGateOf(db, id, func(row store.Path, g *review.Gate) {
		out.Gates = append(out.Gates, GateBelongs{row.ID, row.Name, g.Name})
	})
}

// eachGateOf visits the gates of paths in use that name somebody.
func (a *Desk) eachGateOf(db *gorm.DB, id int64, visit func(store.Path, *review.Gate)) error {
	var rows []store.Path
	if err := db.Where("retired_at IS NULL").Order("id").Find(&rows).Error; err != nil {
		return err
	}
	for _, row := range rows {
		var gates []review.Gate
		if err := json.Unmarshal(row.Gates, &gates); err != nil {
			return err
		}
		for i := range gates {
			if slices.Contains(gates[i].People, id) {
				visit(row, &gates[i])
			}
		}
	}
	return nil
}
