package http

import (
	"encoding/xml"
	"strconv"
	"time"

	"github.com/gofiber/fiber/v2"

	"hermeneus/app/problem"
)

// atomFeed is a feed as RFC 4287 writes it.
type atomFeed struct {
	XMLName xml.Name    `xml:"http://www.w3.org/2005/Atom feed"`
	ID      string      `xml:"id"`
	Title   string      `xml:"title"`
	Updated string      `xml:"updated"`
	Author  string      `xml:"author>name"`
	Links   []atomLink  `xml:"link"`
	Entries []atomEntry `xml:"entry"`
}

type atomLink struct {
	Rel  string `xml:"rel,attr"`
	Href string `xml:"href,attr"`
}

type atomEntry struct {
	ID        string   `xml:"id"`
	Title     string   `xml:"title"`
	Published string   `xml:"published"`
	Updated   string   `xml:"updated"`
	Link      atomLink `xml:"link"`
	Summary   string   `xml:"summary"`
}

// feed serves what changed in a category.
func (s *helpPages) feed(c *fiber.Ctx) error {
	id, err := strconv.ParseInt(c.Params("id"), 10, 64)
	if err != nil || id <= 0 {
		return &problem.Problem{Kind: problem.NotFound, Detail: "There is no such category."}
	}
	feed, err := s.helpCentre.ReadFeed(c.UserContext(), s.visitor(c), id)
	if err != nil {
		return err
	}
	page := s.address(c, "/help/categories/"+strconv.FormatInt(id, 10))
	out := atomFeed{
		ID:      page,
		Title:   s.company(c) + ": " + feed.Category.Name,
		Author:  s.company(c),
		Updated: time.Unix(0, 0).UTC().Format(time.RFC3339),
		Links:   []atomLink{{"self", page + "/feed.atom"}, {"alternate", page}},
	}
	for _, e := range feed.Entries {
		address := s.address(c, "/help/articles/"+e.Reference)
		out.Entries = append(
			out.Entries,
			atomEntry{
				ID:        address,
				Title:     e.Title,
				Published: e.Published.UTC().Format(time.RFC3339),
				Updated:   e.Updated.UTC().Format(time.RFC3339),
				Link:      atomLink{"alternate", address},
				Summary:   e.Summary,
			},
		)
	}
	if len(out.Entries) > 0 {
		out.Updated = out.Entries[0].Updated
	}
	return sendXML(c, "application/atom+xml", out)
}
