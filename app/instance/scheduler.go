package instance

import (
	"context"
	"log/slog"
	"time"
)

// chore is something regular, done by one instance for all.
type chore struct {
	name  string
	every time.Duration // 0 for whenever there is more of it
	do    func(context.Context) (more bool, err error)
}

// Every registers something regular, done by one instance for all.
func (a *Instance) Every(every time.Duration, name string, do func(context.Context) error) {
	a.chores = append(a.chores, chore{name, every, func(ctx context.Context) (bool, error) { return false, do(ctx) }})
}

// Steadily registers work that several instances share, done as long as there is more.
func (a *Instance) Steadily(name string, do func(context.Context) (more bool, err error)) {
	a.chores = append(a.chores, chore{name, 0, do})
}

// Beside registers something that runs by itself, until its context ends.
func (a *Instance) Beside(run func(context.Context)) { a.beside = append(a.beside, run) }

// doChores does what is registered, until the context ends.
func (a *Instance) doChores(ctx context.Context) {
	tick := time.NewTicker(time.Second)
	defer tick.Stop()
	for {
		for _, c := range a.chores {
			a.doChore(ctx, c)
		}
		select {
		case <-ctx.Done():
			return
		case <-tick.C:
		}
	}
}

func (a *Instance) doChore(ctx context.Context, c chore) {
	if c.every > 0 {
		if mine, err := a.claim(ctx, c); err != nil || !mine {
			return
		}
	}
	for more := true; more && ctx.Err() == nil; {
		var err error
		if more, err = c.do(ctx); err != nil {
			if ctx.Err() == nil {
				slog.Error("a chore failed", "chore", c.name, "error", err)
			}
			return
		}
	}
}

// claim reports whether a chore is due, and takes it before other instances do.
// Clocks that were moved back do not keep it waiting.
func (a *Instance) claim(ctx context.Context, c chore) (bool, error) {
	now := a.Now()
	got := a.DB.WithContext(ctx).Exec(`INSERT INTO chores VALUES (?, ?)
		ON CONFLICT (name) DO UPDATE SET done_at = excluded.done_at WHERE chores.done_at <= ? OR chores.done_at > ?`,
		c.name, now, now.Add(-c.every), now.Add(c.every))
	return got.RowsAffected == 1, got.Error
}
