package outcomes

import (
	"context"
	"encoding/json"
	"fmt"
	"strconv"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"hermeneus/app/problem"
	"hermeneus/app/staff"
	"hermeneus/core/outcome"
	"hermeneus/core/role"
	"hermeneus/store"
)

// foldLock is held while rows of questions are changed: one does it, on whatever instance. Any number that nothing
// else uses.
const foldLock = 4_107_202_605

const windowSetting = "return_window_hours"

// ReturnWindow is the setting: how long after closing a contact makes an answered
// question a Returned one.
func (a *Outcomes) ReturnWindow(ctx context.Context) (time.Duration, error) {
	return returnWindow(a.base.DB.WithContext(ctx))
}

func returnWindow(db *gorm.DB) (time.Duration, error) {
	var s store.Setting
	if err := db.Where("name = ?", windowSetting).Limit(1).Find(&s).Error; err != nil {
		return 0, err
	}
	if s.Name == "" {
		return outcome.DefaultWindow, nil
	}
	var hours int
	err := json.Unmarshal(s.Value, &hours)
	return time.Duration(hours) * time.Hour, err
}

// SetReturnWindow changes the setting, in whole hours. Every question is folded again in the background; what was
// counted before stands until that is done.
func (a *Outcomes) SetReturnWindow(ctx context.Context, by staff.Staff, window time.Duration) error {
	if err := by.May("Changing the return window", role.Administrator); err != nil {
		return err
	}
	var f problem.Fields
	f.Require(
		window >= outcome.MinWindow && window <= outcome.MaxWindow && window%time.Hour == 0,
		"hours",
		"Between 1 hour and 30 days (720 hours).",
	)
	if err := f.Err(); err != nil {
		return err
	}
	return a.base.Transaction(ctx, func(tx *gorm.DB) error {
		row := store.Setting{Name: windowSetting, Value: json.RawMessage(strconv.Itoa(int(window.Hours())))}
		if err := tx.Clauses(clause.OnConflict{UpdateAll: true}).Create(&row).Error; err != nil {
			return err
		}
		return a.trail.Note(tx, by, store.Trail{Subject: "return window", Action: "set", Note: window.String()})
	})
}

// generation is one counting of the questions.
type generation struct {
	number int
	window time.Duration
	zone   *time.Location
	doneTo int64 // the last asker that is counted in it; of a live one, all are
	live   bool
	begun  time.Time

	horizon time.Time // from when on evidence is folded
}

// generations gives the one that stands, nil before there is any, and the one that is being counted, nil for none.
func (a *Outcomes) generations(db *gorm.DB) (live, next *generation, err error) {
	var rows []store.QuestionCount
	if err := db.Order("generation").Find(&rows).Error; err != nil {
		return nil, nil, fmt.Errorf("reading what is counted: %w", err)
	}
	horizon, err := horizonOf(db)
	if err != nil {
		return nil, nil, err
	}
	for _, r := range rows {
		g := &generation{
			horizon: horizon,
			number:  r.Generation, window: time.Duration(r.WindowHours) * time.Hour, doneTo: r.DoneTo, live: r.Live,
			begun: r.BegunAt,
		}
		if g.zone, err = time.LoadLocation(r.Zone); err != nil {
			return nil, nil, fmt.Errorf("reading the zone of what is counted: %w", err)
		}
		if r.Live {
			live = g
		} else {
			next = g
		}
	}
	return live, next, nil
}

// ensureGenerations makes the first generation, and the next where the window or the zone is another by now. One that
// is being counted by a setting that holds no more is given up.
func (a *Outcomes) ensureGenerations(tx *gorm.DB) (live, next *generation, err error) {
	if live, next, err = a.generations(tx); err != nil {
		return nil, nil, err
	}
	window, err := returnWindow(tx)
	if err != nil {
		return nil, nil, err
	}
	wanted := func(g *generation) bool { return g.window == window && g.zone.String() == a.base.Zone.String() }
	if next != nil && (!wanted(next) || (live != nil && wanted(live))) {
		if err := dropGeneration(tx, next.number); err != nil {
			return nil, nil, err
		}
		next = nil
	}
	if (live != nil && wanted(live)) || next != nil {
		return live, next, nil
	}
	row := store.QuestionCount{
		Generation: 1, WindowHours: int(window.Hours()), Zone: a.base.Zone.String(), Live: live == nil,
		BegunAt: a.base.Now(),
	}
	if live != nil {
		row.Generation = live.number + 1
	}
	if err := tx.Create(&row).Error; err != nil {
		return nil, nil, err
	}
	return a.generations(tx)
}

