package store_test

import (
	"context"
	"maps"
	"slices"
	"strings"
	"testing"
	"time"

	"gorm.io/gorm"

	"hermeneus/app/apptest"
	"hermeneus/store"
)

func migrated(t *testing.T) *gorm.DB {
	t.Helper()
	db, err := store.Open(context.Background(), apptest.NewDatabase(t))
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() {
		if pool, err := db.DB(); err == nil {
			_ = pool.Close()
		}
	})
	if err := store.Migrate(context.Background(), db, time.Date(2026, 3, 2, 9, 0, 0, 0, time.UTC)); err != nil {
		t.Fatal(err)
	}
	return db
}

func TestRowsAgreeWithTheSchema(t *testing.T) {
	db := migrated(t)
	tables := map[string]bool{}
	for _, row := range slices.Concat(slices.Collect(maps.Values(store.Rows()))...) {
		s := &gorm.Statement{DB: db}
		if err := s.Parse(row); err != nil {
			t.Fatal(err)
		}
		tables[s.Schema.Table] = true
		var columns []string
		err := db.Raw(`SELECT column_name
			FROM information_schema.columns
			WHERE table_schema = 'public' AND table_name = ? AND is_generated = 'NEVER'`, s.Schema.Table).
			Scan(&columns).
			Error
		if err != nil {
			t.Fatal(err)
		}
		fields := slices.Clone(s.Schema.DBNames)
		slices.Sort(columns)
		slices.Sort(fields)
		if !slices.Equal(columns, fields) {
			t.Errorf("%s: the table has %v, the row has %v", s.Schema.Table, columns, fields)
		}
	}
	var all []string
	if err := db.Raw(`SELECT relname
		FROM pg_class
		WHERE relkind IN ('r', 'p') AND NOT relispartition AND relnamespace = 'public'::regnamespace`).
		Scan(&all).
		Error; err != nil {
		t.Fatal(err)
	}
	for _, table := range all {
		if !tables[table] && table != "goose_db_version" && !strings.HasPrefix(table, "river_") {
			t.Errorf("the table %s has no row", table)
		}
	}
}

func TestMigratingTwiceChangesNothing(t *testing.T) {
	db := migrated(t)
	if err := store.Migrate(context.Background(), db, time.Date(2026, 4, 2, 9, 0, 0, 0, time.UTC)); err != nil {
		t.Fatal(err)
	}
}

func TestEvidenceFallsIntoItsMonth(t *testing.T) {
	db := migrated(t)
	for _, at := range []time.Time{time.Date(2026, 3, 31, 23, 59, 59, 0, time.UTC), time.Date(2031, 1, 1, 0, 0, 0, 0, time.UTC)} {
		if err := db.Create(
			&store.Evidence{At: at, Asker: "a", Channel: "help", Kind: "asked", Refs: []string{}, Groups: []string{}},
		).Error; err != nil {
			t.Fatal(err)
		}
	}
	for table, want := range map[string]int64{"evidence_2026_03": 1, "evidence_rest": 1} {
		var n int64
		if err := db.Table(table).Count(&n).Error; err != nil || n != want {
			t.Errorf("%s holds %d, %v", table, n, err)
		}
	}
	// The month of evidence that came too early for a partition is left as it is.
	if err := store.EvidenceMonths.Ensure(
		context.Background(),
		db,
		time.Date(2030, 12, 1, 0, 0, 0, 0, time.UTC),
		time.Date(2031, 2, 1, 0, 0, 0, 0, time.UTC),
	); err != nil {
		t.Fatal(err)
	}
}
