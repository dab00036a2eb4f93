package app

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"encoding/base64"
	"errors"
	"fmt"
	"strings"
	"time"

	"github.com/alexedwards/argon2id"
	"gorm.io/gorm"

	"hermeneus/core/role"
	"hermeneus/store"
)

// How long sessions last, and how many wrong passwords are borne in a while.
const (
	staffSession    = 12 * time.Hour
	customerSession = 30 * 24 * time.Hour
	failureWindow   = 15 * time.Minute
	failuresByMail  = 8
	failuresByPlace = 40
)

// Session is a new sign-in: the token goes to the browser and nowhere else.
type Session struct {
	Token   string
	Expires time.Time
}

// newToken gives 256 random bits, and the hash they are known by.
func newToken() (token string, hash []byte) {
	raw := make([]byte, 32)
	_, _ = rand.Read(raw) // never fails, by its documentation
	token = base64.RawURLEncoding.EncodeToString(raw)
	return token, tokenHash(token)
}

func tokenHash(token string) []byte {
	sum := sha256.Sum256([]byte(token))
	return sum[:]
}

// SignInStaff opens a session. place is the network address it comes from.
func (a *App) SignInStaff(ctx context.Context, email, password, place string) (Session, Staff, error) {
	var row store.Staff
	session, err := a.signIn(ctx, email, password, place, staffSession, func(tx *gorm.DB) (string, *store.Session, error) {
		err := tx.Where("lower(email) = lower(?) AND disabled_at IS NULL", email).First(&row).Error
		return row.PasswordHash, &store.Session{StaffID: &row.ID}, err
	})
	if err != nil {
		return Session{}, Staff{}, err
	}
	who, err := a.StaffOf(ctx, session.Token)
	return session, who, err
}

// SignInCustomer opens a session for a customer of the help centre.
func (a *App) SignInCustomer(ctx context.Context, email, password, place string) (Session, error) {
	var row store.Customer
	return a.signIn(ctx, email, password, place, customerSession, func(tx *gorm.DB) (string, *store.Session, error) {
		err := tx.Where("lower(email) = lower(?)", email).First(&row).Error
		return row.PasswordHash, &store.Session{CustomerID: &row.ID}, err
	})
}

func (a *App) signIn(ctx context.Context, email, password, place string, lasts time.Duration,
	find func(*gorm.DB) (string, *store.Session, error)) (Session, error) {
	var f fields
	f.text("email", email, 200)
	f.require(password != "", "password", "This is missing.")
	f.atMost("password", password, 200)
	if err := f.err(); err != nil {
		return Session{}, err
	}
	db := a.db.WithContext(ctx)
	byMail, byPlace := "mail:"+strings.ToLower(email), "place:"+place
	if err := a.refuseGuessing(db, byMail, byPlace); err != nil {
		return Session{}, err
	}
	hash, session, err := find(db)
	known := err == nil
	if err != nil && !errors.Is(err, gorm.ErrRecordNotFound) {
		return Session{}, fmt.Errorf("signing in: %w", err)
	}
	if !known {
		hash = decoy // so that an unknown address takes as long as a known one
	}
	right, err := argon2id.ComparePasswordAndHash(password, hash)
	if err != nil {
		return Session{}, fmt.Errorf("signing in: %w", err)
	}
	if !right || !known {
		rows := []store.SignInFailure{{Subject: byMail, At: a.now()}, {Subject: byPlace, At: a.now()}}
		if err := db.Create(&rows).Error; err != nil {
			return Session{}, err
		}
		return Session{}, problem(WrongLogin, "The mail address or the password is not right.")
	}
	token, tokenHash := newToken()
	session.TokenHash, session.CreatedAt, session.ExpiresAt = tokenHash, a.now(), a.now().Add(lasts)
	if err := db.Create(session).Error; err != nil {
		return Session{}, fmt.Errorf("signing in: %w", err)
	}
	return Session{token, session.ExpiresAt}, nil
}

// decoy is the hash of a password nobody has.
const decoy = "$argon2id$v=19$m=65536,t=1,p=2$c29tZXNhbHRzb21lc2FsdA$2Y1VJcvYcrYpRDyoHJvM6yjFAqRrgVMC6C0Gzz1nOeE"

func (a *App) refuseGuessing(db *gorm.DB, byMail, byPlace string) error {
	var failures []struct {
		Subject string
		N       int
	}
	err := db.Raw(`SELECT subject, count(*) AS n FROM sign_in_failures WHERE subject IN (?, ?) AND at > ? GROUP BY subject`,
		byMail, byPlace, a.now().Add(-failureWindow)).Scan(&failures).Error
	if err != nil {
		return fmt.Errorf("signing in: %w", err)
	}
	for _, f := range failures {
		if (f.Subject == byMail && f.N >= failuresByMail) || (f.Subject == byPlace && f.N >= failuresByPlace) {
			return problem(TooMany, "Too many wrong passwords. Wait a quarter of an hour and try again.")
		}
	}
	return nil
}

// StaffOf gives who holds the session, or a NotSigned problem.
func (a *App) StaffOf(ctx context.Context, token string) (Staff, error) {
	var row struct {
		store.Staff
		Team string
	}
	err := a.db.WithContext(ctx).Raw(`SELECT staff.*, coalesce(teams.name, '') AS team
		FROM sessions JOIN staff ON staff.id = sessions.staff_id LEFT JOIN teams ON teams.id = staff.team_id
		WHERE token_hash = ? AND expires_at > ? AND disabled_at IS NULL`, tokenHash(token), a.now()).Take(&row).Error
	if errors.Is(err, gorm.ErrRecordNotFound) {
		return Staff{}, problem(NotSigned, "Sign in first. If you were signed in, the session has ended.")
	}
	if err != nil {
		return Staff{}, fmt.Errorf("looking up a session: %w", err)
	}
	return Staff{ID: row.ID, Name: row.Name, Email: row.Email, Team: row.Team, Roles: roles(row.Roles)}, nil
}

func roles(names []string) role.Set {
	var set role.Set
	for _, n := range names {
		set = append(set, role.Role(n))
	}
	return set
}

// SignOut ends a session; it need not exist.
func (a *App) SignOut(ctx context.Context, token string) error {
	return a.db.WithContext(ctx).Where("token_hash = ?", tokenHash(token)).Delete(&store.Session{}).Error
}
