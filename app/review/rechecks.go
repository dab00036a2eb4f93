package review

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"gorm.io/gorm"

	"hermeneus/app/library"
	"hermeneus/app/notify"
	"hermeneus/app/problem"
	"hermeneus/app/staff"
	"hermeneus/core/article"
	"hermeneus/core/review"
	"hermeneus/core/role"
	"hermeneus/store"
)

// ReadsOver is the time over which use is counted for rechecks.
const ReadsOver = 90 * 24 * time.Hour

// OverdueGrace is after how many days a recheck that the owner left is the steward's.
const OverdueGrace = 14

// checked notes that an article is true as of today, and sets when it must be looked
// at again. The row is the caller's to save.
func (a *Rechecks) checked(tx *gorm.DB, row *store.Article) error {
	today := a.base.Today()
	row.CheckedOn, row.RecheckFixed = &today, false
	if row.RecheckByRule {
		days, err := a.daysByRule(tx, *row)
		if err != nil {
			return err
		}
		row.RecheckDays = days
	}
	row.RecheckOn = today.AddDate(0, 0, row.RecheckDays)
	return nil
}

func (a *Rechecks) daysByRule(tx *gorm.DB, row store.Article) (int, error) {
	base, err := readRecheckBase(tx)
	if err != nil {
		return 0, err
	}
	uses, err := a.uses(tx)
	if err != nil {
		return 0, err
	}
	use, known := uses[article.Reference(row.Number)]
	if !known {
		use = review.ReadSome // not live before: nothing is known of it
	}
	return review.RecheckDays(row.Kind, use, base), nil
}

// uses says how much each live article was read lately. It is counted anew at most
// once a minute.
func (a *Rechecks) uses(db *gorm.DB) (map[string]review.Use, error) {
	a.useLock.Lock()
	defer a.useLock.Unlock()
	if now := a.base.Now(); a.useKept == nil || now.Sub(a.useAt).Abs() > time.Minute {
		var rows []struct {
			Number int
			N      int
			Young  bool // live for less than the period
		}
		err := db.Raw(`WITH reads AS
				(SELECT article AS number, sum(read) AS n FROM article_uses WHERE day > ? GROUP BY 1)
			SELECT a.number, coalesce(r.n, 0) AS n,
				coalesce((SELECT min(at) FROM changes c WHERE c.edition_id = e.id), e.live_since) > ? AS young
			FROM articles a
			JOIN editions e ON e.article_id = a.id AND e.language = ? AND e.live_revision_id IS NOT NULL
			LEFT JOIN reads r ON r.number = a.number`, a.base.Now().Add(-ReadsOver), a.base.Now().Add(-ReadsOver), article.SourceLanguage).
			Scan(&rows).
			Error
		if err != nil {
			return nil, fmt.Errorf("counting what is read: %w", err)
		}
		reads := map[string]int{}
		for _, r := range rows {
			reads[article.Reference(r.Number)] = r.N
		}
		a.useKept, a.useAt = review.Uses(reads), now
		for _, r := range rows {
			if ref := article.Reference(r.Number); r.Young && r.N == 0 {
				a.useKept[ref] = review.ReadSome // nobody has had the time to
			}
		}
	}
	return a.useKept, nil
}

