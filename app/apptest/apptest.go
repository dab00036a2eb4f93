// Package apptest gives tests an application over a database of their own, with a clock that they move.
// It promises that tests do not meet each other.
// It may not be imported by anything but tests.
package apptest

import (
	"context"
	"fmt"
	"net/http/httptest"
	"net/url"
	"os"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/alexedwards/argon2id"
	"github.com/gofiber/fiber/v2/middleware/adaptor"
	"github.com/jackc/pgx/v5"

	"hermeneus/app"
	"hermeneus/app/accounts"
	"hermeneus/app/evidence"
	"hermeneus/app/library"
	"hermeneus/app/notify"
	"hermeneus/app/staff"
	"hermeneus/core/audience"
	"hermeneus/core/review"
	"hermeneus/core/role"
	"hermeneus/standin"
)

// cheap passwords: a test adds many people, and nobody is after theirs.
var cheap = &argon2id.Params{Memory: 64, Iterations: 1, Parallelism: 1, SaltLength: 16, KeyLength: 32}

// World is an application under test.
type World struct {
	*app.App
	T       testing.TB
	Context context.Context
	URL     string

	Room *standin.MailRoom // where every mail ends

	mu  sync.Mutex
	now time.Time

	checker string
	idle    bool // instances do nothing by themselves
}

// Open makes a new database on the server that HERMENEUS_TEST_DATABASE names and
// opens the application over it, beside other tests: most of a test is waiting for
// that server. Without that variable the test is skipped, or fails where CI is set,
// since there it must be.
func Open(t testing.TB) *World {
	t.Helper()
	if p, ok := t.(interface{ Parallel() }); ok {
		p.Parallel()
	}
	return OpenAlone(t)
}

// OpenIdle is Open with instances that do nothing by themselves: the test does it, when
// it says so.
func OpenIdle(t testing.TB) *World {
	t.Helper()
	if p, ok := t.(interface{ Parallel() }); ok {
		p.Parallel()
	}
	return begin(t, true)
}

// OpenAlone is Open for a test that cannot run beside others.
func OpenAlone(t testing.TB) *World {
	t.Helper()
	return begin(t, false)
}

func begin(t testing.TB, idle bool) *World {
	t.Helper()
	w := &World{
		T:       t,
		idle:    idle,
		Context: context.Background(),
		URL:     newDatabase(t, template(t)),
		now:     time.Date(2026, 3, 2, 9, 0, 0, 0, time.UTC),
	}
	room, err := standin.OpenMailRoom(time.Now)
	w.Must(err)
	t.Cleanup(room.Close)
	outside := httptest.NewServer(adaptor.FiberApp(standin.Outside(room)))
	t.Cleanup(outside.Close)
	w.Room, w.checker = room, outside.URL+"/check"
	w.App = w.Another()
	return w
}

// Another opens one more instance over the same database.
func (w *World) Another() *app.App { return w.AnotherOf(func(*app.Config) {}) }

// AnotherOf opens one with other settings.
func (w *World) AnotherOf(other func(*app.Config)) *app.App {
	w.T.Helper()
	c := app.Config{
		Database:    w.URL,
		Clock:       w.Time,
		Zone:        time.UTC,
		Name:        "Wrenmoor Community Power",
		Address:     "http://help.wrenmoor.example",
		Mail:        notify.MailServer{Address: w.Room.Address()},
		MailFrom:    "help@wrenmoor.example",
		LinkChecker: w.checker,
		Passwords:   cheap,
		Idle:        w.idle,
	}
	other(&c)
	a, err := app.Open(w.Context, c)
	if err != nil {
		w.T.Fatal(err)
	}
	w.T.Cleanup(a.Close)
	return a
}

// templates holds, for each test binary, the name of a database that has the schema
// already: copying it takes a fraction of the time that the migrations do.
var templates struct {
	sync.Once
	name string
	err  error
}

func template(t testing.TB) string {
	t.Helper()
	templates.Do(func() {
		server := os.Getenv("HERMENEUS_TEST_DATABASE")
		if server == "" {
			return // newDatabase says what is missing
		}
		name := fmt.Sprintf("template_%d_%d", os.Getpid(), time.Now().UnixNano())
		if templates.err = create(server, name, ""); templates.err != nil {
			return
		}
		var a *app.App
		a, templates.err = app.Open(
			context.Background(),
			app.Config{Database: at(server, name), Clock: time.Now, Zone: time.UTC, Name: "Wrenmoor Community Power"},
		)
		if templates.err == nil {
			a.Close()
			templates.name = name
		}
	})
	if templates.err != nil {
		t.Fatal(templates.err)
	}
	return templates.name
}

func create(server, name, from string) error {
	ctx := context.Background()
	admin, err := pgx.Connect(ctx, server)
	if err != nil {
		return err
	}
	defer func() { _ = admin.Close(ctx) }()
	sql := "CREATE DATABASE " + pgx.Identifier{name}.Sanitize()
	if from != "" {
		sql += " TEMPLATE " + pgx.Identifier{from}.Sanitize()
	}
	_, err = admin.Exec(ctx, sql)
	return err
}

// at is the address of a database on a server.
func at(server, name string) string {
	u, err := url.Parse(server)
	if err != nil {
		return server
	}
	u.Path = "/" + name
	return u.String()
}

// NewDatabase makes an empty database that is dropped when the test ends.
func NewDatabase(t testing.TB) string {
	t.Helper()
	return newDatabase(t, "")
}

