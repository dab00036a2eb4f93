package http

import (
	"errors"
	"time"

	"github.com/gofiber/fiber/v2"

	"hermeneus/app/accounts"
	"hermeneus/app/problem"
)

// passwordView is the page on which a customer asks for a link to set a password, sets one by
// a link, or changes theirs.
type passwordView struct {
	Does   string // ask, set or change
	Email  string
	Key    string // of the link
	Done   bool
	Errors map[string]string
}

// accountPages are how customers sign in, and set their password.
type accountPages struct{ *server }

func (s *accountPages) routes(f *fiber.App) {
	f.Get("/help/sign-in", s.signInPage)
	f.Post("/help/sign-in", s.signIn)
	f.Post("/help/sign-out", s.signOut)
	f.Get("/help/forgotten", func(c *fiber.Ctx) error { return s.showPassword(c, passwordView{Does: "ask"}) })
	f.Post("/help/forgotten", s.askPasswordLink)
	f.Get("/help/new-password", func(c *fiber.Ctx) error {
		email, err := s.accounts.PasswordLinkOf(c.UserContext(), c.Query("key"))
		if err != nil {
			return err
		}
		return s.showPassword(c, passwordView{Does: "set", Email: email, Key: c.Query("key")})
	})
	f.Post("/help/new-password", s.setPassword)
	f.Get("/help/password", s.ownPassword)
	f.Post("/help/password", s.changePassword)
}

func (s *accountPages) showPassword(c *fiber.Ctx, is passwordView) error {
	status := fiber.StatusOK
	if len(is.Errors) > 0 {
		status = fiber.StatusUnprocessableEntity
	}
	c.Set("Cache-Control", "no-store")
	return s.pages.show(
		c,
		status,
		"password",
		s.visitor(c),
		is,
		view{Title: s.say(c, "password."+is.Does), NoIndex: true},
	)
}

// finished shows what came of it: the page again, with what is wrong with a field if anything is.
func (s *accountPages) finished(c *fiber.Ctx, is passwordView, err error) error {
	var p *problem.Problem
	if errors.As(err, &p) && p.Kind == problem.Invalid {
		is.Errors = byField(p)
		return s.showPassword(c, is)
	}
	if err != nil {
		return err
	}
	is.Done = true
	return s.showPassword(c, is)
}

func (s *accountPages) askPasswordLink(c *fiber.Ctx) error {
	email := c.FormValue("email")
	return s.finished(
		c,
		passwordView{Does: "ask", Email: email},
		s.accounts.AskPasswordLink(c.UserContext(), false, email),
	)
}

func (s *accountPages) setPassword(c *fiber.Ctx) error {
	key := c.FormValue("key")
	email, err := s.accounts.PasswordLinkOf(c.UserContext(), key)
	if err == nil {
		err = s.accounts.SetPasswordByLink(c.UserContext(), key, c.FormValue("password"))
	}
	return s.finished(c, passwordView{Does: "set", Email: email, Key: key}, err)
}

func (s *accountPages) ownPassword(c *fiber.Ctx) error {
	v := s.visitor(c)
	if v.Customer == nil {
		return sendTo(c, "/help/sign-in?back=/help/password", fiber.StatusSeeOther)
	}
	return s.showPassword(c, passwordView{Does: "change", Email: v.Customer.Email})
}

func (s *accountPages) changePassword(c *fiber.Ctx) error {
	v := s.visitor(c)
	is := passwordView{Does: "change"}
	if v.Customer != nil {
		is.Email = v.Customer.Email
	}
	return s.finished(c, is, s.accounts.ChangeCustomerPassword(c.UserContext(), v, accounts.NewPassword{
		Present: c.FormValue(
			"present",
		),
		Next:    c.FormValue("next"),
		Session: c.Cookies(customerCookie),
		Network: networkFrom(c.UserContext()),
	}))
}

type signInView struct{ Email, Error, Back string }

func (s *accountPages) signInPage(c *fiber.Ctx) error {
	return s.pages.show(
		c,
		fiber.StatusOK,
		"signin",
		s.visitor(c),
		signInView{Back: ownPath(c.Query("back"))},
		view{Title: s.say(c, "signIn.title"), NoIndex: true},
	)
}

func (s *accountPages) signIn(c *fiber.Ctx) error {
	email, back := c.FormValue("email"), ownPath(c.FormValue("back"))
	session, err := s.accounts.SignInCustomer(
		c.UserContext(),
		accounts.SignIn{
			Email:    email,
			Password: c.FormValue("password"),
			Network:  networkFrom(c.UserContext()),
			Browser:  c.Cookies(browserCookie),
		},
	)
	var p *problem.Problem
	if errors.As(err, &p) {
		return s.pages.show(
			c,
			toProblem(err).Status,
			"signin",
			s.visitor(c),
			signInView{email, p.Detail, back},
			view{Title: s.say(c, "signIn.title"), NoIndex: true},
		)
	}
	if err != nil {
		return err
	}
	if customer, ok, err := s.accounts.CustomerOf(c.UserContext(), session.Token); err != nil {
		return err
	} else if ok {
		v := ofPage(c, s.visitor(c))
		key, err := s.recorder.SignedIn(c.UserContext(), v, customer)
		if err != nil {
			return err
		}
		if key != v.Key {
			v.Key = key
			s.keepVisit(c, v)
		}
	}
	s.setCookie(c, customerCookie, session.Token, session.Expires)
	s.setCookie(c, browserCookie, session.Browser, session.BrowserEnds)
	return sendTo(c, back, fiber.StatusSeeOther)
}

func (s *accountPages) signOut(c *fiber.Ctx) error {
	if err := s.accounts.SignOut(c.UserContext(), c.Cookies(customerCookie)); err != nil {
		return err
	}
	s.setCookie(c, customerCookie, "", time.Unix(1, 0))
	s.renewVisit(c)
	return c.Redirect("/help", fiber.StatusSeeOther)
}
