package review

import (
	"fmt"
	"slices"
	"strings"

	"gorm.io/gorm"

	"hermeneus/app/problem"
	"hermeneus/app/staff"
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
		if err := t.area.Rounds.SettleAsked(t.tx, t.about().Decided); err != nil {
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
	if t.review, err = t.area.Rounds.BeginRound(t.tx, t.by, t.e.ID, reviewing.PathID, t.to.Path); err != nil {
		return err
	}
	t.to.Authors = t.review.Authors
	return t.standBefore()
}

// about is what the round is of, as people are told of it.
func (t *transition) about() About {
	return About{Title: t.e.Title, Decided: "/review/" + t.subject(), Written: "/library/" + t.subject()}
}

func (t *transition) standBefore() error {
	return t.area.Rounds.StandBefore(t.tx, t.by, t.review, t.to, t.about())
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
	return t.area.Rounds.TellDecided(
		t.tx,
		t.by,
		t.review,
		t.about(),
		fmt.Sprintf("let “%s” pass the gate “%s”.", t.e.Title, gate.Name),
	)
}

func (t *transition) decide(gate, action string, revision int) error {
	return t.area.Rounds.Decide(t.tx, t.by, t.review, gate, action, revision, t.step.Note)
}

func (t *transition) sendBack() error {
	gate, _ := t.from.Gate()
	t.e.DecisionNote = t.step.Note
	if t.review != nil {
		if err := t.decide(gate.Name, "send_back", *t.e.SubmittedRevision); err != nil {
			return err
		}
		said := fmt.Sprintf("sent “%s” back: %s", t.e.Title, t.step.Note)
		if err := t.area.Rounds.TellDecided(t.tx, t.by, t.review, t.about(), said); err != nil {
			return err
		}
	}
	return t.endReview()
}

func (t *transition) endReview() error { return t.area.Rounds.EndRound(t.tx, t.review) }
