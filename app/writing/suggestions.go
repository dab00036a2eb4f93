package writing

import (
	"context"
	"errors"
	"fmt"

	"gorm.io/gorm"

	"hermeneus/app/library"
	"hermeneus/app/notify"
	"hermeneus/app/problem"
	"hermeneus/app/review"
	"hermeneus/app/staff"
	"hermeneus/core/article"
	"hermeneus/core/compare"
	corereview "hermeneus/core/review"
)

// AcceptSuggestion puts the suggested words into the text, as its writer would, and
// closes the comment.
func (a *Writing) AcceptSuggestion(
	ctx context.Context,
	by staff.Staff,
	reference string,
	id int64,
	tab string,
	version int,
) (Saved, error) {
	var saved Saved
	if err := by.MayEdit(); err != nil {
		return saved, err
	}
	err := a.base.Transaction(ctx, func(tx *gorm.DB) error {
		row, e, c, err := a.review.Comments.Find(tx, reference, id)
		if err != nil {
			return err
		}
		switch {
		case e.Version != version:
			return problem.New(
				problem.StaleSave,
				"The text changed since you opened it. Load it again; the suggestion stays.",
			)
		case c.Suggestion == nil:
			return problem.New(problem.NotNow, "This comment suggests no other words.")
		case c.AcceptedAt != nil:
			return problem.New(problem.NotNow, "The suggestion is in the text already.")
		}
		was := corereview.State(e.State)
		next, err := library.CopyOf(e).Do(corereview.Edit, by.Actor(), "")
		if err != nil {
			return problem.From(err, "")
		}
		if err := a.texts.Hold(tx, by, e.ID, tab); err != nil {
			return err
		}
		anchor, err := review.AnchorOf(c.Anchor)
		if err != nil {
			return err
		}
		body, err := compare.Replace(e.Body, anchor, *c.Suggestion)
		if errors.Is(err, compare.ErrNoPassage) {
			return problem.New(
				problem.NotNow,
				"The words it is about read otherwise by now, so they are not replaced. Change them by hand, or "+
					"resolve the comment.",
			)
		} else if err != nil {
			return err
		}
		text := library.WorkingCopyOf(e)
		text.Body = body
		e.State = string(next.State)
		if err := a.Write(tx, by, &e, text, was, "", c.StaffID); err != nil {
			return err
		}
		now := a.base.Now()
		c.AcceptedAt, c.ResolvedAt, c.ResolvedBy = &now, &now, &by.ID
		if err := tx.Save(&c).Error; err != nil {
			return err
		}
		say := fmt.Sprintf("%s took your words into “%s”.", by.Name, e.Title)
		if err := a.notify.Tell(
			tx,
			notify.NewsDecided,
			staff.Except([]int64{c.StaffID}, by.ID),
			say,
			"/review/"+article.EditionReference(row.Number, e.Language),
		); err != nil {
			return err
		}
		c2, _, err := a.review.Situation(tx, row, e)
		saved = Saved{e.Version, c2.State, c2.Allowed(by.Actor())}
		return err
	})
	return saved, err
}
