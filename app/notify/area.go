// Package notify tells people: news for staff in the application and by mail, and mail to customers.
// It promises that what is told is kept in the transaction of what happened, and that one address gets its mail in order.
// It may not know what the news are about.
package notify

import (
	"time"

	"hermeneus/app/instance"
)

// Notify tells people what happened.
type Notify struct {
	base *instance.Instance

	server MailServer
	from   string // the address that mail comes from
}

// New gives the area what it needs, and registers what it does by itself.
func New(base *instance.Instance, server MailServer, from string) *Notify {
	a := &Notify{base: base, server: server, from: from}
	if a.from == "" {
		a.from = "help@hermeneus.invalid"
	}
	base.Every(5*time.Second, "mail news", a.MailNews)
	base.Every(time.Hour, "end old mail", a.EndOldMail)
	base.Every(time.Hour, "end old news", a.EndOldNews)
	base.Steadily("mail", a.postSome)
	return a
}