func newDatabase(t testing.TB, from string) string {
	t.Helper()
	server := os.Getenv("HERMENEUS_TEST_DATABASE")
	if server == "" {
		if os.Getenv("CI") != "" {
			t.Fatal("HERMENEUS_TEST_DATABASE is not set: run the tests with make test")
		}
		t.Skip("HERMENEUS_TEST_DATABASE is not set: run the tests with make test")
	}
	ctx := context.Background()
	admin, err := pgx.Connect(ctx, server)
	if err != nil {
		t.Fatal(err)
	}
	name := fmt.Sprintf(
		"t_%s_%d",
		strings.ToLower(strings.NewReplacer("/", "_", "#", "_").Replace(t.Name()))[:min(40, len(t.Name()))],
		time.Now().UnixNano(),
	)
	if err := create(server, name, from); err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() {
		_, err := admin.Exec(ctx, "DROP DATABASE "+pgx.Identifier{name}.Sanitize()+" WITH (FORCE)")
		if err != nil {
			t.Error(err)
		}
		_ = admin.Close(ctx)
	})
	return at(server, name)
}

// Time is what time it is.
func (w *World) Time() time.Time {
	w.mu.Lock()
	defer w.mu.Unlock()
	return w.now
}

// Wait lets time pass.
func (w *World) Wait(d time.Duration) {
	w.mu.Lock()
	defer w.mu.Unlock()
	w.now = w.now.Add(d)
}

// Must fails the test on an error.
func (w *World) Must(err error) {
	w.T.Helper()
	if err != nil {
		w.T.Fatalf("%v %+v", err, err)
	}
}

// Hire adds somebody with these roles.
func (w *World) Hire(name string, roles ...role.Role) staff.Staff {
	w.T.Helper()
	who, err := w.Accounts.People.AddFirstStaff(
		w.Context,
		accounts.NewStaff{
			Name:     name,
			Email:    name + "@wrenmoor.example",
			Password: "a long password",
			Roles:    roles,
			Team:     map[bool]string{true: "Accounts"}[roles[0] == role.Agent],
		},
	)
	w.Must(err)
	return who
}

// Crew is one person for each step of an article's way.
type Crew struct{ Author, Reviewer, Publisher, Agent, Analyst, Administrator staff.Staff }

// Crew adds one person for each role.
func (w *World) Crew() Crew {
	return Crew{w.Hire("ada", role.Author), w.Hire("rex", role.Reviewer), w.Hire("pia", role.Publisher),
		w.Hire("gus", role.Agent), w.Hire("lyn", role.Analyst), w.Hire("max", role.Administrator)}
}

// Category adds a category.
func (w *World) Category(by staff.Staff, name string) int64 {
	w.T.Helper()
	id, err := w.Library.AddCategory(w.Context, by, library.NewCategory{Name: name, Audience: audience.Everyone})
	w.Must(err)
	return id
}

// Draft begins an article.
func (w *World) Draft(by staff.Staff, category int64, title, body string, a audience.Audience) string {
	w.T.Helper()
	ref, err := w.Library.CreateArticle(
		w.Context,
		by,
		library.NewArticle{CategoryID: category, Audience: a, Copy: library.WorkingCopy{Title: title, Body: body}},
	)
	w.Must(err)
	return ref
}

// Publish takes an article all its way, and waits until this instance finds it.
func (w *World) Publish(c Crew, ref string) {
	w.T.Helper()
	a, err := w.Desk.ReadArticle(w.Context, c.Author, ref)
	w.Must(err)
	w.Must(w.Review.Act(w.Context, c.Author, ref, review.Submit, a.Version, ""))
	w.Must(w.Review.Act(w.Context, c.Reviewer, ref, review.Approve, a.Version, ""))
	w.Must(w.Review.Act(w.Context, c.Publisher, ref, review.Publish, a.Version, ""))
	groups, err := w.Sites.GroupKeys(w.Context)
	w.Must(err)
	w.Eventually(func() bool {
		found, err := w.Search.Search(w.Context, evidence.Visitor{Preview: true, Groups: groups}, a.Copy.Title)
		w.Must(err)
		for _, f := range found {
			if f.Reference == ref {
				return true
			}
		}
		return false
	})
}

// Eventually waits for something that another goroutine brings about.
func (w *World) Eventually(holds func() bool) {
	w.T.Helper()
	for deadline := time.Now().Add(20 * time.Second); time.Now().Before(deadline); time.Sleep(10 * time.Millisecond) {
		if holds() {
			return
		}
	}
	w.T.Fatal("it did not come about within twenty seconds")
}

// Visitor is an anonymous customer.
func Visitor(key string) evidence.Visitor { return evidence.Visitor{Key: key} }

// SignInStaffByName signs somebody in with the password of every member of staff here.
func (w *World) SignInStaffByName(name string) (accounts.Session, error) {
	session, _, err := w.Accounts.SignInStaff(
		w.Context,
		accounts.SignIn{Email: name + "@wrenmoor.example", Password: "a long password", Network: "127.0.0.1"},
	)
	return session, err
}

// StillTrueRefused is nil when an article cannot be confirmed.
func (w *World) StillTrueRefused(by staff.Staff, ref string) error {
	if w.Review.Rechecks.StillTrue(w.Context, by, ref, "") == nil {
		return fmt.Errorf("%s was confirmed, and nothing of it is live", ref)
	}
	return nil
}
