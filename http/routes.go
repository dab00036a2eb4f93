package http

import (
	"errors"
	"time"

	"github.com/gofiber/fiber/v2"

	"hermeneus/app/accounts"
	"hermeneus/app/evidence"
	"hermeneus/app/problem"
)

// routes serves the pages.
func (s *server) routes(f *fiber.App) {
	f.Get("/", func(c *fiber.Ctx) error { return c.Redirect("/help") })
	f.Get("/healthz", func(c *fiber.Ctx) error {
		if err := s.app.Instance.Ready(c.UserContext()); err != nil {
			return err
		}
		return c.SendString("ok\n")
	})
	f.Get("/assets/*", s.assets.serve)
	f.Get("/mark.svg", s.assets.serve)
	f.Get("/openapi", func(c *fiber.Ctx) error { return c.Redirect("/openapi.json") })
	f.Get("/embed.js", func(c *fiber.Ctx) error {
		script, _ := s.assets.of("src/chat/embed.ts")
		c.Set("Cross-Origin-Resource-Policy", "cross-origin")
		return c.Redirect(script)
	})
	f.Get("/files/:hash", s.file)
	f.Get("/site.css", s.siteStyles)
	f.Get("/api/staff/handoffs/:reference/files/:id<int>", s.handoffFile)
	f.Get("/staff", s.staffPage)
	f.Get("/staff/*", s.staffPage)
	f.Get("/chat", s.chatPage)
	f.Get("/sitemap.xml", s.siteMap)
	f.Get("/sitemap-:part<int>.xml", s.siteMap)
	f.Get("/robots.txt", s.robots)
	f.Get("/help", s.homePage)
	f.Get("/help/search", s.searchPage)
	f.Get("/help/categories/:id", s.categoryPage)
	f.Get("/help/categories/:id/feed.atom", s.feed)
	f.Get("/help/articles/:reference/:slug?", s.articlePage)
	f.Post("/help/articles/:reference/vote", s.vote)
	f.Get("/help/request", s.requestPage)
	f.Post("/help/request", s.sendRequest)
	f.Post("/help/request/answered", s.answeredInForm)
	f.Get("/help/requests", s.myRequests)
	for _, place := range []string{"/help/requests/:key", "/help/conversations/:key"} {
		f.Get(place, s.requestFollowed)
		f.Post(place, s.addToRequest)
		f.Get(place+"/files/:id<int>", s.requestFile)
	}
	f.Get("/help/sign-in", s.signInPage)
	f.Post("/help/sign-in", s.signIn)
	f.Post("/help/sign-out", s.signOut)
	s.passwordRoutes(f)
	f.Post("/help/preview", s.preview)
	f.Use(func(*fiber.Ctx) error {
		return fiber.NewError(fiber.StatusNotFound, "There is no page at this address.")
	})
}

func (s *server) staffPage(c *fiber.Ctx) error {
	script, styles := s.assets.of("src/staff/main.ts")
	return s.pages.show(
		c,
		fiber.StatusOK,
		"staff",
		evidence.Visitor{},
		nil,
		view{Title: "Hermeneus", NoIndex: true, Script: script, Styles: styles},
	)
}

func (s *server) chatPage(c *fiber.Ctx) error {
	script, styles := s.assets.of("src/chat/main.ts")
	return s.pages.show(
		c,
		fiber.StatusOK,
		"chat",
		s.visitor(c),
		nil,
		view{Title: s.say(c, "chat.title", "company", s.company(c)), NoIndex: true, Script: script, Styles: styles},
	)
}

// company is whose help centre it is.
func (s *server) company(c *fiber.Ctx) string {
	if name := site(c).Name; name != "" {
		return name
	}
	return s.options.Name
}

// say is a text of the interface in the visitor's language.
func (s *server) say(c *fiber.Ctx, key string, pairs ...any) string {
	return s.pages.words.say(language(c), key, pairs...)
}

type signInView struct{ Email, Error, Back string }

func (s *server) signInPage(c *fiber.Ctx) error {
	return s.pages.show(
		c,
		fiber.StatusOK,
		"signin",
		s.visitor(c),
		signInView{Back: ownPath(c.Query("back"))},
		view{Title: s.say(c, "signIn.title"), NoIndex: true},
	)
}

func (s *server) signIn(c *fiber.Ctx) error {
	email, back := c.FormValue("email"), ownPath(c.FormValue("back"))
	session, err := s.app.Accounts.SignInCustomer(
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
	s.setCookie(c, customerCookie, session.Token, session.Expires)
	s.setCookie(c, browserCookie, session.Browser, s.app.Instance.Now().Add(accounts.BrowserKnown))
	return sendTo(c, back, fiber.StatusSeeOther)
}

func (s *server) signOut(c *fiber.Ctx) error {
	if err := s.app.Accounts.SignOut(c.UserContext(), c.Cookies(customerCookie)); err != nil {
		return err
	}
	s.setCookie(c, customerCookie, "", time.Unix(1, 0))
	return c.Redirect("/help", fiber.StatusSeeOther)
}

// preview lets a member of staff be counted as a customer in this browser, or
// go back to looking without being counted.
func (s *server) preview(c *fiber.Ctx) error {
	if c.FormValue("counted") == "yes" {
		s.setCookie(c, countedCookie, "yes", s.app.Instance.Now().Add(12*time.Hour))
	} else {
		s.setCookie(c, countedCookie, "", time.Unix(1, 0))
	}
	return sendTo(c, c.FormValue("back"), fiber.StatusSeeOther)
}
