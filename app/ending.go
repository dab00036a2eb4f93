package app

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"gorm.io/gorm"

	"hermeneus/core/pace"
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

// madeLasts is for how long the same sent again is known to be the same.
const madeLasts = 48 * time.Hour

// EndOld lets go of what has had its time.
func (a *App) EndOld(ctx context.Context) error {
	db := a.db.WithContext(ctx)
	keep, err := readKeeping(db)
	if err != nil {
		return err
	}
	now := a.now()
	ago := func(days int) time.Time { return now.AddDate(0, 0, -days) }
	var failures []error
	for what, statement := range map[string]struct {
		sql string
		at  time.Time
	}{
		"sessions":             {`DELETE FROM sessions WHERE expires_at < ?`, now},
		"attempts to sign in":  {`DELETE FROM sign_in_failures WHERE at < ?`, now.Add(-max(24*time.Hour, pace.Window))},
		"known browsers":       {`DELETE FROM known_browsers WHERE seen_at < ?`, now.Add(-BrowserKnown)},
		"links for a password": {`DELETE FROM password_links WHERE expires_at < ?`, now.Add(-time.Hour)},
		"holds":                {`DELETE FROM holds WHERE seen_at < ?`, now.Add(-24 * time.Hour)},
		"keys":                 {`DELETE FROM made WHERE at < ?`, now.Add(-madeLasts)},
		"mails":                {`DELETE FROM mails WHERE coalesce(sent_at, failed_at) < ?`, ago(keep.Mails)},
		"news":                 {`DELETE FROM news WHERE at < ?`, ago(keep.News)},
		"changes of jobs": {`DELETE
			FROM job_changes
			WHERE job_id IN (SELECT id FROM jobs WHERE ended_at < ?)`, ago(keep.Jobs)},
		"reports": {`DELETE
			FROM search_reports
			WHERE at < ? AND id NOT IN (SELECT max(id) FROM search_reports GROUP BY site_id)`, ago(keep.Reports)},
	} {
		if err := db.Exec(statement.sql, statement.at).Error; err != nil {
			failures = append(failures, fmt.Errorf("ending %s: %w", what, err))
		}
	}
	err = db.Exec(
		`DELETE FROM jobs WHERE ended_at < ? AND NOT EXISTS (SELECT 1 FROM job_changes WHERE job_id = jobs.id)`,
		ago(keep.Jobs),
	).Error
	return errors.Join(append(failures, err)...)
}
