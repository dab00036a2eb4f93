package library

import (
	"context"
	"strings"
	"time"

	"gorm.io/gorm"

	"hermeneus/app/problem"
	"hermeneus/app/texts"
	"hermeneus/core/article"
	"hermeneus/core/compare"
	"hermeneus/core/markup"
	"hermeneus/store"
)

// RevisionLine is a revision in the list of an edition's revisions.
type RevisionLine struct {
	Number int       `json:"number"`
	Title  string    `json:"title"`
	Words  int       `json:"words"`
	MadeBy string    `json:"made_by"`
	MadeAt time.Time `json:"made_at"`
	Live   bool      `json:"live"`
	Note   string    `json:"note"`
}

// Revisions lists an edition's revisions, the newest first.
func (a *Library) Revisions(ctx context.Context, reference string) ([]RevisionLine, error) {
	db := a.base.DB.WithContext(ctx)
	_, e, err := FindEdition(db, reference, false)
	if err != nil {
		return nil, err
	}
	var lines []RevisionLine
	err = db.Raw(`SELECT r.number, r.title, r.words, s.name AS made_by, r.made_at,
			e.live_revision_id = r.id IS TRUE AS live, r.note
		FROM revisions r JOIN editions e ON e.id = r.edition_id JOIN staff s ON s.id = r.made_by
		WHERE r.edition_id = ? ORDER BY r.number DESC`, e.ID).
		Scan(&lines).
		Error
	return lines, err
}

// AutosaveLine is an earlier state of a working copy.
type AutosaveLine struct {
	ID    int64     `json:"id"`
	At    time.Time `json:"at"`
	Who   string    `json:"who"`
	Title string    `json:"title"`
}

// Autosaves lists what is still kept of a working copy's earlier states, the
// newest first.
func (a *Library) Autosaves(ctx context.Context, reference string) ([]AutosaveLine, error) {
	db := a.base.DB.WithContext(ctx)
	_, e, err := FindEdition(db, reference, false)
	if err != nil {
		return nil, err
	}
	var lines []AutosaveLine
	err = db.Raw(`SELECT v.id, v.at, s.name AS who, v.title FROM autosaves v JOIN staff s ON s.id = v.staff_id
		WHERE v.text_id = ? ORDER BY v.at DESC LIMIT 500`, e.ID).Scan(&lines).Error
	return lines, err
}

// The states of a text that can be compared besides its numbered revisions.
const (
	TheCopy = "copy" // the working copy
)

// TextOf gives one state of an edition: "copy", "live", a revision's number, or
// "autosave-12".
func (a *Library) TextOf(db *gorm.DB, e store.Edition, which string) (WorkingCopy, error) {
	if which == TheCopy {
		return WorkingCopyOf(e), nil
	}
	if id, ok := texts.AutosaveID(which); ok {
		var v store.Autosave
		if err := db.Where("id = ? AND text_id = ?", id, e.ID).Take(&v).Error; err != nil {
			return WorkingCopy{}, problem.From(err, "autosave")
		}
		return WorkingCopy{v.Title, v.Body, e.Keywords, e.SearchTitle, e.SearchDescription}, nil
	}
	var r store.Revision
	find := db.Where(
		"number = ? AND edition_id IN (SELECT id FROM editions WHERE article_id = ?)",
		texts.RevisionNumber(which),
		e.ArticleID,
	)
	if which == texts.TheLive {
		if e.LiveRevisionID == nil {
			return WorkingCopy{}, nil
		}
		find = db.Where("id = ?", *e.LiveRevisionID)
	}
	if err := find.Take(&r).Error; err != nil {
		return WorkingCopy{}, problem.From(err, "revision")
	}
	return WorkingCopy{r.Title, r.Body, r.Keywords, r.SearchTitle, r.SearchDescription}, nil
}

// ReadText gives one state of an edition's text.
func (a *Library) ReadText(ctx context.Context, reference, which string) (WorkingCopy, error) {
	db := a.base.DB.WithContext(ctx)
	_, e, err := FindEdition(db, reference, false)
	if err != nil {
		return WorkingCopy{}, err
	}
	return a.TextOf(db, e, which)
}

// Changed is what differs between two states of a text.
type Changed struct {
	Title       []compare.Span     `json:"title"`
	Body        compare.Comparison `json:"body"`
	Keywords    []compare.Span     `json:"keywords"`
	SearchTitle []compare.Span     `json:"search_title"`
	Description []compare.Span     `json:"search_description"`
}

// Changes compares two states of an edition's text.
func (a *Library) Changes(ctx context.Context, reference, before, after string) (Changed, error) {
	db := a.base.DB.WithContext(ctx)
	_, e, err := FindEdition(db, reference, false)
	if err != nil {
		return Changed{}, err
	}
	old, err := a.TextOf(db, e, before)
	if err != nil {
		return Changed{}, err
	}
	now, err := a.TextOf(db, e, after)
	if err != nil {
		return Changed{}, err
	}
	return Compare(old, now), nil
}

// Compare says what is different between two texts.
func Compare(old, now WorkingCopy) Changed {
	return Changed{
		Title:       compare.CompareWords(old.Title, now.Title),
		Body:        compare.Compare(old.Body, now.Body),
		Keywords:    compare.CompareWords(strings.Join(old.Keywords, ", "), strings.Join(now.Keywords, ", ")),
		SearchTitle: compare.CompareWords(old.SearchTitle, now.SearchTitle),
		Description: compare.CompareWords(old.SearchDescription, now.SearchDescription),
	}
}

// SideBySide lays a writer's unsaved text beside the working copy.
func (a *Library) SideBySide(ctx context.Context, reference, body string) ([]compare.Beside, error) {
	clean, err := article.Sanitise(body)
	if err != nil {
		return nil, problem.From(err, "")
	}
	_, e, err := FindEdition(a.base.DB.WithContext(ctx), reference, false)
	if err != nil {
		return nil, err
	}
	return compare.SideBySide(clean, e.Body), nil
}

// Cleaned is a source as it can be kept, with what was taken out of it.
type Cleaned struct {
	Body     string            `json:"body"`
	TakenOut []article.Removal `json:"taken_out"`
}

// Clean sanitises a source that somebody typed.
func (a *Library) Clean(body string) (Cleaned, error) {
	clean, err := article.Sanitise(body)
	if err != nil {
		return Cleaned{}, problem.From(err, "")
	}
	return Cleaned{markup.Canonical(clean), article.TakenOut(body)}, nil
}

// AuthorsOfVersion lists who wrote an earlier state of an edition: one of its revisions, or
// one of its autosaves ("autosave-12").
func AuthorsOfVersion(tx *gorm.DB, e store.Edition, which string) (authors []int64, err error) {
	if id, ok := texts.AutosaveID(which); ok {
		err = tx.Raw(`SELECT unnest(authors || staff_id) FROM autosaves WHERE id = ? AND text_id = ?`, id, e.ID).
			Scan(&authors).
			Error
	} else if which != texts.TheLive { // what is live was published
		err = tx.Raw(`SELECT unnest(authors || made_by) FROM revisions WHERE number = ? AND edition_id IN
			(SELECT id FROM editions WHERE article_id = ?)`, texts.RevisionNumber(which), e.ArticleID).Scan(&authors).Error
	}
	return authors, err
}
