// Package app wires the areas of the job together into one application.
// It promises one order: an area is made with the areas above it, and with nothing else.
// It may hold no rule; what one area must tell another above it is a hook set here.
package app

import (
	"context"
	"errors"
	"time"

	"github.com/alexedwards/argon2id"
	"gorm.io/gorm"

	"hermeneus/app/accounts"
	"hermeneus/app/conversations"
	"hermeneus/app/customers"
	"hermeneus/app/desk"
	"hermeneus/app/evidence"
	"hermeneus/app/exchange"
	"hermeneus/app/flows"
	"hermeneus/app/forms"
	"hermeneus/app/helpcentre"
	"hermeneus/app/hours"
	"hermeneus/app/instance"
	"hermeneus/app/jobs"
	"hermeneus/app/keeping"
	"hermeneus/app/library"
	"hermeneus/app/lists"
	"hermeneus/app/notify"
	"hermeneus/app/outcomes"
	"hermeneus/app/person"
	"hermeneus/app/requests"
	"hermeneus/app/review"
	"hermeneus/app/search"
	"hermeneus/app/sites"
	"hermeneus/app/staff"
	"hermeneus/app/texts"
	"hermeneus/app/trail"
	"hermeneus/app/writing"
	"hermeneus/store"
)

// App is one instance of the application over a database, by areas.
type App struct {
	Instance      *instance.Instance
	Staff         *staff.Directory
	Trail         *trail.Trail
	Keeping       *keeping.Keeping
	Jobs          *jobs.Jobs
	Notify        *notify.Notify
	Recorder      *evidence.Recorder
	Accounts      *accounts.Accounts
	Customers     *customers.Customers
	Texts         *texts.Texts
	Library       *library.Library
	Sites         *sites.Sites
	Review        *review.Review
	Outcomes      *outcomes.Outcomes
	Search        *search.Search
	HelpCentre    *helpcentre.HelpCentre
	Lists         *lists.Lists
	Writing       *writing.Writing
	Exchange      *exchange.Exchange
	Hours         *hours.Hours
	Flows         *flows.Flows
	Conversations *conversations.Conversations
	Requests      *requests.Requests
	Forms         *forms.Forms
	Persons       *person.Persons
	Desk          *desk.Desk
}

// Config is what an instance must be told.
type Config struct {
	Database string           // a PostgreSQL connection string
	Clock    func() time.Time // says what time it is
	Zone     *time.Location   // in which days begin and end
	Name     string           // of the company: what a new library's main help centre is called

	Replicas    []string          // connection strings of streaming replicas, from which figures are read; none for not at all
	Address     string            // at which people reach the application, such as https://help.wrenmoor.example
	Mail        notify.MailServer // that takes mail by SMTP
	MailFrom    string            // the address that mail comes from
	Idle        bool              // it does nothing by itself: for commands, and for loading
	Passwords   *argon2id.Params  // how dear a password is to guess; nil for the usual. Tests make it cheap
	LinkChecker string            // address of a service that says whether an address answers; "" checks none
}

// Open connects to the database, brings its schema up to date, builds the search
// index, and begins to listen to other instances. Close must be called in the end.
func Open(ctx context.Context, c Config) (*App, error) {
	base, err := instance.Open(ctx, instance.Config{
		Database: c.Database, Clock: c.Clock, Zone: c.Zone, Name: c.Name, Address: c.Address,
		Replicas: c.Replicas,
	})
	if err != nil {
		return nil, err
	}
	a := wire(base, c)
	err = store.Alone(ctx, base.DB, func(tx *gorm.DB) error {
		return errors.Join(library.Ship(tx), sites.Ship(tx, c.Name), review.Ship(tx), conversations.LinkOld(tx))
	})
	if err != nil {
		return nil, err
	}
	if err := base.Start(c.Database, c.Idle, a.Jobs.Work); err != nil {
		return nil, err
	}
	return a, a.Search.Reindex(ctx)
}

// wire makes the areas, each with those above it.
func wire(base *instance.Instance, c Config) *App {
	a := &App{Instance: base}
	a.Staff = staff.New(base)
	a.Trail = trail.New(base)
	a.Keeping = keeping.New(base, a.Trail)
	a.Jobs = jobs.New(base, a.Staff)
	a.Notify = notify.New(base, c.Mail, c.MailFrom)
	a.Recorder = evidence.New(base, a.Trail)
	a.Accounts = accounts.New(base, a.Trail, a.Notify, c.Passwords)
	a.Customers = customers.New(base, a.Trail)
	a.Texts = texts.New(base)
	a.Library = library.New(base, a.Trail, a.Customers, a.Texts)
	a.Sites = sites.New(base, a.Trail)
	a.Forms = forms.New(base, a.Trail)
	a.Review = review.New(base, a.Trail, a.Notify, a.Customers, a.Sites, a.Texts, c.LinkChecker)
	a.Outcomes = outcomes.New(base, a.Trail)
	a.Search = search.New(base, a.Trail, a.Recorder, a.Sites, a.Library, a.Outcomes)
	a.HelpCentre = helpcentre.New(base, a.Trail, a.Notify, a.Recorder, a.Library)
	a.Lists = lists.New(base, a.Outcomes)
	a.Writing = writing.New(
		base,
		a.Trail,
		a.Jobs,
		a.Notify,
		a.Texts,
		a.Library,
		a.Outcomes,
		a.Search,
		a.Review,
		a.Lists,
	)
	a.Exchange = exchange.New(base, a.Jobs, a.Notify, a.Texts, a.Library, a.Writing)
	a.Hours = hours.New(base, a.Trail)
	a.Flows = flows.New(base, a.Trail, a.Notify, a.Texts, a.Sites, a.Hours, a.Search, a.Review)
	a.Conversations = conversations.New(base, a.Notify, a.Recorder, a.Outcomes, a.Search, a.HelpCentre, a.Exchange,
		a.Hours, a.Flows)
	a.Requests = requests.New(base, a.Trail, a.Notify, a.Recorder, a.Search, a.HelpCentre, a.Conversations)
	a.Persons = person.New(base, a.Notify, a.Recorder, a.Accounts, a.Outcomes, a.Conversations)
	a.Desk = desk.New(base, a.Trail, a.Notify, a.Sites, a.Accounts, a.Texts, a.Outcomes, a.Review, a.HelpCentre,
		a.Lists, a.Conversations, a.Flows)
	a.Library.OnPublicFiles(sites.Logos)
	a.Accounts.People.OnChange(a.Review.TellStuck)
	return a
}

// Close ends listening and frees what the instance holds. It can be called again.
func (a *App) Close() { a.Instance.Close() }

// DB is the database, for the commands that load and export in bulk.
func (a *App) DB() *gorm.DB { return a.Instance.DB }
