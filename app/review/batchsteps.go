package review

import (
	"context"
	"errors"
	"fmt"
	"strings"

	"gorm.io/gorm"

	"hermeneus/app/instance"
	"hermeneus/app/problem"
	"hermeneus/app/staff"
	"hermeneus/core/article"
	"hermeneus/core/review"
	"hermeneus/core/role"
	"hermeneus/store"
)

// BatchDone says what came of a step with a batch.
type BatchDone struct {
	Done    int      `json:"done"`
	Waiting []string `json:"waiting"` // members it could not be done with, and why
}

// ActOnBatch does a step with a batch. Submitting, approving and sending back are
// done with every member where the person may; publishing, scheduling and undoing
// with all members or none.
func (a *Batches) ActOnBatch(ctx context.Context, by staff.Staff, id int64, s Step) (BatchDone, error) {
	var f problem.Fields
	f.AtMost("note", s.Note, 2000)
	if err := f.Err(); err != nil {
		return BatchDone{}, err
	}
	var done BatchDone
	err := a.base.Transaction(ctx, func(tx *gorm.DB) error {
		batch, err := lockBatch(tx, id)
		if err != nil {
			return err
		}
		list, err := members(tx, id, true)
		if err != nil {
			return err
		}
		if len(list) == 0 && s.Action != "give_up" {
			return problem.New(problem.NotNow, "There is nothing in this batch yet.")
		}
		if stand, err := batchStand(tx, id); err != nil {
			return err
		} else if s.Stand != "" && s.Stand != stand {
			return problem.New(
				problem.StaleSave,
				"Somebody changed or decided something in this batch since you looked at it. Load it again.",
			)
		}
		s.batch = &batch
		if s.Change == "" {
			s.Change = batch.Note
		}
		switch s.Action {
		case review.Submit, review.Approve, review.SendBack:
			done, err = a.eachMember(tx, by, list, s)
		case review.Publish, review.Schedule, review.Unschedule:
			done.Done = len(list)
			err = a.wholeBatch(tx, by, &batch, list, s)
		case "undo":
			done.Done = len(list)
			err = a.undoBatch(tx, by, &batch, list)
		case "give_up":
			err = a.giveUpBatch(tx, by, &batch, list)
		default:
			err = problem.New(problem.NotNow, "There is no such action as %q with a batch.", s.Action)
		}
		return err
	})
	return done, err
}

// eachMember does a step with each member where it is possible; if with none, that
// is refused.
func (a *Batches) eachMember(tx *gorm.DB, by staff.Staff, list []member, s Step) (BatchDone, error) {
	var done BatchDone
	var last error
	for i := range list {
		m := &list[i]
		err := tx.Transaction(func(tx *gorm.DB) error { return a.review.move(tx, by, &m.row, &m.e, s) })
		var p *problem.Problem
		switch {
		case err == nil:
			done.Done++
		case errors.As(err, &p):
			last = err
			done.Waiting = append(
				done.Waiting,
				fmt.Sprintf("%s: %s", article.EditionReference(m.row.Number, m.e.Language), p.Detail),
			)
		default:
			return done, err
		}
	}
	if done.Done == 0 {
		return done, last
	}
	return done, nil
}

// wholeBatch publishes, schedules or unschedules every member, or none.
func (a *Batches) wholeBatch(tx *gorm.DB, by staff.Staff, batch *store.Batch, list []member, s Step) error {
	if batch.State != store.BatchOpen && batch.State != store.BatchScheduled {
		return problem.New(problem.NotNow, "This batch is %s.", strings.ReplaceAll(batch.State, "_", " "))
	}
	refused := &problem.Problem{Kind: problem.NotNow}
	for i := range list {
		m := &list[i]
		ref := article.EditionReference(m.row.Number, m.e.Language)
		if s.Action == review.Publish {
			m.link.BeforeID, m.link.BeforeWhen = m.e.LiveRevisionID, m.e.LiveSince
		}
		err := a.review.move(tx, by, &m.row, &m.e, s)
		var p *problem.Problem
		if errors.As(err, &p) {
			refused.Fields = append(refused.Fields, problem.Field{Name: ref, Message: p.Detail})
			refused.Kind = p.Kind
			continue
		} else if err != nil {
			return err
		}
		if s.Action == review.Publish {
			m.link.AfterID = m.e.LiveRevisionID
			if err := tx.Save(&m.link).Error; err != nil {
				return err
			}
		}
	}
	if n := len(refused.Fields); n > 0 {
		refused.Detail = fmt.Sprintf(
			"Nothing was done: all go together or none, and %d of %d cannot. %s: %s",
			n,
			len(list),
			refused.Fields[0].Name,
			refused.Fields[0].Message,
		)
		return refused
	}
	return a.stampBatch(tx, by, batch, list, s)
}

