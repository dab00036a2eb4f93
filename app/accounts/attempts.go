package accounts

import (
	"context"
	"errors"
	"fmt"
	"math"
	"strings"
	"time"

	"gorm.io/gorm"

	"hermeneus/app/problem"
	"hermeneus/app/staff"
	"hermeneus/core/pace"
	"hermeneus/store"
)

// BrowserKnown is how long a browser that signed in is known for it.
const BrowserKnown = 400 * 24 * time.Hour

// holder is somebody who can sign in, or a mail address that nobody has (id 0).
type holder struct {
	id      int64
	staff   bool // else a customer
	account string
	name    string
	email   string
	hash    string // of the password
}

func (h holder) staffID() *int64 {
	if !h.staff {
		return nil
	}
	return &h.id
}

func (h holder) customerID() *int64 {
	if h.staff {
		return nil
	}
	return &h.id
}

// table is where holders of this kind are kept.
func (h holder) table() string {
	if h.staff {
		return "staff"
	}
	return "customers"
}

// holderOf finds who signs in with a mail address and is not disabled.
func (a *Accounts) holderOf(db *gorm.DB, staff bool, email string) (holder, error) {
	email = strings.ToLower(strings.TrimSpace(email))
	return a.findHolder(db, holder{staff: staff, account: "customer:" + email}, "lower(email) = ?", email)
}

// holderByID is holderOf for somebody who is known otherwise.
func (a *Accounts) holderByID(db *gorm.DB, staff bool, id int64) (holder, error) {
	return a.findHolder(db, holder{staff: staff}, "id = ?", id)
}

func (a *Accounts) findHolder(db *gorm.DB, h holder, where string, value any) (holder, error) {
	var row struct {
		ID                        int64
		Email, Name, PasswordHash string
	}
	err := db.Raw(`SELECT id, email, name, password_hash
		FROM `+h.table()+` WHERE disabled_at IS NULL AND `+where, value).
		Scan(&row).
		Error
	if err != nil {
		return h, fmt.Errorf("looking up who signs in: %w", err)
	}
	h.id, h.email, h.name, h.hash = row.ID, row.Email, row.Name, row.PasswordHash
	address := strings.ToLower(row.Email)
	if row.ID == 0 {
		_, address, _ = strings.Cut(h.account, ":")
	}
	h.account = map[bool]string{true: "staff:", false: "customer:"}[h.staff] + address
	return h, nil
}

// beginAttempt counts an attempt as failed until it turns out to be right, or refuses it
// because of those before. It gives the number that it is counted under.
func (a *Accounts) beginAttempt(ctx context.Context, who holder, s SignIn) (int64, error) {
	now := a.base.Now()
	var wait time.Duration
	var row store.SignInFailure
	// Not under the request's key: an attempt is nothing made, and is counted each time.
	err := a.base.DB.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		// One after the other, for an account and for a network: each sees those before.
		for _, lock := range []string{"account " + who.account, "network " + s.Network} {
			if err := tx.Exec(`SELECT pg_advisory_xact_lock(hashtextextended(?, 0))`, lock).Error; err != nil {
				return err
			}
		}
		before, err := a.attemptsBefore(tx, who, s)
		if err != nil {
			return err
		}
		slow := before
		slow.Pair.Count++
		slow.Account.Count++
		if slow.Slow() && who.id != 0 {
			if err := a.noteSlow(tx, who, s); err != nil {
				return err
			}
		}
		if wait = before.Wait(now); wait > 0 {
			return nil
		}
		row = store.SignInFailure{Account: who.account, Network: s.Network, At: now}
		if s.Browser != "" {
			row.Browser = TokenHash(s.Browser)
		}
		return tx.Create(&row).Error
	})
	if err != nil {
		return 0, fmt.Errorf("signing in: %w", err)
	}
	if wait > 0 {
		return 0, problem.New(
			problem.TooMany,
			"Too many wrong passwords. Wait %s and try again, or set a new password.",
			inWordsWait(wait),
		)
	}
	return row.ID, nil
}

