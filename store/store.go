// Package store keeps everything in PostgreSQL: the schema, the rows, and the word that goes from one
// instance to the others when something changed.
// It promises that rows and schema agree, and that a newer schema is never run on.
// It may hold no rule, and know nothing of core.
package store

import (
	"context"
	"fmt"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/stdlib"
	"gorm.io/driver/postgres"
	"gorm.io/gorm"
	"gorm.io/gorm/logger"
)

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
	// Compiling a statement takes longer than any of these takes to carry out.
	config.RuntimeParams["jit"] = "off"
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
