package library

import (
	"context"
	"encoding/json"
	"errors"
	"slices"
	"strings"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"hermeneus/app/customers"
	"hermeneus/app/problem"
	"hermeneus/app/staff"
	"hermeneus/app/texts"
	"hermeneus/core/article"
	"hermeneus/core/audience"
	"hermeneus/core/review"
	"hermeneus/core/role"
	"hermeneus/store"
)

// Kinds lists what an article can be.
var Kinds = []string{"how-to", "fix", "policy", "reference"}

// WorkingCopy is what the writer writes.
type WorkingCopy struct {
	Title             string   `json:"title"`
	Body              string   `json:"body"`
	Keywords          []string `json:"keywords"`
	SearchTitle       string   `json:"search_title"`
	SearchDescription string   `json:"search_description"`
}

// Titled is an article by reference and title.
type Titled struct {
	Reference string `json:"reference"`
	Title     string `json:"title"`
}

// TrailLine is one line of who did what.
type TrailLine struct {
	At     time.Time `json:"at"`
	Who    string    `json:"who"`
	Action string    `json:"action"`
	From   string    `json:"from"`
	To     string    `json:"to"`
	Note   string    `json:"note"`
}

// NewArticle is an article to be made.
type NewArticle struct {
	CategoryID int64             `json:"category_id"`
	Kind       string            `json:"kind,omitempty"`
	Copy       WorkingCopy       `json:"copy"`
	Audience   audience.Audience `json:"audience,omitempty"` // "" takes the category's
	TemplateID int64             `json:"template_id,omitempty"`
	Key        string            `json:"-"` // from where it is brought in
	Number     int               `json:"-"` // likewise, where it is free
	Authors    []int64           `json:"-"` // of the text, besides whoever begins it
}

// Clean bounds a text and makes it safe, or says what is wrong with it.
func (c WorkingCopy) Clean() (WorkingCopy, error) {
	var f problem.Fields
	f.AtMost("title", c.Title, article.MaxTitle)
	f.AtMost("search_title", c.SearchTitle, article.MaxTitle)
	f.AtMost("search_description", c.SearchDescription, 500)
	f.Require(len(c.Keywords) <= 40, "keywords", "At most 40 keywords.")
	keywords := problem.TidyList(c.Keywords)
	for _, k := range keywords {
		f.AtMost("keywords", k, 80)
	}
	if err := f.Err(); err != nil {
		return c, err
	}
	body, err := article.Sanitise(c.Body)
	if err != nil {
		return c, problem.From(err, "")
	}
	c.Title, c.Body, c.Keywords = strings.TrimSpace(c.Title), body, keywords
	return c, nil
}

// Same reports whether an edition has this text already.
func (c WorkingCopy) Same(e store.Edition) bool {
	return c.Title == e.Title && c.Body == e.Body && slices.Equal(c.Keywords, []string(e.Keywords)) &&
		c.SearchTitle == e.SearchTitle && c.SearchDescription == e.SearchDescription
}

// Into writes the text into an edition, with what is searched of it.
func (c WorkingCopy) Into(e *store.Edition) {
	e.Title, e.Body, e.Keywords, e.SearchTitle, e.SearchDescription = c.Title, c.Body, c.Keywords, c.SearchTitle, c.SearchDescription
	e.Text, e.Named = article.Read(c.Body).Text(), c.Title+"\n"+strings.Join(c.Keywords, "\n")
}

// WorkingCopyOf is the text of an edition.
func WorkingCopyOf(e store.Edition) WorkingCopy {
	return WorkingCopy{e.Title, e.Body, e.Keywords, e.SearchTitle, e.SearchDescription}
}

// CreateArticle begins an article with its source edition, and gives its reference.
// With a template, it begins with the template's sections, which it keeps even if
// the template changes.
func (a *Library) CreateArticle(ctx context.Context, by staff.Staff, n NewArticle) (string, error) {
	if err := by.May("Writing an article", role.Author); err != nil {
		return "", err
	}
	var ref string
	err := a.base.Transaction(ctx, func(tx *gorm.DB) error {
		row, err := a.Create(tx, by, n)
		ref = article.Reference(row.Number)
		return err
	})
	return ref, err
}

