package review

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"gorm.io/gorm"

	"hermeneus/app/library"
	"hermeneus/app/notify"
	"hermeneus/app/problem"
	"hermeneus/app/staff"
	"hermeneus/core/review"
	"hermeneus/store"
)

// Reassign asks one person, who is entitled to the gate, to decide.
func (a *Review) Reassign(ctx context.Context, by staff.Staff, reference string, to int64, note string) error {
	var f problem.Fields
	f.AtMost("note", note, 2000)
	if err := f.Err(); err != nil {
		return err
	}
	return a.base.Transaction(ctx, func(tx *gorm.DB) error {
		row, e, err := library.FindEdition(tx, reference, true)
		if err != nil {
			return err
		}
		c, round, err := a.Situation(tx, row, e)
		if err != nil {
			return err
		}
		gate, ok := c.Gate()
		if c.State != review.InReview || !ok || round == nil {
			return problem.New(problem.NotNow, "It is not in review, so there is nothing to hand on.")
		}
		if !gate.Entitles(by.Actor(), c.Steward) && !slices.Contains(c.Authors, by.ID) {
			return problem.New(
				problem.Denied,
				"The gate “%s” is not yours, so you cannot hand it to somebody.",
				gate.Name,
			)
		}
		roster, err := staff.ReadRoster(tx)
		if err != nil {
			return err
		}
		other, there := roster.By[to]
		if !there {
			return problem.OfField("to", "Choose somebody on the staff.")
		}
		if reason := c.MayPass(other.Actor()); reason != "" {
			return problem.OfField(
				"to",
				fmt.Sprintf("%s cannot decide here: the gate is not theirs, or they wrote the text.", other.Name),
			)
		}
		round.AssigneeID = &to
		if err := tx.Save(round).Error; err != nil {
			return err
		}
		t := &transition{area: a, tx: tx, by: by, row: &row, e: &e, review: round, step: Step{Note: note}}
		if err := t.decide(gate.Name, "hand_on", *e.SubmittedRevision); err != nil {
			return err
		}
		if err := a.trail.Note(
			tx,
			by,
			store.Trail{
				ArticleID: &row.ID,
				Subject:   t.subject(),
				Action:    "hand_on",
				Note:      strings.TrimSpace("to " + other.Name + " at the gate “" + gate.Name + "” " + note),
			},
		); err != nil {
			return err
		}
		text := fmt.Sprintf("%s asks you to look at “%s”, at the gate “%s”. %s", by.Name, e.Title, gate.Name, note)
		if err := a.notify.Tell(
			tx,
			notify.NewsReviewAsked,
			staff.Except([]int64{to}, by.ID),
			strings.TrimSpace(text),
			"/review/"+t.subject(),
		); err != nil {
			return err
		}
		return store.Announce(tx, store.CopyChanged, e.ID)
	})
}
