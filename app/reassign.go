package app

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"gorm.io/gorm"

	"hermeneus/core/article"
	"hermeneus/store"
)

// HandOn asks one person, who is entitled to the gate, to decide.
func (a *App) HandOn(ctx context.Context, by Staff, reference string, to int64, note string) error {
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
		c, review, err := a.standing(tx, row, e)
		if err != nil {
			return err
		}
		gate, ok := c.Gate()
		if c.State != article.InReview || !ok || review == nil {
			return problem(NotNow, "It is not in review, so there is nothing to hand on.")
		}
		if !gate.Entitles(by.actor(), c.Steward) && !slices.Contains(c.Authors, by.ID) {
			return problem(Denied, "The gate “%s” is not yours, so you cannot hand it to somebody.", gate.Name)
		}
		crew, err := readCrew(tx)
		if err != nil {
			return err
		}
		other, there := crew.by[to]
		if !there {
			return invalid("to", "Choose somebody on the staff.")
		}
		if reason := c.MayPass(other.actor()); reason != "" {
			return invalid(
				"to",
				fmt.Sprintf("%s cannot decide here: the gate is not theirs, or they wrote the text.", other.Name),
			)
		}
		review.AssigneeID = &to
		if err := tx.Save(review).Error; err != nil {
			return err
		}
		t := &turn{app: a, tx: tx, by: by, row: &row, e: &e, review: review, step: Step{Note: note}}
		if err := t.decide(gate.Name, "hand_on", *e.SubmittedRevision); err != nil {
			return err
		}
		if err := a.note(
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
		if err := a.tell(
			tx,
			NewsReviewAsked,
			except([]int64{to}, by.ID),
			strings.TrimSpace(text),
			"/review/"+t.subject(),
		); err != nil {
			return err
		}
		return store.Announce(tx, store.CopyChanged, e.ID)
	})
}