// dropGeneration takes one away.
func dropGeneration(tx *gorm.DB, number int) error {
	for _, table := range []string{"questions", "question_days", "article_days", "article_outcomes", "question_counts"} {
		if err := tx.Exec(`DELETE FROM `+table+` WHERE generation = ?`, number).Error; err != nil {
			return fmt.Errorf("taking generation %d away: %w", number, err)
		}
	}
	return nil
}

// recountedAtOnce is how many askers are folded again in one transaction.
const recountedAtOnce = 400

// recount goes on with the generation that is being counted, and lets it stand once it is whole.
func (a *Outcomes) recount(tx *gorm.DB, live, next *generation) error {
	var askers []store.Asker
	err := tx.Where("id > ?", next.doneTo).Order("id").Limit(recountedAtOnce).Find(&askers).Error
	if err != nil {
		return fmt.Errorf("reading askers: %w", err)
	}
	if len(askers) == 0 {
		if live != nil {
			if err := dropGeneration(tx, live.number); err != nil {
				return err
			}
		}
		return tx.Exec(`UPDATE question_counts SET live = true WHERE generation = ?`, next.number).Error
	}
	all := make([]*folding, len(askers))
	for i, row := range askers {
		all[i] = newFolding(row)
		all[i].whole = true
	}
	if live != nil {
		if err := keepFinal(tx, live, next, askers); err != nil {
			return err
		}
	}
	if err := foldAskers(tx, next, all); err != nil {
		return err
	}
	return tx.Exec(
		`UPDATE question_counts SET done_to = ? WHERE generation = ?`,
		askers[len(askers)-1].ID,
		next.number,
	).
		Error
}

// keepFinal takes the questions of some askers that are final over into another generation, as they are.
func keepFinal(tx *gorm.DB, live, next *generation, askers []store.Asker) error {
	if live.horizon.Equal(beginning) {
		return nil
	}
	ids := store.Numbers{}
	for _, a := range askers {
		ids = append(ids, a.ID)
	}
	var rows []store.Question
	err := tx.Raw(`SELECT q.* FROM questions q JOIN askers a ON a.id = q.asker_id
		WHERE q.asker_id = ANY(?) AND q.generation = ? AND NOT `+notFinal, ids, live.number, live.horizon).Scan(&rows).Error
	if err != nil || len(rows) == 0 {
		return err
	}
	counts := newTallies(next)
	for i := range rows {
		rows[i] = inUTC(rows[i])
		rows[i].Generation = next.number
		counts.add(rows[i], 1)
	}
	if err := tx.CreateInBatches(rows, 500).Error; err != nil {
		return fmt.Errorf("keeping final questions: %w", err)
	}
	return counts.keep(tx)
}

// Counting says what is still to be done before the figures are up to date.
type Counting struct {
	Waiting int      `json:"waiting"` // additions to the evidence that are not folded yet
	Behind  float64  `json:"behind"`  // how far the figures lie behind, in seconds
	Recount *float64 `json:"recount"` // how much of what replaces the figures is counted, 0 to 1; nil for nothing
}

// Counting gives how far the figures are behind.
func (a *Outcomes) Counting(ctx context.Context) (Counting, error) {
	return a.counting(a.base.DB.WithContext(ctx))
}

func (a *Outcomes) counting(db *gorm.DB) (Counting, error) {
	var waits struct {
		N     int
		Since *time.Time
	}
	err := db.Raw(`SELECT count(*) AS n, min(since) AS since FROM (SELECT since FROM evidence_marks ORDER BY id LIMIT 10000) m`).
		Scan(&waits).
		Error
	if err != nil {
		return Counting{}, fmt.Errorf("reading what waits to be folded: %w", err)
	}
	out := Counting{Waiting: waits.N}
	if waits.Since != nil {
		out.Behind = max(0, a.base.Now().Sub(*waits.Since).Seconds())
	}
	_, next, err := a.generations(db)
	if err != nil || next == nil {
		return out, err
	}
	var last int64
	if err := db.Raw(`SELECT coalesce(max(id), 0) FROM askers`).Scan(&last).Error; err != nil {
		return out, err
	}
	share := float64(next.doneTo) / float64(max(1, last))
	out.Recount = &share
	return out, nil
}
