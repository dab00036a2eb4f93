package search

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"gorm.io/gorm"

	"hermeneus/app/evidence"
	"hermeneus/app/problem"
	"hermeneus/app/sites"
	"hermeneus/app/staff"
	"hermeneus/core/article"
	"hermeneus/core/audience"
	"hermeneus/core/role"
	"hermeneus/core/search"
	"hermeneus/store"
)

// SearchRules are what a help centre's search goes by beside the articles.
type SearchRules struct {
	Weights  []float32 `json:"weights"`  // of title, keywords, headings and body; the standard ones where none are set
	Standard bool      `json:"standard"` // none are set
	Synonyms []Synonym `json:"synonyms"`
	Pins     []Pin     `json:"pins"`
}

// Synonym is a rule: "night rate, off-peak" works both ways, "app => member app" one.
type Synonym struct {
	ID   int64  `json:"id"`
	Rule string `json:"rule"`
}

// Pin puts an article first for a question, or leaves it out.
type Pin struct {
	ID        int64  `json:"id"`
	Words     string `json:"words"`
	Reference string `json:"reference"`
	Title     string `json:"title"`
	Bury      bool   `json:"bury"`
	Until     string `json:"until"` // the last day it holds, "" for ever
	Over      bool   `json:"over"`  // that day is past
}

// ReadSearchRules gives what a site's search goes by.
func (a *Search) ReadSearchRules(ctx context.Context, site int64) (SearchRules, error) {
	db := a.base.DB.WithContext(ctx)
	var row store.Site
	if err := db.First(&row, site).Error; err != nil {
		return SearchRules{}, problem.From(err, "help centre")
	}
	out := SearchRules{Weights: row.Weights, Synonyms: []Synonym{}, Pins: []Pin{}}
	if len(out.Weights) == 0 {
		standard := search.StandardWeights
		out.Weights, out.Standard = standard[:], true
	}
	if err := db.Raw(`SELECT id, rule FROM synonyms WHERE site_id = ? ORDER BY lower(rule), id`, site).
		Scan(&out.Synonyms).
		Error; err != nil {
		return out, fmt.Errorf("reading synonyms: %w", err)
	}
	var pins []struct {
		ID     int64
		Words  string
		Number int
		Title  string
		Bury   bool
		Until  *time.Time
	}
	err := db.Raw(`SELECT p.id, p.words, a.number, e.title, p.bury, p.until
		FROM pins p JOIN articles a ON a.id = p.article_id
		JOIN editions e ON e.article_id = a.id AND e.language = ? WHERE p.site_id = ? ORDER BY p.id DESC`, article.SourceLanguage, site).
		Scan(&pins).
		Error
	if err != nil {
		return out, fmt.Errorf("reading pins: %w", err)
	}
	for _, p := range pins {
		pin := Pin{ID: p.ID, Words: p.Words, Reference: article.Reference(p.Number), Title: p.Title, Bury: p.Bury}
		if p.Until != nil {
			pin.Until = p.Until.Format(time.DateOnly)
			pin.Over = pin.Until < a.base.Today().Format(time.DateOnly)
		}
		out.Pins = append(out.Pins, pin)
	}
	return out, nil
}

// maxRules bounds the synonyms of a site, and its pins.
const maxRules = 500

// AddSynonym adds a rule to a site's search.
func (a *Search) AddSynonym(ctx context.Context, by staff.Staff, site int64, rule string) (int64, error) {
	if err := by.MaySearch(); err != nil {
		return 0, err
	}
	rule = strings.Join(strings.Fields(rule), " ")
	var f problem.Fields
	f.Text("rule", rule, 300)
	if _, err := search.ParseSynonyms(rule); err != nil && len(f) == 0 {
		f.Require(false, "rule", "This cannot be read: "+err.Error()+".")
	}
	if err := f.Err(); err != nil {
		return 0, err
	}
	row := store.Synonym{SiteID: site, Rule: rule, MadeBy: by.ID, MadeAt: a.base.Now()}
	err := a.base.Change(ctx, store.SiteChanged, func(tx *gorm.DB) error {
		var n, same int
		if err := tx.Raw(`SELECT count(*) FROM synonyms WHERE site_id = ?`, site).Scan(&n).Error; err != nil {
			return err
		}
		if err := tx.Raw(`SELECT count(*) FROM synonyms WHERE site_id = ? AND rule = ?`, site, rule).
			Scan(&same).
			Error; err != nil {
			return err
		}
		f.Require(n < maxRules, "rule", fmt.Sprintf("A help centre has at most %d rules.", maxRules))
		f.Require(same == 0, "rule", "This rule is there already.")
		if err := f.Err(); err != nil {
			return err
		}
		if err := tx.Create(&row).Error; err != nil {
			return problem.From(err, "help centre")
		}
		return a.trail.Note(tx, by, store.Trail{Subject: rule, Action: "added synonyms"})
	})
	return row.ID, err
}

