package store

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"time"

	"github.com/jackc/pgx/v5/pgconn"
	"gorm.io/gorm"
)

// Monthly is a table that is parted by the month of one of its times. What falls into no month lies in a common
// partition, whose name ends in _rest.
type Monthly struct{ Table, Column string }

// The tables that are parted by month.
var (
	EvidenceMonths = Monthly{"evidence", "at"}
	QuestionMonths = Monthly{"questions", "closed_at"}
)

// monthName is how a month ends the name of its partition.
const monthName = "2006_01"

// monthOf is the beginning of the month of a time, in UTC.
func monthOf(t time.Time) time.Time {
	return time.Date(t.UTC().Year(), t.UTC().Month(), 1, 0, 0, 0, 0, time.UTC)
}

// create is SQL that makes the partition of a month.
func (m Monthly) create(month time.Time) string {
	return fmt.Sprintf(
		`CREATE TABLE IF NOT EXISTS %s_%s PARTITION OF %s FOR VALUES FROM ('%s') TO ('%s')`,
		m.Table,
		month.Format(monthName),
		m.Table,
		month.Format(time.RFC3339),
		month.AddDate(0, 1, 0).Format(time.RFC3339),
	)
}

// Ensure makes the partitions for the months from one time to another. A month of which something lies in the
// common partition is left as it is: Settle moves it.
func (m Monthly) Ensure(ctx context.Context, db *gorm.DB, from, to time.Time) error {
	for month := monthOf(from); month.Before(to); month = month.AddDate(0, 1, 0) {
		err := Alone(ctx, db, func(tx *gorm.DB) error { return tx.Exec(m.create(month)).Error })
		var pg *pgconn.PgError
		if errors.As(err, &pg) && pg.Code == "23514" {
			slog.Info("what there is of a month lies in the common partition", "table", m.Table,
				"month", month.Format(monthName))
			continue
		}
		if err != nil {
			return fmt.Errorf("making the partition %s of %s: %w", month.Format(monthName), m.Table, err)
		}
	}
	return nil
}

// Settle moves what lies in the common partition, from one time to another, into partitions of its months. Nobody reads
// or writes the table meanwhile.
func (m Monthly) Settle(ctx context.Context, db *gorm.DB, from, to time.Time) error {
	var months []time.Time
	err := db.WithContext(ctx).Raw(`SELECT DISTINCT date_trunc('month', `+m.Column+` AT TIME ZONE 'UTC') FROM `+m.Table+
		`_rest WHERE `+m.Column+` >= ? AND `+m.Column+` < ? ORDER BY 1`, monthOf(from), monthOf(to)).Scan(&months).Error
	if err != nil || len(months) == 0 {
		return err
	}
	steps := []string{
		`SET LOCAL lock_timeout = '10s'`,
		`LOCK TABLE ` + m.Table + ` IN ACCESS EXCLUSIVE MODE`,
		`ALTER TABLE ` + m.Table + ` DETACH PARTITION ` + m.Table + `_rest`,
		`ALTER TABLE ` + m.Table + `_rest RENAME TO ` + m.Table + `_moved`,
		`CREATE TABLE ` + m.Table + `_rest PARTITION OF ` + m.Table + ` DEFAULT`,
	}
	for _, month := range months {
		steps = append(steps, m.create(monthOf(month)))
	}
	steps = append(steps, `INSERT INTO `+m.Table+` SELECT * FROM `+m.Table+`_moved`, `DROP TABLE `+m.Table+`_moved`)
	err = Alone(ctx, db, func(tx *gorm.DB) error {
		for _, step := range steps {
			if err := tx.Exec(step).Error; err != nil {
				return err
			}
		}
		return nil
	})
	if err != nil {
		return fmt.Errorf("moving months of %s into partitions: %w", m.Table, err)
	}
	return nil
}

// Until lists the months that have a partition and are over by a time, the earliest first.
func (m Monthly) Until(db *gorm.DB, end time.Time) ([]time.Time, error) {
	var names []string
	err := db.Raw(`SELECT c.relname FROM pg_inherits i JOIN pg_class c ON c.oid = i.inhrelid
		WHERE i.inhparent = ?::regclass ORDER BY 1`, m.Table).Scan(&names).Error
	if err != nil {
		return nil, fmt.Errorf("listing the months of %s: %w", m.Table, err)
	}
	var months []time.Time
	for _, name := range names {
		month, err := time.Parse(m.Table+"_"+monthName, name)
		if err == nil && !month.AddDate(0, 1, 0).After(end) {
			months = append(months, month)
		}
	}
	return months, nil
}

// Detach takes a month's partition out of the table, in a transaction. It stays as a table of its own, in the schema
// aside.
func (m Monthly) Detach(tx *gorm.DB, month time.Time) error {
	name := m.Table + "_" + month.Format(monthName)
	for _, sql := range []string{
		`CREATE SCHEMA IF NOT EXISTS aside`,
		`ALTER TABLE ` + m.Table + ` DETACH PARTITION ` + name,
		`ALTER TABLE ` + name + ` SET SCHEMA aside`,
	} {
		if err := tx.Exec(sql).Error; err != nil {
			return fmt.Errorf("putting %s aside: %w", name, err)
		}
	}
	return nil
}
