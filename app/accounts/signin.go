package accounts

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"encoding/base64"
	"errors"
	"fmt"
	"time"

	"gorm.io/gorm"

	"hermeneus/app/instance"
	"hermeneus/app/problem"
	"hermeneus/app/staff"
	"hermeneus/store"
)

// How long sessions last.
const (
	staffSession    = 12 * time.Hour
	customerSession = 30 * 24 * time.Hour
)

// Session is a new sign-in: the token goes to the browser and nowhere else.
type Session struct {
	Token       string
	Expires     time.Time
	Browser     string // by which the browser is known from then on
	BrowserEnds time.Time
}

// SignIn is an attempt to sign in.
type SignIn struct {
	Email, Password string
	Network         string // that it comes from
	Browser         string // by which the browser is known, "" for one that is not
}

// NewToken gives 256 random bits, and the hash they are known by.
func NewToken() (token string, hash []byte) {
	raw := make([]byte, 32)
	_, _ = rand.Read(raw) // never fails, by its documentation
	token = base64.RawURLEncoding.EncodeToString(raw)
	return token, TokenHash(token)
}

// TokenHash is how a token is kept: whoever reads the database cannot use it.
func TokenHash(token string) []byte {
	sum := sha256.Sum256([]byte(token))
	return sum[:]
}

// SignInStaff opens a session for somebody on the staff.
func (a *Accounts) SignInStaff(ctx context.Context, s SignIn) (Session, staff.Staff, error) {
	session, err := a.signIn(ctx, s, holder{staff: true}, staffSession)
	if err != nil {
		return Session{}, staff.Staff{}, err
	}
	who, err := a.StaffOf(ctx, session.Token)
	return session, who, err
}

// SignInCustomer opens a session for a customer of the help centre.
func (a *Accounts) SignInCustomer(ctx context.Context, s SignIn) (Session, error) {
	return a.signIn(ctx, s, holder{}, customerSession)
}

// signIn counts the attempt before it looks at the password: however many come at once,
// no more are looked at than may be made.
func (a *Accounts) signIn(ctx context.Context, s SignIn, kind holder, lasts time.Duration) (Session, error) {
	var f problem.Fields
	f.Text("email", s.Email, 200)
	f.Require(s.Password != "", "password", "This is missing.")
	f.AtMost("password", s.Password, 200)
	if err := f.Err(); err != nil {
		return Session{}, err
	}
	who, err := a.holderOf(a.base.DB.WithContext(ctx), kind.staff, s.Email)
	if err != nil {
		return Session{}, err
	}
	attempt, err := a.beginAttempt(ctx, who, s)
	if err != nil {
		return Session{}, err
	}
	hash := who.hash
	if who.id == 0 {
		hash = decoy // so that an unknown address takes as long as a known one
	}
	right, err := a.isRight(ctx, s.Password, hash)
	if err != nil {
		return Session{}, err
	}
	if !right || who.id == 0 {
		return Session{}, problem.New(problem.WrongLogin, "The mail address or the password is not right.")
	}
	return a.admit(ctx, who, s, attempt, lasts)
}

// admit opens the session of who gave the right password.
func (a *Accounts) admit(
	ctx context.Context,
	who holder,
	s SignIn,
	attempt int64,
	lasts time.Duration,
) (Session, error) {
	token, hash := NewToken()
	now := a.base.Now()
	out := Session{Token: token, Expires: now.Add(lasts), Browser: s.Browser, BrowserEnds: now.Add(BrowserKnown)}
	if out.Browser == "" {
		out.Browser, _ = NewToken()
	}
	err := a.base.Transaction(ctx, func(tx *gorm.DB) error {
		if err := tx.Delete(&store.SignInFailure{}, attempt).Error; err != nil {
			return err
		}
		row := store.Session{
			TokenHash:  hash,
			CreatedAt:  now,
			ExpiresAt:  out.Expires,
			StaffID:    who.staffID(),
			CustomerID: who.customerID(),
		}
		if err := tx.Create(&row).Error; err != nil {
			return err
		}
		known := store.KnownBrowser{TokenHash: TokenHash(out.Browser), Account: who.account, SeenAt: now}
		if err := tx.Save(&known).Error; err != nil {
			return err
		}
		return a.noteHolder(tx, staff.Staff{ID: instance.IDOrZero(who.staffID())}, who, "signed in", "from "+s.Network)
	})
	if err != nil {
		return Session{}, fmt.Errorf("signing in: %w", err)
	}
	return out, nil
}

// decoy is the hash of a password nobody has.
const decoy = "$argon2id$v=19$m=65536,t=1,p=2$c29tZXNhbHRzb21lc2FsdA$2Y1VJcvYcrYpRDyoHJvM6yjFAqRrgVMC6C0Gzz1nOeE"

// StaffOf gives who holds the session, or a NotSigned problem.
func (a *Accounts) StaffOf(ctx context.Context, token string) (staff.Staff, error) {
	var row struct {
		store.Staff
		Team string
	}
	err := a.base.DB.WithContext(ctx).Raw(`SELECT staff.*, coalesce(teams.name, '') AS team
		FROM sessions JOIN staff ON staff.id = sessions.staff_id LEFT JOIN teams ON teams.id = staff.team_id
		WHERE token_hash = ? AND expires_at > ? AND disabled_at IS NULL`, TokenHash(token), a.base.Now()).Take(&row).Error
	if errors.Is(err, gorm.ErrRecordNotFound) {
		return staff.Staff{}, problem.New(
			problem.NotSigned,
			"Sign in first. If you were signed in, the session has ended.",
		)
	}
	if err != nil {
		return staff.Staff{}, fmt.Errorf("looking up a session: %w", err)
	}
	return staff.Staff{
		ID:    row.ID,
		Name:  row.Name,
		Email: row.Email,
		Team:  row.Team,
		Roles: staff.RolesOf(row.Roles),
	}, nil
}

// SignOut ends a session; it need not exist.
func (a *Accounts) SignOut(ctx context.Context, token string) error {
	return a.base.DB.WithContext(ctx).Where("token_hash = ?", TokenHash(token)).Delete(&store.Session{}).Error
}
