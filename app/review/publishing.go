package review

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"time"

	"gorm.io/gorm"

	"hermeneus/app/library"
	"hermeneus/app/notify"
	"hermeneus/app/problem"
	"hermeneus/app/staff"
	"hermeneus/app/texts"
	"hermeneus/core/article"
	"hermeneus/core/audience"
	"hermeneus/core/hours"
	"hermeneus/core/role"
	"hermeneus/store"
)

// publish makes the text that passed its gates the live one. Page, search, bot and
// feeds all read the live revision, so they change together when the transaction
// commits; what instances hold in memory follows the announcement.
func (t *transition) publish() error {
	row, err := t.forWhom()
	if err := errors.Join(t.refuseEnded(), err); err != nil {
		return err
	}
	t.row.Audience = row.Audience
	var r store.Revision
	if err := t.tx.Where("edition_id = ? AND number = ?", t.e.ID, t.e.SubmittedRevision).First(&r).Error; err != nil {
		return fmt.Errorf("finding the approved revision: %w", err)
	}
	now := t.area.base.Now()
	t.e.LiveRevisionID, t.e.LiveSince, t.e.DecisionNote, t.e.BatchID = &r.ID, &now, "", nil
	t.row.WithdrawnAt, t.row.WithdrawnTo, t.row.WithdrawnNotice = nil, nil, ""
	if t.e.Language == article.SourceLanguage {
		if err := t.area.Rechecks.checked(t.tx, t.row); err != nil {
			return err
		}
	}
	if err := t.tx.Save(t.row).Error; err != nil {
		return err
	}
	if err := t.tx.Create(
		&store.PublishedChange{EditionID: t.e.ID, RevisionID: r.ID, At: now, Note: strings.TrimSpace(t.step.Change)},
	).Error; err != nil {
		return err
	}
	if err := t.area.DropSchedules(t.tx, t.e.ID, store.SchedulePublish); err != nil {
		return err
	}
	if err := errors.Join(t.endReview(), texts.ClearAuthors(t.tx, t.e.ID)); err != nil {
		return err
	}
	if err := t.tellPublished(r.Number); err != nil {
		return err
	}
	return store.Announce(t.tx, store.ArticleChanged, t.row.ID)
}

func (t *transition) tellPublished(revision int) error {
	path := "/library/" + t.subject()
	if t.review != nil {
		text := fmt.Sprintf("“%s” is live, as revision %d.", t.e.Title, revision)
		if err := t.area.notify.Tell(
			t.tx,
			notify.NewsDecided,
			staff.Except(t.review.Authors, t.by.ID),
			text,
			path,
		); err != nil {
			return err
		}
	}
	text := fmt.Sprintf("“%s” changed: revision %d is live.", t.e.Title, revision)
	if t.step.Change != "" {
		text += " " + t.step.Change
	}
	return t.area.notify.TellFollowers(t.tx, t.row.ID, t.by.ID, notify.NewsChanged, text, path)
}

// forWhom gives the article as it would be live: for the audience it was reviewed
// for, a narrower one, or, if a publisher says so, a wider one. It refuses one that a
// flow shows to people who may not see it.
func (t *transition) forWhom() (store.Article, error) {
	row := *t.row
	if to := t.step.Audience; to != "" {
		if to.WiderThan(audience.Audience(row.Audience)) && t.by.ID != 0 { // the program does what somebody was allowed
			if err := t.by.May("Showing an article to more people", role.Publisher); err != nil {
				return row, err
			}
		}
		row.Audience = string(to)
	}
	return row, library.RefuseConflicts(t.tx, row)
}

// schedule sets the time at which the text goes live.
func (t *transition) schedule() error {
	if _, err := t.forWhom(); err != nil {
		return err
	}
	if t.step.batch != nil {
		return nil // the batch has the time
	}
	s, err := t.area.newSchedule(t.tx, t.by, t.row.CategoryID, t.step)
	if err != nil {
		return err
	}
	s.Kind, s.EditionID = store.SchedulePublish, &t.e.ID
	return t.tx.Create(&s).Error
}

// newSchedule turns what was asked for into a time, in the zone of the help centre
// that shows the category.
func (a *Review) newSchedule(tx *gorm.DB, by staff.Staff, category int64, s Step) (store.Schedule, error) {
	zone, err := a.zoneOf(tx, category)
	if err != nil {
		return store.Schedule{}, err
	}
	at, err := a.wallTime(s.Wall, zone, s.Second)
	if err != nil {
		return store.Schedule{}, err
	}
	return store.Schedule{
		DueAt:    at,
		Wall:     s.Wall,
		Zone:     zone.String(),
		Audience: string(s.Audience),
		Note:     strings.TrimSpace(s.Change),
		StaffID:  by.ID,
		MadeAt:   a.base.Now(),
		State:    store.ScheduleWaiting,
	}, nil
}

// wallTime gives the instant of a time on the wall that lies ahead.
func (a *Review) wallTime(wall string, zone *time.Location, second bool) (time.Time, error) {
	got, err := hours.At(wall, zone)
	var skipped *hours.Skipped
	switch {
	case errors.As(err, &skipped):
		return time.Time{}, problem.OfField(
			"at",
			fmt.Sprintf("In %s the clocks go forward over %s: it does not exist on that day. The next time is %s.",
				zone, strings.Replace(wall, "T", " ", 1), skipped.Next.Format("15:04")),
		)
	case err != nil:
		return time.Time{}, problem.OfField("at", "Choose a day and a time, such as 2026-03-02T09:30.")
	}
	at := got.At
	if second && got.Twice {
		at = got.Second
	}
	if !at.After(a.base.Now()) {
		return time.Time{}, problem.OfField("at", "This time has passed. Choose one ahead, or publish now.")
	}
	if at.After(a.base.Now().AddDate(2, 0, 0)) {
		return time.Time{}, problem.OfField("at", "At most two years ahead.")
	}
	return at, nil
}

