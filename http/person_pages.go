package http

import (
	"context"
	"encoding/json"
	"errors"
	"time"

	"github.com/gofiber/fiber/v2"

	"hermeneus/app/evidence"
	"hermeneus/app/person"
	"hermeneus/app/problem"
)

// personPages show people what is kept of them, forget them, and ask whether a browser may be known from page to page.
type personPages struct {
	*server
	persons *person.Persons
}

func (s *personPages) routes(f *fiber.App) {
	f.Get("/help/kept", s.keptPage)
	f.Post("/help/kept", s.askKept)
	f.Post("/help/kept/file", s.keptFile)
	f.Post("/help/kept/forget", s.forget)
	f.Post("/help/follow", s.chooseFollow)
}

// keptView is what is kept of whoever looks, or how to prove who that is.
type keptView struct {
	Known     bool
	Kept      person.Kept
	Key       string // of the link that was mailed, "" for who signed in
	Address   string // typed
	Asked     string // to which a link was mailed
	Forgotten bool
	Errors    map[string]string
}

func (s *personPages) show(c *fiber.Ctx, is keptView) error {
	status := fiber.StatusOK
	if len(is.Errors) > 0 {
		status = fiber.StatusUnprocessableEntity
	}
	fill := view{Title: s.say(c, "kept.title"), NoIndex: true}
	return s.pages.show(c, status, "kept", s.visitor(c), is, fill)
}

func (s *personPages) keptPage(c *fiber.Ctx) error { return s.showKept(c, c.Query("key"), nil) }

func (s *personPages) showKept(c *fiber.Ctx, key string, errors map[string]string) error {
	p, known, err := s.persons.Proved(c.UserContext(), s.visitor(c), key)
	if err != nil || !known {
		if err == nil {
			err = s.show(c, keptView{Errors: errors})
		}
		return err
	}
	kept, err := s.persons.Kept(c.UserContext(), p, person.ShownAtOnce)
	if err != nil {
		return err
	}
	return s.show(c, keptView{Known: true, Kept: kept, Key: key, Errors: errors})
}

func (s *personPages) askKept(c *fiber.Ctx) error {
	address := c.FormValue("address")
	err := s.persons.AskLink(c.UserContext(), address)
	var p *problem.Problem
	if errors.As(err, &p) && p.Kind == problem.Invalid {
		return s.show(c, keptView{Address: address, Errors: byField(p)})
	}
	if err != nil {
		return err
	}
	return s.show(c, keptView{Asked: address})
}

// proved is whose, of who must be somebody.
func (s *personPages) proved(c *fiber.Ctx) (evidence.Person, error) {
	p, known, err := s.persons.Proved(c.UserContext(), s.visitor(c), c.FormValue("key"))
	if err == nil && !known {
		err = problem.New(problem.NotSigned, "Sign in, or open the link that was mailed to you.")
	}
	return p, err
}

func (s *personPages) keptFile(c *fiber.Ctx) error {
	p, err := s.proved(c)
	if err != nil {
		return err
	}
	kept, err := s.persons.Kept(c.UserContext(), p, person.InFile)
	if err != nil {
		return err
	}
	content, err := json.MarshalIndent(kept, "", "  ")
	if err != nil {
		return err
	}
	return sendFile(c, "kept.json", "application/json", content)
}

func (s *personPages) forget(c *fiber.Ctx) error {
	p, err := s.proved(c)
	if err != nil {
		return err
	}
	if c.FormValue("sure") != "yes" {
		return s.showKept(c, c.FormValue("key"), map[string]string{"sure": s.say(c, "kept.notSure")})
	}
	if err := s.persons.Forget(c.UserContext(), p); err != nil {
		return err
	}
	s.setCookie(c, customerCookie, "", time.Unix(1, 0))
	s.renewVisit(c)
	v := s.visitor(c)
	v.Customer = nil
	c.SetUserContext(context.WithValue(c.UserContext(), visitorKey, v))
	return s.show(c, keptView{Forgotten: true})
}

// follows is what a browser keeps that may be known from page to page.
const follows = "yes"

func (s *personPages) chooseFollow(c *fiber.Ctx) error {
	chosen, year := "no", s.base.Now().AddDate(1, 0, 0)
	if c.FormValue("follow") == follows {
		chosen = follows
	}
	s.setCookie(c, followCookie, chosen, year)
	v := ofPage(c, s.visitor(c))
	if v.NotFollowed = chosen != follows; v.NotFollowed {
		s.setCookie(c, visitorCookie, "", time.Unix(1, 0))
	}
	s.keepVisit(c, v) // what was done on the page goes on under its key
	return sendTo(c, ownPath(c.FormValue("back")), fiber.StatusSeeOther)
}
