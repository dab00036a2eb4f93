package review

import (
	"context"
	"fmt"

	"gorm.io/gorm"

	"hermeneus/app/customers"
	"hermeneus/app/library"
	"hermeneus/app/problem"
	"hermeneus/app/staff"
	"hermeneus/app/texts"
	"hermeneus/core/article"
	"hermeneus/core/audience"
	"hermeneus/core/review"
	"hermeneus/store"
)

// Step is something that a person does to an article on its way.
type Step struct {
	Action   review.Action
	Version  int          // of the working copy that was looked at; 0 where it does not matter
	Seen     review.State // in which it was looked at; "" for the state in which people decide so first
	Stand    string       // likewise of a batch; "" where nobody looked
	Gate     string       // that it stood before when it was looked at; "" where it does not matter
	Note     string       // the decision note, or what a withdrawal was for
	Audience audience.Audience
	Change   string // for the change log, when publishing
	Wall     string // when to publish or withdraw, such as 2026-03-02T09:30
	Second   bool   // of a time that clocks show twice, the later
	To       string // where readers of a withdrawn article are sent
	Notice   string // or what they are told

	batch *store.Batch // that does it, nil for nobody
}

// Act moves an article along its way: submit, recall, approve, send_back, publish
// or withdraw. version is the working copy that was looked at; if it changed
// since, nothing happens and a StaleSave problem says so.
func (a *Review) Act(
	ctx context.Context,
	by staff.Staff,
	reference string,
	action review.Action,
	version int,
	note string,
) error {
	return a.Move(ctx, by, reference, Step{Action: action, Version: version, Note: note})
}

// Move moves an article along its way. If its text changed since it was looked at, a
// StaleSave problem says so, and likewise if somebody else decided meanwhile.
func (a *Review) Move(ctx context.Context, by staff.Staff, reference string, s Step) error {
	var f problem.Fields
	f.AtMost("note", s.Note, 2000)
	f.AtMost("change", s.Change, 500)
	f.AtMost("notice", s.Notice, 1000)
	if s.Audience != "" {
		if err := customers.KnownAudience(a.base.DB.WithContext(ctx), &f, "audience", s.Audience); err != nil {
			return err
		}
	}
	if err := f.Err(); err != nil {
		return err
	}
	return a.base.Transaction(ctx, func(tx *gorm.DB) error {
		row, e, err := library.FindEdition(tx, reference, true)
		if err != nil {
			return err
		}
		if s.Version != 0 && e.Version != s.Version && s.Action != review.Withdraw {
			return problem.New(
				problem.StaleSave,
				"The text changed since you opened it. Load it again and look at what changed.",
			)
		}
		return a.move(tx, by, &row, &e, s)
	})
}

// move does a step with an article that is locked.
func (a *Review) move(tx *gorm.DB, by staff.Staff, row *store.Article, e *store.Edition, s Step) error {
	if s.Action == review.Edit {
		return problem.New(problem.NotNow, "Editing is done by saving a text.")
	}
	if held, err := a.texts.Holder(tx, e.ID); err != nil {
		return err
	} else if held != nil && held.ID != by.ID && s.Action == review.Submit {
		return problem.New(
			problem.Held,
			"%s is writing this. Wait until they are done, or ask them to send it.",
			held.Name,
		)
	}
	before, review, err := a.Situation(tx, *row, *e)
	if err != nil {
		return err
	}
	if s.batch != nil {
		before.Batch = ""
	}
	if late := before.Stale(s.Action, s.Seen, s.Gate); late != "" && by.ID != 0 && (s.batch == nil || s.Stand == "") {
		return problem.New(problem.StaleSave, "%s", late)
	}
	after, err := before.Do(s.Action, by.Actor(), s.Note)
	if err != nil {
		return problem.From(err, "")
	}
	t := &transition{area: a, tx: tx, by: by, row: row, e: e, review: review, step: s, from: before, to: after}
	return t.take()
}

