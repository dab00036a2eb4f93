package desk

import (
	"context"
	"encoding/json"
	"fmt"
	"time"

	"gorm.io/gorm"

	"hermeneus/app/instance"
	"hermeneus/app/library"
	"hermeneus/app/review"
	"hermeneus/app/staff"
	"hermeneus/app/texts"
	"hermeneus/app/writing"
	"hermeneus/core/article"
	"hermeneus/core/audience"
	"hermeneus/core/outcome"
	corereview "hermeneus/core/review"
	"hermeneus/core/role"
	"hermeneus/store"
)

// Article is an article as its writers see it.
type Article struct {
	ID            int64                 `json:"id"`
	Reference     string                `json:"reference"`
	Category      instance.Name         `json:"category"`
	Owner         instance.Name         `json:"owner"`
	Kind          string                `json:"kind"`
	Audience      audience.Audience     `json:"audience"`
	Language      string                `json:"language"`
	Copy          library.WorkingCopy   `json:"copy"`
	State         corereview.State      `json:"state"`
	Version       int                   `json:"version"`
	Writer        instance.Name         `json:"writer"`
	WrittenAt     time.Time             `json:"written_at"`
	Submitter     instance.Name         `json:"submitter"`
	SubmittedAt   *time.Time            `json:"submitted_at"`
	DecisionNote  string                `json:"decision_note"`
	LiveRevision  int                   `json:"live_revision"` // 0 when nothing is live
	LiveSince     *time.Time            `json:"live_since"`
	LastRevision  int                   `json:"last_revision"`
	Allowed       []corereview.Action   `json:"allowed"`
	MayProperties bool                  `json:"may_properties"`
	Trail         []library.TrailLine   `json:"trail"`
	Outcomes      outcome.Counts        `json:"outcomes"` // of questions in which it was the last article opened
	Holder        *texts.Holder         `json:"holder"`   // who is writing, nil for nobody
	Sections      []article.Section     `json:"sections"` // of its template
	RecheckDays   int                   `json:"recheck_days"`
	RecheckOn     string                `json:"recheck_on"` // a day such as 2026-03-02
	InterimUntil  string                `json:"interim_until"`
	KnownProblem  *library.KnownProblem `json:"known_problem"`
	Editions      []writing.EditionLine `json:"editions"`
	Sites         []instance.Name       `json:"sites"` // that show its category
	LinkedFrom    []library.Titled      `json:"linked_from"`
	RecheckByRule bool                  `json:"recheck_by_rule"` // by kind and use; else every so many days
	Overdue       bool                  `json:"overdue"`         // it is live, and must be confirmed
	CheckedOn     string                `json:"checked_on"`      // when it was last confirmed true
	Following     bool                  `json:"following"`       // the reader is told of what happens to it
	Gate          string                `json:"gate"`            // that the working copy stands before
	WithdrawnTo   string                `json:"withdrawn_to"`    // where readers of the withdrawn article are sent
	Notice        string                `json:"notice"`          // or what they are told
	Goes          *review.Due           `json:"goes"`            // when it goes live by itself
	Ends          *review.Due           `json:"ends"`            // when what is live is withdrawn by itself
	MayComment    bool                  `json:"may_comment"`
	Conversation  string                `json:"conversation"` // of whose reply it was made, as R-0012; "" for none
}