func (a *Batches) stampBatch(tx *gorm.DB, by staff.Staff, batch *store.Batch, list []member, s Step) error {
	now := a.base.Now()
	drop := func() error {
		return tx.Exec(
			`UPDATE schedules SET state = ?, ended_at = ? WHERE batch_id = ? AND state = ?`,
			store.ScheduleDropped,
			now,
			batch.ID,
			store.ScheduleWaiting,
		).Error
	}
	switch s.Action {
	case review.Schedule:
		row, err := a.review.newSchedule(tx, by, list[0].row.CategoryID, s)
		if err != nil {
			return err
		}
		row.Kind, row.BatchID = store.SchedulePublish, &batch.ID
		batch.State = store.BatchScheduled
		if err := tx.Create(&row).Error; err != nil {
			return err
		}
	case review.Unschedule:
		batch.State = store.BatchOpen
		if err := drop(); err != nil {
			return err
		}
	case review.Publish:
		batch.State, batch.EndedAt = store.BatchPublished, &now
		if by.ID != 0 {
			batch.EndedBy = &by.ID
		}
		if err := drop(); err != nil {
			return err
		}
	}
	if err := tx.Save(batch).Error; err != nil {
		return err
	}
	return a.trail.Note(
		tx,
		by,
		store.Trail{
			Subject: "batch " + batch.Name,
			Action:  string(s.Action),
			Note:    fmt.Sprintf("%d articles", len(list)),
		},
	)
}

// undoBatch puts back what was live before a batch was published: all of it or none.
func (a *Batches) undoBatch(tx *gorm.DB, by staff.Staff, batch *store.Batch, list []member) error {
	if err := by.May("Undoing a batch", role.Publisher); err != nil {
		return err
	}
	if batch.State != store.BatchPublished {
		return problem.New(problem.NotNow, "Only a batch that was published can be undone.")
	}
	refused := &problem.Problem{Kind: problem.NotNow}
	for _, m := range list {
		if instance.IDOrZero(m.e.LiveRevisionID) != instance.IDOrZero(m.link.AfterID) {
			refused.Fields = append(
				refused.Fields,
				problem.Field{
					Name:    article.EditionReference(m.row.Number, m.e.Language),
					Message: "Something else went live since, or it was withdrawn.",
				},
			)
		}
	}
	if n := len(refused.Fields); n > 0 {
		refused.Detail = fmt.Sprintf(
			"Nothing was undone: all go together or none. Of %s something else went live since, or it was withdrawn.",
			refused.Fields[0].Name,
		)
		return refused
	}
	for i := range list {
		m := &list[i]
		from := m.e.State
		m.e.LiveRevisionID, m.e.LiveSince = m.link.BeforeID, m.link.BeforeWhen
		if m.e.State == string(review.Published) {
			m.e.State = string(review.Approved) // it was checked, so it can go live again
		}
		if m.link.BeforeID == nil && m.e.Language == article.SourceLanguage {
			now := a.base.Now()
			m.row.WithdrawnAt = &now
			if err := tx.Save(&m.row).Error; err != nil {
				return err
			}
		}
		if err := tx.Save(&m.e).Error; err != nil {
			return err
		}
		line := store.Trail{
			ArticleID: &m.row.ID,
			Subject:   article.EditionReference(m.row.Number, m.e.Language),
			Action:    "undo",
			FromState: from,
			ToState:   m.e.State,
			Note:      "the batch “" + batch.Name + "” was undone",
		}
		if err := errors.Join(
			a.trail.Note(tx, by, line),
			store.Announce(tx, store.ArticleChanged, m.row.ID),
			store.Announce(tx, store.CopyChanged, m.e.ID),
		); err != nil {
			return err
		}
	}
	now := a.base.Now()
	batch.State, batch.EndedBy, batch.EndedAt = store.BatchUndone, &by.ID, &now
	if err := tx.Save(batch).Error; err != nil {
		return err
	}
	return a.trail.Note(
		tx,
		by,
		store.Trail{Subject: "batch " + batch.Name, Action: "undo", Note: fmt.Sprintf("%d articles", len(list))},
	)
}

// giveUpBatch lets its members go their own ways.
func (a *Batches) giveUpBatch(tx *gorm.DB, by staff.Staff, batch *store.Batch, list []member) error {
	if err := by.May("Giving a batch up", role.Author, role.Publisher); err != nil {
		return err
	}
	if batch.State != store.BatchOpen {
		return problem.New(problem.NotNow, "Only an open batch can be given up; take it off the schedule first.")
	}
	for _, m := range list {
		if err := tx.Exec(`UPDATE editions SET batch_id = NULL WHERE id = ?`, m.e.ID).Error; err != nil {
			return err
		}
	}
	now := a.base.Now()
	batch.State, batch.EndedBy, batch.EndedAt = store.BatchGivenUp, &by.ID, &now
	if err := tx.Save(batch).Error; err != nil {
		return err
	}
	return a.trail.Note(tx, by, store.Trail{Subject: "batch " + batch.Name, Action: "gave batch up"})
}
