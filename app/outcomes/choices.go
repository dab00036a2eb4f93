package outcomes

import (
	"context"
	"fmt"

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
	var rows []struct{ Site, Category, Flow, Language string }
	err = db.Raw(`SELECT DISTINCT site, category, flow, language FROM question_days WHERE generation = ? AND questions > 0`,
		g.number).
		Scan(&rows).
		Error
	if err != nil {
		return out, fmt.Errorf("reading what there are questions of: %w", err)
	}
	var named []struct{ Of, Value, Name string }
	err = db.Raw(`SELECT 'site' AS of, id::text AS value, name FROM sites
		UNION ALL SELECT 'category', id::text, name FROM categories
		UNION ALL SELECT 'group', key, name FROM customer_groups UNION ALL SELECT 'team', name, name FROM teams
		ORDER BY of, name, value`).Scan(&named).Error
	if err != nil {
		return out, fmt.Errorf("reading names: %w", err)
	}
	sites, categories := map[string]bool{}, map[string]bool{}
	flows, languages := map[string]bool{}, map[string]bool{}
	for _, r := range rows {
		sites[r.Site], categories[r.Category] = true, true
		if r.Flow != "" && !flows[r.Flow] {
			flows[r.Flow] = true
			out.Flows = append(out.Flows, Choice{r.Flow, r.Flow})
		}
		if r.Language != "" && !languages[r.Language] {
			languages[r.Language] = true
			name := article.Languages[r.Language]
			if name == "" {
				name = r.Language
			}
			out.Languages = append(out.Languages, Choice{r.Language, name})
		}
	}
	for _, n := range named {
		choice := Choice{n.Value, n.Name}
		switch {
		case n.Of == "site" && sites[n.Value]:
			out.Sites = append(out.Sites, choice)
		case n.Of == "category" && categories[n.Value]:
			out.Categories = append(out.Categories, choice)
		case n.Of == "group":
			out.Groups = append(out.Groups, choice)
		case n.Of == "team":
			out.Teams = append(out.Teams, choice)
		}
	}
	return out, nil
}