// Situation gives what the rules need to know of a working copy, and the round of
// review it is in or was in last.
func (a *Review) Situation(db *gorm.DB, row store.Article, e store.Edition) (review.Copy, *store.Review, error) {
	c := library.CopyOf(e)
	reviewing, err := ReviewingOf(db, row.CategoryID)
	if err != nil {
		return c, nil, fmt.Errorf("reading who reviews %s: %w", article.Reference(row.Number), err)
	}
	c.Steward = reviewing.StewardID
	if e.BatchID != nil {
		if err := db.Raw(`SELECT name FROM batches WHERE id = ?`, *e.BatchID).Scan(&c.Batch).Error; err != nil {
			return c, nil, err
		}
	}
	if c.State == review.Drafting || c.State == review.SentBack {
		c.Path, err = reviewing.path()
		return c, nil, err
	}
	round, err := RoundOf(db, e.ID)
	if err != nil || round == nil { // live since before there were rounds
		return c, nil, err
	}
	return InRound(c, *round), round, nil
}

// TextChanged is called when an edition's text changed: whoever let the text before
// pass has not seen this one. Was is the state before the change.
func (a *Review) TextChanged(tx *gorm.DB, by staff.Staff, e store.Edition, was review.State) error {
	if was != review.InReview && was != review.Approved {
		return nil
	}
	var row store.Article
	if err := tx.First(&row, e.ArticleID).Error; err != nil {
		return err
	}
	round, err := RoundOf(tx, e.ID)
	if err != nil || round == nil || round.EndedAt != nil {
		return err
	}
	t := &transition{area: a, tx: tx, by: by, row: &row, e: &e, review: round}
	line := store.Trail{
		ArticleID: &row.ID,
		Subject:   t.subject(),
		Action:    "cleared",
		FromState: string(was),
		ToState:   e.State,
		Note:      "the text changed after it had passed a gate",
	}
	return a.Rounds.ClearRound(tx, by, round, library.CopyOf(e), was, t.about(), line)
}

// Snapshot makes the next numbered revision of an edition's text, unless the text
// is that of its last one. The note says why, where nobody submitted it.
func (a *Review) Snapshot(tx *gorm.DB, by staff.Staff, row *store.Article, e *store.Edition, note string) (int, error) {
	var last store.Revision
	if err := tx.Where("edition_id = ?", e.ID).Order("number DESC").Limit(1).Find(&last).Error; err != nil {
		return 0, err
	}
	written := library.WorkingCopy{
		Title:             last.Title,
		Body:              last.Body,
		Keywords:          last.Keywords,
		SearchTitle:       last.SearchTitle,
		SearchDescription: last.SearchDescription,
	}
	if last.ID != 0 && written.Same(*e) {
		return last.Number, nil
	}
	outline := article.Read(e.Body)
	authors, err := texts.Authors(tx, e.ID)
	if err != nil {
		return 0, err
	}
	row.LastRevision++
	r := store.Revision{
		Authors:           authors,
		EditionID:         e.ID,
		Number:            row.LastRevision,
		Title:             e.Title,
		Body:              e.Body,
		Keywords:          e.Keywords,
		SearchTitle:       e.SearchTitle,
		SearchDescription: e.SearchDescription,
		Words:             outline.Words(),
		MadeBy:            by.ID,
		MadeAt:            a.base.Now(),
		Note:              note,
	}
	if err := tx.Create(&r).Error; err != nil {
		return 0, err
	}
	for _, hash := range outline.Files {
		// A file that is not kept here shows as missing; it must not stop a submit.
		err := tx.Exec(
			`INSERT INTO revision_files SELECT ?, hash FROM files WHERE hash = ? ON CONFLICT DO NOTHING`,
			r.ID,
			hash,
		).Error
		if err != nil {
			return 0, err
		}
	}
	return row.LastRevision, tx.Save(row).Error
}
