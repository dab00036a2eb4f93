package app

import (
	"context"
	"fmt"

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
		if held, err := a.holder(tx, e.ID); err != nil {
			return err
		} else if held != nil && held.ID != by.ID && action == article.Submit {
			return problem(Held, "%s is writing this. Wait until they are done, or ask them to send it.", held.Name)
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
		line := store.Trail{ArticleID: &row.ID, Subject: article.EditionReference(row.Number, e.Language), Action: string(action), FromState: from, ToState: e.State, Note: note}
		if err := a.note(tx, by, line); err != nil {
			return err
		}
		return store.Announce(tx, store.CopyChanged, e.ID)
	})
}

// carryOut does what an allowed action means for the rows.
func (a *App) carryOut(tx *gorm.DB, by Staff, action article.Action, note string, row *store.Article, e *store.Edition) error {
	now := a.now()
	switch action {
	case article.Submit:
		number, err := a.snapshot(tx, by, row, e, "")
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
		if e.Language == sourceLanguage {
			row.RecheckOn = a.today().AddDate(0, 0, row.RecheckDays)
			if err := tx.Save(row).Error; err != nil {
				return err
			}
		}
		return store.Announce(tx, store.ArticleChanged, row.ID)
	case article.Withdraw:
		e.LiveRevisionID, e.LiveSince = nil, nil
		return store.Announce(tx, store.ArticleChanged, row.ID)
	}
	return nil
}

// snapshot makes the next numbered revision of an edition's text, unless the text
// is that of its last one. The note says why, where nobody submitted it.
func (a *App) snapshot(tx *gorm.DB, by Staff, row *store.Article, e *store.Edition, note string) (int, error) {
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
		SearchTitle: e.SearchTitle, SearchDescription: e.SearchDescription, Words: outline.Words(), MadeBy: by.ID, MadeAt: a.now(), Note: note}
	if err := tx.Create(&r).Error; err != nil {
		return 0, err
	}
	for _, hash := range outline.Files {
		// A file that is not kept here shows as missing; it must not stop a submit.
		err := tx.Exec(`INSERT INTO revision_files SELECT ?, hash FROM files WHERE hash = ? ON CONFLICT DO NOTHING`, r.ID, hash).Error
		if err != nil {
			return 0, err
		}
	}
	return row.LastRevision, tx.Save(row).Error
}
