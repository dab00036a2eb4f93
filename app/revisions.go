package app

import (
	"context"
	"fmt"
	"strconv"
	"strings"
	"time"

	"github.com/lib/pq"
	"gorm.io/gorm"

	"hermeneus/core/article"
	"hermeneus/core/role"
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
func (a *App) Revisions(ctx context.Context, reference string) ([]RevisionLine, error) {
	db := a.db.WithContext(ctx)
	_, e, err := find(db, reference, false)
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
func (a *App) Autosaves(ctx context.Context, reference string) ([]AutosaveLine, error) {
	db := a.db.WithContext(ctx)
	_, e, err := find(db, reference, false)
	if err != nil {
		return nil, err
	}
	var lines []AutosaveLine
	err = db.Raw(`SELECT v.id, v.at, s.name AS who, v.title FROM autosaves v JOIN staff s ON s.id = v.staff_id
		WHERE v.edition_id = ? ORDER BY v.at DESC LIMIT 500`, e.ID).Scan(&lines).Error
	return lines, err
}

// autosaveApart is how far apart the autosaves of one writer lie while they write.
const autosaveApart = time.Minute

// keepAutosave keeps the state of a working copy, and the key of the save that made it.
// Of one writer within a minute only the last is kept: a writer's browser sends one save
// after the other, so that only the last can come again.
func (a *App) keepAutosave(tx *gorm.DB, e store.Edition, key string) error {
	now := a.now()
	authors, err := authorsOf(tx, e.ID)
	if err != nil {
		return err
	}
	done := tx.Exec(`UPDATE autosaves
		SET title = ?, body = ?, save_key = ?, version = ?, authors = ?
		WHERE id = (SELECT id FROM autosaves WHERE edition_id = ? ORDER BY at DESC, id DESC LIMIT 1)
			AND staff_id = ? AND at > ?`,
		e.Title, e.Body, key, e.Version, pq.Int64Array(authors), e.ID, e.WriterID, now.Add(-autosaveApart))
	if done.Error != nil || done.RowsAffected > 0 {
		return done.Error
	}
	row := store.Autosave{
		EditionID: e.ID,
		At:        now,
		StaffID:   e.WriterID,
		Title:     e.Title,
		Body:      e.Body,
		SaveKey:   key,
		Version:   e.Version,
		Authors:   authors,
	}
	return tx.Create(&row).Error
}

// ThinAutosaves drops what is over 30 days old; of what is over a week old it
// keeps the last of each day, over a day old the last of each hour, and over an
// hour old the last of each ten minutes.
func (a *App) ThinAutosaves(ctx context.Context) error {
	now := a.now()
	err := a.db.WithContext(ctx).Exec(`WITH aged AS (
			SELECT id, row_number() OVER (PARTITION BY edition_id, CASE
				WHEN at < ? THEN date_trunc('day', at)
				WHEN at < ? THEN date_trunc('hour', at)
				ELSE date_bin('10 minutes', at, 'epoch') END ORDER BY at DESC) AS n, at FROM autosaves WHERE at < ?)
		DELETE FROM autosaves WHERE id IN (SELECT id FROM aged WHERE n > 1 OR at < ?)`,
		now.AddDate(0, 0, -7), now.AddDate(0, 0, -1), now.Add(-time.Hour), now.AddDate(0, 0, -30)).Error
	if err != nil {
		return fmt.Errorf("thinning autosaves: %w", err)
	}
	return nil
}

// The states of a text that can be compared besides its numbered revisions.
const (
	TheCopy = "copy" // the working copy
	TheLive = "live" // the live revision; an empty text when nothing is live
)

// text gives one state of an edition: "copy", "live", a revision's number, or
// "autosave-12".
func (a *App) text(db *gorm.DB, e store.Edition, which string) (WorkingCopy, error) {
	if which == TheCopy {
		return copied(e), nil
	}
	if id, ok := autosaveID(which); ok {
		var v store.Autosave
		if err := db.Where("id = ? AND edition_id = ?", id, e.ID).Take(&v).Error; err != nil {
			return WorkingCopy{}, asProblem(err, "autosave")
		}
		return WorkingCopy{v.Title, v.Body, e.Keywords, e.SearchTitle, e.SearchDescription}, nil
	}
	var r store.Revision
	find := db.Where(
		"number = ? AND edition_id IN (SELECT id FROM editions WHERE article_id = ?)",
		number(which),
		e.ArticleID,
	)
	if which == TheLive {
		if e.LiveRevisionID == nil {
			return WorkingCopy{}, nil
		}
		find = db.Where("id = ?", *e.LiveRevisionID)
	}
	if err := find.Take(&r).Error; err != nil {
		return WorkingCopy{}, asProblem(err, "revision")
	}
	return WorkingCopy{r.Title, r.Body, r.Keywords, r.SearchTitle, r.SearchDescription}, nil
}

// autosaveID tells the name of an autosave ("autosave-12") from that of a revision.
func autosaveID(which string) (int64, bool) {
	id, ok := strings.CutPrefix(which, "autosave-")
	return number(id), ok
}

func number(s string) int64 {
	n, err := strconv.ParseInt(s, 10, 32)
	if err != nil {
		return -1
	}
	return n
}

// ReadText gives one state of an edition's text.
func (a *App) ReadText(ctx context.Context, reference, which string) (WorkingCopy, error) {
	db := a.db.WithContext(ctx)
	_, e, err := find(db, reference, false)
	if err != nil {
		return WorkingCopy{}, err
	}
	return a.text(db, e, which)
}

// Changed is what differs between two states of a text.
type Changed struct {
	Title       []article.Span     `json:"title"`
	Body        article.Comparison `json:"body"`
	Keywords    []article.Span     `json:"keywords"`
	SearchTitle []article.Span     `json:"search_title"`
	Description []article.Span     `json:"search_description"`
}

// Changes compares two states of an edition's text.
func (a *App) Changes(ctx context.Context, reference, before, after string) (Changed, error) {
	db := a.db.WithContext(ctx)
	_, e, err := find(db, reference, false)
	if err != nil {
		return Changed{}, err
	}
	old, err := a.text(db, e, before)
	if err != nil {
		return Changed{}, err
	}
	now, err := a.text(db, e, after)
	if err != nil {
		return Changed{}, err
	}
	return compared(old, now), nil
}

func compared(old, now WorkingCopy) Changed {
	return Changed{
		Title:    article.CompareWords(old.Title, now.Title),
		Body:     article.Compare(old.Body, now.Body),
		Keywords: article.CompareWords(strings.Join(old.Keywords, ", "), strings.Join(now.Keywords, ", ")),
		SearchTitle: article.CompareWords(
			old.SearchTitle,
			now.SearchTitle,
		),
		Description: article.CompareWords(old.SearchDescription, now.SearchDescription),
	}
}

// Restore makes an earlier state the working copy. The present one stays among the
// autosaves. All of it happens, or nothing.
func (a *App) Restore(ctx context.Context, by Staff, reference, tab, which string, version int) error {
	if err := by.may("Restoring a text", role.Author); err != nil {
		return err
	}
	return a.transaction(ctx, func(tx *gorm.DB) error {
		row, e, err := find(tx, reference, true)
		if err != nil {
			return err
		}
		text, err := a.text(tx, e, which)
		if err != nil {
			return err
		}
		if which == TheCopy || text.Title == "" && text.Body == "" {
			return problem(NotNow, "There is nothing to restore.")
		}
		if text, err = text.clean(); err != nil {
			return err
		}
		if err := a.keepPresent(tx, e); err != nil {
			return err
		}
		authors, err := authorsThen(tx, e, which)
		if err != nil {
			return err
		}
		if _, err := a.save(
			tx,
			by,
			row,
			&e,
			Save{Text: text, Version: version, Tab: tab, authors: authors},
		); err != nil {
			return err
		}
		return a.note(tx, by, store.Trail{ArticleID: &row.ID, Subject: reference, Action: "restored", Note: which})
	})
}

// keepPresent keeps a working copy's state apart from the saves that follow.
func (a *App) keepPresent(tx *gorm.DB, e store.Edition) error {
	authors, err := authorsOf(tx, e.ID)
	if err != nil {
		return err
	}
	at := a.now().Add(-autosaveApart)
	return tx.Create(
		&store.Autosave{EditionID: e.ID, At: at, StaffID: e.WriterID, Title: e.Title, Body: e.Body, Authors: authors},
	).Error
}

// SideBySide lays a writer's unsaved text beside the working copy.
func (a *App) SideBySide(ctx context.Context, reference, body string) ([]article.Beside, error) {
	clean, err := article.Sanitise(body)
	if err != nil {
		return nil, asProblem(err, "")
	}
	_, e, err := find(a.db.WithContext(ctx), reference, false)
	if err != nil {
		return nil, err
	}
	return article.SideBySide(clean, e.Body), nil
}

// Cleaned is a source as it can be kept, with what was taken out of it.
type Cleaned struct {
	Body     string            `json:"body"`
	TakenOut []article.Removal `json:"taken_out"`
}

// Clean sanitises a source that somebody typed.
func (a *App) Clean(body string) (Cleaned, error) {
	clean, err := article.Sanitise(body)
	if err != nil {
		return Cleaned{}, asProblem(err, "")
	}
	return Cleaned{article.Canonical(clean), article.TakenOut(body)}, nil
}
