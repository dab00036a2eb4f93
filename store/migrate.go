package store

import (
	"context"
	"embed"
	"errors"
	"fmt"
	"io/fs"
	"log/slog"
	"time"

	"github.com/pressly/goose/v3"
	"github.com/pressly/goose/v3/lock"
	"gorm.io/gorm"
)

//go:embed migrations/*.sql
var migrations embed.FS

// shipping is the lock under which instances that start together put in, one after the
// other, what every library has. Any number that nothing else uses.
const shipping = 4_107_202_604

// Migrate brings the schema up to date, and makes the partitions that evidence
// of the months around now falls into. Of instances that start together one does it, and
// the others wait for it. A schema that is newer than this program is refused: the
// program would not know what it means.
func Migrate(ctx context.Context, db *gorm.DB, now time.Time) error {
	steps, err := migrator(db)
	if err != nil {
		return err
	}
	sources := steps.ListSources()
	newest := sources[len(sources)-1].Version
	if from, err := steps.GetDBVersion(ctx); err == nil && from > 0 && from < newest {
		slog.Info("the database is being brought up to date; nothing is served meanwhile", "from", from, "to", newest)
	}
	if _, err := steps.Up(ctx); err != nil {
		return fmt.Errorf("migrating: %w", err)
	}
	version, err := steps.GetDBVersion(ctx)
	if err != nil {
		return fmt.Errorf("migrating: %w", err)
	}
	if version > newest {
		return fmt.Errorf(
			"the database was brought to version %d by a newer program; this one knows versions up to %d and "+
				"does not run on it: start the newer program",
			version,
			newest,
		)
	}
	return errors.Join(
		EvidenceMonths.Ensure(ctx, db, now.AddDate(0, -5, 0), now.AddDate(0, 2, 0)),
		QuestionMonths.Ensure(ctx, db, now.AddDate(0, -5, 0), now.AddDate(0, 2, 0)),
	)
}

// migrator knows the steps to the schema. Only one at a time, of all instances, takes them.
func migrator(db *gorm.DB) (*goose.Provider, error) {
	pool, err := db.DB()
	if err != nil {
		return nil, err
	}
	files, err := fs.Sub(migrations, "migrations")
	if err != nil {
		return nil, err
	}
	locker, err := lock.NewPostgresSessionLocker(lock.WithLockTimeout(1, 600)) // asks each second for ten minutes
	if err != nil {
		return nil, err
	}
	return goose.NewProvider(goose.DialectPostgres, pool, files, goose.WithSessionLocker(locker))
}

// Alone does work in a transaction while no other instance does such work.
func Alone(ctx context.Context, db *gorm.DB, work func(tx *gorm.DB) error) error {
	return db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		if err := tx.Exec(`SELECT pg_advisory_xact_lock(?)`, int64(shipping)).Error; err != nil {
			return err
		}
		return work(tx)
	})
}
