package app

import (
	"fmt"

	"gorm.io/gorm"

	"hermeneus/core/article"
	"hermeneus/core/role"
	"hermeneus/store"
)

// tellStuck tells administrators of reviews that nobody can let pass any more, each
// once.
func (a *App) tellStuck(tx *gorm.DB) error {
	var reviews []store.Review
	if err := tx.Where("ended_at IS NULL AND gate <> ''").Find(&reviews).Error; err != nil || len(reviews) == 0 {
		return err
	}
	crew, err := readCrew(tx)
	if err != nil {
		return err
	}
	for i := range reviews {
		var e store.Edition
		var row store.Article
		if err := tx.First(&e, reviews[i].EditionID).Error; err != nil {
			return err
		}
		if err := tx.First(&row, e.ArticleID).Error; err != nil {
			return err
		}
		reviewing, err := reviewingOf(tx, row.CategoryID)
		if err != nil {
			return err
		}
		c := inRound(copyOf(e), reviews[i])
		c.Steward = reviewing.StewardID
		stuck := len(crew.entitled(c)) == 0
		switch {
		case stuck && !reviews[i].StuckTold:
			if err := a.tellStuckReview(tx, crew, &reviews[i], row, e); err != nil {
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

func (a *App) tellStuckReview(tx *gorm.DB, crew crew, review *store.Review, row store.Article, e store.Edition) error {
	review.StuckTold = true
	if err := tx.Save(review).Error; err != nil {
		return err
	}
	ref := article.EditionReference(row.Number, e.Language)
	text := fmt.Sprintf(
		"“%s” is stuck: nobody can pass the gate “%s”. Entitle somebody, or let its author take it back and send it again.",
		e.Title,
		review.Gate,
	)
	return a.tell(tx, NewsStuck, crew.with(role.Administrator), text, "/review/"+ref)
}
