package http

import (
	"encoding/xml"
	"fmt"
	"net/url"
	"strconv"
	"strings"
	"time"

	"github.com/gofiber/fiber/v2"
)

// The map of a site as sitemaps.org writes it (protocol 0.9). A page's other languages
// are named on the page itself: the protocol's published schema has no place for them.
type urlSet struct {
	XMLName xml.Name    `xml:"http://www.sitemaps.org/schemas/sitemap/0.9 urlset"`
	URLs    []mappedURL `xml:"url"`
}

type mappedURL struct {
	Loc     string `xml:"loc"`
	LastMod string `xml:"lastmod,omitempty"`
}

type siteMapIndex struct {
	XMLName xml.Name    `xml:"http://www.sitemaps.org/schemas/sitemap/0.9 sitemapindex"`
	Maps    []mappedURL `xml:"sitemap"`
}

// perMap is how many pages a map names; the protocol allows 50 000.
const perMap = 20_000

// siteMap serves the map, or a list of maps where there is too much for one.
func (s *helpPages) siteMap(c *fiber.Ctx) error {
	pages, err := s.helpCentre.SiteMap(c.UserContext(), s.visitor(c))
	if err != nil {
		return err
	}
	part, err := strconv.Atoi(c.Params("part", "0"))
	parts := (len(pages) + perMap - 1) / perMap
	if err != nil || part < 0 || part > 0 && part > max(1, parts) {
		return fiber.ErrNotFound
	}
	if part == 0 && parts > 1 {
		index := siteMapIndex{}
		for n := range parts {
			index.Maps = append(index.Maps, mappedURL{Loc: s.address(c, fmt.Sprintf("/sitemap-%d.xml", n+1))})
		}
		return sendXML(c, "application/xml", index)
	}
	from := max(0, part-1) * perMap
	set := urlSet{}
	if from == 0 {
		set.URLs = append(set.URLs, mappedURL{Loc: s.address(c, "/help")})
	}
	for _, p := range pages[from:min(len(pages), from+perMap)] {
		set.URLs = append(
			set.URLs,
			mappedURL{s.address(c, articlePath(p.Reference, p.Title)), p.Changed.UTC().Format(time.RFC3339)},
		)
	}
	return sendXML(c, "application/xml", set)
}

// articlePath is where an article is read.
func articlePath(reference, title string) string {
	return "/help/articles/" + reference + "/" + url.PathEscape(slug(title))
}

func sendXML(c *fiber.Ctx, mediaType string, value any) error {
	raw, err := xml.MarshalIndent(value, "", "  ")
	if err != nil {
		return fmt.Errorf("writing XML: %w", err)
	}
	c.Set("Content-Type", mediaType+"; charset=utf-8")
	c.Set("Cache-Control", "no-cache")
	return c.Send(append([]byte(xml.Header), raw...))
}

// robots tells crawlers what there is to read (RFC 9309).
func (s *server) robots(c *fiber.Ctx) error {
	closed := []string{
		"/staff",
		"/api/",
		"/chat",
		"/files/",
		"/help/request",
		"/help/requests",
		"/help/conversations",
		"/help/sign-in",
	}
	c.Set("Content-Type", "text/plain; charset=utf-8")
	return c.SendString(
		"User-agent: *\nAllow: /help\nDisallow: " + strings.Join(
			closed,
			"\nDisallow: ",
		) + "\n\nSitemap: " + s.address(
			c,
			"/sitemap.xml",
		) + "\n",
	)
}
