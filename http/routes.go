package http

import (
	"time"

	"github.com/gofiber/fiber/v2"

	"hermeneus/app/evidence"
)

// routes serves the pages.
func (s *server) routes(f *fiber.App) {
	f.Get("/", func(c *fiber.Ctx) error { return c.Redirect("/help") })
	f.Get("/healthz", func(c *fiber.Ctx) error {
		if err := s.base.Ready(c.UserContext()); err != nil {
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
	f.Get("/site.css", s.siteStyles)
	f.Get("/staff", s.staffPage)
	f.Get("/staff/*", s.staffPage)
	f.Get("/chat", s.chatPage)
	f.Get("/robots.txt", s.robots)
	f.Post("/help/preview", s.preview)
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

// preview lets a member of staff be counted as a customer in this browser, or
// go back to looking without being counted.
func (s *server) preview(c *fiber.Ctx) error {
	if c.FormValue("counted") == "yes" {
		s.setCookie(c, countedCookie, "yes", s.base.Now().Add(12*time.Hour))
	} else {
		s.setCookie(c, countedCookie, "", time.Unix(1, 0))
	}
	return sendTo(c, c.FormValue("back"), fiber.StatusSeeOther)
}
