package instance

import (
	"context"
	"errors"
	"fmt"
	"log/slog"

	"gorm.io/gorm"

	"hermeneus/app/problem"
	"hermeneus/store"
)

// State is what a snapshot is of.
type State struct {
	At     string  // the place in the database's log up to which it holds everything
	Behind float64 // how far a replica lies behind, in seconds; 0 for the database itself
}

// mostBehind is how old what a replica holds may be, in seconds; one that is older is left alone.
const mostBehind = 10

// errBehind says that a replica does not hold yet what is asked for.
var errBehind = errors.New("the replica lies behind")

// Snapshot does reads that belong together over one state of the database: of a replica that answers and holds at least
// what the state since does ("" for any), else of the database itself. Work may be begun again.
func (a *Instance) Snapshot(ctx context.Context, since string, work func(tx *gorm.DB, is State) error) error {
	for a.replicas.Up() {
		session, pool := a.replicas.On(a.DB.WithContext(ctx))
		err := read(session, since, work)
		var p *problem.Problem
		switch {
		case err == nil || ctx.Err() != nil || errors.As(err, &p):
			return err
		case errors.Is(err, errBehind) && since != "":
			// It may hold enough for others.
			return read(a.DB.WithContext(ctx), "", work)
		case !store.IsGone(err) && !errors.Is(err, errBehind):
			return err
		}
		slog.Warn("a replica is left alone for a while", "error", err)
		a.replicas.Down(pool)
	}
	return read(a.DB.WithContext(ctx), "", work)
}

func read(db *gorm.DB, since string, work func(tx *gorm.DB, is State) error) error {
	return db.Transaction(func(tx *gorm.DB) error {
		if err := tx.Exec(`SET TRANSACTION ISOLATION LEVEL REPEATABLE READ, READ ONLY`).Error; err != nil {
			return err
		}
		var is struct {
			At     string
			Behind float64
			Enough bool
		}
		err := tx.Raw(`SELECT l.at::text AS at, ? = '' OR l.at >= nullif(?, '')::pg_lsn AS enough,
				CASE WHEN pg_is_in_recovery()
					THEN coalesce(extract(epoch FROM now() - pg_last_xact_replay_timestamp()), 1e9) ELSE 0 END AS behind
			FROM (SELECT CASE WHEN pg_is_in_recovery() THEN pg_last_wal_replay_lsn() ELSE pg_current_wal_lsn() END AS at) l`,
			since, since).Scan(&is).Error
		if err != nil {
			return fmt.Errorf("reading what state there is: %w", err)
		}
		if !is.Enough || is.Behind > mostBehind {
			return errBehind
		}
		return work(tx, State{At: is.At, Behind: max(0, is.Behind)})
	})
}
