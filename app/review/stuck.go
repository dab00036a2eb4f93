package review

import (
	"fmt"

	"gorm.io/gorm"

	"hermeneus/app/library"
	"hermeneus/app/notify"
	"hermeneus/app/staff"
	"hermeneus/core/article"
	"hermeneus/core/role"
	"hermeneus/store"
)

// TellStuck tells administrators of reviews that nobody can let pass any more, each
// once.
func (a *Review) TellStuck(tx *gorm.DB) error {
	var reviews []store.Review
	if err := tx.Where("ended_at IS NULL AND gate <> ''").Find(&reviews).Error; err != nil || len(reviews) == 0 {
		return err
	}
	roster, err := staff.ReadRoster(tx)
	if err != nil {
		return err
	}
	for i := range reviews {
		var e store.Edition
		var row store.Article
		if err := tx.First(&e, reviews[i].TextID).Error; err != nil {
			return err
		}
		if err := tx.First(&row, e.ArticleID).Error; err != nil {
			return err
		}
		reviewing, err := ReviewingOf(tx, row.CategoryID)
		if err != nil {
			return err
		}
		c := inRound(library.CopyOf(e), reviews[i])
		c.Steward = reviewing.StewardID
		stuck := len(roster.Entitled(c)) == 0
		switch {
		case stuck && !reviews[i].StuckTold:
			if err := a.tellStuckReview(tx, roster, &reviews[i], row, e); err != nil {
				return err
			}
		case !stuck && reviews[i].StuckTold:
			if err := tx.Model(&reviews[i]).Update("stuck_told", false).Error; err != nil {
				return err
			}
		}
	}
	return nil
}

func (a *Review) tellStuckReview(
	tx *gorm.DB,
	roster staff.Roster,
	review *store.Review,
	row store.Article,
	e store.Edition,
) error {
	review.StuckTold = true
	if err := tx.Save(review).Error; err != nil {
		return err
	}
	ref := article.EditionReference(row.Number, e.Language)
	text := fmt.Sprintf(
		"“%s” is stuck: nobody can pass the gate “%s”. Entitle somebody, or let its author take it back and send "+
			"it again.",
		e.Title,
		review.Gate,
	)
	return a.notify.Tell(tx, notify.NewsStuck, roster.With(role.Administrator), text, "/review/"+ref)
}
