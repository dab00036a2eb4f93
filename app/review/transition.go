package review

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"time"

	"gorm.io/gorm"

	"hermeneus/app/notify"
	"hermeneus/app/problem"
	"hermeneus/app/staff"
	"hermeneus/app/texts"
	"hermeneus/core/article"
	"hermeneus/core/review"
	"hermeneus/store"
)

// transition is one step being taken.
type transition struct {
	area     *Review
	tx       *gorm.DB
	by       staff.Staff
	row      *store.Article
	e        *store.Edition
	review   *store.Review
	step     Step
	from, to review.Copy
}

// take does what an allowed step means for the rows.
func (t *transition) take() error {
	state := t.from.State
	t.e.State = string(t.to.State)
	if t.step.Action != review.Submit {
		if err := t.area.settleAsked(t.tx, t.subject()); err != nil {
			return err
		}
	}
	var err error
	switch action := t.step.Action; action {
	case review.Submit:
		err = t.submit()
	case review.Recall:
		err = t.endReview()
	case review.Approve:
		err = t.approve()
	case review.SendBack:
		err = t.sendBack()
	case review.Publish, review.Schedule:
		if state == review.InReview {
			if err := t.approve(); err != nil {
				return err
			}
		}
		if action == review.Publish {
			err = t.publish()
		} else {
			err = t.schedule()
		}
	case review.Unschedule:
		err = t.dropSchedule(store.SchedulePublish)
	case review.Withdraw:
		err = t.withdraw()
	}
	if err != nil {
		return err
	}
	if err := t.tx.Save(t.e).Error; err != nil {
		return err
	}
	line := store.Trail{
		ArticleID: &t.row.ID,
		Subject:   t.subject(),
		Action:    string(t.step.Action),
		FromState: string(state),
		ToState:   t.e.State,
		Note:      t.trailNote(),
	}
	if err := t.area.trail.Note(t.tx, t.by, line); err != nil {
		return err
	}
	return store.Announce(t.tx, store.CopyChanged, t.e.ID)
}

func (t *transition) subject() string { return article.EditionReference(t.row.Number, t.e.Language) }

// trailNote says what a later reader of the trail wants to know beside the action.
func (t *transition) trailNote() string {
	var parts []string
	if gate, ok := t.from.Gate(); ok &&
		(t.step.Action == review.Approve || t.step.Action == review.SendBack || t.from.State == review.InReview && t.to.State != review.Drafting) &&
		t.from.State == review.InReview {
		at := "at the gate “" + gate.Name + "”"
		if t.step.Action != review.SendBack && slices.Contains(t.from.Authors, t.by.ID) {
			at += ", their own text"
		}
		parts = append(parts, at)
	}
	if t.step.batch != nil {
		parts = append(parts, "with the batch “"+t.step.batch.Name+"”")
	}
	for _, s := range []string{t.step.Note, t.step.Change} {
		if s = strings.TrimSpace(s); s != "" {
			parts = append(parts, s)
		}
	}
	return strings.Join(parts, ": ")
}

// submit enters the path of the category, as it is now.
func (t *transition) submit() error {
	now := t.area.base.Now()
	number, err := t.area.Snapshot(t.tx, t.by, t.row, t.e, "")
	if err != nil {
		return err
	}
	t.e.SubmitterID, t.e.SubmittedAt, t.e.SubmittedRevision, t.e.DecisionNote = &t.by.ID, &now, &number, ""
	reviewing, err := ReviewingOf(t.tx, t.row.CategoryID)
	if err != nil {
		return err
	}
	path, err := json.Marshal(t.to.Path)
	if err != nil {
		return err
	}
	authors, err := texts.Authors(t.tx, t.e.ID)
	if err != nil {
		return err
	}
	authors = texts.Union(authors, t.by.ID) // who sends a text answers for it
	t.review = &store.Review{
		TextID:  t.e.ID,
		PathID:  &reviewing.PathID,
		Path:    path,
		Authors: authors,
		BeganBy: t.by.ID,
		BeganAt: now,
	}
	t.to.Authors = authors
	return t.standBefore()
}

