package app

import (
	"context"
	"errors"
	"fmt"

	"gorm.io/gorm"

	"hermeneus/core/article"
)

// AcceptSuggestion puts the suggested words into the text, as its writer would, and
// closes the comment.
func (a *App) AcceptSuggestion(
	ctx context.Context,
	by Staff,
	reference string,
	id int64,
	tab string,
	version int,
) (Saved, error) {
	var saved Saved
	if err := by.mayEdit(); err != nil {
		return saved, err
	}
	err := a.transaction(ctx, func(tx *gorm.DB) error {
		row, e, c, err := a.comment(tx, reference, id)
		if err != nil {
			return err
		}
		switch {
		case e.Version != version:
			return problem(StaleSave, "The text changed since you opened it. Load it again; the suggestion stays.")
		case c.Suggestion == nil:
			return problem(NotNow, "This comment suggests no other words.")
		case c.AcceptedAt != nil:
			return problem(NotNow, "The suggestion is in the text already.")
		}
		was := article.State(e.State)
		next, err := copyOf(e).Do(article.Edit, by.actor(), "")
		if err != nil {
			return asProblem(err, "")
		}
		if err := a.hold(tx, by, e.ID, tab); err != nil {
			return err
		}
		anchor, err := anchorOf(c.Anchor)
		if err != nil {
			return err
		}
		body, err := article.Replace(e.Body, anchor, *c.Suggestion)
		if errors.Is(err, article.ErrNoPassage) {
			return problem(
				NotNow,
				"The words it is about read otherwise by now, so they are not replaced. Change them by hand, or resolve the comment.",
			)
		} else if err != nil {
			return err
		}
		text := copied(e)
		text.Body = body
		e.State = string(next.State)
		if err := a.write(tx, by, &e, text, was, "", c.StaffID); err != nil {
			return err
		}
		now := a.Now()
		c.AcceptedAt, c.ResolvedAt, c.ResolvedBy = &now, &now, &by.ID
		if err := tx.Save(&c).Error; err != nil {
			return err
		}
		say := fmt.Sprintf("%s took your words into “%s”.", by.Name, e.Title)
		if err := a.tell(
			tx,
			NewsDecided,
			except([]int64{c.StaffID}, by.ID),
			say,
			"/review/"+article.EditionReference(row.Number, e.Language),
		); err != nil {
			return err
		}
		c2, _, err := a.standing(tx, row, e)
		saved = Saved{e.Version, c2.State, c2.Allowed(by.actor())}
		return err
	})
	return saved, err
}
