package app

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"hermeneus/core/article"
	"hermeneus/core/audience"
	"hermeneus/core/outcome"
	"hermeneus/core/role"
	"hermeneus/store"
)

// Kinds lists what an article can be.
var Kinds = []string{"how-to", "fix", "policy", "reference"}

// sourceLanguage is the language of every article's first edition.
const sourceLanguage = "en"

// Name is somebody or something by id and name.
type Name struct {
	ID   int64  `json:"id"`
	Name string `json:"name"`
}

// WorkingCopy is what the writer writes.
type WorkingCopy struct {
	Title             string   `json:"title"`
	Body              string   `json:"body"`
	Keywords          []string `json:"keywords"`
	SearchTitle       string   `json:"search_title"`
	SearchDescription string   `json:"search_description"`
}

// Article is an article as its writers see it.
type Article struct {
	ID            int64             `json:"id"`
	Reference     string            `json:"reference"`
	Category      Name              `json:"category"`
	Owner         Name              `json:"owner"`
	Kind          string            `json:"kind"`
	Audience      audience.Audience `json:"audience"`
	Language      string            `json:"language"`
	Copy          WorkingCopy       `json:"copy"`
	State         article.State     `json:"state"`
	Version       int               `json:"version"`
	Writer        Name              `json:"writer"`
	WrittenAt     time.Time         `json:"written_at"`
	Submitter     Name              `json:"submitter"`
	SubmittedAt   *time.Time        `json:"submitted_at"`
	DecisionNote  string            `json:"decision_note"`
	LiveRevision  int               `json:"live_revision"` // 0 when nothing is live
	LiveSince     *time.Time        `json:"live_since"`
	LastRevision  int               `json:"last_revision"`
	Allowed       []article.Action  `json:"allowed"`
	MayProperties bool              `json:"may_properties"`
	Trail         []TrailLine       `json:"trail"`
	Outcomes      outcome.Counts    `json:"outcomes"` // of questions in which it was the last article opened
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
}

func (c WorkingCopy) clean() (WorkingCopy, error) {
	var f fields
	f.atMost("title", c.Title, article.MaxTitle)
	f.atMost("search_title", c.SearchTitle, article.MaxTitle)
	f.atMost("search_description", c.SearchDescription, 500)
	f.require(len(c.Keywords) <= 40, "keywords", "At most 40 keywords.")
	keywords := []string{}
	for _, k := range c.Keywords {
		k = strings.Join(strings.Fields(k), " ")
		f.atMost("keywords", k, 80)
		if k != "" && !slices.Contains(keywords, k) {
			keywords = append(keywords, k)
		}
	}
	if err := f.err(); err != nil {
		return c, err
	}
	body, err := article.Sanitise(c.Body)
	if err != nil {
		return c, asProblem(err, "")
	}
	c.Title, c.Body, c.Keywords = strings.TrimSpace(c.Title), body, keywords
	return c, nil
}

func (c WorkingCopy) same(e store.Edition) bool {
	return c.Title == e.Title && c.Body == e.Body && slices.Equal(c.Keywords, []string(e.Keywords)) &&
		c.SearchTitle == e.SearchTitle && c.SearchDescription == e.SearchDescription
}

func (c WorkingCopy) into(e *store.Edition) {
	e.Title, e.Body, e.Keywords, e.SearchTitle, e.SearchDescription = c.Title, c.Body, c.Keywords, c.SearchTitle, c.SearchDescription
}

// CreateArticle begins an article with its source edition, and gives its reference.
func (a *App) CreateArticle(ctx context.Context, by Staff, n NewArticle) (string, error) {
	if err := by.may("Writing an article", role.Author); err != nil {
		return "", err
	}
	if n.Kind == "" {
		n.Kind = Kinds[0]
	}
	copied, err := n.Copy.clean()
	if err != nil {
		return "", err
	}
	row := store.Article{CategoryID: n.CategoryID, OwnerID: by.ID, Kind: n.Kind, CreatedAt: a.now()}
	err = a.transaction(ctx, func(tx *gorm.DB) error {
		var category store.Category
		if err := tx.First(&category, n.CategoryID).Error; err != nil {
			return asProblem(err, "category")
		}
		if row.Audience = string(n.Audience); row.Audience == "" {
			row.Audience = category.Audience
		}
		if err := checkProperties(row); err != nil {
			return err
		}
		if err := tx.Raw(`SELECT nextval('article_numbers')`).Scan(&row.Number).Error; err != nil {
			return err
		}
		if err := tx.Raw(`SELECT coalesce(max(position), 0) + 1 FROM articles WHERE category_id = ?`, n.CategoryID).Scan(&row.Position).Error; err != nil {
			return err
		}
		if err := tx.Create(&row).Error; err != nil {
			return err
		}
		e := store.Edition{ArticleID: row.ID, Language: sourceLanguage, State: string(article.Drafting), Version: 1, WriterID: by.ID, WrittenAt: a.now()}
		copied.into(&e)
		if err := tx.Create(&e).Error; err != nil {
			return err
		}
		return a.note(tx, by, store.Trail{ArticleID: &row.ID, Subject: article.Reference(row.Number), Action: "begun", ToState: string(article.Drafting)})
	})
	return article.Reference(row.Number), err
}

