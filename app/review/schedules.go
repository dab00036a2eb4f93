package review

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"strings"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"hermeneus/app/notify"
	"hermeneus/app/problem"
	"hermeneus/app/staff"
	"hermeneus/core/article"
	"hermeneus/core/audience"
	"hermeneus/core/review"
	"hermeneus/store"
)

// lateAfter is by how much something done at a set time is late, and said to be.
const lateAfter = 2 * time.Minute

// keepSchedules does what has come due, until the context ends. Nothing slow stands beside
// it: a set time does not wait for a mail server or a link checker.
func (a *Review) keepSchedules(ctx context.Context) {
	tick := time.NewTicker(time.Second)
	defer tick.Stop()
	resting := map[int64]time.Time{} // schedules that failed for no reason of theirs
	for {
		a.doDue(ctx, resting)
		select {
		case <-ctx.Done():
			return
		case <-tick.C:
		}
	}
}

// doDue does what has come due, the earliest first.
func (a *Review) doDue(ctx context.Context, resting map[int64]time.Time) {
	var ids []int64
	err := a.base.DB.WithContext(ctx).
		Raw(`SELECT id FROM schedules WHERE state = 'waiting' AND due_at <= ? ORDER BY due_at, id LIMIT 50`, a.base.Now()).
		Scan(&ids).
		Error
	if err != nil {
		return // the next tick tries again
	}
	for _, id := range ids {
		if a.base.Now().Before(resting[id]) {
			continue
		}
		if err := a.doSchedule(ctx, id); err != nil && ctx.Err() == nil {
			slog.Error("doing what was scheduled", "schedule", id, "error", err)
			resting[id] = a.base.Now().Add(30 * time.Second)
		}
	}
}

// doSchedule does one thing that is due, once: the rows it is about are locked first,
// and then it is looked at whether another instance did it meanwhile.
func (a *Review) doSchedule(ctx context.Context, id int64) error {
	return a.base.Transaction(ctx, func(tx *gorm.DB) error {
		var s store.Schedule
		if err := tx.First(&s, id).Error; err != nil {
			return err
		}
		list, batch, err := a.lockScheduled(tx, s)
		if err != nil {
			return err
		}
		locked := tx.Clauses(clause.Locking{Strength: "UPDATE"}).
			Where("state = ?", store.ScheduleWaiting).
			Limit(1).
			Find(&s, id)
		if locked.Error != nil || locked.RowsAffected == 0 {
			return locked.Error
		}
		now := a.base.Now()
		s.State, s.EndedAt = store.ScheduleDone, &now
		err = tx.Transaction(func(tx *gorm.DB) error { return a.carryOutSchedule(tx, s, list, batch) })
		var p *problem.Problem
		if errors.As(err, &p) {
			s.State, s.Fault = store.ScheduleFailed, p.Detail
			err = a.giveBack(tx, s, list, batch)
		}
		if err != nil {
			return err
		}
		if err := tx.Exec(
			`UPDATE schedules SET state = ?, ended_at = ?, fault = ? WHERE id = ?`,
			s.State,
			s.EndedAt,
			s.Fault,
			s.ID,
		).Error; err != nil {
			return err
		}
		return a.tellDue(tx, s, list, batch)
	})
}

// lockScheduled locks what a schedule is about.
func (a *Review) lockScheduled(tx *gorm.DB, s store.Schedule) ([]member, *store.Batch, error) {
	if s.BatchID != nil {
		batch, err := lockBatch(tx, *s.BatchID)
		if err != nil {
			return nil, nil, err
		}
		list, err := members(tx, batch.ID, true)
		return list, &batch, err
	}
	var m member
	if err := tx.Select("article_id").First(&m.e, *s.EditionID).Error; err != nil {
		return nil, nil, err
	}
	lock := tx.Clauses(clause.Locking{Strength: "UPDATE"}).Session(&gorm.Session{})
	err := errors.Join(lock.First(&m.row, m.e.ArticleID).Error, lock.First(&m.e, *s.EditionID).Error)
	return []member{m}, nil, err
}

