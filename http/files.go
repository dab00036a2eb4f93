package http

import (
	"fmt"
	"net/url"
	"slices"
	"strings"

	"github.com/gofiber/fiber/v2"

	"hermeneus/app/library"
	"hermeneus/app/staff"
	"hermeneus/core/form"
)

// filePages are the files of articles.
type filePages struct {
	*server
	library *library.Library
}

func (s *filePages) routes(f *fiber.App) { f.Get("/files/:hash", s.file) }

// file serves what articles hold, to those who may see one that holds it. Pictures
// and films are shown; everything else is only ever fetched, whatever it says it is.
func (s *filePages) file(c *fiber.Ctx) error {
	viewer := s.visitor(c).Viewer()
	_, viewer.Staff = c.UserContext().Value(staffKey).(staff.Staff)
	file, err := s.library.ReadFile(c.UserContext(), viewer, c.Params("hash"), c.QueryInt("w"))
	if err != nil {
		return err
	}
	c.Set("Cache-Control", "private, max-age=300")
	shown := strings.HasPrefix(file.MediaType, "image/") || strings.HasPrefix(file.MediaType, "video/")
	if !shown || file.MediaType == "image/svg+xml" {
		return sendAttachment(c, c.Query("name", "attachment"), file.MediaType, file.Bytes)
	}
	c.Set("Content-Type", file.MediaType)
	if strings.HasPrefix(file.MediaType, "video/") {
		return sendRange(c, file.Bytes)
	}
	return c.Send(file.Bytes)
}

// inert are the types that a browser does nothing with by itself.
var inert = []string{
	"image/png",
	"image/jpeg",
	"image/gif",
	"image/webp",
	"application/pdf",
	"text/plain",
	"application/zip",
}

// sendAttachment sends a file to be kept, under a type and a name that fit what it is.
func sendAttachment(c *fiber.Ctx, name, mediaType string, content []byte) error {
	served := "application/octet-stream"
	if slices.Contains(inert, mediaType) {
		served = mediaType
	}
	c.Set("Content-Type", served)
	c.Set("Content-Security-Policy", "sandbox; default-src 'none'")
	c.Set("Content-Disposition", "attachment; filename*=UTF-8''"+url.PathEscape(form.FileName(name, mediaType)))
	return c.Send(content)
}

// sendRange sends the part of a film that a player asks for (RFC 9110, section 14).
func sendRange(c *fiber.Ctx, content []byte) error {
	c.Set("Accept-Ranges", "bytes")
	if c.Get("Range") == "" {
		return c.Send(content)
	}
	asked, err := c.Range(len(content))
	if err != nil || asked.Type != "bytes" || len(asked.Ranges) != 1 {
		c.Set("Content-Range", fmt.Sprintf("bytes */%d", len(content)))
		return fiber.ErrRequestedRangeNotSatisfiable
	}
	r := asked.Ranges[0]
	c.Set("Content-Range", fmt.Sprintf("bytes %d-%d/%d", r.Start, r.End, len(content)))
	return c.Status(fiber.StatusPartialContent).Send(content[r.Start : r.End+1])
}

// siteStyles are the colours of the help centre.
func (s *server) siteStyles(c *fiber.Ctx) error {
	c.Set("Content-Type", "text/css; charset=utf-8")
	c.Set("Cache-Control", "private, max-age=60")
	look := site(c)
	if look.BrandColour == "" {
		return c.SendString("")
	}
	return c.SendString(fmt.Sprintf(":root{--brand:%s;--accent:%s}\n", look.BrandColour, look.AccentColour))
}