// Create begins an article within a transaction.
func (a *Library) Create(tx *gorm.DB, by staff.Staff, n NewArticle) (store.Article, error) {
	row := store.Article{
		CategoryID:    n.CategoryID,
		OwnerID:       by.ID,
		Kind:          n.Kind,
		CreatedAt:     a.base.Now(),
		Key:           n.Key,
		Number:        n.Number,
		RecheckDays:   DefaultRecheck,
		RecheckByRule: true,
		RecheckOn:     a.base.Today().AddDate(0, 0, DefaultRecheck),
	}
	if err := useTemplate(tx, &n, &row); err != nil {
		return row, err
	}
	if row.Kind == "" {
		row.Kind = Kinds[0]
	}
	text, err := n.Copy.Clean()
	if err != nil {
		return row, err
	}
	var category store.Category
	if err := tx.First(&category, n.CategoryID).Error; err != nil {
		return row, problem.From(err, "category")
	}
	if row.Audience = string(n.Audience); row.Audience == "" {
		row.Audience = category.Audience
	}
	if err := CheckProperties(tx, row); err != nil {
		return row, err
	}
	if row.Number == 0 {
		if row.Number, err = nextNumber(tx); err != nil {
			return row, err
		}
	}
	if err := tx.Raw(`SELECT coalesce(max(position), 0) + 1 FROM articles WHERE category_id = ?`, n.CategoryID).
		Scan(&row.Position).
		Error; err != nil {
		return row, err
	}
	if err := tx.Create(&row).Error; err != nil {
		return row, err
	}
	e := store.Edition{
		ArticleID: row.ID,
		Language:  article.SourceLanguage,
		State:     string(review.Drafting),
		Version:   1,
		WriterID:  by.ID,
		WrittenAt: a.base.Now(),
	}
	text.Into(&e)
	if err := tx.Create(&e).Error; err != nil {
		return row, err
	}
	if err := errors.Join(
		KeepLinks(tx, e),
		KeepOutside(tx, e),
		a.texts.NoteAuthors(tx, e.ID, texts.Union(n.Authors, by.ID)...),
	); err != nil {
		return row, err
	}
	return row, a.trail.Note(
		tx,
		by,
		store.Trail{
			ArticleID: &row.ID,
			Subject:   article.Reference(row.Number),
			Action:    "begun",
			ToState:   string(review.Drafting),
		},
	)
}

// nextNumber gives the next number of an article, leaving out those that articles were
// brought in with.
func nextNumber(tx *gorm.DB) (number int, err error) {
	for taken := true; err == nil && taken; {
		err = tx.Raw(`SELECT n AS number, EXISTS (SELECT 1 FROM articles WHERE number = n) AS taken
			FROM nextval('article_numbers') n`).
			Row().
			Scan(&number, &taken)
	}
	return number, err
}

// useTemplate lets an article begin as its template says.
func useTemplate(tx *gorm.DB, n *NewArticle, row *store.Article) error {
	row.Sections = json.RawMessage("[]")
	if n.TemplateID == 0 {
		return nil
	}
	var t store.Template
	if err := tx.First(&t, n.TemplateID).Error; err != nil {
		return problem.From(err, "template")
	}
	row.Sections = t.Sections
	if row.Kind == "" {
		row.Kind = t.Kind
	}
	if n.Copy.Body == "" {
		is, err := TemplateOf(t)
		if err != nil {
			return err
		}
		n.Copy.Body = is.Body()
	}
	return nil
}

// KeepLinks notes which articles a working copy points to.
func KeepLinks(tx *gorm.DB, e store.Edition) error {
	if err := tx.Exec(`DELETE FROM links WHERE edition_id = ?`, e.ID).Error; err != nil {
		return err
	}
	for _, number := range article.Read(e.Body).Links {
		if err := tx.Exec(`INSERT INTO links VALUES (?, ?) ON CONFLICT DO NOTHING`, e.ID, number).Error; err != nil {
			return err
		}
	}
	return nil
}

// CheckProperties says what is wrong with the properties of an article.
func CheckProperties(tx *gorm.DB, row store.Article) error {
	var f problem.Fields
	f.Require(slices.Contains(Kinds, row.Kind), "kind", "Choose one of "+strings.Join(Kinds, ", ")+".")
	if err := customers.KnownAudience(tx, &f, "audience", audience.Audience(row.Audience)); err != nil {
		return err
	}
	f.Require(row.RecheckDays >= 1 && row.RecheckDays <= 3660, "recheck_days", "Between 1 day and ten years.")
	if row.KnownProblemID != nil {
		var there int
		if err := tx.Raw(`SELECT count(*) FROM known_problems WHERE id = ?`, *row.KnownProblemID).
			Scan(&there).
			Error; err != nil {
			return err
		}
		f.Require(there == 1, "known_problem", "There is no such known problem.")
	}
	return f.Err()
}

// FindEdition gives an article and one of its editions (A-0042, or A-0042.de), locked when
// the transaction is going to change them.
func FindEdition(tx *gorm.DB, reference string, lock bool) (store.Article, store.Edition, error) {
	var row store.Article
	var e store.Edition
	number, language, ok := article.ParseEdition(reference)
	if !ok {
		return row, e, problem.New(problem.NotFound, "There is no article %q.", reference)
	}
	if lock {
		tx = tx.Clauses(clause.Locking{Strength: "UPDATE"}).Session(&gorm.Session{})
	}
	if err := tx.Where("number = ?", number).First(&row).Error; err != nil {
		return row, e, problem.From(err, "article")
	}
	if err := tx.Where("article_id = ? AND language = ?", row.ID, language).First(&e).Error; err != nil {
		return row, e, problem.From(err, "edition")
	}
	return row, e, nil
}

// CopyOf is what the rules need for editing; standing gives the rest.
func CopyOf(e store.Edition) review.Copy {
	outline := article.Read(e.Body)
	c := review.Copy{
		State: review.State(e.State), Live: e.LiveRevisionID != nil,
		Empty: e.Title == "" || len(outline.Blocks) == 0, Unseen: outline.Unseen,
	}
	return c
}

// ReferenceSQL writes the reference of articles a.
const ReferenceSQL = `'A-' || lpad(a.number::text, greatest(4, length(a.number::text)), '0')`