// DropSynonym takes a rule away.
func (a *Search) DropSynonym(ctx context.Context, by staff.Staff, id int64) error {
	if err := by.MaySearch(); err != nil {
		return err
	}
	return a.base.Change(ctx, store.SiteChanged, func(tx *gorm.DB) error {
		var row store.Synonym
		if err := tx.First(&row, id).Error; err != nil {
			return problem.From(err, "rule")
		}
		if err := tx.Delete(&row).Error; err != nil {
			return err
		}
		return a.trail.Note(tx, by, store.Trail{Subject: row.Rule, Action: "removed synonyms"})
	})
}

// AddPin pins or buries an article for a question.
func (a *Search) AddPin(ctx context.Context, by staff.Staff, site int64, p Pin) (int64, error) {
	if err := by.MaySearch(); err != nil {
		return 0, err
	}
	var f problem.Fields
	f.Text("words", p.Words, 200)
	f.Require(
		len(search.Words(search.English, p.Words)) > 0 || strings.TrimSpace(p.Words) == "",
		"words",
		"These are empty words only; say what it is about.",
	)
	row := store.Pin{SiteID: site, Words: strings.TrimSpace(p.Words), Bury: p.Bury, MadeBy: by.ID, MadeAt: a.base.Now()}
	if p.Until != "" {
		day, err := time.Parse(time.DateOnly, p.Until)
		f.Require(err == nil, "until", "A day is written as 2026-03-31.")
		f.Require(err != nil || !day.Before(a.base.Today()), "until", "This day is past.")
		row.Until = &day
	}
	number, _, ok := article.ParseReference(p.Reference)
	f.Require(ok, "reference", "An article is named as A-0042.")
	if err := f.Err(); err != nil {
		return 0, err
	}
	err := a.base.Change(ctx, store.SiteChanged, func(tx *gorm.DB) error {
		var n int
		if err := tx.Raw(`SELECT count(*) FROM pins WHERE site_id = ?`, site).Scan(&n).Error; err != nil {
			return err
		}
		f.Require(n < maxRules, "words", fmt.Sprintf("A help centre has at most %d pins; take some away.", maxRules))
		if err := tx.Raw(`SELECT id FROM articles WHERE number = ?`, number).Scan(&row.ArticleID).Error; err != nil {
			return err
		}
		f.Require(row.ArticleID != 0, "reference", "There is no such article.")
		if err := f.Err(); err != nil {
			return err
		}
		if err := tx.Create(&row).Error; err != nil {
			return problem.From(err, "help centre")
		}
		action := "pinned for a question"
		if p.Bury {
			action = "buried for a question"
		}
		return a.trail.Note(
			tx,
			by,
			store.Trail{Subject: p.Reference, ArticleID: &row.ArticleID, Action: action, Note: row.Words},
		)
	})
	return row.ID, err
}

// DropPin takes a pin away.
func (a *Search) DropPin(ctx context.Context, by staff.Staff, id int64) error {
	if err := by.MaySearch(); err != nil {
		return err
	}
	return a.base.Change(ctx, store.SiteChanged, func(tx *gorm.DB) error {
		var row store.Pin
		if err := tx.First(&row, id).Error; err != nil {
			return problem.From(err, "pin")
		}
		if err := tx.Delete(&row).Error; err != nil {
			return err
		}
		return a.trail.Note(tx, by, store.Trail{Subject: row.Words, ArticleID: &row.ArticleID, Action: "removed a pin"})
	})
}

