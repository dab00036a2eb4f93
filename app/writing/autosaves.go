package writing

import (
	"context"
	"fmt"
	"time"

	"gorm.io/gorm"

	"hermeneus/app/library"
	"hermeneus/app/problem"
	"hermeneus/app/staff"
	"hermeneus/app/texts"
	"hermeneus/core/role"
	"hermeneus/store"
)

// keepAutosave keeps the state of a working copy, and the key of the save that made it.
// Of one writer within a minute only the last is kept: a writer's browser sends one save
// after the other, so that only the last can come again.
func (a *Writing) keepAutosave(tx *gorm.DB, e store.Edition, key string) error {
	now := a.base.Now()
	authors, err := texts.Authors(tx, e.ID)
	if err != nil {
		return err
	}
	done := tx.Exec(`UPDATE autosaves
		SET title = ?, body = ?, save_key = ?, version = ?, authors = ?
		WHERE id = (SELECT id FROM autosaves WHERE text_id = ? ORDER BY at DESC, id DESC LIMIT 1)
			AND staff_id = ? AND at > ?`,
		e.Title, e.Body, key, e.Version, store.Numbers(authors), e.ID, e.WriterID, now.Add(-autosaveApart))
	if done.Error != nil || done.RowsAffected > 0 {
		return done.Error
	}
	row := store.Autosave{
		TextID:  e.ID,
		At:      now,
		StaffID: e.WriterID,
		Title:   e.Title,
		Body:    e.Body,
		SaveKey: key,
		Version: e.Version,
		Authors: authors,
	}
	return tx.Create(&row).Error
}

// ThinAutosaves drops what is over 30 days old; of what is over a week old it
// keeps the last of each day, over a day old the last of each hour, and over an
// hour old the last of each ten minutes.
func (a *Writing) ThinAutosaves(ctx context.Context) error {
	now := a.base.Now()
	err := a.base.DB.WithContext(ctx).Exec(`WITH aged AS (
			SELECT id, row_number() OVER (PARTITION BY text_id, CASE
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

// Restore makes an earlier state the working copy. The present one stays among the
// autosaves. All of it happens, or nothing.
func (a *Writing) Restore(ctx context.Context, by staff.Staff, reference, tab, which string, version int) error {
	if err := by.May("Restoring a text", role.Author); err != nil {
		return err
	}
	return a.base.Transaction(ctx, func(tx *gorm.DB) error {
		row, e, err := library.FindEdition(tx, reference, true)
		if err != nil {
			return err
		}
		text, err := a.library.TextOf(tx, e, which)
		if err != nil {
			return err
		}
		if which == library.TheCopy || text.Title == "" && text.Body == "" {
			return problem.New(problem.NotNow, "There is nothing to restore.")
		}
		if text, err = text.Clean(); err != nil {
			return err
		}
		if err := a.keepPresent(tx, e); err != nil {
			return err
		}
		authors, err := library.AuthorsOfVersion(tx, e, which)
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
		return a.trail.Note(
			tx,
			by,
			store.Trail{ArticleID: &row.ID, Subject: reference, Action: "restored", Note: which},
		)
	})
}

// keepPresent keeps a working copy's state apart from the saves that follow.
func (a *Writing) keepPresent(tx *gorm.DB, e store.Edition) error {
	authors, err := texts.Authors(tx, e.ID)
	if err != nil {
		return err
	}
	at := a.base.Now().Add(-autosaveApart)
	return tx.Create(
		&store.Autosave{TextID: e.ID, At: at, StaffID: e.WriterID, Title: e.Title, Body: e.Body, Authors: authors},
	).Error
}

// autosaveApart is how far apart the autosaves of one writer lie while they write.
const autosaveApart = time.Minute
