package accounts_test

import (
	"fmt"
	"regexp"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"hermeneus/app/accounts"
	"hermeneus/app/apptest"
	"hermeneus/app/desk"
	"hermeneus/app/instance"
	"hermeneus/app/problem"
	"hermeneus/core/role"
)

// entering is one address that tries to sign in.
func entering(w *apptest.World, email, password, network, browser string) (accounts.Session, error) {
	session, _, err := w.Accounts.SignInStaff(
		w.Context,
		accounts.SignIn{Email: email, Password: password, Network: network, Browser: browser},
	)
	return session, err
}

// Attempts are counted before the password is looked at: of many at once only those are made
// that may be.
func TestManyGuessesAtOnceAreCountedFirst(t *testing.T) {
	w := apptest.OpenIdle(t)
	w.Hire("ada", role.Author)
	var looked, refused atomic.Int64
	var wait sync.WaitGroup
	for i := range 40 {
		wait.Go(func() {
			switch _, err := entering(w, "ada@wrenmoor.example", fmt.Sprintf("guess number %d", i), "192.0.2.1", ""); apptest.KindOf(
				err,
			) {
			case problem.WrongLogin:
				looked.Add(1)
			case problem.TooMany:
				refused.Add(1)
			}
		})
	}
	wait.Wait()
	if looked.Load() != 5 || refused.Load() != 35 {
		t.Errorf("of 40 at once %d were looked at, %d refused", looked.Load(), refused.Load())
	}
	if _, err := entering(
		w,
		"ada@wrenmoor.example",
		"a long password",
		"192.0.2.1",
		"",
	); apptest.KindOf(err) != problem.TooMany ||
		!strings.Contains(err.Error(), "Wait 2 seconds") {
		t.Errorf("the next, at once: %v", err)
	}
	w.Wait(2 * time.Second)
	_, err := entering(w, "ada@wrenmoor.example", "a long password", "192.0.2.1", "")
	w.Must(err)
}

// Whatever strangers do, a person gets in: from elsewhere, and with a browser that they used
// before even from the same address.
func TestStrangersLockNobodyOut(t *testing.T) {
	w := apptest.OpenIdle(t)
	w.Hire("ada", role.Author)
	before, err := entering(w, "ada@wrenmoor.example", "a long password", "198.51.100.7", "")
	w.Must(err)
	for i := range 300 {
		_, _ = entering(w, "ada@wrenmoor.example", "a wrong guess", fmt.Sprintf("192.0.2.%d", i%60), "")
	}
	for i := range 40 {
		_, _ = entering(w, "ada@wrenmoor.example", "a wrong guess", "198.51.100.7", fmt.Sprintf("invented %d", i))
	}
	_, err = entering(w, "ada@wrenmoor.example", "a long password", "203.0.113.5", "")
	w.Must(err)
	again, err := entering(w, "ada@wrenmoor.example", "a long password", "198.51.100.7", before.Browser)
	w.Must(err)
	if again.Browser != before.Browser {
		t.Error("the browser is known by another name now")
	}
	if _, err := entering(
		w,
		"ada@wrenmoor.example",
		"a long password",
		"198.51.100.7",
		"",
	); apptest.KindOf(err) != problem.TooMany {
		t.Errorf("a strange browser there does not wait: %v", err)
	}
	// The trail tells of it, and is not flooded.
	rows, total, err := w.Desk.Trail(w.Context, apptest.Reader, desk.TrailFilter{Action: "sign-in slowed"})
	w.Must(err)
	if total != 1 || rows[0].Subject != "ada" || !strings.Contains(rows[0].Note, "192.0.2.") {
		t.Errorf("%d lines: %+v", total, rows)
	}
	for i := range 50 {
		_, _ = entering(w, fmt.Sprintf("nobody%d@wrenmoor.example", i), "a wrong guess", "192.0.2.200", "")
	}
	if _, after, err := w.Desk.Trail(w.Context, apptest.Reader, desk.TrailFilter{}); err != nil || after > 10 {
		t.Errorf("strangers made %d lines of the trail, %v", after, err)
	}
}

