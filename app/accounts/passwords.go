package accounts

import (
	"context"
	"errors"
	"fmt"
	"net/url"
	"time"

	"github.com/alexedwards/argon2id"
	"gorm.io/gorm"

	"hermeneus/app/evidence"
	"hermeneus/app/instance"
	"hermeneus/app/problem"
	"hermeneus/app/staff"
	"hermeneus/core/role"
	"hermeneus/store"
)

// looksPerProcessor is how many passwords are looked at at once for each processor.
const looksPerProcessor = 2

// How long a link to set a password works, and how many may be asked for in an hour.
const (
	passwordLinkLasts   = 2 * time.Hour
	passwordLinksInHour = 3
)

func checkPassword(f *problem.Fields, name, password string) {
	f.Require(len(password) >= 10, name, "At least 10 characters.")
	f.AtMost(name, password, 200)
}

// looking waits for a place to look at a password; done gives it back.
func (a *Accounts) looking(ctx context.Context) (done func(), err error) {
	select {
	case a.looks <- struct{}{}:
		return func() { <-a.looks }, nil
	case <-ctx.Done():
		return nil, ctx.Err()
	}
}

func (a *Accounts) hashOf(ctx context.Context, password string) (string, error) {
	done, err := a.looking(ctx)
	if err != nil {
		return "", err
	}
	defer done()
	return argon2id.CreateHash(password, a.hashing)
}

func (a *Accounts) isRight(ctx context.Context, password, hash string) (bool, error) {
	done, err := a.looking(ctx)
	if err != nil {
		return false, err
	}
	defer done()
	right, err := argon2id.ComparePasswordAndHash(password, hash)
	if err != nil {
		return false, fmt.Errorf("comparing a password: %w", err)
	}
	return right, nil
}

// NewPassword is what somebody who is signed in wants as their password.
type NewPassword struct {
	Present, Next string
	Session       string // the token that goes on; every other session of theirs ends
	Network       string
}

// ChangeStaffPassword changes one's own password.
func (a *Accounts) ChangeStaffPassword(ctx context.Context, by staff.Staff, n NewPassword) error {
	return a.changePassword(ctx, true, by.ID, n)
}

// ChangeCustomerPassword changes one's own password.
func (a *Accounts) ChangeCustomerPassword(ctx context.Context, v evidence.Visitor, n NewPassword) error {
	if v.Customer == nil {
		return problem.New(problem.NotSigned, "Sign in first.")
	}
	return a.changePassword(ctx, false, v.Customer.ID, n)
}

func (a *Accounts) changePassword(ctx context.Context, ofStaff bool, id int64, n NewPassword) error {
	var f problem.Fields
	f.Require(n.Present != "", "present", "This is missing.")
	f.AtMost("present", n.Present, 200)
	checkPassword(&f, "next", n.Next)
	if err := f.Err(); err != nil {
		return err
	}
	who, err := a.holderByID(a.base.DB.WithContext(ctx), ofStaff, id)
	if err != nil {
		return err
	}
	attempt, err := a.beginAttempt(ctx, who, SignIn{Network: n.Network}) // a password can be guessed here too
	if err != nil {
		return err
	}
	right, err := a.isRight(ctx, n.Present, who.hash)
	if err != nil {
		return err
	}
	if !right {
		return problem.OfField("present", "This is not your present password.")
	}
	if err := a.base.DB.WithContext(ctx).Delete(&store.SignInFailure{}, attempt).Error; err != nil {
		return err
	}
	return a.setPassword(
		ctx,
		staff.Staff{ID: instance.IDOrZero(who.staffID())},
		who,
		n.Next,
		n.Session,
		"password changed",
	)
}

// setPassword gives somebody another password. Every session but the one named ends, and
// every link that would set another.
func (a *Accounts) setPassword(
	ctx context.Context,
	by staff.Staff,
	who holder,
	password, session, action string,
) error {
	hash, err := a.hashOf(ctx, password)
	if err != nil {
		return err
	}
	return a.base.Transaction(ctx, func(tx *gorm.DB) error {
		if err := tx.Exec(`UPDATE `+who.table()+` SET password_hash = ? WHERE id = ?`, hash, who.id).Error; err != nil {
			return err
		}
		column := map[bool]string{true: "staff_id", false: "customer_id"}[who.staff]
		return errors.Join(
			tx.Exec(`DELETE FROM sessions WHERE `+column+` = ? AND token_hash <> ?`, who.id, TokenHash(session)).Error,
			tx.Exec(`DELETE FROM password_links WHERE `+column+` = ?`, who.id).Error,
			tx.Exec(`DELETE FROM sign_in_failures WHERE account = ?`, who.account).Error,
			a.noteHolder(tx, by, who, action, ""))
	})
}

