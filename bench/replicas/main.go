// Command replicas reads figures while evidence comes in, from a streaming replica that is paused, stopped and started
// again meanwhile. Of each page it checks that its figures and its list are of one state, and that none is older than
// the one before. It is run by bench/replicas.sh.
package main

import (
	"context"
	"flag"
	"fmt"
	"log"
	"net/url"
	"os"
	"os/exec"
	"time"

	"gorm.io/gorm"

	"hermeneus/app"
	"hermeneus/app/evidence"
	"hermeneus/app/outcomes"
	"hermeneus/app/staff"
	"hermeneus/bench/world"
	"hermeneus/core/outcome"
	"hermeneus/core/role"
	"hermeneus/store"
)

func main() {
	phase := flag.Duration("phase", 15*time.Second, "how long each state of the replica lasts")
	flag.Parse()
	ctx := context.Background()
	database, drop := world.Database("replicas")
	defer drop()
	at, err := url.Parse(database)
	world.Check(err)
	at.Host = "127.0.0.1:" + os.Getenv("REPLICA_PORT")
	a, err := app.Open(ctx, app.Config{
		Database: database, Clock: time.Now, Zone: time.UTC, Replicas: []string{at.String()},
	})
	world.Check(err)
	defer a.Close()
	stop := make(chan struct{})
	go write(a, stop)
	time.Sleep(3 * time.Second)
	r := &reader{a: a, replica: at.String()}
	r.during(ctx, "the replica follows", *phase)
	r.on(`SELECT pg_wal_replay_pause()`)
	r.during(ctx, "the replica stands still", *phase)
	r.on(`SELECT pg_wal_replay_resume()`)
	time.Sleep(6 * time.Second) // it is left alone for five seconds
	r.during(ctx, "it follows again", *phase)
	run("STOP_REPLICA")
	r.during(ctx, "the replica is gone", *phase)
	run("START_REPLICA")
	time.Sleep(6 * time.Second)
	r.during(ctx, "it is back", *phase)
	close(stop)
}

func run(command string) {
	world.Check(exec.Command("bash", "-c", os.Getenv(command)).Run())
}

// write keeps evidence of many askers, as fast as visits come on a busy day.
func write(a *app.App, stop chan struct{}) {
	for n := 0; ; n++ {
		select {
		case <-stop:
			return
		case <-time.After(10 * time.Millisecond):
		}
		var items []outcome.Evidence
		for k, kind := range []outcome.Kind{outcome.Asked, outcome.Opened, outcome.Read, outcome.Helped} {
			items = append(items, outcome.Evidence{
				At: time.Now().UTC().Add(time.Duration(k) * time.Microsecond), Asker: fmt.Sprintf("visitor:%d", n%5000),
				Channel: outcome.Help, Kind: kind, Ref: "A-0001@1",
			})
		}
		world.Check(evidence.Keep(a.DB(), items))
	}
}

type reader struct {
	a       *app.App
	replica string
	last    int
	state   string
}

// on runs a statement on the replica.
func (r *reader) on(sql string) {
	db, err := store.Open(context.Background(), r.replica)
	world.Check(err)
	world.Check(db.Exec(sql).Error)
	closeAll(db)
}

func closeAll(db *gorm.DB) {
	pool, err := db.DB()
	world.Check(err)
	world.Check(pool.Close())
}

// transactions is how many the replica did, 0 when it is gone.
func (r *reader) transactions() (n int) {
	db, err := store.Open(context.Background(), r.replica)
	if err != nil {
		return 0
	}
	defer closeAll(db)
	time.Sleep(1200 * time.Millisecond) // until what was done is counted
	world.Check(db.Raw(`SELECT xact_commit + xact_rollback FROM pg_stat_database WHERE datname = current_database()`).
		Scan(&n).Error)
	return n
}

// during reads pages for a while.
func (r *reader) during(ctx context.Context, what string, lasts time.Duration) {
	by := staff.Staff{Roles: role.Set{role.Analyst}}
	before, pages := r.transactions(), 0
	var took []time.Duration
	most := 0.0
	for end := time.Now().Add(lasts); time.Now().Before(end); pages++ {
		began, now := time.Now(), r.a.Outcomes.Now()
		f, err := r.a.Outcomes.Outcomes(ctx, by, now.AddDate(0, 0, -13), now, outcomes.Split{Since: r.state})
		world.Check(err)
		first, last := now.AddDate(0, 0, -13), now
		_, total, err := r.a.Outcomes.Ledger(ctx, by, outcomes.LedgerFilter{
			Split: outcomes.Split{Since: f.State}, Period: r.a.Outcomes.Days(first, last),
		})
		world.Check(err)
		took = append(took, time.Since(began))
		c := f.Counts
		counted := c.Settled() + c.Settling + c.Open + c.Browsing + c.Unseen + c.Unlikely
		days := 0
		for _, d := range f.Days {
			days += d.Counts.Settled() + d.Counts.Settling + d.Counts.Open + d.Counts.Browsing + d.Counts.Unseen +
				d.Counts.Unlikely
		}
		if days != counted || total < counted || counted < r.last {
			log.Fatalf(
				"%s: %d by day, %d counted, %d in the list, %d on the page before",
				what,
				days,
				counted,
				total,
				r.last,
			)
		}
		r.last, r.state, most = counted, f.State, max(most, f.Counting.Behind)
		time.Sleep(20 * time.Millisecond)
	}
	fmt.Printf(
		"%-26s %4d pages, all of one state; ms p50 %.0f, p99 %.0f; at most %.1f s behind; %d transactions on the replica\n",
		what,
		pages,
		world.Percentile(took, 50),
		world.Percentile(took, 99),
		most,
		max(0, r.transactions()-before),
	)
}
