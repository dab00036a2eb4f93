// Package instance is one running instance over a database: clock, transactions, what it hears
// of other instances, and what it does regularly.
// It promises that a transaction leaves all or nothing behind, that what is sent twice under one
// key is done once, and that changes missed are made up for.
// It may not know what is kept in the database.
package instance

import (
	"context"
	"strings"
	"sync"
	"time"

	"gorm.io/gorm"

	"hermeneus/store"
)

// Instance is one running instance.
type Instance struct {
	DB      *gorm.DB
	Steady  *gorm.DB       // the same, for what every visit asks
	Zone    *time.Location // in which days begin and end
	Name    string         // of the company
	Address string         // at which people reach the application, for mail

	replicas *store.Replicas
	clock    func() time.Time
	hub      *hub
	chores   []chore
	beside   []func(context.Context)
	errands  map[string]func(context.Context) (bool, error)
	acts     []func(store.Change)
	makeUp   []func()
	stale    []func()

	stop  context.CancelFunc
	wait  func()
	close sync.Once

	telling telling // what other instances are still to be told
}

// Config is what an instance must be told.
type Config struct {
	Database string           // a PostgreSQL connection string
	Clock    func() time.Time // says what time it is
	Zone     *time.Location   // in which days begin and end
	Name     string           // of the company
	Address  string           // at which people reach the application
	Replicas []string         // connection strings of copies of the database, from which figures are read
}

// Open connects to the database and brings its schema up to date. Start must follow once
// the areas have registered what they do, and Close in the end.
func Open(ctx context.Context, c Config) (*Instance, error) {
	db, err := store.Open(ctx, c.Database)
	if err != nil {
		return nil, err
	}
	steady, err := store.OpenSteady(ctx, c.Database)
	if err != nil {
		return nil, err
	}
	replicas, err := store.UseReplicas(db, c.Replicas)
	if err != nil {
		return nil, err
	}
	a := &Instance{
		replicas: replicas,
		DB:       db, Steady: steady, Zone: c.Zone, Name: c.Name, Address: strings.TrimSuffix(c.Address, "/"),
		clock: c.Clock, hub: newHub(), stop: func() {}, wait: func() {},
		errands: map[string]func(context.Context) (bool, error){},
	}
	return a, store.Migrate(ctx, db, a.Now())
}

// Start begins to listen to other instances, makes up for what was missed until then, and,
// unless it is idle, does what is registered.
func (a *Instance) Start(database string, idle bool, always ...func(context.Context)) error {
	listening, stop := context.WithCancel(context.Background())
	wait, err := store.Listen(listening, database, a.heard, a.unheard, a.missed)
	if err != nil {
		stop()
		return err
	}
	work := always
	if !idle {
		work = append(append(work, a.beside...), a.doChores)
	}
	var working sync.WaitGroup
	for _, run := range work {
		working.Go(func() { run(listening) })
	}
	waitQueue := func() {}
	if !idle {
		if waitQueue, err = a.startQueue(listening, database); err != nil {
			stop()
			return err
		}
	}
	a.stop = stop
	a.wait = func() {
		waitQueue()
		working.Wait()
		wait()
	}
	return nil
}

// Close ends listening and frees what the instance holds. It can be called again.
func (a *Instance) Close() { a.close.Do(a.end) }

func (a *Instance) end() {
	a.stop()
	a.wait()
	a.telling.working.Wait()
	a.replicas.Close()
	for _, db := range []*gorm.DB{a.DB, a.Steady} {
		if pool, err := db.DB(); err == nil {
			_ = pool.Close()
		}
	}
}