// AskPasswordLink sends whoever signs in with a mail address a link to set a new password.
// It never says whether there is anybody.
func (a *Accounts) AskPasswordLink(ctx context.Context, ofStaff bool, email string) error {
	var f problem.Fields
	f.Text("email", email, 200)
	if err := f.Err(); err != nil {
		return err
	}
	who, err := a.holderOf(a.base.DB.WithContext(ctx), ofStaff, email)
	if err != nil || who.id == 0 {
		return err
	}
	return a.base.Transaction(ctx, func(tx *gorm.DB) error {
		if err := tx.Exec(
			`SELECT pg_advisory_xact_lock(hashtextextended(?, 0))`,
			"link "+who.account,
		).Error; err != nil {
			return err
		}
		var lately int
		err := tx.Raw(`SELECT count(*) FROM password_links WHERE (staff_id = ? OR customer_id = ?) AND made_at > ?`,
			who.staffID(), who.customerID(), a.base.Now().Add(-time.Hour)).Scan(&lately).Error
		if err != nil || lately >= passwordLinksInHour {
			return err
		}
		return a.mailPasswordLink(tx, staff.Program, who)
	})
}

// SendPasswordLink sends somebody, of the staff or a customer, a link to set a new password.
func (a *Accounts) SendPasswordLink(ctx context.Context, by staff.Staff, ofStaff bool, id int64) error {
	if err := by.May("Sending a link to set a password", role.Administrator); err != nil {
		return err
	}
	return a.base.Transaction(ctx, func(tx *gorm.DB) error {
		who, err := a.holderByID(tx, ofStaff, id)
		if err != nil {
			return err
		}
		if who.id == 0 {
			return problem.New(problem.NotFound, "There is nobody such who can sign in.")
		}
		return a.mailPasswordLink(tx, by, who)
	})
}

func (a *Accounts) mailPasswordLink(tx *gorm.DB, by staff.Staff, who holder) error {
	token, hash := NewToken()
	now := a.base.Now()
	row := store.PasswordLink{
		TokenHash:  hash,
		StaffID:    who.staffID(),
		CustomerID: who.customerID(),
		MadeAt:     now,
		ExpiresAt:  now.Add(passwordLinkLasts),
	}
	if err := tx.Create(&row).Error; err != nil {
		return err
	}
	at := a.base.Address + "/help/new-password?key=" + url.QueryEscape(token)
	if who.staff {
		at = a.base.Address + "/staff/new-password/" + token
	}
	text := "Somebody, most likely you, asked for a new password for " + who.email + ".\n\nSet it here within two hours:\n" + at +
		"\n\nIf it was not you, leave this mail be: your password stays as it is.\n"
	if err := a.notify.SendMail(tx, who.email, "Set a new password", text); err != nil {
		return err
	}
	return a.noteHolder(tx, by, who, "password link sent", "")
}

// linked finds whose password a link sets.
func (a *Accounts) linked(db *gorm.DB, key string) (holder, error) {
	var row store.PasswordLink
	err := db.Where("token_hash = ? AND expires_at > ?", TokenHash(key), a.base.Now()).Limit(1).Find(&row).Error
	if err != nil {
		return holder{}, err
	}
	var who holder
	switch {
	case row.StaffID != nil:
		who, err = a.holderByID(db, true, *row.StaffID)
	case row.CustomerID != nil:
		who, err = a.holderByID(db, false, *row.CustomerID)
	}
	if err == nil && who.id == 0 {
		return holder{}, problem.New(problem.Ended, "This link has ended, or was used. Ask for another.")
	}
	return who, err
}

// PasswordLinkOf gives the mail address whose password a link sets.
func (a *Accounts) PasswordLinkOf(ctx context.Context, key string) (email string, err error) {
	who, err := a.linked(a.base.DB.WithContext(ctx), key)
	return who.email, err
}

// SetPasswordByLink sets a new password for whoever the link was sent to. The link ends.
func (a *Accounts) SetPasswordByLink(ctx context.Context, key, password string) error {
	var f problem.Fields
	checkPassword(&f, "password", password)
	if err := f.Err(); err != nil {
		return err
	}
	who, err := a.linked(a.base.DB.WithContext(ctx), key)
	if err != nil {
		return err
	}
	return a.setPassword(
		ctx,
		staff.Staff{ID: instance.IDOrZero(who.staffID())},
		who,
		password,
		"",
		"password set by a link",
	)
}

// SetPasswordOf sets a password from the command line, where no one is signed in.
func (a *Accounts) SetPasswordOf(ctx context.Context, ofStaff bool, email, password string) error {
	var f problem.Fields
	checkPassword(&f, "password", password)
	if err := f.Err(); err != nil {
		return err
	}
	who, err := a.holderOf(a.base.DB.WithContext(ctx), ofStaff, email)
	if err != nil {
		return err
	}
	if who.id == 0 {
		return problem.New(problem.NotFound, "Nobody who can sign in has the mail address %s.", email)
	}
	return a.setPassword(ctx, staff.Program, who, password, "", "password set from the command line")
}