func inWordsWait(wait time.Duration) string {
	if wait > time.Minute {
		return fmt.Sprintf("%d minutes", int(math.Ceil(wait.Minutes())))
	}
	if n := int(math.Ceil(wait.Seconds())); n != 1 {
		return fmt.Sprintf("%d seconds", n)
	}
	return "1 second"
}

// attemptsBefore reads what an attempt is held against.
func (a *Accounts) attemptsBefore(tx *gorm.DB, who holder, s SignIn) (pace.Scopes, error) {
	var rows []struct {
		Scope string
		Count int
		Last  time.Time
	}
	browser := TokenHash(s.Browser)
	err := tx.Raw(`WITH lately AS
			(SELECT * FROM sign_in_failures WHERE at > @since AND (account = @account OR network = @network))
		SELECT 'pair' AS scope, count(*) AS count, max(at) AS last FROM lately
		WHERE account = @account AND network = @network HAVING count(*) > 0
		UNION ALL SELECT 'network', count(*), max(at) FROM lately WHERE network = @network HAVING count(*) > 0
		UNION ALL SELECT 'account', count(*), max(at) FROM lately WHERE account = @account HAVING count(*) > 0
		UNION ALL SELECT 'browser', count(*), max(at) FROM lately
		WHERE account = @account AND browser = @browser HAVING count(*) > 0`,
		map[string]any{
			"since":   a.base.Now().Add(-pace.Window),
			"account": who.account,
			"network": s.Network,
			"browser": browser,
		}).
		Scan(&rows).
		Error
	if err != nil {
		return pace.Scopes{}, err
	}
	var scopes pace.Scopes
	for _, r := range rows {
		into := map[string]*pace.Tries{"pair": &scopes.Pair, "network": &scopes.Network, "account": &scopes.Account, "browser": &scopes.Browser}[r.Scope]
		*into = pace.Tries{Count: r.Count, Last: r.Last}
	}
	err = tx.Raw(`SELECT EXISTS (SELECT 1 FROM known_browsers WHERE token_hash = ? AND account = ?)`, browser, who.account).
		Scan(&scopes.Known).
		Error
	return scopes, err
}

// toldSlowEvery is how often the trail says that somebody tries passwords of an account:
// strangers cannot flood it.
const toldSlowEvery = time.Hour

func (a *Accounts) noteSlow(tx *gorm.DB, who holder, s SignIn) error {
	const action = "sign-in slowed"
	var told bool
	err := tx.Raw(`SELECT EXISTS (SELECT 1 FROM trail WHERE action = ? AND subject = ? AND at > ?)`, action, who.subject(), a.base.Now().Add(-toldSlowEvery)).
		Scan(&told).
		Error
	if err != nil || told {
		return err
	}
	return a.noteHolder(tx, staff.Program, who, action, "many wrong passwords, lately from "+s.Network)
}

// subject is what the trail calls a holder: customers by number, their names only in the note.
func (h holder) subject() string {
	if h.staff {
		return h.name
	}
	return fmt.Sprintf("customer %d", h.id)
}

// noteHolder adds a line about somebody who can sign in, whose note administrators alone read.
func (a *Accounts) noteHolder(tx *gorm.DB, by staff.Staff, who holder, action, note string) error {
	if !who.staff {
		note = strings.TrimSuffix(who.name+": "+note, ": ")
	}
	return a.trail.Note(tx, by, store.Trail{Subject: who.subject(), Action: action, Note: note, Private: true})
}

// EndOldSignIns lets go of the sessions, attempts, browsers and links that have had their time.
func (a *Accounts) EndOldSignIns(ctx context.Context) error {
	db, now := a.base.DB.WithContext(ctx), a.base.Now()
	return errors.Join(
		db.Exec(`DELETE FROM sessions WHERE expires_at < ?`, now).Error,
		db.Exec(`DELETE FROM sign_in_failures WHERE at < ?`, now.Add(-max(24*time.Hour, pace.Window))).Error,
		db.Exec(`DELETE FROM known_browsers WHERE seen_at < ?`, now.Add(-BrowserKnown)).Error,
		db.Exec(`DELETE FROM password_links WHERE expires_at < ?`, now.Add(-time.Hour)).Error,
	)
}
