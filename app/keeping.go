package app

import (
	"context"
	"encoding/json"

	"gorm.io/gorm"

	"hermeneus/core/role"
	"hermeneus/store"
)

// Everything that grows with use, and that nobody needs for ever, ends.

// Keeping is for how many days things are kept that nobody needs for ever.
type Keeping struct {
	Mails   int `json:"mails" doc:"after they were sent, or given up"`
	News    int `json:"news" doc:"after they were told, read or not"`
	Jobs    int `json:"jobs" doc:"changes to many articles, imports and exports; until then they can be taken back or fetched"`
	Reports int `json:"reports" doc:"of how well the search does; the latest of each help centre stays"`
}

var standardKeeping = Keeping{Mails: 30, News: 180, Jobs: 90, Reports: 730}

const keepingSetting = "keeping_days"

// Keeping gives for how many days things are kept.
func (a *App) Keeping(ctx context.Context) (Keeping, error) {
	return readKeeping(a.db.WithContext(ctx))
}

func readKeeping(db *gorm.DB) (Keeping, error) {
	kept := standardKeeping
	var row store.Setting
	if err := db.Where("name = ?", keepingSetting).Limit(1).Find(&row).Error; err != nil || row.Name == "" {
		return kept, err
	}
	return kept, json.Unmarshal(row.Value, &kept)
}

// SetKeeping sets them. What is older ends within the hour.
func (a *App) SetKeeping(ctx context.Context, by Staff, k Keeping) error {
	if err := by.may("Changing how long things are kept", role.Administrator); err != nil {
		return err
	}
	var f fields
	for name, days := range map[string]int{"mails": k.Mails, "news": k.News, "jobs": k.Jobs, "reports": k.Reports} {
		f.require(days >= 1 && days <= 3660, name, "Between 1 day and ten years.")
	}
	if err := f.err(); err != nil {
		return err
	}
	raw, err := json.Marshal(k)
	if err != nil {
		return err
	}
	return a.transaction(ctx, func(tx *gorm.DB) error {
		if err := tx.Save(&store.Setting{Name: keepingSetting, Value: raw}).Error; err != nil {
			return err
		}
		return a.note(
			tx,
			by,
			store.Trail{Subject: "settings", Action: "changed how long things are kept", Note: string(raw)},
		)
	})
}
