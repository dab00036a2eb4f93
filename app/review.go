package app

import (
	"context"
	"fmt"
	"time"

	"gorm.io/gorm"

	"hermeneus/core/article"
	"hermeneus/store"
)

// Act moves an article along its way: submit, recall, approve, send_back, publish
// or withdraw. version is the working copy that was looked at; if it changed
// since, nothing happens and a StaleSave problem says so.
func (a *App) Act(ctx context.Context, by Staff, reference string, action article.Action, version int, note string) error {
	var f fields
	f.atMost("note", note, 2000)
	if err := f.err(); err != nil {
		return err
	}
	return a.transaction(ctx, func(tx *gorm.DB) error {
		row, e, err := find(tx, reference, true)
		if err != nil {
			return err
		}
		if e.Version != version && action != article.Withdraw {
			return problem(StaleSave, "The text changed since you opened it. Load it again and look at what changed.")
		}
		from := e.State
		next, err := copyOf(e).Next(action, by.actor(), note)
		if err != nil {
			return asProblem(err, "")
		}
		e.State = string(next)
		if err := a.carryOut(tx, by, action, note, &row, &e); err != nil {
			return err
		}
		if err := tx.Save(&e).Error; err != nil {
			return err
		}
		line := store.Trail{ArticleID: &row.ID, Subject: article.Reference(row.Number), Action: string(action), FromState: from, ToState: e.State, Note: note}
		return a.note(tx, by, line)
	})
}

// carryOut does what an allowed action means for the rows.
func (a *App) carryOut(tx *gorm.DB, by Staff, action article.Action, note string, row *store.Article, e *store.Edition) error {
	now := a.now()
	switch action {
	case article.Submit:
		number, err := a.snapshot(tx, by, row, e)
		if err != nil {
			return err
		}
		e.SubmitterID, e.SubmittedAt, e.SubmittedRevision, e.DecisionNote = &by.ID, &now, &number, ""
	case article.Approve, article.SendBack:
		e.DecisionNote = note
	case article.Publish:
		var r store.Revision
		if err := tx.Where("edition_id = ? AND number = ?", e.ID, e.SubmittedRevision).First(&r).Error; err != nil {
			return fmt.Errorf("finding the approved revision: %w", err)
		}
		e.LiveRevisionID, e.LiveSince, e.DecisionNote = &r.ID, &now, ""
		return store.Announce(tx, store.ArticleChanged, row.ID)
	case article.Withdraw:
		e.LiveRevisionID, e.LiveSince = nil, nil
		return store.Announce(tx, store.ArticleChanged, row.ID)
	}
	return nil
}

// snapshot makes the next numbered revision of the working copy, unless the text
// is that of the article's last one.
func (a *App) snapshot(tx *gorm.DB, by Staff, row *store.Article, e *store.Edition) (int, error) {
	var last store.Revision
	if err := tx.Where("edition_id = ?", e.ID).Order("number DESC").Limit(1).Find(&last).Error; err != nil {
		return 0, err
	}
	written := WorkingCopy{last.Title, last.Body, last.Keywords, last.SearchTitle, last.SearchDescription}
	if last.ID != 0 && written.same(*e) {
		return last.Number, nil
	}
	outline := article.Read(e.Body)
	row.LastRevision++
	r := store.Revision{EditionID: e.ID, Number: row.LastRevision, Title: e.Title, Body: e.Body, Keywords: e.Keywords,
		SearchTitle: e.SearchTitle, SearchDescription: e.SearchDescription, Words: outline.Words(), MadeBy: by.ID, MadeAt: a.now()}
	if err := tx.Create(&r).Error; err != nil {
		return 0, err
	}
	for _, hash := range outline.Pictures {
		// A picture that is not kept here shows as missing; it must not stop a submit.
		err := tx.Exec(`INSERT INTO revision_files SELECT ?, hash FROM files WHERE hash = ? ON CONFLICT DO NOTHING`, r.ID, hash).Error
		if err != nil {
			return 0, err
		}
	}
	return row.LastRevision, tx.Save(row).Error
}

// Changed is what differs between what is live and the working copy.
type Changed struct {
	Against int              `json:"against"` // the live revision's number, 0 when nothing is live
	Title   []article.Change `json:"title"`
	Blocks  []article.Change `json:"blocks"`
}

// Changes compares the working copy with what is live.
func (a *App) Changes(ctx context.Context, reference string) (Changed, error) {
	db := a.db.WithContext(ctx)
	_, e, err := find(db, reference, false)
	if err != nil {
		return Changed{}, err
	}
	var live store.Revision
	if e.LiveRevisionID != nil {
		if err := db.First(&live, *e.LiveRevisionID).Error; err != nil {
			return Changed{}, fmt.Errorf("reading the live revision: %w", err)
		}
	}
	title := func(t string) article.Outline {
		if t == "" {
			return article.Outline{}
		}
		return article.Outline{Blocks: []string{t}}
	}
	return Changed{
		Against: live.Number,
		Title:   article.Compare(title(live.Title), title(e.Title)),
		Blocks:  article.Compare(article.Read(live.Body), article.Read(e.Body)),
	}, nil
}

// RevisionLine is a revision in the list of an article's revisions.
type RevisionLine struct {
	Number int       `json:"number"`
	Title  string    `json:"title"`
	Words  int       `json:"words"`
	MadeBy string    `json:"made_by"`
	MadeAt time.Time `json:"made_at"`
	Live   bool      `json:"live"`
}

// Revisions lists an article's revisions, the newest first.
func (a *App) Revisions(ctx context.Context, reference string) ([]RevisionLine, error) {
	db := a.db.WithContext(ctx)
	row, _, err := find(db, reference, false)
	if err != nil {
		return nil, err
	}
	var lines []RevisionLine
	err = db.Raw(`SELECT r.number, r.title, r.words, s.name AS made_by, r.made_at, e.live_revision_id = r.id IS TRUE AS live
		FROM revisions r JOIN editions e ON e.id = r.edition_id JOIN staff s ON s.id = r.made_by
		WHERE e.article_id = ? ORDER BY r.number DESC`, row.ID).Scan(&lines).Error
	return lines, err
}

// ReadRevision gives the text of one revision, which never changes.
func (a *App) ReadRevision(ctx context.Context, reference string, number int) (WorkingCopy, error) {
	db := a.db.WithContext(ctx)
	row, _, err := find(db, reference, false)
	if err != nil {
		return WorkingCopy{}, err
	}
	var r store.Revision
	err = db.Raw(`SELECT r.* FROM revisions r JOIN editions e ON e.id = r.edition_id WHERE e.article_id = ? AND r.number = ?`, row.ID, number).Take(&r).Error
	if err != nil {
		return WorkingCopy{}, asProblem(err, "revision")
	}
	return WorkingCopy{r.Title, r.Body, r.Keywords, r.SearchTitle, r.SearchDescription}, nil
}
