package outcomes

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"hermeneus/app/keeping"
	"hermeneus/app/staff"
	"hermeneus/core/outcome"
	"hermeneus/store"
)

// horizonSetting says from when on evidence is folded: what came before is put aside, and what was counted of it is
// final.
const horizonSetting = "evidence_from"

// beginning is from when on evidence is folded where nothing was put aside.
var beginning = time.Unix(0, 0).UTC()

// horizonOf gives from when on evidence is folded.
func horizonOf(db *gorm.DB) (time.Time, error) {
	var row store.Setting
	if err := db.Where("name = ?", horizonSetting).Limit(1).Find(&row).Error; err != nil || row.Name == "" {
		return beginning, err
	}
	var from time.Time
	err := json.Unmarshal(row.Value, &from)
	return from.UTC(), err
}

// monthsAhead is for how many months partitions are made before they come.
const monthsAhead = 3

// Months makes the partitions of the months to come, moves what came before there was one for it, and puts the months
// aside that are older than evidence is kept at hand.
func (a *Outcomes) Months(ctx context.Context) error {
	now := a.base.Now()
	ahead := now.AddDate(0, monthsAhead, 0)
	horizon, err := horizonOf(a.base.DB.WithContext(ctx))
	if err != nil {
		return err
	}
	var failures []error
	for _, m := range []store.Monthly{store.EvidenceMonths, store.QuestionMonths} {
		from := horizon
		if m == store.QuestionMonths {
			from = beginning
		}
		failures = append(failures, m.Ensure(ctx, a.base.DB, now, ahead), m.Settle(ctx, a.base.DB, from, ahead))
	}
	return errors.Join(append(failures, a.putAside(ctx))...)
}

// putAside takes the months out of the evidence that are older than it is kept at hand, unless something of them
// still waits to be folded. What was counted of them stays.
func (a *Outcomes) putAside(ctx context.Context) error {
	return a.base.DB.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		if err := tx.Exec(`SELECT pg_advisory_xact_lock(?)`, int64(foldLock)).Error; err != nil {
			return err
		}
		kept, err := keeping.Read(tx)
		if err != nil {
			return err
		}
		months, err := store.EvidenceMonths.Until(tx, a.base.Now().AddDate(0, 0, -kept.Evidence))
		if err != nil || len(months) == 0 {
			return err
		}
		horizon := months[len(months)-1].AddDate(0, 1, 0)
		live, next, err := a.generations(tx)
		if err != nil || live == nil || next != nil {
			return err
		}
		var waits bool
		err = tx.Raw(`SELECT EXISTS (SELECT FROM evidence_marks WHERE since < ?)`, horizon).Scan(&waits).Error
		if err != nil || waits {
			return err
		}
		raw, err := json.Marshal(horizon)
		if err != nil {
			return err
		}
		row := store.Setting{Name: horizonSetting, Value: raw}
		if err := tx.Clauses(clause.OnConflict{UpdateAll: true}).Create(&row).Error; err != nil {
			return err
		}
		if err := tx.Exec(`SET LOCAL lock_timeout = '10s'`).Error; err != nil {
			return err
		}
		for _, month := range months {
			if err := store.EvidenceMonths.Detach(tx, month); err != nil {
				return err
			}
		}
		if err := closeFinal(tx, horizon, nil); err != nil {
			return err
		}
		return a.trail.Note(tx, staff.Program, store.Trail{
			Subject: "evidence", Action: "put aside", Note: "before " + horizon.Format(time.DateOnly),
		})
	})
}

// closeFinal finds, for those askers whose evidence reaches over the horizon, until when their questions are final: to
// where a sitting ends that no final question reaches over. Only some askers are looked at, or all with nil.
func closeFinal(tx *gorm.DB, horizon time.Time, askers store.Numbers) error {
	if horizon.Equal(beginning) {
		return nil
	}
	named := map[string]any{
		"horizon": horizon, "silence": outcome.Silence.Seconds(), "all": askers == nil, "askers": askers,
	}
	for {
		done := tx.Exec(`UPDATE askers a SET final_to = f.until FROM (
				SELECT q.asker_id, max(q.last_at) + make_interval(secs => @silence) AS until
				FROM questions q JOIN askers s ON s.id = q.asker_id
				WHERE q.sitting_at < greatest(CAST(@horizon AS timestamptz), s.final_to) AND q.last_at >= CAST(@horizon AS timestamptz) - make_interval(secs => @silence)
					AND (@all OR q.asker_id = ANY(@askers))
				GROUP BY q.asker_id) f
			WHERE a.id = f.asker_id AND f.until > greatest(CAST(@horizon AS timestamptz), a.final_to)`, named)
		if done.Error != nil {
			return fmt.Errorf("finding what is final: %w", done.Error)
		}
		if done.RowsAffected == 0 {
			return nil
		}
	}
}

// notFinal is the condition that a question q of an asker a may still be folded again; it takes the horizon.
const notFinal = `q.sitting_at >= greatest(?::timestamptz, a.final_to)`
