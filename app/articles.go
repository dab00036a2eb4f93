package app

import (
	"context"
	"encoding/json"
	"errors"
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
	Holder        *Holder           `json:"holder"`   // who is writing, nil for nobody
	Sections      []article.Section `json:"sections"` // of its template
	RecheckDays   int               `json:"recheck_days"`
	RecheckOn     string            `json:"recheck_on"` // a day such as 2026-03-02
	InterimUntil  string            `json:"interim_until"`
	KnownProblem  *KnownProblem     `json:"known_problem"`
	Editions      []EditionLine     `json:"editions"`
	Sites         []Name            `json:"sites"` // that show its category
	LinkedFrom    []Titled          `json:"linked_from"`
	RecheckByRule bool              `json:"recheck_by_rule"` // by kind and use; else every so many days
	Overdue       bool              `json:"overdue"`         // it is live, and must be confirmed
	CheckedOn     string            `json:"checked_on"`      // when it was last confirmed true
	Following     bool              `json:"following"`       // the reader is told of what happens to it
	Gate          string            `json:"gate"`            // that the working copy stands before
	WithdrawnTo   string            `json:"withdrawn_to"`    // where readers of the withdrawn article are sent
	Notice        string            `json:"notice"`          // or what they are told
	Goes          *Due              `json:"goes"`            // when it goes live by itself
	Ends          *Due              `json:"ends"`            // when what is live is withdrawn by itself
	MayComment    bool              `json:"may_comment"`
	Conversation  string            `json:"conversation"` // of whose reply it was made, as R-0012; "" for none
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
	key        string            // from where it is brought in
	number     int               // likewise, where it is free
	authors    []int64           // of the text, besides whoever begins it
}

