package store

import (
	"context"
	"embed"
	"errors"
	"fmt"
	"io/fs"
	"log/slog"
	"time"

	"github.com/jackc/pgx/v5/pgconn"
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
	return EnsureEvidenceMonths(ctx, db, now.AddDate(0, -5, 0), now.AddDate(0, 2, 0))
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

// EnsureEvidenceMonths makes the partitions of evidence for the months from one
// time to another. A month that evidence already lies in outside a partition of
// its own is left as it is.
func EnsureEvidenceMonths(ctx context.Context, db *gorm.DB, from, to time.Time) error {
	month := time.Date(from.UTC().Year(), from.UTC().Month(), 1, 0, 0, 0, 0, time.UTC)
	for ; month.Before(to); month = month.AddDate(0, 1, 0) {
		sql := fmt.Sprintf(
			`CREATE TABLE IF NOT EXISTS evidence_%s PARTITION OF evidence FOR VALUES FROM ('%s') TO ('%s')`,
			month.Format("2006_01"),
			month.Format(time.RFC3339),
			month.AddDate(0, 1, 0).Format(time.RFC3339),
		)
		err := Alone(ctx, db, func(tx *gorm.DB) error { return tx.Exec(sql).Error })
		var pg *pgconn.PgError
		if errors.As(err, &pg) && pg.Code == "23514" {
			slog.Warn("evidence of this month stays in the common partition", "month", month.Format("2006-01"))
			continue
		}
		if err != nil {
			return fmt.Errorf("making the partition of %s: %w", month.Format("2006-01"), err)
		}
	}
	return nil
}
