package http

import (
	"net/url"
	"strings"

	"github.com/gofiber/fiber/v2"
)

// ownPath gives a path of the help centre as it may stand in an answer: what names
// another place, or holds what cannot stand in a header, is the home page instead.
func ownPath(path string) string {
	u, err := url.Parse(path) // refuses control characters
	if err != nil || u.Scheme != "" || u.Host != "" || u.User != nil || u.Opaque != "" {
		return "/help"
	}
	within := u.Path == "/help" || strings.HasPrefix(u.Path, "/help/")
	if !within || strings.ContainsAny(u.Path, "\\\r\n\x00") || strings.Contains(u.Path, "//") {
		return "/help"
	}
	return u.String()
}

// sendTo sends the browser on to a path of the help centre.
func sendTo(c *fiber.Ctx, path string, status int) error { return c.Redirect(ownPath(path), status) }