func (a *Review) carryOutSchedule(tx *gorm.DB, s store.Schedule, list []member, batch *store.Batch) error {
	step := Step{
		Action:   review.Publish,
		Change:   s.Note,
		Audience: audience.Audience(s.Audience),
		Note:     a.lateness(tx, s),
	}
	if batch != nil {
		step.batch = batch
		return a.Batches.wholeBatch(tx, staff.Program, batch, list, step)
	}
	m := &list[0]
	if s.Kind == store.ScheduleWithdraw {
		step.Action, step.Notice, step.Change, step.Audience = review.Withdraw, s.Note, "", ""
	}
	return a.move(tx, staff.Program, &m.row, &m.e, step)
}

// lateness says for the trail in whose name something was done, and by how much it
// was late.
func (a *Review) lateness(tx *gorm.DB, s store.Schedule) string {
	var who string
	if err := tx.Raw(`SELECT name FROM staff WHERE id = ?`, s.StaffID).Scan(&who).Error; err != nil {
		who = "somebody"
	}
	note := fmt.Sprintf("as %s had set for %s (%s)", who, strings.Replace(s.Wall, "T", " ", 1), s.Zone)
	if late := a.base.Now().Sub(s.DueAt); late > lateAfter {
		note += fmt.Sprintf(", late by %s: the program was not running then", late.Round(time.Minute))
	}
	return note
}

// giveBack puts what could not be published back to where it was before it was
// scheduled.
func (a *Review) giveBack(tx *gorm.DB, s store.Schedule, list []member, batch *store.Batch) error {
	if s.Kind != store.SchedulePublish {
		return nil
	}
	for _, m := range list {
		if err := tx.Exec(
			`UPDATE editions SET state = ? WHERE id = ? AND state = ?`,
			string(review.Approved),
			m.e.ID,
			string(review.Scheduled),
		).Error; err != nil {
			return err
		}
		line := store.Trail{
			ArticleID: &m.row.ID,
			Subject:   article.EditionReference(m.row.Number, m.e.Language),
			Action:    "schedule failed",
			FromState: string(review.Scheduled),
			ToState:   string(review.Approved),
			Note:      s.Fault,
		}
		if err := errors.Join(
			a.trail.Note(tx, staff.Program, line),
			store.Announce(tx, store.CopyChanged, m.e.ID),
		); err != nil {
			return err
		}
	}
	if batch != nil {
		return tx.Exec(`UPDATE batches SET state = ? WHERE id = ?`, store.BatchOpen, batch.ID).Error
	}
	return nil
}

// tellDue tells who set the time, and the owners, what came of it.
func (a *Review) tellDue(tx *gorm.DB, s store.Schedule, list []member, batch *store.Batch) error {
	ids := []int64{s.StaffID}
	name, path := "", ""
	for _, m := range list {
		ids = append(ids, m.row.OwnerID)
		name, path = "“"+m.e.Title+"”", "/library/"+article.EditionReference(m.row.Number, m.e.Language)
	}
	if batch != nil {
		name = fmt.Sprintf(
			"The batch “%s” (%d articles)",
			batch.Name,
			len(list),
		)
		path = fmt.Sprintf(
			"/review/batches/%d",
			batch.ID,
		)
	}
	did := map[string]string{store.SchedulePublish: "went live", store.ScheduleWithdraw: "was withdrawn"}[s.Kind]
	text := fmt.Sprintf("%s %s, as set for %s.", name, did, strings.Replace(s.Wall, "T", " ", 1))
	if late := a.base.Now().Sub(s.DueAt); late > lateAfter {
		text += fmt.Sprintf(" It was late by %s.", late.Round(time.Minute))
	}
	if s.State == store.ScheduleFailed {
		text = fmt.Sprintf("%s could not be done at %s: %s", name, strings.Replace(s.Wall, "T", " ", 1), s.Fault)
	}
	return a.notify.Tell(tx, notify.NewsPublication, ids, text, path)
}
