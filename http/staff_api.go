package http

import (
	"context"
	"net/http"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"hermeneus/app/accounts"
	"hermeneus/app/desk"
	"hermeneus/app/flows"
	"hermeneus/app/outcomes"
	"hermeneus/app/problem"
	"hermeneus/app/staff"
	"hermeneus/core/flow"
	"hermeneus/core/outcome"
	"hermeneus/core/role"
)

type credentials struct {
	Body struct {
		Email    string `json:"email"`
		Password string `json:"password"`
	}
}

type signedIn struct {
	SetCookie []http.Cookie `header:"Set-Cookie"`
	Body      staff.Staff
}

func (s *server) signInAPI(api huma.API) {
	publicCall(
		api,
		op("POST", "/api/staff/session", "sign-in", "Sign in as staff"),
		func(ctx context.Context, in *credentials) (*signedIn, error) {
			browser, _ := ctx.Value(browserKey).(string)
			session, who, err := s.app.Accounts.SignInStaff(
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
			known := s.httpCookie(session.Browser, s.app.Instance.Now().Add(accounts.BrowserKnown))
			known.Name = browserCookie
			return &signedIn{[]http.Cookie{s.httpCookie(session.Token, session.Expires), known}, who}, nil
		},
	)
	s.passwordAPI(api)
	staffCall(
		api,
		op("GET", "/api/staff/session", "who-am-i", "Who is signed in"),
		func(_ context.Context, who staff.Staff, _ *none) (*body[staff.Staff], error) {
			return wrap(who, nil)
		},
	)
	type out struct {
		SetCookie http.Cookie `header:"Set-Cookie"`
	}
	publicCall(
		api,
		op("DELETE", "/api/staff/session", "sign-out", "Sign out"),
		func(ctx context.Context, _ *none) (*out, error) {
			token, _ := ctx.Value(tokenKey).(string)
			return &out{s.httpCookie("", time.Unix(1, 0))}, s.app.Accounts.SignOut(ctx, token)
		},
	)
}

func (s *server) httpCookie(token string, expires time.Time) http.Cookie {
	return http.Cookie{
		Name:     staffCookie,
		Value:    token,
		Path:     "/",
		Expires:  expires,
		HttpOnly: true,
		SameSite: http.SameSiteLaxMode,
		Secure:   s.options.SecureCookie,
	}
}

func networkFrom(ctx context.Context) string {
	place, _ := ctx.Value(placeKey).(string)
	return place
}

// passwordAPI is how staff change their password, and set another when they forgot it.
func (s *server) passwordAPI(api huma.API) {
	type passwordChange struct {
		Present string `json:"present"`
		Next    string `json:"next"`
	}
	staffCall(
		api,
		op("POST", "/api/staff/password", "do-change-password", "Change one's own password"),
		func(ctx context.Context, who staff.Staff, in *body[passwordChange]) (*none, error) {
			token, _ := ctx.Value(tokenKey).(string)
			return nil, s.app.Accounts.ChangeStaffPassword(
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
	type linkAsked struct {
		Email string `json:"email"`
	}
	publicCall(
		api,
		op(
			"POST",
			"/api/staff/password-links",
			"do-ask-password-link",
			"Have a link sent to set a new password; says nothing of who is there",
		),
		func(ctx context.Context, in *body[linkAsked]) (*none, error) {
			return nil, s.app.Accounts.AskPasswordLink(ctx, true, in.Body.Email)
		},
	)
	type LinkKey struct {
		Key string `path:"key"`
	}
	type linkIs struct {
		Email string `json:"email"`
	}
	publicCall(
		api,
		op("GET", "/api/staff/password-links/{key}", "read-password-link", "Whose password a link sets"),
		func(ctx context.Context, in *LinkKey) (*body[linkIs], error) {
			email, err := s.app.Accounts.PasswordLinkOf(ctx, in.Key)
			return wrap(linkIs{email}, err)
		},
	)
	type passwordSet struct {
		LinkKey
		Body struct {
			Password string `json:"password"`
		}
	}
	publicCall(
		api,
		op("POST", "/api/staff/password-links/{key}", "do-set-password", "Set a new password by a link"),
		func(ctx context.Context, in *passwordSet) (*none, error) {
			return nil, s.app.Accounts.SetPasswordByLink(ctx, in.Key, in.Body.Password)
		},
	)
}

// customersAPI is what administrators do with customers who can sign in.
func (s *server) customersAPI(api huma.API) {
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
			return wrapList(s.app.Accounts.Customers(ctx, who, in.Words, in.From))
		},
	)
	staffCall(
		api,
		op("PUT", "/api/staff/customers/{id}", "do-change-customer", "Say whether a customer can sign in"),
		func(ctx context.Context, who staff.Staff, in *customerChange) (*none, error) {
			return nil, s.app.Accounts.ChangeCustomer(ctx, who, in.ID, in.Body.Disabled)
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
			return nil, s.app.Accounts.SendPasswordLink(ctx, who, false, in.ID)
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
			return nil, s.app.Accounts.SendPasswordLink(ctx, who, true, in.ID)
		},
	)
}

// PersonID names a member of staff in a path.
type PersonID struct {
	ID int64 `path:"id"`
}

func (s *server) peopleAPI(api huma.API) {
	staffCall(
		api,
		op("GET", "/api/staff/people", "list-people", "Everybody on the staff"),
		func(ctx context.Context, _ staff.Staff, _ *none) (*body[[]accounts.Person], error) {
			return wrap(s.app.Accounts.ListStaff(ctx))
		},
	)
	staffCall(
		api,
		op("POST", "/api/staff/people", "add-person", "Add somebody to the staff"),
		func(ctx context.Context, who staff.Staff, in *body[accounts.NewStaff]) (*body[staff.Staff], error) {
			return wrap(s.app.Accounts.AddStaff(ctx, who, in.Body))
		},
	)
	type changing struct {
		PersonID
		Body struct {
			Roles    role.Set `json:"roles"`
			Disabled bool     `json:"disabled"`
		}
	}
	staffCall(
		api,
		op("PUT", "/api/staff/people/{id}", "do-change-person", "Change somebody's roles, or disable them"),
		func(ctx context.Context, who staff.Staff, in *changing) (*none, error) {
			return nil, s.app.Accounts.ChangeStaff(ctx, who, in.ID, in.Body.Roles, in.Body.Disabled)
		},
	)
	s.groupAPI(api)
	type settings struct {
		Hours int `json:"return_window_hours" doc:"1 to 720"`
	}
	staffCall(
		api,
		op("GET", "/api/staff/settings", "read-settings", "The settings"),
		func(ctx context.Context, _ staff.Staff, _ *none) (*body[settings], error) {
			window, err := s.app.Outcomes.ReturnWindow(ctx)
			return wrap(settings{int(window.Hours())}, err)
		},
	)
	staffCall(
		api,
		op("PUT", "/api/staff/settings", "do-change-settings", "Change the settings"),
		func(ctx context.Context, who staff.Staff, in *body[settings]) (*none, error) {
			return nil, s.app.Outcomes.SetReturnWindow(ctx, who, time.Duration(in.Body.Hours)*time.Hour)
		},
	)
}

func (s *server) flowAPI(api huma.API) {
	type FlowSlug struct {
		Slug string `path:"slug"`
	}
	type FlowSource struct {
		Source string `json:"source" doc:"The script, as JSON"`
	}
	staffCall(
		api,
		op("GET", "/api/staff/flows/{slug}", "read-flow", "The live version of a flow"),
		func(ctx context.Context, _ staff.Staff, in *FlowSlug) (*body[flows.FlowView], error) {
			return wrap(s.app.Flows.ReadFlow(ctx, in.Slug))
		},
	)
	check := op("POST", "/api/staff/flow-checks", "check-flow", "What is wrong with a script")
	check.MaxBodyBytes = 4 << 20
	staffCall(api, check, func(ctx context.Context, _ staff.Staff, in *body[FlowSource]) (*body[[]flow.Fault], error) {
		return wrap(s.app.Flows.CheckFlow(ctx, in.Body.Source))
	})
	type publishing struct {
		FlowSlug
		Body struct {
			FlowSource
			Base int `json:"base" doc:"The version it was made from; 0 for a new flow"`
		}
	}
	type version struct {
		Version int `json:"version"`
	}
	publish := op("PUT", "/api/staff/flows/{slug}", "publish-flow", "Publish a script as the live version")
	publish.MaxBodyBytes = 4 << 20
	staffCall(api, publish, func(ctx context.Context, who staff.Staff, in *publishing) (*body[version], error) {
		n, err := s.app.Flows.PublishFlow(ctx, who, in.Slug, in.Body.Source, in.Body.Base)
		return wrap(version{n}, err)
	})
}

// Dates are days such as 2026-03-02; the figures' default is the last fortnight.
type Dates struct {
	From string `query:"from" format:"date" doc:"First day, in the site's zone"`
	To   string `query:"to" format:"date" doc:"Last day, included"`
}

func (s *server) days(d Dates) (first, last time.Time, err error) {
	zone := s.app.Outcomes.Zone()
	last = s.app.Instance.Now().In(zone)
	if d.To != "" {
		if last, err = time.ParseInLocation(time.DateOnly, d.To, zone); err != nil {
			return
		}
	}
	first = last.AddDate(0, 0, -13)
	if d.From != "" {
		first, err = time.ParseInLocation(time.DateOnly, d.From, zone)
	}
	return
}

type ledgerQuery struct {
	Dates
	Outcome  outcome.Outcome `query:"outcome"`
	Settling bool            `query:"settling"`
	Settled  bool            `query:"settled"`
	Channel  outcome.Channel `query:"channel"`
	Article  string          `query:"article"`
	Words    string          `query:"words" maxLength:"200"`
	Page     int             `query:"page" minimum:"1" maximum:"1000000" default:"1"`
}

func (s *server) figureAPI(api huma.API) {
	staffCall(
		api,
		op("GET", "/api/staff/today", "read-today", "What needs this person now"),
		func(ctx context.Context, who staff.Staff, _ *none) (*body[desk.Today], error) {
			return wrap(s.app.Desk.Today(ctx, who))
		},
	)
	staffCall(
		api,
		op("GET", "/api/staff/outcomes", "read-outcomes", "The figures of a period"),
		func(ctx context.Context, who staff.Staff, in *Dates) (*body[outcomes.Figures], error) {
			first, last, err := s.days(*in)
			if err != nil {
				return nil, &problem.Problem{Kind: problem.Invalid, Detail: "A day is written as 2026-03-02."}
			}
			return wrap(s.app.Outcomes.Outcomes(ctx, who, first, last))
		},
	)
	staffCall(
		api,
		op("GET", "/api/staff/ledger", "read-ledger", "The questions behind the figures"),
		func(ctx context.Context, who staff.Staff, in *ledgerQuery) (*body[list[outcomes.LedgerLine]], error) {
			filter := outcomes.LedgerFilter{
				Outcome:  in.Outcome,
				Settling: in.Settling,
				Settled:  in.Settled,
				Channel:  in.Channel,
				Article:  in.Article,
				Words:    in.Words,
				Page:     in.Page,
			}
			if in.From != "" || in.To != "" {
				first, last, err := s.days(in.Dates)
				if err != nil {
					return nil, &problem.Problem{Kind: problem.Invalid, Detail: "A day is written as 2026-03-02."}
				}
				filter.Period = s.app.Outcomes.Days(first, last)
			}
			return wrapList(s.app.Outcomes.Ledger(ctx, who, filter))
		},
	)
	type key struct {
		Key string `query:"key" required:"true"`
	}
	staffCall(
		api,
		op("GET", "/api/staff/question", "read-question", "One question with its evidence"),
		func(ctx context.Context, who staff.Staff, in *key) (*body[outcomes.LedgerQuestion], error) {
			return wrap(s.app.Outcomes.ReadQuestion(ctx, who, in.Key))
		},
	)
}
