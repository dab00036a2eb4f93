package http

import (
	"encoding/xml"
	"fmt"
	"net/url"
	"strconv"
	"strings"
	"time"

	"github.com/gofiber/fiber/v2"

	"hermeneus/app"
	"hermeneus/core/article"
)

// The map of a site as sitemaps.org writes it (protocol 0.9), with the other languages
// of each page as links.
type urlSet struct {
	XMLName xml.Name    `xml:"http://www.sitemaps.org/schemas/sitemap/0.9 urlset"`
	XHTML   string      `xml:"xmlns:xhtml,attr"`
	URLs    []mappedURL `xml:"url"`
}

type mappedURL struct {
	Loc     string      `xml:"loc"`
	LastMod string      `xml:"lastmod,omitempty"`
	Links   []xhtmlLink `xml:"xhtml:link"`
}

type xhtmlLink struct {
	Rel      string `xml:"rel,attr"`
	HrefLang string `xml:"hreflang,attr"`
	Href     string `xml:"href,attr"`
}

type siteMapIndex struct {
	XMLName xml.Name    `xml:"http://www.sitemaps.org/schemas/sitemap/0.9 sitemapindex"`
	Maps    []mappedURL `xml:"sitemap"`
}

// perMap is how many pages a map names; the protocol allows 50 000.
const perMap = 20_000

// siteMap serves the map, or a list of maps where there is too much for one.
func (s *server) siteMap(c *fiber.Ctx) error {
	pages, err := s.app.SiteMap(c.UserContext(), s.visitor(c))
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
	set := urlSet{XHTML: "http://www.w3.org/1999/xhtml"}
	if from == 0 {
		set.URLs = append(set.URLs, mappedURL{Loc: s.address(c, "/help")})
	}
	for _, p := range pages[from:min(len(pages), from+perMap)] {
		set.URLs = append(set.URLs, s.mapped(c, p))
	}
	return sendXML(c, "application/xml", set)
}

func (s *server) mapped(c *fiber.Ctx, p app.MappedPage) mappedURL {
	out := mappedURL{Loc: s.address(c, articlePath(p.Reference, p.Title)), LastMod: p.Changed.UTC().Format(time.RFC3339)}
	if len(p.Languages) > 1 {
		number, _, _ := article.ParseEdition(p.Reference)
		for _, l := range p.Languages {
			out.Links = append(out.Links, xhtmlLink{"alternate", l, s.address(c, "/help/articles/"+article.EditionReference(number, l))})
		}
	}
	return out
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
	closed := []string{"/staff", "/api/", "/chat", "/files/", "/help/search", "/help/request", "/help/requests", "/help/conversations", "/help/sign-in"}
	c.Set("Content-Type", "text/plain; charset=utf-8")
	return c.SendString("User-agent: *\nAllow: /help\nDisallow: " + strings.Join(closed, "\nDisallow: ") + "\n\nSitemap: " + s.address(c, "/sitemap.xml") + "\n")
}