// linkKey takes the key out of the latest mail to an address.
func linkKey(t *testing.T, w *apptest.World, address string) string {
	t.Helper()
	var body string
	w.Must(w.DB().Raw(`SELECT body FROM mails WHERE address = ? ORDER BY id DESC LIMIT 1`, address).Scan(&body).Error)
	found := regexp.MustCompile(`new-password(?:/|\?key=)([\w-]{20,})`).FindStringSubmatch(body)
	if found == nil {
		t.Fatalf("no link in %q", body)
	}
	return found[1]
}

func TestPasswordsAreChangedAndSetAnew(t *testing.T) {
	w := apptest.OpenIdle(t)
	ada := w.Hire("ada", role.Author)
	max := w.Hire("max", role.Administrator)
	one, err := entering(w, ada.Email, "a long password", "here", "")
	w.Must(err)
	two, err := entering(w, ada.Email, "a long password", "here", "")
	w.Must(err)
	for what, n := range map[string]accounts.NewPassword{
		"a wrong present one": {Present: "another password", Next: "quite a new password"},
		"a short next one":    {Present: "a long password", Next: "short"},
		"nothing":             {},
	} {
		if err := w.Accounts.ChangeStaffPassword(w.Context, ada, n); apptest.KindOf(err) != problem.Invalid {
			t.Errorf("%s: %v", what, err)
		}
	}
	keyed := instance.Once(w.Context, "a key", "the same")
	for range 2 { // sent again, a wrong one is wrong again, and not done
		if err := w.Accounts.ChangeStaffPassword(
			keyed,
			ada,
			accounts.NewPassword{Present: "another password", Next: "quite a new password"},
		); apptest.KindOf(err) != problem.Invalid {
			t.Errorf("a wrong present one under a key: %v", err)
		}
	}
	w.Wait(time.Hour)
	w.Must(
		w.Accounts.ChangeStaffPassword(
			w.Context,
			ada,
			accounts.NewPassword{Present: "a long password", Next: "quite a new password", Session: one.Token},
		),
	)
	w.Must(apptest.Second(w.Accounts.StaffOf(w.Context, one.Token)))
	if _, err := w.Accounts.StaffOf(w.Context, two.Token); apptest.KindOf(err) != problem.NotSigned {
		t.Errorf("another session goes on with the old password: %v", err)
	}
	if _, err := entering(w, ada.Email, "a long password", "here", ""); apptest.KindOf(err) != problem.WrongLogin {
		t.Errorf("the old password: %v", err)
	}

	// By a link in a mail, which says nothing of who is there, works once, and ends.
	w.Must(w.Accounts.AskPasswordLink(w.Context, true, "nobody@wrenmoor.example"))
	for range 9 {
		w.Must(w.Accounts.AskPasswordLink(w.Context, true, " ADA@wrenmoor.example"))
	}
	var sent int
	w.Must(w.DB().Raw(`SELECT count(*) FROM mails`).Scan(&sent).Error)
	if sent != 3 {
		t.Errorf("asked ten times within the hour, %d mails are on their way", sent)
	}
	key := linkKey(t, w, ada.Email)
	if email, err := w.Accounts.PasswordLinkOf(w.Context, key); err != nil || email != ada.Email {
		t.Errorf("the link is for %q, %v", email, err)
	}
	if err := w.Accounts.SetPasswordByLink(w.Context, key, "short"); apptest.KindOf(err) != problem.Invalid {
		t.Errorf("a short one by a link: %v", err)
	}
	w.Must(w.Accounts.SetPasswordByLink(w.Context, key, "a third password"))
	if err := w.Accounts.SetPasswordByLink(w.Context, key, "a fourth password"); apptest.KindOf(err) != problem.Ended {
		t.Errorf("used twice: %v", err)
	}
	if _, err := w.Accounts.StaffOf(w.Context, one.Token); apptest.KindOf(err) != problem.NotSigned {
		t.Errorf("signed in as before after a reset: %v", err)
	}
	_, err = entering(w, ada.Email, "a third password", "here", "")
	w.Must(err)
	w.Wait(2 * time.Hour)
	w.Must(w.Accounts.AskPasswordLink(w.Context, true, ada.Email))
	late := linkKey(t, w, ada.Email)
	w.Wait(3 * time.Hour)
	if err := w.Accounts.SetPasswordByLink(w.Context, late, "a fourth password"); apptest.KindOf(err) != problem.Ended {
		t.Errorf("three hours later: %v", err)
	}

	// By an administrator, and from the command line.
	if err := w.Accounts.SendPasswordLink(w.Context, ada, true, max.ID); apptest.KindOf(err) != problem.Denied {
		t.Errorf("an author sends links: %v", err)
	}
	w.Must(w.Accounts.SendPasswordLink(w.Context, max, true, ada.ID))
	w.Must(w.Accounts.SetPasswordByLink(w.Context, linkKey(t, w, ada.Email), "a fourth password"))
	w.Must(w.Accounts.SetPasswordOf(w.Context, true, ada.Email, "a fifth password"))
	_, err = entering(w, ada.Email, "a fifth password", "here", "")
	w.Must(err)
	rows, _, err := w.Desk.Trail(w.Context, apptest.Reader, desk.TrailFilter{Words: "ada"})
	w.Must(err)
	said := map[string]bool{}
	for _, r := range rows {
		said[r.Action] = true
	}
	for _, action := range []string{"signed in", "password changed", "password link sent", "password set by a link", "password set from the command line"} {
		if !said[action] {
			t.Errorf("the trail does not say %q", action)
		}
	}
}

