// Package standin is the simulated outside world that ships with the program.
// It promises small, faithful stand-ins for a mail server, a link checker and a member site, on this machine alone.
// It may not be used by the application but over the network, as the real ones are.
package standin

import (
	_ "embed"
	"html/template"
	"strings"

	"github.com/gofiber/fiber/v2"
)

//go:embed membersite.html
var memberSite string

// MemberSite is a page of the company's own web site, on an address of its own,
// which embeds the chat of the help centre at helpCentre with one line.
func MemberSite(company, helpCentre string) *fiber.App {
	page := template.Must(template.New("site").Parse(memberSite))
	f := fiber.New(fiber.Config{DisableStartupMessage: true})
	f.Get("/", func(c *fiber.Ctx) error {
		var out strings.Builder
		if err := page.Execute(&out, map[string]string{"Company": company, "Help": helpCentre}); err != nil {
			return err
		}
		c.Set("Content-Type", "text/html; charset=utf-8")
		return c.SendString(out.String())
	})
	return f
}
