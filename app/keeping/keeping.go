package keeping

import (
	"context"
	"encoding/json"

	"gorm.io/gorm"

	"hermeneus/app/problem"
	"hermeneus/app/staff"
	"hermeneus/core/role"
	"hermeneus/store"
)

// Everything that grows with use, and that nobody needs for ever, ends.

// Periods are for how many days things are kept that nobody needs for ever.
type Periods struct {
	Mails    int `json:"mails" doc:"after they were sent, or given up"`
	News     int `json:"news" doc:"after they were told, read or not"`
	Jobs     int `json:"jobs" doc:"changes to many articles, imports and exports; until then they can be taken back or fetched"`
	Reports  int `json:"reports" doc:"of how well the search does; the latest of each help centre stays"`
	Evidence int `json:"evidence" doc:"that is at hand; older months are put aside, and what was counted of them is final"`
	Words    int `json:"words" doc:"that customers asked; what happened stays, and with it the figures"`
}

var standardKeeping = Periods{Mails: 30, News: 180, Jobs: 90, Reports: 730, Words: 730, Evidence: 3660}

const keepingSetting = "keeping_days"

// Keeping gives for how many days things are kept.
func (a *Keeping) Keeping(ctx context.Context) (Periods, error) {
	return Read(a.base.DB.WithContext(ctx))
}

// Read gives the periods as they are set, or the standard ones.
func Read(db *gorm.DB) (Periods, error) {
	kept := standardKeeping
	var row store.Setting
	if err := db.Where("name = ?", keepingSetting).Limit(1).Find(&row).Error; err != nil || row.Name == "" {
		return kept, err
	}
	return kept, json.Unmarshal(row.Value, &kept)
}

// SetKeeping sets them. What is older ends within the hour.
func (a *Keeping) SetKeeping(ctx context.Context, by staff.Staff, k Periods) error {
	if err := by.May("Changing how long things are kept", role.Administrator); err != nil {
		return err
	}
	var f problem.Fields
	for name, days := range map[string]int{
		"mails": k.Mails, "news": k.News, "jobs": k.Jobs, "reports": k.Reports, "words": k.Words,
	} {
		f.Require(days >= 1 && days <= 3660, name, "Between 1 day and ten years.")
	}
	f.Require(k.Evidence >= 100 && k.Evidence <= 36600, "evidence", "Between 100 days and a hundred years.")
	if err := f.Err(); err != nil {
		return err
	}
	raw, err := json.Marshal(k)
	if err != nil {
		return err
	}
	return a.base.Transaction(ctx, func(tx *gorm.DB) error {
		if err := tx.Save(&store.Setting{Name: keepingSetting, Value: raw}).Error; err != nil {
			return err
		}
		return a.trail.Note(
			tx,
			by,
			store.Trail{Subject: "settings", Action: "changed how long things are kept", Note: string(raw)},
		)
	})
}
