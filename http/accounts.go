package http

import (
	"context"
	"net/http"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"hermeneus/app/accounts"
	"hermeneus/app/instance"
	"hermeneus/app/staff"
	"hermeneus/core/markup"
	"hermeneus/core/role"
)

// accountsAPI is what app/accounts offers over HTTP.
func accountsAPI(api huma.API, a *accounts.Accounts, secure bool) {
	signInAPI(api, a, secure)
	passwordAPI(api, a)
	customerAPI(api, a)
	peopleAPI(api, a)
}

func signInAPI(api huma.API, a *accounts.Accounts, secure bool) {
	type out struct {
		SetCookie http.Cookie `header:"Set-Cookie"`
	}
	publicCall(
		api,
		op("POST", "/api/staff/session", "sign-in", "Sign in as staff"),
		func(ctx context.Context, in *credentials) (*signedIn, error) {
			browser, _ := ctx.Value(browserKey).(string)
			session, who, err := a.SignInStaff(
				ctx,
				accounts.SignIn{
					Email:    in.Body.Email,
					Password: in.Body.Password,
					Network:  networkFrom(ctx),
					Browser:  browser,
				},
			)
			if err != nil {
				return nil, err
			}
			known := staffHTTPCookie(session.Browser, session.BrowserEnds, secure)
			known.Name = browserCookie
			return &signedIn{
				[]http.Cookie{staffHTTPCookie(session.Token, session.Expires, secure), known},
				meOf(who),
			}, nil
		},
	)
	staffCall(
		api,
		op("GET", "/api/staff/session", "who-am-i", "Who is signed in"),
		func(_ context.Context, who staff.Staff, _ *none) (*body[Me], error) {
			return wrap(meOf(who), nil)
		},
	)
	publicCall(
		api,
		op("DELETE", "/api/staff/session", "sign-out", "Sign out"),
		func(ctx context.Context, _ *none) (*out, error) {
			token, _ := ctx.Value(tokenKey).(string)
			return &out{staffHTTPCookie("", time.Unix(1, 0), secure)}, a.SignOut(ctx, token)
		},
	)
}

// passwordAPI is how staff change their password, and set another when they forgot it.
func passwordAPI(api huma.API, a *accounts.Accounts) {
	type passwordChange struct {
		Present string `json:"present"`
		Next    string `json:"next"`
	}
	type linkAsked struct {
		Email string `json:"email"`
	}
	type LinkKey struct {
		Key string `path:"key"`
	}
	type linkIs struct {
		Email string `json:"email"`
	}
	type passwordSet struct {
		LinkKey
		Body struct {
			Password string `json:"password"`
		}
	}
	staffCall(
		api,
		op("POST", "/api/staff/password", "do-change-password", "Change one's own password"),
		func(ctx context.Context, who staff.Staff, in *body[passwordChange]) (*none, error) {
			token, _ := ctx.Value(tokenKey).(string)
			return nil, a.ChangeStaffPassword(
				ctx,
				who,
				accounts.NewPassword{
					Present: in.Body.Present,
					Next:    in.Body.Next,
					Session: token,
					Network: networkFrom(ctx),
				},
			)
		},
	)
	publicCall(
		api,
		op(
			"POST",
			"/api/staff/password-links",
			"do-ask-password-link",
			"Have a link sent to set a new password; says nothing of who is there",
		),
		func(ctx context.Context, in *body[linkAsked]) (*none, error) {
			return nil, a.AskPasswordLink(ctx, true, in.Body.Email)
		},
	)
	publicCall(
		api,
		op("GET", "/api/staff/password-links/{key}", "read-password-link", "Whose password a link sets"),
		func(ctx context.Context, in *LinkKey) (*body[linkIs], error) {
			email, err := a.PasswordLinkOf(ctx, in.Key)
			return wrap(linkIs{email}, err)
		},
	)
	publicCall(
		api,
		op("POST", "/api/staff/password-links/{key}", "do-set-password", "Set a new password by a link"),
		func(ctx context.Context, in *passwordSet) (*none, error) {
			return nil, a.SetPasswordByLink(ctx, in.Key, in.Body.Password)
		},
	)
}

