package http

import (
	"errors"
	"fmt"
	"io"
	"strings"
	"time"

	"github.com/gofiber/fiber/v2"
	"github.com/valyala/fasthttp"

	"hermeneus/app/library"
	"hermeneus/app/problem"
	"hermeneus/core/form"
)

// What is read of a request, in bytes. An operation of the API has its own limit besides.
const (
	formLimit   = 64 << 10                  // a form without files
	uploadLimit = form.MaxTogether + 64<<10 // a form with files
	apiLimit    = 5 << 20                   // an operation of the API
	mostLimit   = 64 << 20                  // an archive of articles, brought in by staff
	leftUnread  = apiLimit                  // that is thrown away, so that the connection can go on
	headLimit   = 64 << 10                  // the first line and the headers: room for a question over its limit, so that its refusal is our own
	maxMail     = 8 << 20                   // a mail that an article is made of
)

// limitFor bounds a body before any of it is read, by where it goes.
func limitFor(path string) int {
	switch {
	case strings.HasPrefix(path, "/api/staff/imports"):
		return mostLimit
	case path == "/api/staff/media", path == "/api/staff/attachments":
		return max(library.MaxFilm, library.MaxAttachment) + 1<<20
	case path == "/api/staff/articles-from-mail", strings.HasPrefix(path, "/api/staff/handoffs/"):
		return max(form.MaxFile, maxMail) + 1<<20
	case strings.HasPrefix(path, "/api/staff/"):
		return apiLimit
	case strings.HasPrefix(path, "/api/"):
		return formLimit
	case path == "/help/request",
		strings.HasPrefix(path, "/help/requests/"),
		strings.HasPrefix(path, "/help/conversations/"):
		return uploadLimit
	}
	return formLimit
}

// received keeps the server from waiting for a body that will be refused: it reads some of
// each ahead.
func received(header *fasthttp.RequestHeader) fasthttp.RequestConfig {
	path, _, _ := strings.Cut(string(header.RequestURI()), "?")
	if header.ContentLength() > limitFor(path) {
		return fasthttp.RequestConfig{MaxRequestBodySize: 1}
	}
	return fasthttp.RequestConfig{}
}

// readBodies lets handlers read bodies as they come, and looks after what they do not read:
// whatever is left on a connection would be taken for the next request.
func (s *server) readBodies(c *fiber.Ctx) error {
	for name := range c.Request().Header.All() {
		if n := len(name); n > 0 &&
			(name[n-1] == ' ' || name[n-1] == '\t') { // RFC 9112, section 5.1: it may hide a length
			c.Context().SetConnectionClose()
			return fiber.NewError(fiber.StatusBadRequest, "A header has a space before its colon.")
		}
	}
	if encoding := c.Get(fiber.HeaderContentEncoding); encoding != "" && !strings.EqualFold(encoding, "identity") {
		c.Context().SetConnectionClose()
		return fiber.NewError(fiber.StatusUnsupportedMediaType, "Send what you send as it is, not compressed.")
	}
	length := c.Request().Header.ContentLength()
	if limit := limitFor(c.Path()); length > limit {
		c.Context().SetConnectionClose()
		return &problem.Problem{
			Kind:   problem.TooLarge,
			Detail: fmt.Sprintf("This is larger than what is taken here, %d kB.", limit>>10),
		}
	}
	if length == -1 && !strings.HasPrefix(c.Path(), "/api/") { // a form whose length nobody says
		c.Context().SetConnectionClose()
		return fiber.NewError(fiber.StatusLengthRequired, "Say how long it is.")
	}
	err := c.Next()
	if stream := c.Request().BodyStream(); stream != nil && length != 0 && !readToItsEnd(c, stream) {
		c.Context().SetConnectionClose()
	}
	return err
}

// stalls is how long the rest of a body is waited for that nobody wants.
const stalls = 2 * time.Second

// readToItsEnd throws away what is left of a body, and reports whether all of it came.
func readToItsEnd(c *fiber.Ctx, stream io.Reader) bool {
	line := c.Context().Conn()
	stalled := time.AfterFunc(stalls, func() { _ = line.SetReadDeadline(time.Unix(1, 0)) })
	defer stalled.Stop()
	_, err := io.CopyN(io.Discard, stream, leftUnread)
	return errors.Is(err, io.EOF)
}

// forStaff refuses whoever is not signed in before anything they send is read.
func forStaff(c *fiber.Ctx) error {
	if path := c.Path(); path == "/api/staff/session" && c.Method() != fiber.MethodGet ||
		strings.HasPrefix(path, "/api/staff/password-links") {
		return c.Next()
	}
	if _, err := staffOf(c.UserContext()); err != nil {
		return err
	}
	return c.Next()
}