// standBefore puts the round before the gate that is next, and tells whose it is.
func (t *transition) standBefore() error {
	now := t.area.base.Now()
	gate, ok := t.to.Gate()
	t.review.Passed, t.review.Gate, t.review.GateSince = t.to.Passed, gate.Name, now
	t.review.OverdueAt, t.review.AssigneeID, t.review.StuckTold = nil, nil, false
	if ok && gate.Overdue > 0 {
		due := now.Add(time.Duration(gate.Overdue) * time.Hour)
		t.review.OverdueAt = &due
	}
	if t.review.Passed == nil {
		t.review.Passed = []int64{}
	}
	if err := t.tx.Save(t.review).Error; err != nil {
		return err
	}
	if !ok {
		return nil
	}
	roster, err := staff.ReadRoster(t.tx)
	if err != nil {
		return err
	}
	var ids []int64
	for _, s := range roster.Entitled(t.to) {
		ids = append(ids, s.ID)
	}
	if len(ids) == 0 {
		return t.area.tellStuckReview(t.tx, roster, t.review, *t.row, *t.e)
	}
	text := fmt.Sprintf("“%s” waits at the gate “%s”.", t.e.Title, gate.Name)
	return t.area.notify.Tell(t.tx, notify.NewsReviewAsked, staff.Except(ids, t.by.ID), text, "/review/"+t.subject())
}

// approve lets the text pass the gate it stands before.
func (t *transition) approve() error {
	number, err := t.area.Snapshot(t.tx, t.by, t.row, t.e, "")
	if err != nil {
		return err
	}
	t.e.SubmittedRevision, t.e.DecisionNote = &number, t.step.Note
	gate, _ := t.from.Gate()
	if err := t.decide(gate.Name, "approve", number); err != nil {
		return err
	}
	if t.step.Action != review.Approve { // publishing or scheduling passed the last gate
		after, err := t.from.Do(review.Approve, t.by.Actor(), t.step.Note)
		if err != nil {
			return problem.From(err, "")
		}
		t.to.Passed = after.Passed
		line := store.Trail{
			ArticleID: &t.row.ID,
			Subject:   t.subject(),
			Action:    string(review.Approve),
			FromState: string(t.from.State),
			ToState:   string(after.State),
			Note:      t.trailNote(),
		}
		if err := t.area.trail.Note(t.tx, t.by, line); err != nil {
			return err
		}
		t.from = after
	}
	if err := t.standBefore(); err != nil {
		return err
	}
	text := fmt.Sprintf("%s let “%s” pass the gate “%s”.", t.by.Name, t.e.Title, gate.Name)
	return t.area.notify.Tell(
		t.tx,
		notify.NewsDecided,
		staff.Except(t.review.Authors, t.by.ID),
		text,
		"/library/"+t.subject(),
	)
}

func (t *transition) decide(gate, action string, revision int) error {
	d := store.Decision{
		ReviewID: t.review.ID,
		Gate:     gate,
		StaffID:  t.by.ID,
		At:       t.area.base.Now(),
		Action:   action,
		Revision: revision,
		Note:     strings.TrimSpace(t.step.Note),
	}
	return t.tx.Create(&d).Error
}

func (t *transition) sendBack() error {
	gate, _ := t.from.Gate()
	t.e.DecisionNote = t.step.Note
	if t.review != nil {
		if err := t.decide(gate.Name, "send_back", *t.e.SubmittedRevision); err != nil {
			return err
		}
		text := fmt.Sprintf("%s sent “%s” back: %s", t.by.Name, t.e.Title, t.step.Note)
		if err := t.area.notify.Tell(
			t.tx,
			notify.NewsDecided,
			staff.Except(t.review.Authors, t.by.ID),
			text,
			"/library/"+t.subject(),
		); err != nil {
			return err
		}
	}
	return t.endReview()
}

func (t *transition) endReview() error {
	if t.review == nil || t.review.EndedAt != nil {
		return nil
	}
	now := t.area.base.Now()
	t.review.EndedAt = &now
	return t.tx.Save(t.review).Error
}
