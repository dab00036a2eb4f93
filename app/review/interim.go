package review

import (
	"context"
	"errors"
	"fmt"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"hermeneus/app/library"
	"hermeneus/app/notify"
	"hermeneus/app/staff"
	"hermeneus/core/article"
	"hermeneus/core/review"
	"hermeneus/store"
)

// EndInterim withdraws articles whose day has passed, or whose known problem is
// solved.
func (a *Rechecks) EndInterim(ctx context.Context) error {
	var list []struct {
		Number  int
		Problem string
	}
	err := a.base.DB.WithContext(ctx).
		Raw(`SELECT a.number, coalesce(k.name, '') AS problem
			FROM articles a LEFT JOIN known_problems k ON k.id = a.known_problem_id AND k.solved_at IS NOT NULL
			WHERE (a.interim_until < ? OR k.id IS NOT NULL)
				AND EXISTS
				(SELECT 1 FROM editions e WHERE e.article_id = a.id AND e.live_revision_id IS NOT NULL)
			ORDER BY a.id LIMIT 500`, a.base.Today()).
		Scan(&list).
		Error
	if err != nil {
		return err
	}
	var failed []error
	for _, l := range list {
		err := a.base.Transaction(
			ctx,
			func(tx *gorm.DB) error { return a.endInterim(tx, staff.Program, l.Number, l.Problem) },
		)
		if err != nil { // one that cannot be ended keeps no other live
			failed = append(failed, fmt.Errorf("ending %s: %w", article.Reference(l.Number), err))
		}
	}
	return errors.Join(failed...)
}

// endInterim withdraws every live edition of an interim article.
func (a *Rechecks) endInterim(tx *gorm.DB, by staff.Staff, number int, problemName string) error {
	row, _, err := library.FindEdition(tx, article.Reference(number), true)
	if err != nil {
		return err
	}
	note, notice := "its last day was "+library.Day(row.InterimUntil), ""
	if problemName != "" {
		note, notice = "the known problem “"+problemName+"” is solved", "The problem this was about is solved: "+problemName+"."
	}
	var editions []store.Edition
	if err := tx.Clauses(clause.Locking{Strength: "UPDATE"}).
		Where("article_id = ? AND live_revision_id IS NOT NULL", row.ID).
		Order("id").
		Find(&editions).
		Error; err != nil {
		return err
	}
	for i := range editions {
		if err := a.review.move(
			tx,
			staff.Program,
			&row,
			&editions[i],
			Step{Action: review.Withdraw, Note: note, Notice: notice},
		); err != nil {
			return err
		}
	}
	if len(editions) == 0 {
		return nil
	}
	text := fmt.Sprintf("“%s” was interim and ended: %s. It is no longer live.", editions[0].Title, note)
	return a.notify.Tell(
		tx,
		notify.NewsPublication,
		staff.Except([]int64{row.OwnerID}, by.ID),
		text,
		"/library/"+article.Reference(number),
	)
}