// StillTrue notes that somebody confirmed an article as it is.
func (a *Rechecks) StillTrue(ctx context.Context, by staff.Staff, reference, note string) error {
	if err := by.May("Confirming an article", role.Author, role.Publisher, role.Reviewer); err != nil {
		return err
	}
	var f problem.Fields
	f.AtMost("note", note, 500)
	if err := f.Err(); err != nil {
		return err
	}
	return a.base.Transaction(ctx, func(tx *gorm.DB) error {
		row, e, err := library.FindEdition(tx, reference, true)
		if err != nil {
			return err
		}
		if e.LiveRevisionID == nil {
			return problem.New(problem.NotNow, "Nothing of %s is live, so there is nothing to confirm.", reference)
		}
		was := checkBefore{
			By:        by.ID,
			At:        a.base.Now(),
			CheckedOn: library.Day(row.CheckedOn),
			RecheckOn: row.RecheckOn.Format(time.DateOnly),
			Days:      row.RecheckDays,
			Fixed:     row.RecheckFixed,
		}
		if row.BeforeCheck, err = json.Marshal(was); err != nil {
			return err
		}
		if err := a.checked(tx, &row); err != nil {
			return err
		}
		if err := tx.Save(&row).Error; err != nil {
			return err
		}
		// What it was told about is done.
		if err := tx.Exec(
			`UPDATE news SET read_at = ? WHERE kind = ? AND path = ? AND read_at IS NULL`,
			a.base.Now(),
			notify.NewsRecheck,
			"/library/"+article.Reference(row.Number),
		).Error; err != nil {
			return err
		}
		text := "next on " + row.RecheckOn.Format(time.DateOnly)
		if note != "" {
			text = note + "; " + text
		}
		if err := a.trail.Note(
			tx,
			by,
			store.Trail{ArticleID: &row.ID, Subject: article.Reference(row.Number), Action: "still true", Note: text},
		); err != nil {
			return err
		}
		return store.Announce(tx, store.CopyChanged, e.ID)
	})
}

// checkBefore is what a confirmation replaced, and whose it was.
type checkBefore struct {
	By        int64     `json:"by"`
	At        time.Time `json:"at"`
	CheckedOn string    `json:"checked_on"` // "" for never
	RecheckOn string    `json:"recheck_on"`
	Days      int       `json:"days"`
	Fixed     bool      `json:"fixed"`
}

// takeBackWithin is how long one's own confirmation can be taken back.
const takeBackWithin = time.Hour

// NotStillTrue takes one's own confirmation of an article back, within the hour.
func (a *Rechecks) NotStillTrue(ctx context.Context, by staff.Staff, reference string) error {
	if err := by.May("Taking a confirmation back", role.Author, role.Publisher, role.Reviewer); err != nil {
		return err
	}
	return a.base.Transaction(ctx, func(tx *gorm.DB) error {
		row, e, err := library.FindEdition(tx, reference, true)
		if err != nil {
			return err
		}
		var was checkBefore
		if len(row.BeforeCheck) > 0 {
			if err := json.Unmarshal(row.BeforeCheck, &was); err != nil {
				return fmt.Errorf("reading what was before %s was confirmed: %w", reference, err)
			}
		}
		if was.By != by.ID || a.base.Now().Sub(was.At) > takeBackWithin {
			return problem.New(
				problem.NotNow,
				"You did not confirm %s within the last hour, so there is nothing to take back.",
				reference,
			)
		}
		row.BeforeCheck, row.CheckedOn, row.RecheckDays, row.RecheckFixed = nil, nil, was.Days, was.Fixed
		if row.RecheckOn, err = time.Parse(time.DateOnly, was.RecheckOn); err != nil {
			return err
		}
		if was.CheckedOn != "" {
			day, err := time.Parse(time.DateOnly, was.CheckedOn)
			if err != nil {
				return err
			}
			row.CheckedOn = &day
		}
		if err := tx.Save(&row).Error; err != nil {
			return err
		}
		line := store.Trail{
			ArticleID: &row.ID,
			Subject:   article.Reference(row.Number),
			Action:    "took a confirmation back",
			Note:      "next on " + was.RecheckOn,
		}
		return errors.Join(a.trail.Note(tx, by, line), store.Announce(tx, store.CopyChanged, e.ID))
	})
}

// TendRechecks brings the dates that go by the rule up to date with how much is read,
// and tells owners, and later stewards, of what is due.
func (a *Rechecks) TendRechecks(ctx context.Context) error {
	return a.base.Transaction(ctx, func(tx *gorm.DB) error {
		// One at a time, or two would both find that nobody was told yet.
		if err := tx.Exec(`SELECT pg_advisory_xact_lock(?)`, recheckLock).Error; err != nil {
			return err
		}
		if err := a.redateRechecks(tx); err != nil {
			return err
		}
		return a.tellRechecks(tx)
	})
}

