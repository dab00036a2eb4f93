package accounts_test

import (
	"testing"
	"time"

	"hermeneus/app/accounts"
	"hermeneus/app/apptest"
	"hermeneus/app/problem"
	"hermeneus/core/role"
)

func TestSigningIn(t *testing.T) {
	w := apptest.Open(t)
	ada := w.Hire("ada", role.Author)
	session, who, err := w.Accounts.SignInStaff(
		w.Context,
		accounts.SignIn{Email: "ADA@wrenmoor.example", Password: "a long password", Network: "here"},
	)
	w.Must(err)
	if who.ID != ada.ID || !who.Roles.Has(role.Author) {
		t.Errorf("signed in as %+v", who)
	}
	for name, err := range map[string]error{
		"a wrong password":   apptest.Third(w.Accounts.SignInStaff(w.Context, accounts.SignIn{Email: "ada@wrenmoor.example", Password: "a wrong password", Network: "there"})),
		"an unknown address": apptest.Third(w.Accounts.SignInStaff(w.Context, accounts.SignIn{Email: "eve@wrenmoor.example", Password: "a long password", Network: "there"})),
	} {
		if apptest.KindOf(err) != problem.WrongLogin {
			t.Errorf("%s: %v", name, err)
		}
	}
	w.Must(w.Accounts.SignOut(w.Context, session.Token))
	if _, err := w.Accounts.StaffOf(w.Context, session.Token); apptest.KindOf(err) != problem.NotSigned {
		t.Errorf("after signing out: %v", err)
	}
	session, _, err = w.Accounts.SignInStaff(
		w.Context,
		accounts.SignIn{Email: "ada@wrenmoor.example", Password: "a long password", Network: "here"},
	)
	w.Must(err)
	w.Wait(13 * time.Hour)
	if _, err := w.Accounts.StaffOf(w.Context, session.Token); apptest.KindOf(err) != problem.NotSigned {
		t.Errorf("after thirteen hours: %v", err)
	}
}
