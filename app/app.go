// Package app holds the use cases: one file per thing people do. It checks
// permission, keeps transactions together with the evidence of what happened in
// them, and tells other instances of changes. The rules themselves are in core.
package app

import (
	"context"
	"errors"
	"runtime"
	"strings"
	"sync"
	"sync/atomic"
	"time"

	"github.com/alexedwards/argon2id"
	"gorm.io/gorm"

	"hermeneus/core/article"
	"hermeneus/core/search"
	"hermeneus/store"
)

// App is one instance of the application over a database.
type App struct {
	db     *gorm.DB
	steady *gorm.DB // the same, for what every visit asks
	clock  func() time.Time
	zone   *time.Location
	index  *search.Index
	hub    *hub
	ledger *ledger
	keeper *keeper
	stop   context.CancelFunc
	wait   func()
	chores []chore
	beside []func(context.Context)
	works  map[string]jobWork
	acts   []func(store.Change)
	makeUp []func()

	staffChanged func(*gorm.DB) error
	close        sync.Once

	name        string // of the company
	address     string // at which people reach the application, for mail
	mail        MailServer
	mailFrom    string
	linkChecker string
	passwords   *argon2id.Params
	looks       chan struct{} // a place for each password that is looked at: it takes much memory
	pictures    chan struct{} // likewise for each picture that is decoded

	indexing sync.Mutex  // one change to the index at a time
	deaf     atomic.Bool // changes may go by unheard: the index may be behind

	fronts  fronts
	popular popular

	useLock sync.Mutex
	useKept map[string]article.Use
	useAt   time.Time
}

// Config is what an instance must be told.
type Config struct {
	Database string           // a PostgreSQL connection string
	Clock    func() time.Time // says what time it is
	Zone     *time.Location   // in which days begin and end
	Name     string           // of the company: what a new library's main help centre is called

	Address     string           // at which people reach the application, such as https://help.wrenmoor.example; for mail
	Mail        MailServer       // that takes mail by SMTP
	MailFrom    string           // the address that mail comes from
	Idle        bool             // it does nothing by itself: for commands, and for loading
	Passwords   *argon2id.Params // how dear a password is to guess; nil for the usual. Tests make it cheap
	LinkChecker string           // address of a service that says whether an address answers; "" checks none
}

// Open connects to the database, brings its schema up to date, builds the search
// index, and begins to listen to other instances. Close must be called in the end.
func Open(ctx context.Context, c Config) (*App, error) {
	db, err := store.Open(ctx, c.Database)
	if err != nil {
		return nil, err
	}
	steady, err := store.OpenSteady(ctx, c.Database)
	if err != nil {
		return nil, err
	}
	a := &App{
		db:          db,
		steady:      steady,
		clock:       c.Clock,
		zone:        c.Zone,
		index:       search.New(),
		hub:         newHub(),
		name:        c.Name,
		address:     strings.TrimSuffix(c.Address, "/"),
		mail:        c.Mail,
		mailFrom:    c.MailFrom,
		linkChecker: c.LinkChecker,
	}
	a.works = map[string]jobWork{}
	a.pictures = newPictureDesk()
	a.looks = make(chan struct{}, looksPerProcessor*runtime.GOMAXPROCS(0))
	if a.passwords = c.Passwords; a.passwords == nil {
		a.passwords = argon2id.DefaultParams
	}
	if a.mailFrom == "" {
		a.mailFrom = "help@hermeneus.invalid"
	}
	a.ledger, a.keeper = &ledger{db: db}, &keeper{db: steady, now: a.Now}
	if err := store.Migrate(ctx, db, a.Now()); err != nil {
		return nil, err
	}
	err = store.Alone(ctx, db, func(tx *gorm.DB) error {
		return errors.Join(shipTemplates(tx), shipSite(tx, c.Name), shipPaths(tx))
	})
	if err != nil {
		return nil, err
	}
	a.register()
	listening, stop := context.WithCancel(context.Background())
	a.stop = stop
	a.wait, err = store.Listen(listening, c.Database, a.heard, func() { a.deaf.Store(true) }, a.missed)
	if err != nil {
		stop()
		return nil, err
	}
	if err := a.reindex(ctx); err != nil {
		return nil, err
	}
	var working sync.WaitGroup
	working.Go(func() { a.work(listening) })
	if !c.Idle {
		for _, run := range append(a.beside, a.doChores) {
			working.Go(func() { run(listening) })
		}
	}
	heard := a.wait
	a.wait = func() {
		working.Wait()
		heard()
	}
	return a, nil
}

// register says who does what regularly, and what follows what.
func (a *App) register() {
	a.OnChange(a.reindexChanged)
	a.OnMissed(a.reindexAll)
	a.OnChange(func(c store.Change) {
		if c.About == store.SiteChanged {
			a.fronts.forget()
		}
	})
	a.OnMissed(a.fronts.forget)
	a.staffChanged = a.tellStuck
	a.handle(jobBulk, a.runBulk)
	a.handle(jobUndo, a.runUndo)
	a.handle(jobImport, a.runImport)
	a.Beside(a.keepTime)
	a.Beside(a.followPopular)
	a.Every(5*time.Second, "mail news", a.MailNews)
	a.Every(time.Minute, "end interim articles", a.EndInterim)
	a.Every(10*time.Minute, "recheck", a.TendRechecks)
	a.Every(time.Minute, "outside links", a.CheckOutside)
	a.Every(time.Hour, "thin autosaves", a.ThinAutosaves)
	a.Every(time.Hour, "unsent files", a.DropUnsent)
	a.Every(10*time.Minute, "confirmed questions", a.GatherConfirmed)
	a.Every(time.Minute, "search reports", a.KeepSearchReports)
	a.Every(time.Hour, "end old keys", a.EndKeys)
	a.Every(time.Hour, "end old sign-ins", a.EndOldSignIns)
	a.Every(time.Hour, "end old holds", a.EndHolds)
	a.Every(time.Hour, "end old mail", a.EndOldMail)
	a.Every(time.Hour, "end old news", a.EndOldNews)
	a.Every(time.Hour, "end old jobs", a.EndOldJobs)
	a.Every(time.Hour, "end old search reports", a.EndOldReports)
	a.Steadily("mail", a.postSome)
}

// Close ends listening and frees what the instance holds. It can be called again.
func (a *App) Close() { a.close.Do(a.end) }

func (a *App) end() {
	a.stop()
	a.wait()
	for _, db := range []*gorm.DB{a.db, a.steady} {
		if pool, err := db.DB(); err == nil {
			_ = pool.Close()
		}
	}
}

// DB is the database, for the commands that load and export in bulk.
func (a *App) DB() *gorm.DB { return a.db }
