package jobs

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"log/slog"
	"time"

	"gorm.io/gorm"

	"hermeneus/app/keeping"
	"hermeneus/app/problem"
	"hermeneus/app/staff"
	"hermeneus/store"
)

// Job is work on many articles at once, as whoever asked for it sees it.
type Job struct {
	ID     int64           `json:"id"`
	Kind   string          `json:"kind"`
	State  string          `json:"state"` // waiting, running, done, failed
	Total  int             `json:"total"`
	Done   int             `json:"done"`
	Result json.RawMessage `json:"result"`
}

// Work does a job from where it stopped. It reports how far it is, and gives
// what came of it.
type Work func(ctx context.Context, by staff.Staff, row store.Job, progress func(done, total int)) (any, error)

// Handle registers what does the jobs of a kind.
func (a *Jobs) Handle(kind string, work Work) { a.works[kind] = work }

// Ask puts a job into the queue.
func (a *Jobs) Ask(ctx context.Context, by staff.Staff, kind string, input any, file []byte, total int) (int64, error) {
	raw, err := json.Marshal(input)
	if err != nil {
		return 0, err
	}
	row := store.Job{
		Kind:    kind,
		StaffID: by.ID,
		AskedAt: a.base.Now(),
		Input:   raw,
		File:    file,
		Total:   total,
		State:   store.JobWaiting,
		Result:  json.RawMessage("{}"),
	}
	err = a.base.Transaction(ctx, func(tx *gorm.DB) error {
		if err := tx.Create(&row).Error; err != nil {
			return err
		}
		return store.Announce(tx, store.JobChanged, row.ID)
	})
	return row.ID, err
}

// ReadJob says how far a job is. People see their own.
func (a *Jobs) ReadJob(ctx context.Context, by staff.Staff, id int64) (Job, error) {
	var job Job
	err := a.base.DB.WithContext(ctx).
		Raw(`SELECT id, kind, state, total, done, result FROM jobs WHERE id = ? AND staff_id = ?`, id, by.ID).
		Scan(&job).
		Error
	if err == nil && job.ID == 0 {
		return job, problem.New(problem.NotFound, "There is no such job of yours.")
	}
	return job, err
}

// Work does jobs, one at a time, until the context ends: when one is announced,
// and now and then in case an instance went away in the middle of one.
func (a *Jobs) Work(ctx context.Context) {
	bell, stop := a.base.Watch(func(c store.Change) bool { return c.About == store.JobChanged })
	defer stop()
	look := time.NewTicker(10 * time.Second)
	defer look.Stop()
	for {
		for a.workOnce(ctx) {
		}
		select {
		case <-ctx.Done():
			return
		case <-bell:
		case <-look.C:
		}
	}
}

// jobLocks keeps locks on jobs apart from other advisory locks.
const jobLocks = 7345

// workOnce takes a job that nobody is doing and does it. It reports whether there
// was one. The lock on it lives in a connection of its own, so that it ends with
// the instance, and another goes on where this one stopped.
func (a *Jobs) workOnce(ctx context.Context) bool {
	pool, err := a.base.DB.DB()
	if err != nil {
		return false
	}
	conn, err := pool.Conn(ctx)
	if err != nil {
		return false
	}
	defer func() { _ = conn.Close() }()
	rows, err := conn.QueryContext(
		ctx,
		`SELECT id FROM jobs WHERE state IN ('waiting', 'running') ORDER BY id LIMIT 20`,
	)
	if err != nil {
		return false
	}
	var ids []int64
	for rows.Next() {
		var id int64
		if rows.Scan(&id) == nil {
			ids = append(ids, id)
		}
	}
	if rows.Err() != nil {
		return false
	}
	for _, id := range ids {
		var mine bool
		if err := conn.QueryRowContext(ctx, `SELECT pg_try_advisory_lock($1, $2)`, jobLocks, int32(id)).
			Scan(&mine); err != nil {
			return false
		}
		if !mine {
			continue
		}
		var row store.Job
		err := a.base.DB.WithContext(ctx).
			Where("id = ? AND state IN ?", id, []string{store.JobWaiting, store.JobRunning}).
			Limit(1).
			Find(&row).
			Error
		if err == nil && row.ID != 0 {
			a.do(ctx, row)
		}
		if _, err := conn.ExecContext(
			context.WithoutCancel(ctx),
			`SELECT pg_advisory_unlock($1, $2)`,
			jobLocks,
			int32(id),
		); err != nil {
			return false
		}
		if row.ID != 0 {
			return ctx.Err() == nil
		}
	}
	return false
}

func (a *Jobs) do(ctx context.Context, row store.Job) {
	db := a.base.DB.WithContext(ctx)
	progress := func(done, total int) {
		row.Done, row.Total = done, total
		if err := db.Exec(
			`UPDATE jobs SET state = 'running', done = ?, total = ? WHERE id = ?`,
			done,
			total,
			row.ID,
		).Error; err != nil {
			slog.Error("noting how far a job is", "job", row.ID, "error", err)
		}
	}
	result, err := a.doAs(ctx, row, progress)
	if ctx.Err() != nil {
		return // another instance goes on with it
	}
	state := store.JobDone
	var p *problem.Problem
	if errors.As(err, &p) {
		state, result = store.JobFailed, map[string]any{"error": p.Detail}
	} else if err != nil {
		slog.Error("a job failed", "job", row.ID, "kind", row.Kind, "error", err)
		state = store.JobFailed
		result = map[string]any{
			"error": "Something went wrong on our side. What was done before is kept; ask for it again.",
		}
	}
	raw, err := json.Marshal(result)
	if err != nil {
		slog.Error("keeping what came of a job", "job", row.ID, "error", err)
		return
	}
	err = a.base.Transaction(ctx, func(tx *gorm.DB) error {
		err := tx.Exec(
			`UPDATE jobs SET state = ?, result = ?, ended_at = ?, file = NULL WHERE id = ?`,
			state,
			string(raw),
			a.base.Now(),
			row.ID,
		).Error
		if err != nil {
			return err
		}
		return store.Announce(tx, store.JobChanged, row.ID)
	})
	if err != nil {
		slog.Error("ending a job", "job", row.ID, "error", err)
	}
}

// doAs does a job as whoever asked for it, with the roles they have now.
func (a *Jobs) doAs(ctx context.Context, row store.Job, progress func(done, total int)) (any, error) {
	work, ok := a.works[row.Kind]
	if !ok {
		return nil, fmt.Errorf("there is no job %q", row.Kind)
	}
	by, err := a.staff.StaffByID(ctx, row.StaffID)
	if err != nil {
		return nil, err
	}
	return work(ctx, by, row, progress)
}

// EndOldJobs lets go of the jobs that ended long enough ago, and of what they changed: from
// then on they cannot be taken back.
func (a *Jobs) EndOldJobs(ctx context.Context) error {
	db := a.base.DB.WithContext(ctx)
	keep, err := keeping.Read(db)
	if err != nil {
		return err
	}
	before := a.base.Now().AddDate(0, 0, -keep.Jobs)
	return errors.Join(
		db.Exec(`DELETE FROM job_changes WHERE job_id IN (SELECT id FROM jobs WHERE ended_at < ?)`, before).Error,
		db.Exec(`DELETE FROM jobs WHERE ended_at < ?
			AND NOT EXISTS (SELECT 1 FROM job_changes WHERE job_id = jobs.id)`, before).Error,
	)
}
