package evidence

import (
	"context"
	"encoding/json"
	"fmt"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"hermeneus/app/keeping"
	"hermeneus/app/problem"
	"hermeneus/app/staff"
	"hermeneus/core/role"
	"hermeneus/store"
)

const newcomersSetting = "newcomers_per_hour"

// Newcomers is the setting: how many new askers of one network within an hour are likely to be people.
func (a *Recorder) Newcomers(ctx context.Context) (int, error) {
	var row store.Setting
	err := a.base.DB.WithContext(ctx).Where("name = ?", newcomersSetting).Limit(1).Find(&row).Error
	if err != nil || row.Name == "" {
		return defaultNewcomers, err
	}
	var most int
	return most, json.Unmarshal(row.Value, &most)
}

// SetNewcomers changes it. What is kept already stays as it is.
func (a *Recorder) SetNewcomers(ctx context.Context, by staff.Staff, most int) error {
	if err := by.May("Changing how many new askers are likely", role.Administrator); err != nil {
		return err
	}
	var f problem.Fields
	f.Require(most >= 1 && most <= 1_000_000, "newcomers", "Between 1 and a million.")
	if err := f.Err(); err != nil {
		return err
	}
	raw, _ := json.Marshal(most)
	return a.base.Transaction(ctx, func(tx *gorm.DB) error {
		row := store.Setting{Name: newcomersSetting, Value: raw}
		if err := tx.Clauses(clause.OnConflict{UpdateAll: true}).Create(&row).Error; err != nil {
			return err
		}
		return a.trail.Note(tx, by, store.Trail{
			Subject: "settings", Action: "changed how many new askers of a network are likely in an hour",
			Note: fmt.Sprint(most),
		})
	})
}

// wordsAtOnce is how many words end in one transaction.
const wordsAtOnce = 5000

// LetGo ends the words that are older than they are kept, and counts of newcomers of hours that are over.
func (a *Recorder) LetGo(ctx context.Context) error {
	db := a.base.DB.WithContext(ctx)
	if err := db.Exec(`DELETE FROM newcomers WHERE hour < ?`, a.base.Now().Add(-2*time.Hour)).Error; err != nil {
		return err
	}
	kept, err := keeping.Read(db)
	if err != nil {
		return err
	}
	before := a.base.Now().AddDate(0, 0, -kept.Words)
	for {
		done := db.Exec(`DELETE FROM evidence_words WHERE evidence_id IN
			(SELECT evidence_id FROM evidence_words WHERE at < ? ORDER BY at LIMIT ?)`, before, wordsAtOnce)
		if done.Error != nil || done.RowsAffected < wordsAtOnce {
			return done.Error
		}
	}
}