// recheckLock keeps rechecking apart from other advisory locks.
const recheckLock = 7346

func (a *Rechecks) redateRechecks(tx *gorm.DB) error {
	base, err := readRecheckBase(tx)
	if err != nil {
		return err
	}
	a.useLock.Lock()
	a.useKept = nil
	a.useLock.Unlock()
	uses, err := a.uses(tx)
	if err != nil {
		return err
	}
	var rows []store.Article
	err = tx.Raw(`SELECT a.*
		FROM articles a
		JOIN editions e ON e.article_id = a.id AND e.language = ? AND e.live_revision_id IS NOT NULL
		WHERE a.recheck_by_rule AND NOT a.recheck_fixed AND a.checked_on IS NOT NULL
		ORDER BY a.id FOR UPDATE OF a SKIP LOCKED`, article.SourceLanguage).
		Scan(&rows).
		Error
	if err != nil {
		return err
	}
	for _, row := range rows {
		days := review.RecheckDays(row.Kind, uses[article.Reference(row.Number)], base)
		on := row.CheckedOn.AddDate(0, 0, days)
		if days == row.RecheckDays && on.Equal(row.RecheckOn) {
			continue
		}
		if err := tx.Exec(
			`UPDATE articles SET recheck_days = ?, recheck_on = ? WHERE id = ?`,
			days,
			on,
			row.ID,
		).Error; err != nil {
			return err
		}
	}
	return nil
}

// tellRechecks tells each owner once of each date that came, and the steward once
// when the owner let it lie.
func (a *Rechecks) tellRechecks(tx *gorm.DB) error {
	today := a.base.Today()
	var rows []struct {
		Number    int
		Title     string
		OwnerID   int64
		Category  int64
		RecheckOn time.Time
	}
	err := tx.Raw(`SELECT a.number, e.title, a.owner_id, a.category_id AS category, a.recheck_on FROM articles a
		JOIN editions e ON e.article_id = a.id AND e.language = ? AND e.live_revision_id IS NOT NULL
		WHERE a.recheck_on <= ? ORDER BY a.recheck_on, a.id LIMIT 5000`, article.SourceLanguage, today).Scan(&rows).Error
	if err != nil {
		return err
	}
	stewards := map[int64]int64{}
	for _, r := range rows {
		path := "/library/" + article.Reference(r.Number)
		if err := a.tellOnce(
			tx,
			r.OwnerID,
			r.RecheckOn,
			fmt.Sprintf("Is “%s” still true? Its recheck was due on %s.", r.Title, r.RecheckOn.Format("2 January")),
			path,
		); err != nil {
			return err
		}
		if r.RecheckOn.AddDate(0, 0, OverdueGrace).After(today) {
			continue
		}
		steward, known := stewards[r.Category]
		if !known {
			reviewing, err := ReviewingOf(tx, r.Category)
			if err != nil {
				return err
			}
			steward = reviewing.StewardID
			stewards[r.Category] = steward
		}
		if steward != 0 && steward != r.OwnerID {
			text := fmt.Sprintf(
				"“%s” has been overdue for its recheck since %s, and its owner has not looked.",
				r.Title,
				r.RecheckOn.Format("2 January"),
			)
			if err := a.tellOnce(tx, steward, r.RecheckOn, text, path); err != nil {
				return err
			}
		}
	}
	return nil
}

func (a *Rechecks) tellOnce(tx *gorm.DB, id int64, since time.Time, text, path string) error {
	var told int
	err := tx.Raw(`SELECT count(*)
		FROM news
		WHERE staff_id = ? AND kind = ? AND path = ? AND at >= ?`, id, notify.NewsRecheck, path, since).
		Scan(&told).
		Error
	if err != nil || told > 0 {
		return err
	}
	return a.notify.Tell(tx, notify.NewsRecheck, []int64{id}, text, path)
}
