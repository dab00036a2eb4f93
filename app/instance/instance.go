package instance

import (
	"context"
	"fmt"
	"time"

	"gorm.io/gorm"
)

// Now is the time as the database keeps it: UTC, in microseconds.
func (a *Instance) Now() time.Time { return a.clock().UTC().Truncate(time.Microsecond) }

// Today is the day it is in the site's zone, as a date.
func (a *Instance) Today() time.Time {
	y, m, d := a.Now().In(a.Zone).Date()
	return time.Date(y, m, d, 0, 0, 0, 0, time.UTC)
}

// Transaction runs work and commits, or leaves nothing behind. Under a key (Once) it is
// done once.
func (a *Instance) Transaction(ctx context.Context, work func(tx *gorm.DB) error) error {
	return a.transaction(ctx, a.DB, work)
}

// Often is Transaction for what comes hundreds of times a second with nothing but other values: its statements are
// planned once, and not again for their values.
func (a *Instance) Often(ctx context.Context, work func(tx *gorm.DB) error) error {
	return a.transaction(ctx, a.Steady, work)
}

func (a *Instance) transaction(ctx context.Context, db *gorm.DB, work func(tx *gorm.DB) error) error {
	err := db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		if err := a.keepOnce(ctx, tx); err != nil {
			return err
		}
		return work(tx)
	})
	if o, ok := ctx.Value(onceKey{}).(*once); ok && err != nil {
		o.kept = false
	}
	return err
}

// Ready reports whether the database answers.
func (a *Instance) Ready(ctx context.Context) error {
	if err := a.DB.WithContext(ctx).Exec("SELECT 1").Error; err != nil {
		return fmt.Errorf("the database does not answer: %w", err)
	}
	return nil
}