// ReadArticle gives an article as its writers see it. Every member of staff may read it.
func (a *Desk) ReadArticle(ctx context.Context, by staff.Staff, reference string) (Article, error) {
	db := a.base.DB.WithContext(ctx)
	row, e, err := library.FindEdition(db, reference, false)
	if err != nil {
		return Article{}, err
	}
	standing, _, err := a.review.Situation(db, row, e)
	if err != nil {
		return Article{}, err
	}
	out := Article{
		ID:            row.ID,
		Reference:     article.EditionReference(row.Number, e.Language),
		Kind:          row.Kind,
		Audience:      audience.Audience(row.Audience),
		Language:      e.Language,
		Copy:          library.WorkingCopyOf(e),
		State:         corereview.State(e.State),
		Version:       e.Version,
		WrittenAt:     e.WrittenAt,
		SubmittedAt:   e.SubmittedAt,
		DecisionNote:  e.DecisionNote,
		LiveSince:     e.LiveSince,
		LastRevision:  row.LastRevision,
		Allowed:       standing.Allowed(by.Actor()),
		MayProperties: by.Roles.Has(role.Author, role.Publisher),
		RecheckDays:   row.RecheckDays,
		RecheckOn:     row.RecheckOn.Format(time.DateOnly),
		RecheckByRule: row.RecheckByRule,
		Notice:        row.WithdrawnNotice,
	}
	if row.InterimUntil != nil {
		out.InterimUntil = row.InterimUntil.Format(time.DateOnly)
	}
	out.Overdue = e.LiveRevisionID != nil && !row.RecheckOn.After(a.base.Today())
	if row.CheckedOn != nil {
		out.CheckedOn = row.CheckedOn.Format(time.DateOnly)
	}
	if gate, ok := standing.Gate(); ok && standing.State == corereview.InReview {
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
	out.Category = instance.Name{
		ID:   row.CategoryID,
		Name: names.Category,
	}
	out.Owner = instance.Name{
		ID:   row.OwnerID,
		Name: names.Owner,
	}
	out.Writer = instance.Name{
		ID:   e.WriterID,
		Name: names.Writer,
	}
	if e.SubmitterID != nil {
		out.Submitter = instance.Name{ID: *e.SubmitterID, Name: names.Submitter}
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
	bare := article.Reference(row.Number)
	byArticle, err := a.outcomes.OfArticles(ctx, []string{bare})
	if err != nil {
		return Article{}, err
	}
	out.Outcomes = byArticle[bare]
	var around struct {
		Following                 bool
		WithdrawnTo, Conversation string
	}
	err = db.Raw(`SELECT EXISTS (SELECT 1 FROM followers WHERE article_id = ? AND staff_id = ?) AS following,
		coalesce((SELECT `+library.ReferenceSQL+` FROM articles a
			WHERE a.id = ?), '') AS withdrawn_to, coalesce((SELECT reference FROM conversations
			WHERE id = ?), '') AS conversation`, row.ID, by.ID, row.WithdrawnTo, row.ConversationID).Scan(&around).Error
	if err != nil {
		return Article{}, err
	}
	out.Following, out.WithdrawnTo, out.Conversation = around.Following, around.WithdrawnTo, around.Conversation
	out.MayComment = review.MayComment(db, by, row) == nil
	if out.Goes, out.Ends, err = review.Dues(db, e); err != nil {
		return Article{}, err
	}
	return out, a.surroundings(db, row, e, &out)
}

// surroundings fills in what stands around an edition.
func (a *Desk) surroundings(db *gorm.DB, row store.Article, e store.Edition, out *Article) (err error) {
	if err := json.Unmarshal(row.Sections, &out.Sections); err != nil {
		return fmt.Errorf("reading the sections of %s: %w", out.Reference, err)
	}
	if out.Holder, err = a.texts.Holder(db, e.ID); err != nil {
		return err
	}
	if row.KnownProblemID != nil {
		out.KnownProblem = &library.KnownProblem{}
		if err := db.Raw(`SELECT * FROM known_problems WHERE id = ?`, *row.KnownProblemID).
			Scan(out.KnownProblem).
			Error; err != nil {
			return err
		}
	}
	if out.Editions, err = writing.EditionLines(db, row); err != nil {
		return err
	}
	if out.Sites, err = a.sites.SitesOf(db, row.CategoryID); err != nil {
		return err
	}
	return db.Raw(`SELECT DISTINCT `+library.ReferenceSQL+` AS reference, e.title
		FROM links l JOIN editions e ON e.id = l.edition_id JOIN articles a ON a.id = e.article_id
		WHERE l.number = ? AND a.id <> ? AND e.language = ? ORDER BY 1 LIMIT 50`,
		row.Number, row.ID, article.SourceLanguage).
		Scan(&out.LinkedFrom).
		Error
}
