// Package store keeps everything in PostgreSQL: the schema, the rows, and the
// word that goes from one instance to the others when something changed.
package store

import (
	"context"
	"embed"
	"errors"
	"fmt"
	"log/slog"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"
	"github.com/jackc/pgx/v5/stdlib"
	"github.com/pressly/goose/v3"
	"gorm.io/driver/postgres"
	"gorm.io/gorm"
	"gorm.io/gorm/logger"
)

//go:embed migrations/*.sql
var migrations embed.FS

// How many connections each pool holds at most.
const (
	connections       = 20
	steadyConnections = 10
)

// Open connects to the database at url, a PostgreSQL connection string.
func Open(ctx context.Context, url string) (*gorm.DB, error) {
	config, err := pgx.ParseConfig(url)
	if err != nil {
		return nil, fmt.Errorf("reading the address of the database: %w", err)
	}
	return open(ctx, config, connections)
}

// OpenSteady connects once more, for statements that come thousands of times with
// nothing but other values: each is planned once, and not again for its values. Planning
// costs such a statement several times what carrying it out does.
func OpenSteady(ctx context.Context, url string) (*gorm.DB, error) {
	config, err := pgx.ParseConfig(url)
	if err != nil {
		return nil, fmt.Errorf("reading the address of the database: %w", err)
	}
	config.RuntimeParams["plan_cache_mode"] = "force_generic_plan"
	return open(ctx, config, steadyConnections)
}

func open(ctx context.Context, config *pgx.ConnConfig, most int) (*gorm.DB, error) {
	pool := stdlib.OpenDB(*config)
	pool.SetMaxOpenConns(most)
	pool.SetMaxIdleConns(most)
	pool.SetConnMaxIdleTime(5 * time.Minute)
	db, err := gorm.Open(postgres.New(postgres.Config{Conn: pool}), &gorm.Config{
		Logger:                 logger.Default.LogMode(logger.Silent),
		SkipDefaultTransaction: true,
		TranslateError:         true,
		QueryFields:            true, // what only the database needs (text to be found by) is not fetched
	})
	if err != nil {
		return nil, fmt.Errorf("connecting to the database: %w", err)
	}
	if err := pool.PingContext(ctx); err != nil {
		return nil, fmt.Errorf("connecting to the database: %w", err)
	}
	return db, nil
}

// Migrate brings the schema up to date, and makes the partitions that evidence
// of the months around now falls into.
func Migrate(ctx context.Context, db *gorm.DB, now time.Time) error {
	pool, err := db.DB()
	if err != nil {
		return err
	}
	goose.SetBaseFS(migrations)
	goose.SetLogger(goose.NopLogger())
	if err := goose.SetDialect("postgres"); err != nil {
		return err
	}
	if err := goose.UpContext(ctx, pool, "migrations"); err != nil {
		return fmt.Errorf("migrating: %w", err)
	}
	return EnsureEvidenceMonths(ctx, db, now.AddDate(0, -5, 0), now.AddDate(0, 2, 0))
}

// EnsureEvidenceMonths makes the partitions of evidence for the months from one
// time to another. A month that evidence already lies in outside a partition of
// its own is left as it is.
func EnsureEvidenceMonths(ctx context.Context, db *gorm.DB, from, to time.Time) error {
	month := time.Date(from.UTC().Year(), from.UTC().Month(), 1, 0, 0, 0, 0, time.UTC)
	for ; month.Before(to); month = month.AddDate(0, 1, 0) {
		sql := fmt.Sprintf(`CREATE TABLE IF NOT EXISTS evidence_%s PARTITION OF evidence FOR VALUES FROM ('%s') TO ('%s')`,
			month.Format("2006_01"), month.Format(time.RFC3339), month.AddDate(0, 1, 0).Format(time.RFC3339))
		err := db.WithContext(ctx).Exec(sql).Error
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