// customerAPI is what administrators do with customers who can sign in.
func customerAPI(api huma.API, a *accounts.Accounts) {
	type asked struct {
		Words string `query:"words" maxLength:"200"`
		From  int    `query:"from" minimum:"0" maximum:"1000000"`
	}
	type CustomerID struct {
		ID int64 `path:"id"`
	}
	type customerChange struct {
		CustomerID
		Body struct {
			Disabled bool `json:"disabled"`
		}
	}
	staffCall(
		api,
		op("GET", "/api/staff/customers", "list-customers", "Customers who can sign in"),
		func(ctx context.Context, who staff.Staff, in *asked) (*body[list[accounts.CustomerLine]], error) {
			return wrapList(a.Customers(ctx, who, in.Words, in.From))
		},
	)
	staffCall(
		api,
		op("PUT", "/api/staff/customers/{id}", "do-change-customer", "Say whether a customer can sign in"),
		func(ctx context.Context, who staff.Staff, in *customerChange) (*none, error) {
			return nil, a.ChangeCustomer(ctx, who, in.ID, in.Body.Disabled)
		},
	)
	staffCall(
		api,
		op(
			"POST",
			"/api/staff/customers/{id}/password-link",
			"do-send-customer-password-link",
			"Send a customer a link to set a new password",
		),
		func(ctx context.Context, who staff.Staff, in *CustomerID) (*none, error) {
			return nil, a.SendPasswordLink(ctx, who, false, in.ID)
		},
	)
	staffCall(
		api,
		op(
			"POST",
			"/api/staff/people/{id}/password-link",
			"do-send-password-link",
			"Send somebody on the staff a link to set a new password",
		),
		func(ctx context.Context, who staff.Staff, in *PersonID) (*none, error) {
			return nil, a.SendPasswordLink(ctx, who, true, in.ID)
		},
	)
}

func peopleAPI(api huma.API, a *accounts.Accounts) {
	type changing struct {
		PersonID
		Body struct {
			Roles    role.Set `json:"roles"`
			Disabled bool     `json:"disabled"`
		}
	}
	staffCall(
		api,
		op("GET", "/api/staff/people", "list-people", "Everybody on the staff"),
		func(ctx context.Context, _ staff.Staff, _ *none) (*body[[]accounts.Person], error) {
			return wrap(a.People.ListStaff(ctx))
		},
	)
	staffCall(
		api,
		op("POST", "/api/staff/people", "add-person", "Add somebody to the staff"),
		func(ctx context.Context, who staff.Staff, in *body[accounts.NewStaff]) (*body[staff.Staff], error) {
			return wrap(a.People.AddStaff(ctx, who, in.Body))
		},
	)
	staffCall(
		api,
		op("PUT", "/api/staff/people/{id}", "do-change-person", "Change somebody's roles, or disable them"),
		func(ctx context.Context, who staff.Staff, in *changing) (*none, error) {
			return nil, a.People.ChangeStaff(ctx, who, in.ID, in.Body.Roles, in.Body.Disabled)
		},
	)
}

type credentials struct {
	Body struct {
		Email    string `json:"email"`
		Password string `json:"password"`
	}
}

type signedIn struct {
	SetCookie []http.Cookie `header:"Set-Cookie"`
	Body      Me
}

// Me is who is signed in, with what they may do: the interface offers nothing else.
type Me struct {
	staff.Staff
	May   []role.Deed `json:"may"`
	Rules Rules       `json:"rules"`
}

// Rules are what the interface goes by where it must know a rule: they are the server's.
type Rules struct {
	LineElements []string `json:"line_elements" doc:"Those that hold a line of a text, by which notes and comments are placed"`
	PageSize     int      `json:"page_size" doc:"How many entries a page of a list has"`
}

func meOf(who staff.Staff) Me {
	return Me{who, who.Roles.Deeds(), Rules{markup.LineElements(), instance.PageSize}}
}

func staffHTTPCookie(token string, expires time.Time, secure bool) http.Cookie {
	return http.Cookie{
		Name:     staffCookie,
		Value:    token,
		Path:     "/",
		Expires:  expires,
		HttpOnly: true,
		SameSite: http.SameSiteLaxMode,
		Secure:   secure,
	}
}

func networkFrom(ctx context.Context) string {
	place, _ := ctx.Value(placeKey).(string)
	return place
}

// PersonID names a member of staff in a path.
type PersonID struct {
	ID int64 `path:"id"`
}
