package main

import (
	"context"
	"errors"
	"fmt"
	"sync/atomic"
	"time"

	"hermeneus/app"
	"hermeneus/app/evidence"
	"hermeneus/app/outcomes"
	"hermeneus/app/staff"
	"hermeneus/bench/world"
	"hermeneus/core/outcome"
	"hermeneus/core/role"
)

// somebody asks, is offered something, opens and reads it, and says that it helped: five items, one after the other.
func somebody(n int64, at time.Time) []outcome.Evidence {
	items := make([]outcome.Evidence, 5)
	for k, kind := range []outcome.Kind{outcome.Asked, outcome.Offered, outcome.Opened, outcome.Read, outcome.Helped} {
		items[k] = outcome.Evidence{
			At: at.Add(time.Duration(k) * time.Millisecond), Asker: fmt.Sprintf("visitor:%d", n*7), Kind: kind,
			Channel: outcome.Help, Ref: fmt.Sprintf("A-%04d@1", 1+n%200),
		}
	}
	return items
}

var people atomic.Int64

// intake keeps so many items a second for a while, through a working instance with its queue, and says how far the
// rows lie behind, and how long readers of the figures wait meanwhile.
func intake(ctx context.Context, a *app.App, perSecond int, lasts time.Duration) {
	by := staff.Staff{Roles: role.Set{role.Analyst}}
	kept, over := make(chan error, 1000), time.Now().Add(lasts)
	began, sent := time.Now(), 0
	var behind []time.Duration
	done := make(chan struct{})
	go func() {
		defer close(done)
		for time.Now().Before(over) {
			c, err := a.Outcomes.Counting(ctx)
			world.Check(err)
			behind = append(behind, time.Duration(c.Behind*float64(time.Second)))
			time.Sleep(50 * time.Millisecond)
		}
	}()
	var waits []time.Duration
	read := make(chan struct{})
	go func() {
		defer close(read)
		for time.Now().Before(over) {
			at := time.Now()
			now := a.Outcomes.Now()
			_, err := a.Outcomes.Outcomes(ctx, by, now.AddDate(0, 0, -29), now, outcomes.Split{})
			world.Check(err)
			waits = append(waits, time.Since(at))
			time.Sleep(200 * time.Millisecond)
		}
	}()
	for time.Now().Before(over) {
		due := int(time.Since(began).Seconds() * float64(perSecond))
		for ; sent < due; sent += 5 {
			go func() { kept <- evidence.Keep(a.DB(), somebody(people.Add(1), time.Now().UTC())) }()
		}
		for len(kept) > 0 {
			world.Check(<-kept)
		}
		time.Sleep(2 * time.Millisecond)
	}
	<-done
	<-read
	fmt.Printf(
		"%d items a second for %s: rows p50 %.1f, p99 %.1f, at most %.1f s behind; a month's figures meanwhile, ms p50 %.0f, p99 %.0f\n",
		perSecond,
		lasts,
		world.Percentile(behind, 50)/1000,
		world.Percentile(behind, 99)/1000,
		world.Percentile(behind, 100)/1000,
		world.Percentile(waits, 50),
		world.Percentile(waits, 99),
	)
	ended := time.Now()
	for {
		c, err := a.Outcomes.Counting(ctx)
		world.Check(err)
		if c.Waiting == 0 {
			break
		}
		time.Sleep(20 * time.Millisecond)
	}
	fmt.Printf("  caught up %.1f s after the last\n", time.Since(ended).Seconds())
}

// rebuild counts everything anew by another window, is stopped half-way, and goes on.
func rebuild(ctx context.Context, a *app.App) {
	by := staff.Staff{Roles: role.Set{role.Administrator}}
	world.Check(a.Outcomes.SetReturnWindow(ctx, by, 48*time.Hour))
	began, told := time.Now(), 0.0
	stopped := false
	for {
		limited, cancel := context.WithCancel(ctx)
		if !stopped && told >= 0.5 {
			stopped = true
			time.AfterFunc(5*time.Millisecond, cancel)
		}
		more, err := a.Outcomes.FoldSome(limited)
		cancel()
		if errors.Is(err, context.Canceled) {
			fmt.Printf("  stopped at %.0f %%, and going on\n", 100*told)
			continue
		}
		world.Check(err)
		c, err := a.Outcomes.Counting(ctx)
		world.Check(err)
		if c.Recount != nil && *c.Recount >= told+0.25 {
			told = *c.Recount
			fmt.Printf("  %.0f %% after %s\n", 100*told, time.Since(began).Round(time.Second))
		}
		if !more {
			break
		}
	}
	fmt.Printf("everything counted anew in %s\n", time.Since(began).Round(time.Second))
}