func checkProperties(row store.Article) error {
	var f fields
	f.require(slices.Contains(Kinds, row.Kind), "kind", "Choose one of "+strings.Join(Kinds, ", ")+".")
	f.require(audience.Audience(row.Audience).Valid(), "audience", "Choose who may see it.")
	return f.err()
}

// find gives an article and its source edition, locked when the transaction is
// going to change them.
func find(tx *gorm.DB, reference string, lock bool) (store.Article, store.Edition, error) {
	var row store.Article
	var e store.Edition
	number, _, ok := article.ParseReference(reference)
	if !ok {
		return row, e, problem(NotFound, "There is no article %q.", reference)
	}
	if lock {
		tx = tx.Clauses(clause.Locking{Strength: "UPDATE"}).Session(&gorm.Session{})
	}
	if err := tx.Where("number = ?", number).First(&row).Error; err != nil {
		return row, e, asProblem(err, "article")
	}
	if err := tx.Where("article_id = ? AND language = ?", row.ID, sourceLanguage).First(&e).Error; err != nil {
		return row, e, asProblem(err, "article")
	}
	return row, e, nil
}

// ReadArticle gives an article as its writers see it. Every member of staff may read it.
func (a *App) ReadArticle(ctx context.Context, by Staff, reference string) (Article, error) {
	db := a.db.WithContext(ctx)
	row, e, err := find(db, reference, false)
	if err != nil {
		return Article{}, err
	}
	out := Article{
		ID: row.ID, Reference: article.Reference(row.Number), Kind: row.Kind, Audience: audience.Audience(row.Audience), Language: e.Language,
		Copy:  WorkingCopy{e.Title, e.Body, e.Keywords, e.SearchTitle, e.SearchDescription},
		State: article.State(e.State), Version: e.Version, WrittenAt: e.WrittenAt, SubmittedAt: e.SubmittedAt,
		DecisionNote: e.DecisionNote, LiveSince: e.LiveSince, LastRevision: row.LastRevision,
		Allowed: copyOf(e).Allowed(by.actor()), MayProperties: by.Roles.Has(role.Author, role.Publisher),
	}
	var names struct {
		Category, Owner, Writer, Submitter string
		Live                               int
	}
	err = db.Raw(`SELECT (SELECT name FROM categories WHERE id = ?) AS category, (SELECT name FROM staff WHERE id = ?) AS owner,
		(SELECT name FROM staff WHERE id = ?) AS writer, (SELECT name FROM staff WHERE id = ?) AS submitter,
		(SELECT number FROM revisions WHERE id = ?) AS live`, row.CategoryID, row.OwnerID, e.WriterID, e.SubmitterID, e.LiveRevisionID).Scan(&names).Error
	if err != nil {
		return Article{}, fmt.Errorf("reading %s: %w", reference, err)
	}
	out.Category, out.Owner, out.Writer = Name{row.CategoryID, names.Category}, Name{row.OwnerID, names.Owner}, Name{e.WriterID, names.Writer}
	if e.SubmitterID != nil {
		out.Submitter = Name{*e.SubmitterID, names.Submitter}
	}
	out.LiveRevision = names.Live
	err = db.Raw(`SELECT at, name AS who, action, from_state AS "from", to_state AS "to", note FROM trail JOIN staff ON staff.id = staff_id
		WHERE article_id = ? ORDER BY trail.id DESC LIMIT 100`, row.ID).Scan(&out.Trail).Error
	if err != nil {
		return Article{}, fmt.Errorf("reading the trail of %s: %w", reference, err)
	}
	byArticle, err := a.outcomesByArticle(ctx)
	if err != nil {
		return Article{}, err
	}
	out.Outcomes = byArticle[out.Reference]
	return out, nil
}

