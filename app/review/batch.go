package review

import (
	"errors"
	"fmt"
	"slices"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"hermeneus/app/library"
	"hermeneus/app/problem"
	"hermeneus/app/staff"
	"hermeneus/core/article"
	"hermeneus/core/review"
	"hermeneus/store"
)

func (a *Batches) addMembers(tx *gorm.DB, by staff.Staff, batch *store.Batch, references []string) error {
	slices.Sort(references)
	for _, ref := range slices.Compact(references) {
		row, e, err := library.FindEdition(tx, ref, true)
		if err != nil {
			return err
		}
		switch {
		case e.BatchID != nil && *e.BatchID == batch.ID:
			continue
		case e.BatchID != nil:
			return problem.OfField("references", fmt.Sprintf("%s is in another batch already.", ref))
		case e.State == string(review.Published):
			return problem.OfField(
				"references",
				fmt.Sprintf("What is live of %s is what its working copy says: there is nothing to publish.", ref),
			)
		case e.State == string(review.Scheduled):
			return problem.OfField(
				"references",
				fmt.Sprintf("%s is scheduled on its own. Take it off the schedule first.", ref),
			)
		}
		if err := tx.Create(&store.BatchMember{BatchID: batch.ID, EditionID: e.ID}).Error; err != nil {
			return err
		}
		if err := tx.Exec(`UPDATE editions SET batch_id = ? WHERE id = ?`, batch.ID, e.ID).Error; err != nil {
			return err
		}
		line := store.Trail{
			ArticleID: &row.ID,
			Subject:   article.EditionReference(row.Number, e.Language),
			Action:    "put in batch",
			Note:      batch.Name,
		}
		if err := a.trail.Note(tx, by, line); err != nil {
			return err
		}
	}
	var n int
	if err := tx.Raw(`SELECT count(*) FROM batch_members WHERE batch_id = ?`, batch.ID).Scan(&n).Error; err != nil {
		return err
	}
	if n > MaxBatch {
		return problem.OfField("references", fmt.Sprintf("At most %d articles in a batch.", MaxBatch))
	}
	return nil
}

// batchStand tells how a batch stands: it differs as soon as a member was changed,
// decided about, put in or taken out, or the batch itself moved.
func batchStand(tx *gorm.DB, id int64) (stand string, err error) {
	err = tx.Raw(`SELECT md5(b.state || coalesce((SELECT string_agg(concat_ws(':', e.id, e.version, e.state,
			r.gate), ',' ORDER BY e.id) FROM batch_members m JOIN editions e ON e.id = m.edition_id
			LEFT JOIN reviews r ON r.text_id = e.id AND r.ended_at IS NULL WHERE m.batch_id = b.id), ''))
		FROM batches b
		WHERE b.id = ?`, id).
		Scan(&stand).
		Error
	return stand, err
}

// member is one edition of a batch, with its article, locked or not.
type member struct {
	row  store.Article
	e    store.Edition
	link store.BatchMember
}

// members gives a batch's editions in the order of their articles; locked in that
// order, so that two never wait for each other.
func members(tx *gorm.DB, batch int64, lock bool) ([]member, error) {
	var links []store.BatchMember
	err := tx.Raw(`SELECT m.*
		FROM batch_members m JOIN editions e ON e.id = m.edition_id WHERE m.batch_id = ?
		ORDER BY e.article_id, e.id`, batch).
		Scan(&links).
		Error
	if err != nil {
		return nil, err
	}
	var list []member
	for _, l := range links {
		var e store.Edition
		var row store.Article
		if err := tx.Select("article_id").First(&e, l.EditionID).Error; err != nil {
			return nil, err
		}
		from := tx
		if lock {
			from = tx.Clauses(clause.Locking{Strength: "UPDATE"}).Session(&gorm.Session{})
		}
		if err := errors.Join(from.First(&row, e.ArticleID).Error, from.First(&e, l.EditionID).Error); err != nil {
			return nil, err
		}
		list = append(list, member{row, e, l})
	}
	return list, nil
}
