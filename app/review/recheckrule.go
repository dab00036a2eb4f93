package review

import (
	"context"
	"encoding/json"

	"gorm.io/gorm"

	"hermeneus/app/library"
	"hermeneus/app/problem"
	"hermeneus/app/staff"
	"hermeneus/core/review"
	"hermeneus/core/role"
	"hermeneus/store"
)

const recheckSetting = "recheck_base"

func readRecheckBase(db *gorm.DB) (map[string]int, error) {
	var row store.Setting
	if err := db.Where("name = ?", recheckSetting).Limit(1).Find(&row).Error; err != nil || row.Name == "" {
		return review.BaseRecheck, err
	}
	var base map[string]int
	return base, json.Unmarshal(row.Value, &base)
}

// RecheckBase gives the days after which each kind of article must be confirmed.
func (a *Rechecks) RecheckBase(ctx context.Context) (map[string]int, error) {
	return readRecheckBase(a.base.DB.WithContext(ctx))
}

// SetRecheckBase sets them. Articles that go by the rule follow within minutes.
func (a *Rechecks) SetRecheckBase(ctx context.Context, by staff.Staff, base map[string]int) error {
	if err := by.May("Changing the rule for rechecks", role.Administrator); err != nil {
		return err
	}
	var f problem.Fields
	kept := map[string]int{}
	for _, kind := range library.Kinds {
		days := base[kind]
		f.Require(days >= 1 && days <= 3660, kind, "Between 1 day and ten years.")
		kept[kind] = days
	}
	if err := f.Err(); err != nil {
		return err
	}
	raw, err := json.Marshal(kept)
	if err != nil {
		return err
	}
	err = a.base.Transaction(ctx, func(tx *gorm.DB) error {
		if err := tx.Save(&store.Setting{Name: recheckSetting, Value: raw}).Error; err != nil {
			return err
		}
		return a.trail.Note(
			tx,
			by,
			store.Trail{Subject: "settings", Action: "changed the rule for rechecks", Note: string(raw)},
		)
	})
	if err != nil {
		return err
	}
	return a.TendRechecks(ctx)
}

// Follow says whether somebody is told of what happens to an article.
func (a *Rechecks) Follow(ctx context.Context, by staff.Staff, reference string, follow bool) error {
	return a.base.Transaction(ctx, func(tx *gorm.DB) error {
		row, _, err := library.FindEdition(tx, reference, false)
		if err != nil {
			return err
		}
		if follow {
			return tx.Exec(`INSERT INTO followers VALUES (?, ?) ON CONFLICT DO NOTHING`, row.ID, by.ID).Error
		}
		return tx.Exec(`DELETE FROM followers WHERE article_id = ? AND staff_id = ?`, row.ID, by.ID).Error
	})
}