func TestACustomerIsDisabled(t *testing.T) {
	w := apptest.OpenIdle(t)
	c := w.Crew()
	id, err := w.Accounts.People.AddCustomer(w.Context, "Wim Ott", "wim@post.example", "a long password")
	w.Must(err)
	enter := func() (accounts.Session, error) {
		return w.Accounts.SignInCustomer(
			w.Context,
			accounts.SignIn{Email: "wim@post.example", Password: "a long password", Network: "here"},
		)
	}
	session, err := enter()
	w.Must(err)
	list, total, err := w.Accounts.Customers(w.Context, c.Administrator, "OTT", 0)
	w.Must(err)
	if total != 1 || list[0].ID != id || list[0].Disabled {
		t.Errorf("listed %+v of %d", list, total)
	}
	if err := w.Accounts.ChangeCustomer(w.Context, c.Publisher, id, true); apptest.KindOf(err) != problem.Denied {
		t.Errorf("a publisher disables customers: %v", err)
	}
	w.Must(w.Accounts.SendPasswordLink(w.Context, c.Administrator, false, id))
	key := linkKey(t, w, "wim@post.example")
	w.Must(w.Accounts.ChangeCustomer(w.Context, c.Administrator, id, true))
	if _, ok, err := w.Accounts.CustomerOf(w.Context, session.Token); err != nil || ok {
		t.Errorf("still signed in: %v, %v", ok, err)
	}
	if _, err := enter(); apptest.KindOf(err) != problem.WrongLogin {
		t.Errorf("signs in all the same: %v", err)
	}
	if err := w.Accounts.SetPasswordByLink(w.Context, key, "another password"); apptest.KindOf(err) != problem.Ended {
		t.Errorf("sets a password by a link from before: %v", err)
	}
	w.Must(w.Accounts.ChangeCustomer(w.Context, c.Administrator, id, false))
	_, err = enter()
	w.Must(err)
	// The name stands in notes that administrators alone read.
	rows, _, err := w.Desk.Trail(w.Context, c.Agent, desk.TrailFilter{Words: "Ott"})
	if err != nil || len(rows) > 0 {
		t.Errorf("an agent finds the customer in the trail: %+v, %v", rows, err)
	}
}
