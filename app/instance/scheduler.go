package instance

import (
	"context"
	"log/slog"
	"time"
)

// chore is something regular, done by one instance for all.
type chore struct {
	name  string
	every time.Duration
	do    func(context.Context) error
}

// Every registers something regular, done by one instance for all.
func (a *Instance) Every(every time.Duration, name string, do func(context.Context) error) {
	a.chores = append(a.chores, chore{name, every, do})
}

// Steadily registers work that several instances share, done as long as there is more. It waits
// for no chore, and no chore for it: a mail does not wait for a report, nor a report for a mail server.
func (a *Instance) Steadily(name string, do func(context.Context) (more bool, err error)) {
	a.Beside(func(ctx context.Context) {
		eachSecond(ctx, func() {
			for more := true; more && ctx.Err() == nil; {
				var err error
				if more, err = do(ctx); err != nil {
					tellFailed(ctx, name, err)
					return
				}
			}
		})
	})
}

// Beside registers something that runs by itself, until its context ends.
func (a *Instance) Beside(run func(context.Context)) { a.beside = append(a.beside, run) }

// doChores does what is registered, until the context ends.
func (a *Instance) doChores(ctx context.Context) {
	eachSecond(ctx, func() {
		for _, c := range a.chores {
			if mine, err := a.claim(ctx, c); err == nil && mine {
				if err := c.do(ctx); err != nil {
					tellFailed(ctx, c.name, err)
				}
			}
		}
	})
}

// eachSecond does something at once, and each second from then on, until the context ends.
func eachSecond(ctx context.Context, do func()) {
	tick := time.NewTicker(time.Second)
	defer tick.Stop()
	for {
		do()
		select {
		case <-ctx.Done():
			return
		case <-tick.C:
		}
	}
}

// tellFailed says that regular work failed, unless the instance is ending.
func tellFailed(ctx context.Context, name string, err error) {
	if ctx.Err() == nil {
		slog.Error("a chore failed", "chore", name, "error", err)
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
