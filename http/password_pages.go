package http

import (
	"errors"

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

func (s *server) passwordRoutes(f *fiber.App) {
	f.Get("/help/forgotten", func(c *fiber.Ctx) error { return s.showPassword(c, passwordView{Does: "ask"}) })
	f.Post("/help/forgotten", s.askPasswordLink)
	f.Get("/help/new-password", func(c *fiber.Ctx) error {
		email, err := s.app.Accounts.PasswordLinkOf(c.UserContext(), c.Query("key"))
		if err != nil {
			return err
		}
		return s.showPassword(c, passwordView{Does: "set", Email: email, Key: c.Query("key")})
	})
	f.Post("/help/new-password", s.setPassword)
	f.Get("/help/password", s.ownPassword)
	f.Post("/help/password", s.changePassword)
}

func (s *server) showPassword(c *fiber.Ctx, is passwordView) error {
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
func (s *server) finished(c *fiber.Ctx, is passwordView, err error) error {
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

func (s *server) askPasswordLink(c *fiber.Ctx) error {
	email := c.FormValue("email")
	return s.finished(
		c,
		passwordView{Does: "ask", Email: email},
		s.app.Accounts.AskPasswordLink(c.UserContext(), false, email),
	)
}

func (s *server) setPassword(c *fiber.Ctx) error {
	key := c.FormValue("key")
	email, err := s.app.Accounts.PasswordLinkOf(c.UserContext(), key)
	if err == nil {
		err = s.app.Accounts.SetPasswordByLink(c.UserContext(), key, c.FormValue("password"))
	}
	return s.finished(c, passwordView{Does: "set", Email: email, Key: key}, err)
}

func (s *server) ownPassword(c *fiber.Ctx) error {
	v := s.visitor(c)
	if v.Customer == nil {
		return sendTo(c, "/help/sign-in?back=/help/password", fiber.StatusSeeOther)
	}
	return s.showPassword(c, passwordView{Does: "change", Email: v.Customer.Email})
}

func (s *server) changePassword(c *fiber.Ctx) error {
	v := s.visitor(c)
	is := passwordView{Does: "change"}
	if v.Customer != nil {
		is.Email = v.Customer.Email
	}
	return s.finished(c, is, s.app.Accounts.ChangeCustomerPassword(c.UserContext(), v, accounts.NewPassword{
		Present: c.FormValue(
			"present",
		),
		Next:    c.FormValue("next"),
		Session: c.Cookies(customerCookie),
		Network: networkFrom(c.UserContext()),
	}))
}
