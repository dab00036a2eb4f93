// Package review takes a text from draft to live and keeps it true: gates, set times, batches, comments, rechecks.
// It promises that nothing goes live but what was looked at, by whom the path entitles, and that a set time is kept.
// It may not change a text, except to withdraw what has ended.
package review

import (
	"sync"
	"time"

	"hermeneus/app/customers"
	"hermeneus/app/instance"
	"hermeneus/app/notify"
	"hermeneus/app/sites"
	"hermeneus/app/texts"
	"hermeneus/app/trail"
	"hermeneus/core/review"
)

// Review takes texts to live and keeps them true.
type Review struct {
	base   *instance.Instance
	trail  *trail.Trail
	notify *notify.Notify
	sites  *sites.Sites
	texts  *texts.Texts

	Batches  *Batches
	Comments *Comments
	Rechecks *Rechecks
	Rounds   *Rounds

	kinds map[string]Standing // of texts
}

// Rounds are the ways of texts through the gates of their paths, whatever they are the texts of.
type Rounds struct {
	base   *instance.Instance
	trail  *trail.Trail
	notify *notify.Notify
}

// Batches are texts that go their way as one.
type Batches struct {
	base   *instance.Instance
	trail  *trail.Trail
	review *Review
}

// Comments are what staff say of passages of a text.
type Comments struct {
	base   *instance.Instance
	trail  *trail.Trail
	notify *notify.Notify
	review *Review
}

// Rechecks keep what is live true: dates, interim articles, known problems, links outside.
type Rechecks struct {
	base   *instance.Instance
	trail  *trail.Trail
	notify *notify.Notify
	texts  *texts.Texts
	review *Review

	linkChecker string // address of a service that says whether an address answers; "" checks none

	useLock sync.Mutex
	useKept map[string]review.Use
	useAt   time.Time
}

// New gives the area what it needs, and registers what it does by itself.
func New(
	base *instance.Instance,
	trail *trail.Trail,
	notify *notify.Notify,
	customers *customers.Customers,
	sites *sites.Sites,
	texts *texts.Texts,
	linkChecker string,
) *Review {
	a := &Review{base: base, trail: trail, notify: notify, sites: sites, texts: texts}
	a.kinds = map[string]Standing{"edition": editionStands}
	a.Rounds = &Rounds{base: base, trail: trail, notify: notify}
	a.Batches = &Batches{base: base, trail: trail, review: a}
	a.Comments = &Comments{base: base, trail: trail, notify: notify, review: a}
	a.Rechecks = &Rechecks{
		base: base, trail: trail, notify: notify, texts: texts, review: a, linkChecker: linkChecker,
	}
	customers.OnUses(`SELECT audience FROM schedules`)
	base.Beside(a.keepSchedules)
	base.Every(time.Minute, "end interim articles", a.Rechecks.EndInterim)
	base.Every(10*time.Minute, "recheck", a.Rechecks.TendRechecks)
	base.Every(time.Minute, "outside links", a.Rechecks.CheckOutside)
	return a
}
