package review

import (
	"gorm.io/gorm"

	"hermeneus/app/library"
	"hermeneus/app/staff"
	"hermeneus/core/review"
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
		c, about, err := a.standing(tx, reviews[i])
		if err != nil {
			return err
		}
		stuck := len(roster.Entitled(InRound(c, reviews[i]))) == 0
		switch {
		case stuck && !reviews[i].StuckTold:
			if err := a.Rounds.tellStuck(tx, roster, &reviews[i], about); err != nil {
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

// Standing says of a text in review how it stands, and how people are told of it.
type Standing func(tx *gorm.DB, text int64) (review.Copy, About, error)

// OnReviews lets an area say how texts of its kind stand.
func (a *Review) OnReviews(kind string, standing Standing) { a.kinds[kind] = standing }

func (a *Review) standing(tx *gorm.DB, round store.Review) (review.Copy, About, error) {
	var text store.Text
	if err := tx.First(&text, round.TextID).Error; err != nil {
		return review.Copy{}, About{}, err
	}
	return a.kinds[text.Kind](tx, text.ID)
}

// editionStands says how an edition of an article stands.
func editionStands(tx *gorm.DB, text int64) (review.Copy, About, error) {
	var e store.Edition
	var row store.Article
	if err := tx.First(&e, text).Error; err != nil {
		return review.Copy{}, About{}, err
	}
	if err := tx.First(&row, e.ArticleID).Error; err != nil {
		return review.Copy{}, About{}, err
	}
	reviewing, err := ReviewingOf(tx, row.CategoryID)
	c := library.CopyOf(e)
	c.Steward = reviewing.StewardID
	return c, (&transition{row: &row, e: &e}).about(), err
}