// checkWeights refuses weights that no search can go by.
func checkWeights(weights []float32) error {
	var f problem.Fields
	f.Require(
		len(weights) == 0 || len(weights) == len(search.Weights{}),
		"weights",
		"There is one weight for each field: title, keywords, headings, body.",
	)
	f.Require(len(weights) == 0 || slices.Max(weights) > 0, "weights", "Some field must tell something.")
	for _, w := range weights {
		f.Require(w >= 0 && w <= 20, "weights", "A weight is between 0 and 20.")
	}
	return f.Err()
}

// SetWeights sets how much a word in each field tells on a site; none brings the
// standard back.
func (a *Search) SetWeights(ctx context.Context, by staff.Staff, site int64, weights []float32) error {
	if err := by.MaySearch(); err != nil {
		return err
	}
	if err := checkWeights(weights); err != nil {
		return err
	}
	return a.base.Change(ctx, store.SiteChanged, func(tx *gorm.DB) error {
		var row store.Site
		if err := tx.First(&row, site).Error; err != nil {
			return problem.From(err, "help centre")
		}
		row.Weights = append(store.Floats{}, weights...)
		if err := tx.Save(&row).Error; err != nil {
			return err
		}
		return a.trail.Note(
			tx,
			by,
			store.Trail{Subject: row.Name, Action: "changed the search's weights", Note: fmt.Sprint(weights)},
		)
	})
}

// Tried is what a question finds, as some viewer would find it.
type Tried struct {
	Results []TriedResult    `json:"results"`
	Instead []search.Instead `json:"instead"`
	Answer  *Composed        `json:"answer"`
}

// TriedResult is one of its results.
type TriedResult struct {
	Result
	Score    float64 `json:"score"`
	Coverage float64 `json:"coverage"`
	Pinned   bool    `json:"pinned"`
}

// somebody is as whom staff look: as one of an audience, by f's groups.
func somebody(f *sites.Settings, language string, whom audience.Audience) evidence.Visitor {
	v := evidence.Visitor{Site: f.ID, Whole: f.Whole, Language: language}
	key, isGroup := whom.Group()
	switch {
	case isGroup:
		v.Customer = &evidence.Customer{Groups: []string{key}}
	case whom == audience.SignedIn:
		v.Customer = &evidence.Customer{}
	case whom == audience.Staff:
		v.Preview, v.Groups = true, f.Groups
	}
	return v
}

// TrySearch searches as somebody would, and keeps nothing.
func (a *Search) TrySearch(
	ctx context.Context,
	by staff.Staff,
	site int64,
	language string,
	whom audience.Audience,
	words string,
) (Tried, error) {
	if err := by.May("Trying the search", role.All...); err != nil {
		return Tried{}, err
	}
	out := Tried{Results: []TriedResult{}}
	if strings.TrimSpace(words) == "" {
		return out, nil
	}
	db := a.base.DB.WithContext(ctx)
	f, err := a.sites.KnownSettings(db, site)
	if err != nil {
		return out, err
	}
	found, err := a.findings(db, somebody(f, language, whom), words, resultsShown)
	if err != nil {
		return out, err
	}
	for _, r := range found.Results {
		out.Results = append(out.Results, TriedResult{r, r.hit.Score, r.hit.Coverage, r.hit.Pinned})
	}
	out.Instead, out.Answer = found.Instead, found.Answer
	return out, nil
}

// ExplainSearch says why an article ranks where it does for somebody's question.
func (a *Search) ExplainSearch(
	ctx context.Context,
	by staff.Staff,
	site int64,
	language string,
	whom audience.Audience,
	words, reference string,
) (search.Explanation, error) {
	if err := by.May("Explaining the search", role.All...); err != nil {
		return search.Explanation{}, err
	}
	db := a.base.DB.WithContext(ctx)
	f, err := a.sites.KnownSettings(db, site)
	if err != nil {
		return search.Explanation{}, err
	}
	r, err := a.request(db, somebody(f, language, whom), words, resultsShown)
	if err != nil {
		return search.Explanation{}, err
	}
	number, _, ok := article.ParseEdition(reference)
	if !ok {
		return search.Explanation{}, problem.New(problem.NotFound, "An article is named as A-0042.")
	}
	e, err := a.index.Explain(r, article.Reference(number))
	return e, problem.From(err, "article")
}
