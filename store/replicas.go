package store

import (
	"errors"
	"fmt"
	"net"
	"slices"
	"strings"
	"sync"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"
	"github.com/jackc/pgx/v5/stdlib"
	"gorm.io/driver/postgres"
	"gorm.io/gorm"
	"gorm.io/plugin/dbresolver"
)

// onReplicas is what is read from replicas, as the resolver knows it.
const onReplicas = "on replicas"

// leftAlone is for how long a replica is left alone that did not answer.
const leftAlone = 5 * time.Second

// Replicas are copies of a database, from which some things are read.
type Replicas struct {
	mu    sync.Mutex
	pools []gorm.ConnPool
	down  map[gorm.ConnPool]bool
	next  int
}

// UseReplicas lets a database have replicas, each given by a PostgreSQL connection string. None needs to answer yet.
func UseReplicas(db *gorm.DB, urls []string) (*Replicas, error) {
	r := &Replicas{down: map[gorm.ConnPool]bool{}}
	if len(urls) == 0 {
		return r, nil
	}
	var all []gorm.Dialector
	for _, url := range urls {
		config, err := pgx.ParseConfig(url)
		if err != nil {
			return nil, fmt.Errorf("reading the address of a replica: %w", err)
		}
		if config.ConnectTimeout == 0 {
			config.ConnectTimeout = leftAlone
		}
		config.RuntimeParams["jit"] = "off"
		pool := stdlib.OpenDB(*config)
		pool.SetMaxOpenConns(connections)
		pool.SetMaxIdleConns(connections)
		all = append(all, postgres.New(postgres.Config{Conn: pool}))
		r.pools = append(r.pools, pool)
	}
	pings := db.Config.DisableAutomaticPing
	db.Config.DisableAutomaticPing = true
	defer func() { db.Config.DisableAutomaticPing = pings }()
	return r, db.Use(dbresolver.Register(dbresolver.Config{Replicas: all, Policy: r}, onReplicas))
}

// Up reports whether some replica is not known to be down.
func (r *Replicas) Up() bool {
	r.mu.Lock()
	defer r.mu.Unlock()
	return len(r.down) < len(r.pools)
}

// On gives a session on one of the replicas that are up, and what Down takes for it.
func (r *Replicas) On(db *gorm.DB) (*gorm.DB, gorm.ConnPool) {
	session := db.Clauses(dbresolver.Use(onReplicas), dbresolver.Read)
	return session, session.Statement.ConnPool
}

// Resolve chooses a replica: one after the other of those that are up.
func (r *Replicas) Resolve(pools []gorm.ConnPool) gorm.ConnPool {
	r.mu.Lock()
	defer r.mu.Unlock()
	r.next++
	for i := range pools {
		if pool := pools[(r.next+i)%len(pools)]; !r.down[pool] {
			return pool
		}
	}
	return pools[r.next%len(pools)]
}

// Down leaves a replica alone for a while.
func (r *Replicas) Down(pool gorm.ConnPool) {
	r.mu.Lock()
	defer r.mu.Unlock()
	if r.down[pool] || !slices.Contains(r.pools, pool) {
		return
	}
	r.down[pool] = true
	time.AfterFunc(leftAlone, func() {
		r.mu.Lock()
		defer r.mu.Unlock()
		delete(r.down, pool)
	})
}

// Close frees the connections.
func (r *Replicas) Close() {
	for _, pool := range r.pools {
		if closing, ok := pool.(interface{ Close() error }); ok {
			_ = closing.Close()
		}
	}
}

// IsGone reports whether an error says that a server does not answer, is stopping or starting, or, of a replica, had to
// end what was read because the rows went away (classes 08, 57P and 40 of SQLSTATE).
func IsGone(err error) bool {
	var pg *pgconn.PgError
	if errors.As(err, &pg) {
		return strings.HasPrefix(pg.Code, "08") || strings.HasPrefix(pg.Code, "57P") ||
			strings.HasPrefix(pg.Code, "40") ||
			pg.Code == "25006" ||
			pg.Code == "53300"
	}
	var network net.Error
	var connecting *pgconn.ConnectError
	return errors.As(err, &network) || errors.As(err, &connecting) || pgconn.Timeout(err) ||
		strings.Contains(err.Error(), "conn closed") || strings.Contains(err.Error(), "unexpected EOF") ||
		strings.Contains(err.Error(), "bad connection")
}