func (c WorkingCopy) clean() (WorkingCopy, error) {
	var f fields
	f.atMost("title", c.Title, article.MaxTitle)
	f.atMost("search_title", c.SearchTitle, article.MaxTitle)
	f.atMost("search_description", c.SearchDescription, 500)
	f.require(len(c.Keywords) <= 40, "keywords", "At most 40 keywords.")
	keywords := tidyList(c.Keywords)
	for _, k := range keywords {
		f.atMost("keywords", k, 80)
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
	e.Text, e.Named = article.Read(c.Body).Text(), c.Title+"\n"+strings.Join(c.Keywords, "\n")
}

func copied(e store.Edition) WorkingCopy {
	return WorkingCopy{e.Title, e.Body, e.Keywords, e.SearchTitle, e.SearchDescription}
}

// CreateArticle begins an article with its source edition, and gives its reference.
// With a template, it begins with the template's sections, which it keeps even if
// the template changes.
func (a *App) CreateArticle(ctx context.Context, by Staff, n NewArticle) (string, error) {
	if err := by.may("Writing an article", role.Author); err != nil {
		return "", err
	}
	var ref string
	err := a.transaction(ctx, func(tx *gorm.DB) error {
		row, err := a.create(tx, by, n)
		ref = article.Reference(row.Number)
		return err
	})
	return ref, err
}

func (a *App) create(tx *gorm.DB, by Staff, n NewArticle) (store.Article, error) {
	row := store.Article{
		CategoryID:    n.CategoryID,
		OwnerID:       by.ID,
		Kind:          n.Kind,
		CreatedAt:     a.now(),
		Key:           n.key,
		Number:        n.number,
		RecheckDays:   DefaultRecheck,
		RecheckByRule: true,
		RecheckOn:     a.today().AddDate(0, 0, DefaultRecheck),
	}
	if err := useTemplate(tx, &n, &row); err != nil {
		return row, err
	}
	if row.Kind == "" {
		row.Kind = Kinds[0]
	}
	text, err := n.Copy.clean()
	if err != nil {
		return row, err
	}
	var category store.Category
	if err := tx.First(&category, n.CategoryID).Error; err != nil {
		return row, asProblem(err, "category")
	}
	if row.Audience = string(n.Audience); row.Audience == "" {
		row.Audience = category.Audience
	}
	if err := checkProperties(tx, row); err != nil {
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
		State:     string(article.Drafting),
		Version:   1,
		WriterID:  by.ID,
		WrittenAt: a.now(),
	}
	text.into(&e)
	if err := tx.Create(&e).Error; err != nil {
		return row, err
	}
	if err := errors.Join(
		keepLinks(tx, e),
		keepOutside(tx, e),
		a.wrote(tx, e.ID, with(n.authors, by.ID)...),
	); err != nil {
		return row, err
	}
	return row, a.note(
		tx,
		by,
		store.Trail{
			ArticleID: &row.ID,
			Subject:   article.Reference(row.Number),
			Action:    "begun",
			ToState:   string(article.Drafting),
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
		return asProblem(err, "template")
	}
	row.Sections = t.Sections
	if row.Kind == "" {
		row.Kind = t.Kind
	}
	if n.Copy.Body == "" {
		is, err := templateOf(t)
		if err != nil {
			return err
		}
		n.Copy.Body = is.Body()
	}
	return nil
}

// keepLinks notes which articles a working copy points to.
func keepLinks(tx *gorm.DB, e store.Edition) error {
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

func checkProperties(tx *gorm.DB, row store.Article) error {
	var f fields
	f.require(slices.Contains(Kinds, row.Kind), "kind", "Choose one of "+strings.Join(Kinds, ", ")+".")
	if err := knownAudience(tx, &f, "audience", audience.Audience(row.Audience)); err != nil {
		return err
	}
	f.require(row.RecheckDays >= 1 && row.RecheckDays <= 3660, "recheck_days", "Between 1 day and ten years.")
	if row.KnownProblemID != nil {
		var there int
		if err := tx.Raw(`SELECT count(*) FROM known_problems WHERE id = ?`, *row.KnownProblemID).
			Scan(&there).
			Error; err != nil {
			return err
		}
		f.require(there == 1, "known_problem", "There is no such known problem.")
	}
	return f.err()
}

// find gives an article and one of its editions (A-0042, or A-0042.de), locked when
// the transaction is going to change them.
func find(tx *gorm.DB, reference string, lock bool) (store.Article, store.Edition, error) {
	var row store.Article
	var e store.Edition
	number, language, ok := article.ParseEdition(reference)
	if !ok {
		return row, e, problem(NotFound, "There is no article %q.", reference)
	}
	if lock {
		tx = tx.Clauses(clause.Locking{Strength: "UPDATE"}).Session(&gorm.Session{})
	}
	if err := tx.Where("number = ?", number).First(&row).Error; err != nil {
		return row, e, asProblem(err, "article")
	}
	if err := tx.Where("article_id = ? AND language = ?", row.ID, language).First(&e).Error; err != nil {
		return row, e, asProblem(err, "edition")
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
	standing, _, err := a.standing(db, row, e)
	if err != nil {
		return Article{}, err
	}
	out := Article{
		ID:            row.ID,
		Reference:     article.EditionReference(row.Number, e.Language),
		Kind:          row.Kind,
		Audience:      audience.Audience(row.Audience),
		Language:      e.Language,
		Copy:          copied(e),
		State:         article.State(e.State),
		Version:       e.Version,
		WrittenAt:     e.WrittenAt,
		SubmittedAt:   e.SubmittedAt,
		DecisionNote:  e.DecisionNote,
		LiveSince:     e.LiveSince,
		LastRevision:  row.LastRevision,
		Allowed:       standing.Allowed(by.actor()),
		MayProperties: by.Roles.Has(role.Author, role.Publisher),
		RecheckDays:   row.RecheckDays,
		RecheckOn:     row.RecheckOn.Format(time.DateOnly),
		RecheckByRule: row.RecheckByRule,
		Notice:        row.WithdrawnNotice,
	}
	if row.InterimUntil != nil {
		out.InterimUntil = row.InterimUntil.Format(time.DateOnly)
	}
	out.Overdue = e.LiveRevisionID != nil && !row.RecheckOn.After(a.today())
	if row.CheckedOn != nil {
		out.CheckedOn = row.CheckedOn.Format(time.DateOnly)
	}
	if gate, ok := standing.Gate(); ok && standing.State == article.InReview {
		out.Gate = gate.Name
	}
	var names struct {
		Category, Owner, Writer, Submitter string
		Live                               int
	}
	err = db.Raw(`SELECT (SELECT name FROM categories WHERE id = ?) AS category,
			(SELECT name FROM staff WHERE id = ?) AS owner, (SELECT name FROM staff WHERE id = ?) AS writer,
			(SELECT name FROM staff WHERE id = ?) AS submitter,
			(SELECT number FROM revisions WHERE id = ?) AS live`, row.CategoryID, row.OwnerID, e.WriterID, e.SubmitterID, e.LiveRevisionID).
		Scan(&names).
		Error
	if err != nil {
		return Article{}, fmt.Errorf("reading %s: %w", reference, err)
	}
	out.Category, out.Owner, out.Writer = Name{
		row.CategoryID,
		names.Category,
	}, Name{
		row.OwnerID,
		names.Owner,
	}, Name{
		e.WriterID,
		names.Writer,
	}
	if e.SubmitterID != nil {
		out.Submitter = Name{*e.SubmitterID, names.Submitter}
	}
	out.LiveRevision = names.Live
	err = db.Raw(`SELECT at, coalesce(name, 'Hermeneus') AS who, action, from_state AS "from", to_state AS "to",
			note
		FROM trail LEFT JOIN staff ON staff.id = staff_id WHERE article_id = ? ORDER BY trail.id DESC LIMIT 100`, row.ID).
		Scan(&out.Trail).
		Error
	if err != nil {
		return Article{}, fmt.Errorf("reading the trail of %s: %w", reference, err)
	}
	byArticle, err := a.outcomesByArticle(ctx)
	if err != nil {
		return Article{}, err
	}
	out.Outcomes = byArticle[article.Reference(row.Number)]
	var around struct {
		Following                 bool
		WithdrawnTo, Conversation string
	}
	err = db.Raw(`SELECT EXISTS (SELECT 1 FROM followers WHERE article_id = ? AND staff_id = ?) AS following,
		coalesce((SELECT `+referenceSQL+` FROM articles a
			WHERE a.id = ?), '') AS withdrawn_to, coalesce((SELECT reference FROM conversations
			WHERE id = ?), '') AS conversation`, row.ID, by.ID, row.WithdrawnTo, row.ConversationID).Scan(&around).Error
	if err != nil {
		return Article{}, err
	}
	out.Following, out.WithdrawnTo, out.Conversation = around.Following, around.WithdrawnTo, around.Conversation
	out.MayComment = mayComment(db, by, row) == nil
	if out.Goes, out.Ends, err = dues(db, e); err != nil {
		return Article{}, err
	}
	return out, a.surroundings(db, row, e, &out)
}

// surroundings fills in what stands around an edition.
func (a *App) surroundings(db *gorm.DB, row store.Article, e store.Edition, out *Article) (err error) {
	if err := json.Unmarshal(row.Sections, &out.Sections); err != nil {
		return fmt.Errorf("reading the sections of %s: %w", out.Reference, err)
	}
	if out.Holder, err = a.holder(db, e.ID); err != nil {
		return err
	}
	if row.KnownProblemID != nil {
		out.KnownProblem = &KnownProblem{}
		if err := db.Raw(`SELECT * FROM known_problems WHERE id = ?`, *row.KnownProblemID).
			Scan(out.KnownProblem).
			Error; err != nil {
			return err
		}
	}
	if out.Editions, err = editionLines(db, row); err != nil {
		return err
	}
	if out.Sites, err = a.sitesOf(db, row.CategoryID); err != nil {
		return err
	}
	return db.Raw(`SELECT DISTINCT `+referenceSQL+` AS reference, e.title
		FROM links l JOIN editions e ON e.id = l.edition_id JOIN articles a ON a.id = e.article_id
		WHERE l.number = ? AND a.id <> ? AND e.language = ? ORDER BY 1 LIMIT 50`,
		row.Number, row.ID, article.SourceLanguage).
		Scan(&out.LinkedFrom).
		Error
}

// copyOf is what the rules need for editing; standing gives the rest.
func copyOf(e store.Edition) article.Copy {
	outline := article.Read(e.Body)
	c := article.Copy{
		State: article.State(e.State), Live: e.LiveRevisionID != nil,
		Empty: e.Title == "" || len(outline.Blocks) == 0, Unseen: outline.Unseen,
	}
	return c
}

// Saved says how the working copy stands after a save.
type Saved struct {
	Version int              `json:"version"`
	State   article.State    `json:"state"`
	Allowed []article.Action `json:"allowed"`
}

// Save is a text to be saved, as its writer's browser sends it.
type Save struct {
	Text    WorkingCopy
	Version int    // the one that the writer started from
	Tab     string // the browser tab that writes; "" holds nothing
	Key     string // made by whoever saves: the same again is the same save. "" is never the same

	authors []int64 // of the text, besides whoever saves it
}

func (s Staff) mayEdit() error { return s.may("Editing", role.Author) }

// SaveArticle saves the working copy. If somebody has saved since its writer started,
// nothing is changed and a StaleSave problem says who; while somebody else writes, a
// Held problem says who. A save whose key is known was made before: its answer is given
// again, with the version that it made.
func (a *App) SaveArticle(ctx context.Context, by Staff, reference string, s Save) (Saved, error) {
	if err := by.mayEdit(); err != nil {
		return Saved{}, err
	}
	text, err := s.Text.clean()
	if err != nil {
		return Saved{}, err
	}
	s.Text = text
	var saved Saved
	err = a.transaction(ctx, func(tx *gorm.DB) error {
		row, e, err := find(tx, reference, true)
		if err != nil {
			return err
		}
		saved, err = a.save(tx, by, row, &e, s)
		return err
	})
	return saved, err
}

// save saves the clean text of an edition that is locked.
func (a *App) save(tx *gorm.DB, by Staff, row store.Article, e *store.Edition, s Save) (Saved, error) {
	made, err := madeBefore(tx, by, e.ID, s.Key)
	if err != nil {
		return Saved{}, err
	}
	if made == 0 {
		if made, err = a.saveOnce(tx, by, e, s); err != nil {
			return Saved{}, err
		}
	}
	c, _, err := a.standing(tx, row, *e)
	return Saved{made, c.State, c.Allowed(by.actor())}, err
}

// madeBefore gives the version that the save with this key made, 0 for none.
func madeBefore(tx *gorm.DB, by Staff, edition int64, key string) (version int, err error) {
	if key == "" {
		return 0, nil
	}
	err = tx.Raw(`SELECT version
		FROM autosaves
		WHERE edition_id = ? AND staff_id = ? AND save_key = ?`, edition, by.ID, key).
		Scan(&version).
		Error
	return version, err
}

// saveOnce writes a text, unless it is the one that is there, and gives the version
// that the edition then has.
func (a *App) saveOnce(tx *gorm.DB, by Staff, e *store.Edition, s Save) (int, error) {
	if e.Version != s.Version {
		var who string
		if err := tx.Raw(`SELECT name FROM staff WHERE id = ?`, e.WriterID).Scan(&who).Error; err != nil {
			return 0, err
		}
		return 0, problem(
			StaleSave,
			"%s saved this article at %s, after you opened it. Both texts are kept: yours is here, the other can be laid beside it.",
			who,
			e.WrittenAt.Format("15:04:05 MST"),
		)
	}
	next, err := copyOf(*e).Do(article.Edit, by.actor(), "")
	if err != nil {
		return 0, asProblem(err, "")
	}
	if s.Text.same(*e) {
		return e.Version, a.hold(tx, by, e.ID, "") // nothing is written
	}
	if err := a.hold(tx, by, e.ID, s.Tab); err != nil {
		return 0, err
	}
	was := article.State(e.State)
	e.State = string(next.State)
	err = a.write(tx, by, e, s.Text, was, s.Key, s.authors...)
	return e.Version, err
}

// write puts a text into an edition, and keeps it among its autosaves under the key of
// the save ("" for none). Was is the state before the change; others are those whose words
// it brings, besides whoever saves it.
func (a *App) write(
	tx *gorm.DB,
	by Staff,
	e *store.Edition,
	text WorkingCopy,
	was article.State,
	key string,
	others ...int64,
) error {
	text.into(e)
	e.Version, e.WriterID, e.WrittenAt = e.Version+1, by.ID, a.now()
	if err := tx.Save(e).Error; err != nil {
		return err
	}
	if err := errors.Join(
		keepLinks(tx, *e),
		keepOutside(tx, *e),
		a.wrote(tx, e.ID, with(others, by.ID)...),
	); err != nil {
		return err
	}
	if err := a.keepAutosave(tx, *e, key); err != nil {
		return err
	}
	if err := a.textChanged(tx, by, *e, was); err != nil {
		return err
	}
	return store.Announce(tx, store.CopyChanged, e.ID)
}