// zoneOf gives the time zone of the first help centre that shows a category.
func (a *Review) zoneOf(db *gorm.DB, category int64) (*time.Location, error) {
	sites, err := a.sites.SitesOf(db, category)
	if err != nil || len(sites) == 0 {
		return a.base.Zone, err
	}
	var name string
	if err := db.Raw(`SELECT zone FROM sites WHERE id = ?`, sites[0].ID).Scan(&name).Error; err != nil || name == "" {
		return a.base.Zone, err
	}
	return time.LoadLocation(name)
}

func (t *transition) dropSchedule(kind string) error {
	return t.area.DropSchedules(t.tx, t.e.ID, kind)
}

// DropSchedules takes back what is to happen to an edition at a set time, of a kind.
func (a *Review) DropSchedules(tx *gorm.DB, edition int64, kind string) error {
	return tx.Exec(`UPDATE schedules SET state = ?, ended_at = ? WHERE edition_id = ? AND kind = ? AND state = ?`,
		store.ScheduleDropped, a.base.Now(), edition, kind, store.ScheduleWaiting).Error
}

// withdraw takes the live revision away from customers, now or at a time.
func (t *transition) withdraw() error {
	if t.step.Wall != "" {
		t.e.State = string(t.from.State)
		if err := t.dropSchedule(store.ScheduleWithdraw); err != nil {
			return err
		}
		s, err := t.area.newSchedule(t.tx, t.by, t.row.CategoryID, t.step)
		if err != nil {
			return err
		}
		s.Kind, s.EditionID, s.Note = store.ScheduleWithdraw, &t.e.ID, strings.TrimSpace(t.step.Notice)
		t.step.Note = strings.TrimSpace(t.step.Note + " (ends " + strings.Replace(t.step.Wall, "T", " ", 1) + ")")
		return t.tx.Create(&s).Error
	}
	if err := t.redirect(); err != nil {
		return err
	}
	t.e.LiveRevisionID, t.e.LiveSince = nil, nil
	if err := t.dropSchedule(store.ScheduleWithdraw); err != nil {
		return err
	}
	text := fmt.Sprintf("“%s” was withdrawn. %s", t.e.Title, t.step.Note)
	if err := t.area.notify.TellFollowers(
		t.tx,
		t.row.ID,
		t.by.ID,
		notify.NewsChanged,
		strings.TrimSpace(text),
		"/library/"+t.subject(),
	); err != nil {
		return err
	}
	return store.Announce(t.tx, store.ArticleChanged, t.row.ID)
}

// DropEnd takes back that an article ends at a set time.
func (a *Review) DropEnd(ctx context.Context, by staff.Staff, reference string) error {
	if err := by.May("Keeping an article live", role.Publisher); err != nil {
		return err
	}
	return a.base.Transaction(ctx, func(tx *gorm.DB) error {
		row, e, err := library.FindEdition(tx, reference, true)
		if err != nil {
			return err
		}
		if err := a.DropSchedules(tx, e.ID, store.ScheduleWithdraw); err != nil {
			return err
		}
		line := store.Trail{
			ArticleID: &row.ID,
			Subject:   article.EditionReference(row.Number, e.Language),
			Action:    "dropped its end",
		}
		return errors.Join(a.trail.Note(tx, by, line), store.Announce(tx, store.CopyChanged, e.ID))
	})
}

// refuseEnded refuses to make an interim article live again whose time is over: it
// would end at once.
func (t *transition) refuseEnded() error {
	if t.row.InterimUntil != nil && t.row.InterimUntil.Before(t.area.base.Today()) {
		return problem.New(
			problem.NotNow,
			"It is interim until %s, which has passed. Set another day in its properties, or none.",
			library.Day(t.row.InterimUntil),
		)
	}
	if t.row.KnownProblemID == nil {
		return nil
	}
	var name string
	err := t.tx.Raw(`SELECT name FROM known_problems WHERE id = ? AND solved_at IS NOT NULL`, *t.row.KnownProblemID).
		Scan(&name).
		Error
	if err != nil || name == "" {
		return err
	}
	return problem.New(
		problem.NotNow,
		"It is interim until “%s” is solved, which it is. Change that in its properties first.",
		name,
	)
}

// redirect says what readers of the withdrawn article meet.
func (t *transition) redirect() error {
	if t.e.Language != article.SourceLanguage {
		return nil // its readers get the source
	}
	now := t.area.base.Now()
	t.row.WithdrawnAt, t.row.WithdrawnTo, t.row.WithdrawnNotice = &now, nil, strings.TrimSpace(t.step.Notice)
	if t.step.To != "" {
		to, e, err := library.FindEdition(t.tx, t.step.To, false)
		switch {
		case err != nil || e.LiveRevisionID == nil:
			return problem.OfField("to", "Choose an article that is live: its readers are sent there.")
		case to.ID == t.row.ID:
			return problem.OfField("to", "An article cannot send its readers to itself.")
		case audience.Audience(t.row.Audience).WiderThan(audience.Audience(to.Audience)):
			return problem.OfField(
				"to",
				"Not everybody who could read this one may read that one. Choose another, or tell them in words.",
			)
		}
		t.row.WithdrawnTo = &to.ID
	}
	return t.tx.Save(t.row).Error
}
