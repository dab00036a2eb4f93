package outcomes

import (
	"cmp"
	"context"
	"fmt"
	"slices"

	"gorm.io/gorm"

	"hermeneus/app/staff"
	"hermeneus/core/article"
)

// Choice is something that questions can be chosen by.
type Choice struct {
	Value string `json:"value"`
	Name  string `json:"name"`
}

// Choices are what the figures and the Ledger can be split by: what there are questions of.
type Choices struct {
	Sites      []Choice `json:"sites"`
	Categories []Choice `json:"categories"`
	Flows      []Choice `json:"flows"`
	Languages  []Choice `json:"languages"`
	Groups     []Choice `json:"groups"` // of customers: these and teams choose in the Ledger alone
	Teams      []Choice `json:"teams"`
}

// Choices lists what there are questions of.
func (a *Outcomes) Choices(ctx context.Context, by staff.Staff) (Choices, error) {
	out := Choices{
		Sites:      []Choice{},
		Categories: []Choice{},
		Flows:      []Choice{},
		Languages:  []Choice{},
		Groups:     []Choice{},
		Teams:      []Choice{},
	}
	if err := by.May("Reading the figures", FigureRoles...); err != nil {
		return out, err
	}
	db := a.base.DB.WithContext(ctx)
	g, err := a.standing(db)
	if err != nil {
		return out, err
	}
	var sites, categories, flows, languages []string
	for _, of := range []struct {
		column string
		values *[]string
	}{{"site", &sites}, {"category", &categories}, {"flow", &flows}, {"language", &languages}} {
		if *of.values, err = valuesOf(db, g, of.column); err != nil {
			return out, err
		}
	}
	for _, flow := range flows {
		out.Flows = append(out.Flows, Choice{flow, flow})
	}
	for _, language := range languages {
		out.Languages = append(out.Languages, Choice{language, cmp.Or(article.Languages[language], language)})
	}
	var named []struct{ Of, Value, Name string }
	err = db.Raw(`SELECT 'site' AS of, id::text AS value, name FROM sites
		UNION ALL SELECT 'category', id::text, name FROM categories
		UNION ALL SELECT 'group', key, name FROM customer_groups UNION ALL SELECT 'team', name, name FROM teams
		ORDER BY of, name, value`).Scan(&named).Error
	if err != nil {
		return out, fmt.Errorf("reading names: %w", err)
	}
	for _, n := range named {
		choice := Choice{n.Value, n.Name}
		switch {
		case n.Of == "site" && slices.Contains(sites, n.Value):
			out.Sites = append(out.Sites, choice)
		case n.Of == "category" && slices.Contains(categories, n.Value):
			out.Categories = append(out.Categories, choice)
		case n.Of == "group":
			out.Groups = append(out.Groups, choice)
		case n.Of == "team":
			out.Teams = append(out.Teams, choice)
		}
	}
	return out, nil
}

// valuesOf lists what stands in a column of the days, but "". It goes from one value to the next by the column's index,
// so that it reads as many rows as there are values.
func valuesOf(db *gorm.DB, g *generation, column string) ([]string, error) {
	var values []string
	err := db.Raw(`WITH RECURSIVE v AS (
			(SELECT `+column+` AS value FROM question_days WHERE generation = @g AND `+column+` > ''
				ORDER BY generation, `+column+` LIMIT 1)
			UNION ALL SELECT (SELECT `+column+` FROM question_days WHERE generation = @g AND `+column+` > v.value
				ORDER BY generation, `+column+` LIMIT 1) FROM v WHERE v.value IS NOT NULL)
		SELECT value FROM v WHERE value IS NOT NULL`, map[string]any{"g": g.number}).Scan(&values).Error
	if err != nil {
		return nil, fmt.Errorf("reading what there are questions of: %w", err)
	}
	return values, nil
}