func copyOf(e store.Edition) article.Copy {
	c := article.Copy{
		State: article.State(e.State), Live: e.LiveRevisionID != nil, Writer: e.WriterID,
		Empty: e.Title == "" || len(article.Read(e.Body).Blocks) == 0,
	}
	if e.SubmitterID != nil {
		c.Submitter = *e.SubmitterID
	}
	return c
}

// Saved says how the working copy stands after a save.
type Saved struct {
	Version int              `json:"version"`
	State   article.State    `json:"state"`
	Allowed []article.Action `json:"allowed"`
}

// SaveArticle saves the working copy. version is the one the writer started
// from: if somebody has saved since, nothing is changed and a StaleSave problem
// says who.
func (a *App) SaveArticle(ctx context.Context, by Staff, reference string, copied WorkingCopy, version int) (Saved, error) {
	copied, err := copied.clean()
	if err != nil {
		return Saved{}, err
	}
	var saved Saved
	err = a.transaction(ctx, func(tx *gorm.DB) error {
		_, e, err := find(tx, reference, true)
		if err != nil {
			return err
		}
		if e.Version != version {
			var who string
			if err := tx.Raw(`SELECT name FROM staff WHERE id = ?`, e.WriterID).Scan(&who).Error; err != nil {
				return err
			}
			return problem(StaleSave, "%s saved this article at %s, after you opened it. Your text is still here: copy what you need, then load the newer one.", who, e.WrittenAt.Format("15:04:05 MST"))
		}
		next, err := copyOf(e).Next(article.Edit, by.actor(), "")
		if err != nil {
			return asProblem(err, "")
		}
		if !copied.same(e) {
			copied.into(&e)
			e.State, e.Version, e.WriterID, e.WrittenAt = string(next), e.Version+1, by.ID, a.now()
			if err := tx.Save(&e).Error; err != nil {
				return err
			}
		}
		saved = Saved{e.Version, article.State(e.State), copyOf(e).Allowed(by.actor())}
		return nil
	})
	return saved, err
}

// Properties are what an article is besides its text.
type Properties struct {
	CategoryID int64             `json:"category_id"`
	OwnerID    int64             `json:"owner_id"`
	Kind       string            `json:"kind"`
	Audience   audience.Audience `json:"audience"`
}

// SetProperties changes them. Widening the audience of what is live shows it to
// more people at once, so it needs a publisher.
func (a *App) SetProperties(ctx context.Context, by Staff, reference string, p Properties) error {
	if err := by.may("Changing an article", role.Author, role.Publisher); err != nil {
		return err
	}
	return a.transaction(ctx, func(tx *gorm.DB) error {
		row, e, err := find(tx, reference, true)
		if err != nil {
			return err
		}
		before := row
		row.CategoryID, row.OwnerID, row.Kind, row.Audience = p.CategoryID, p.OwnerID, p.Kind, string(p.Audience)
		if err := checkProperties(row); err != nil {
			return err
		}
		if e.LiveRevisionID != nil && p.Audience.WiderThan(audience.Audience(before.Audience)) {
			if err := by.may("Showing a live article to more people", role.Publisher); err != nil {
				return err
			}
		}
		if err := tx.First(&store.Category{}, row.CategoryID).Error; err != nil {
			return asProblem(err, "category")
		}
		if err := tx.First(&store.Staff{}, row.OwnerID).Error; err != nil {
			return asProblem(err, "member of staff")
		}
		if row == before {
			return nil
		}
		if err := tx.Save(&row).Error; err != nil {
			return err
		}
		line := store.Trail{ArticleID: &row.ID, Subject: article.Reference(row.Number), Action: "properties", Note: changed(before, row)}
		if err := a.note(tx, by, line); err != nil {
			return err
		}
		return store.Announce(tx, store.ArticleChanged, row.ID)
	})
}

func changed(before, after store.Article) string {
	var parts []string
	add := func(differs bool, format string, args ...any) {
		if differs {
			parts = append(parts, fmt.Sprintf(format, args...))
		}
	}
	add(before.Audience != after.Audience, "audience %s → %s", before.Audience, after.Audience)
	add(before.Kind != after.Kind, "kind %s → %s", before.Kind, after.Kind)
	add(before.CategoryID != after.CategoryID, "moved to another category")
	add(before.OwnerID != after.OwnerID, "given to another owner")
	return strings.Join(parts, "; ")
}
