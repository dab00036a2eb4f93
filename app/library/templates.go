package library

import (
	"context"
	"encoding/json"
	"fmt"
	"maps"
	"slices"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"hermeneus/app/problem"
	"hermeneus/app/staff"
	"hermeneus/core/article"
	"hermeneus/core/role"
	"hermeneus/store"
)

// Template is what articles begin from.
type Template struct {
	ID int64 `json:"id"`
	article.Template
	Retired bool   `json:"retired"` // offered no more
	Preview string `json:"preview"` // HTML of an article that begins with it
}

// TemplateOf reads a template as it is kept.
func TemplateOf(row store.Template) (article.Template, error) {
	t := article.Template{Name: row.Name, Kind: row.Kind, Purpose: row.Purpose}
	if err := json.Unmarshal(row.Sections, &t.Sections); err != nil {
		return t, fmt.Errorf("reading the template %s: %w", row.Name, err)
	}
	return t, nil
}

// Ship gives a new library the templates that ship with the program.
func Ship(db *gorm.DB) error {
	var there int64
	if err := db.Model(&store.Template{}).Count(&there).Error; err != nil || there > 0 {
		return err
	}
	for _, t := range article.Shipped() {
		sections, err := json.Marshal(t.Sections)
		if err != nil {
			return err
		}
		row := store.Template{Name: t.Name, Kind: t.Kind, Purpose: t.Purpose, Sections: sections}
		if err := db.Clauses(clause.OnConflict{DoNothing: true}).Create(&row).Error; err != nil {
			return fmt.Errorf("keeping the templates that ship: %w", err)
		}
	}
	return nil
}

// Templates lists them by name, those offered no more at the end.
func (a *Library) Templates(ctx context.Context) ([]Template, error) {
	var rows []store.Template
	if err := a.base.DB.WithContext(ctx).Order("retired_at IS NOT NULL, id").Find(&rows).Error; err != nil {
		return nil, err
	}
	list := make([]Template, len(rows))
	for i, row := range rows {
		t, err := TemplateOf(row)
		if err != nil {
			return nil, err
		}
		list[i] = Template{row.ID, t, row.RetiredAt != nil, t.Body()}
	}
	return list, nil
}

// KeepTemplate makes a template, or changes one (id not 0). Articles begun with it
// keep the sections they began with.
func (a *Library) KeepTemplate(
	ctx context.Context,
	by staff.Staff,
	id int64,
	t article.Template,
	retired bool,
) (Template, error) {
	if err := by.May("Changing templates", role.Administrator); err != nil {
		return Template{}, err
	}
	faults := t.Faults()
	if !slices.Contains(Kinds, t.Kind) {
		faults["kind"] = "Choose a kind."
	}
	if len(faults) > 0 {
		p := &problem.Problem{Kind: problem.Invalid, Detail: "Some fields need another look."}
		for _, name := range slices.Sorted(maps.Keys(faults)) {
			p.Fields = append(p.Fields, problem.Field{Name: name, Message: faults[name]})
		}
		return Template{}, p
	}
	sections, err := json.Marshal(t.Sections)
	if err != nil {
		return Template{}, err
	}
	var row store.Template
	err = a.base.Transaction(ctx, func(tx *gorm.DB) error {
		if id != 0 {
			if err := tx.First(&row, id).Error; err != nil {
				return problem.From(err, "template")
			}
		}
		var namesake int
		if err := tx.Raw(`SELECT count(*) FROM templates WHERE name = ? AND id <> ?`, t.Name, id).
			Scan(&namesake).
			Error; err != nil {
			return err
		}
		if namesake > 0 {
			return problem.OfField("name", "Another template has this name.")
		}
		row.Name, row.Kind, row.Purpose, row.Sections, row.RetiredAt = t.Name, t.Kind, t.Purpose, sections, nil
		if retired {
			now := a.base.Now()
			row.RetiredAt = &now
		}
		if err := tx.Save(&row).Error; err != nil {
			return err
		}
		return a.trail.Note(tx, by, store.Trail{Subject: t.Name, Action: "changed template"})
	})
	return Template{row.ID, t, retired, t.Body()}, err
}
