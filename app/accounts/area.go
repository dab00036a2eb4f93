// Package accounts lets people in: staff and customers, their passwords, sessions and attempts.
// It promises that a password is never kept in the clear, guessing is slowed, and who is disabled is out at once.
// It may not know what anybody does once they are in.
package accounts

import (
	"runtime"
	"time"

	"github.com/alexedwards/argon2id"
	"gorm.io/gorm"

	"hermeneus/app/instance"
	"hermeneus/app/notify"
	"hermeneus/app/trail"
)

// Accounts keeps who can sign in.
type Accounts struct {
	base   *instance.Instance
	trail  *trail.Trail
	notify *notify.Notify

	hashing *argon2id.Params
	looks   chan struct{} // a place for each password that is looked at: it takes much memory

	People *People
}

// People are the accounts of the staff, and of customers who sign in.
type People struct {
	base     *instance.Instance
	trail    *trail.Trail
	accounts *Accounts
	changed  []func(*gorm.DB) error
}

// New gives the area what it needs, and registers what it does by itself.
func New(base *instance.Instance, trail *trail.Trail, notify *notify.Notify, hashing *argon2id.Params) *Accounts {
	a := &Accounts{
		base:    base,
		trail:   trail,
		notify:  notify,
		hashing: hashing,
		looks:   make(chan struct{}, looksPerProcessor*runtime.GOMAXPROCS(0)),
	}
	a.People = &People{base: base, trail: trail, accounts: a}
	if a.hashing == nil {
		a.hashing = argon2id.DefaultParams
	}
	base.Every(time.Hour, "end old sign-ins", a.EndOldSignIns)
	return a
}

// OnChange registers what follows when somebody's roles change, or they leave.
func (a *People) OnChange(act func(*gorm.DB) error) { a.changed = append(a.changed, act) }
