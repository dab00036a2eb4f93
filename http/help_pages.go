package http

import (
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"html/template"
	"net/url"
	"slices"
	"strconv"
	"strings"

	"github.com/gofiber/fiber/v2"

	"hermeneus/app/helpcentre"
	"hermeneus/app/library"
	"hermeneus/app/problem"
	"hermeneus/app/search"
	"hermeneus/core/article"
	"hermeneus/core/flow"
	"hermeneus/core/outcome"
)

// homeView is what the first page shows.
type homeView struct {
	Categories []topCategory
	Popular    []search.Result
	Notices    []helpcentre.Notice
}

// helpPages are what customers read.
type helpPages struct {
	*server
	helpCentre *helpcentre.HelpCentre
	search     *search.Search
	library    *library.Library
}

func (s *helpPages) routes(f *fiber.App) {
	f.Get("/sitemap.xml", s.siteMap)
	f.Get("/sitemap-:part<int>.xml", s.siteMap)
	f.Get("/help", s.homePage)
	f.Get("/help/search", s.searchPage)
	f.Get("/help/categories/:id", s.categoryPage)
	f.Get("/help/categories/:id/feed.atom", s.feed)
	f.Get("/help/articles/:reference/:slug?", s.articlePage)
	f.Post("/help/articles/:reference/vote", s.vote)
}

func (s *helpPages) homePage(c *fiber.Ctx) error {
	v := s.visitor(c)
	listings, err := s.library.CategoryListings(c.UserContext(), v, 0)
	if err != nil {
		return err
	}
	is := homeView{Categories: topCategories(listings)}
	if is.Popular, err = s.search.Popular(c.UserContext(), v); err != nil {
		return err
	}
	if is.Notices, err = s.helpCentre.Notices(c.UserContext(), v); err != nil {
		return err
	}
	canonical := s.address(c, "/help")
	fill := view{
		Title:       s.say(c, "home.title", "company", s.company(c)),
		Canonical:   canonical,
		Description: s.say(c, "home.description"),
		LinkedData:  linkedHome(s.company(c), canonical, language(c)),
		Alternates:  s.alternates(c, canonical),
	}
	if language(c) != fallback {
		fill.Canonical += "?lang=" + language(c)
	}
	if logo := site(c).Logo; logo != "" {
		fill.Picture = s.address(c, logo)
	}
	return s.pages.show(c, fiber.StatusOK, "home", v, is, fill)
}

// alternates are a page's addresses in each language that the interface speaks here.
func (s *server) alternates(c *fiber.Ctx, address string) []alternate {
	var list []alternate
	for _, l := range site(c).Languages {
		switch {
		case l == fallback:
			list = append(list, alternate{l, address, ""}, alternate{"x-default", address, ""})
		case s.pages.words.has(l):
			list = append(list, alternate{l, address + "?lang=" + l, ""})
		}
	}
	if len(list) <= 2 {
		return nil
	}
	return list
}

// topCategory is a category of the top with the first articles in it or below it.
type topCategory struct {
	library.Category
	First []flow.Card
}

// namedOfCategory is how many articles of each category the home page names.
const namedOfCategory = 4

func topCategories(listings []library.CategoryListing) []topCategory {
	var top []topCategory
	for _, listing := range listings {
		if listing.Depth == 1 {
			top = append(top, topCategory{Category: listing.Category})
		}
		last := &top[len(top)-1]
		room := namedOfCategory - len(last.First)
		last.First = append(last.First, listing.Cards[:min(room, len(listing.Cards))]...)
	}
	return top
}

func (s *helpPages) categoryPage(c *fiber.Ctx) error {
	v := s.visitor(c)
	id, err := strconv.ParseInt(c.Params("id"), 10, 64)
	if err != nil || id <= 0 {
		return &problem.Problem{Kind: problem.NotFound, Detail: "There is no such category."}
	}
	listings, err := s.library.CategoryListings(c.UserContext(), v, id)
	if err != nil {
		return err
	}
	if len(listings) == 0 || listings[0].ID != id {
		return &problem.Problem{Kind: problem.NotFound, Detail: "There is no such category."}
	}
	address := s.address(c, "/help/categories/"+c.Params("id"))
	return s.pages.show(
		c,
		fiber.StatusOK,
		"category",
		v,
		listings,
		view{Title: listings[0].Name, Description: listings[0].Description,
			Canonical: address, Feed: address + "/feed.atom", Alternates: s.alternates(c, address)},
	)
}

// resultsView is what the page of results shows.
type resultsView struct {
	search.Findings
	Listed []listed
	Number string // of the submission
}

// submission is the number of the search that a page belongs to, "" for none.
func submission(c *fiber.Ctx) string {
	if n := c.Query("n"); visitKey.MatchString(n) {
		return n
	}
	return ""
}

// listed is a result as it stands in the list.
type listed struct {
	Address, Title, Category string
	Passage                  template.HTML
	Other                    string // the language it is written in, where that is not the page's
}

func listResults(results []search.Result, l, number string) []listed {
	list := make([]listed, len(results))
	for i, r := range results {
		address := articlePath(r.Reference, r.Title)
		if number != "" {
			address += "?n=" + number
		}
		list[i] = listed{address, r.Title, r.Category, passage(r.Passage), ""}
		if r.Language != l {
			list[i].Other = r.Language
		}
	}
	return list
}

func (s *helpPages) searchPage(c *fiber.Ctx) error {
	v := s.visitor(c)
	words := strings.TrimSpace(c.Query("q"))
	asked := search.Asking{Words: words, Number: submission(c), More: c.Query("more") != ""}
	if asked.Number == "" {
		// An address without a number, such as a link: asked for again, it is the same submission.
		sum := sha256.Sum256([]byte(v.Key + "\n" + words))
		asked.Number = hex.EncodeToString(sum[:16])
	}
	found, err := s.search.SearchAll(c.UserContext(), v, asked)
	if err != nil {
		return err
	}
	fill := view{Title: s.say(c, "search.title"), Words: words, NoIndex: words != "" && len(found.Results) == 0,
		Description: s.say(c, "home.description"), Canonical: s.address(c, "/help/search")}
	if words != "" {
		fill.Title = s.say(c, "search.for", "words", words)
		fill.Canonical += "?q=" + url.QueryEscape(words)
	}
	return s.pages.show(
		c,
		fiber.StatusOK,
		"results",
		v,
		resultsView{found, listResults(found.Results, language(c), asked.Number), asked.Number},
		fill,
	)
}

// articleView is what the article's page shows.
type articleView struct {
	helpcentre.Page
	Said    string // "yes", "no" or ""
	Thanks  bool
	Seconds float64
	Related []search.Result
}

func (s *helpPages) articlePage(c *fiber.Ctx) error {
	if asked := c.Params("reference"); strings.HasPrefix(asked, "a-") {
		return sendTo(c, strings.Replace(c.OriginalURL(), "/a-", "/A-", 1), fiber.StatusMovedPermanently)
	}
	v := s.visitor(c)
	from := search.Asking{Number: submission(c)}.Results()
	page, err := s.helpCentre.OpenFrom(c.UserContext(), v, outcome.Help, c.Params("reference"), from)
	var gone *helpcentre.Gone
	if errors.As(err, &gone) && gone.To != "" {
		return sendTo(c, "/help/articles/"+gone.To, fiber.StatusMovedPermanently)
	} else if err != nil {
		return err
	}
	path := articlePath(page.Reference, page.Title)
	if moved(c, page) {
		if query := string(c.Request().URI().QueryString()); query != "" {
			path += "?" + query
		}
		return sendTo(c, path, fiber.StatusMovedPermanently)
	}
	is := articleView{Page: page, Thanks: c.Query("thanks") != "", Seconds: page.ReadAfter.Seconds()}
	if page.Voted != nil {
		is.Said = map[bool]string{true: "yes", false: "no"}[*page.Voted]
	}
	if is.Related, err = s.search.Related(c.UserContext(), v, page.Reference, page.Title); err != nil {
		return err
	}
	title := page.SearchTitle
	if title == "" {
		title = page.Title
	}
	address := s.address(c, path)
	var alternates []alternate
	if len(page.Languages) > 1 {
		for _, l := range page.Languages {
			alternates = append(alternates, alternate{l.Language, s.address(c, "/help/articles/"+l.Reference), ""})
		}
	}
	fill := view{Title: title, Description: page.Description, Canonical: address, OnArticle: true,
		NoIndex: page.Audience != "everyone", Alternates: alternates}
	if !fill.NoIndex {
		// What describes the page to programs is only for what everybody may read.
		fill.LinkedData = linkedArticle(page, s.company(c), s.address(c, "/help"), address)
		if strings.HasPrefix(page.Picture, article.FilePath) {
			fill.Picture = s.address(c, page.Picture)
		}
	}
	return s.pages.show(c, fiber.StatusOK, "article", v, is, fill)
}

// moved reports whether the address names the article by an old title. An edition that
// is not there is read in the source's language, under the address that was asked for.
func moved(c *fiber.Ctx, page helpcentre.Page) bool {
	asked, err := url.PathUnescape(c.Params("slug"))
	return err == nil && asked != "" && asked != slug(page.Title) && c.Params("reference") == page.Reference
}

func (s *helpPages) vote(c *fiber.Ctx) error {
	reference := c.Params("reference")
	if _, _, ok := article.ParseEdition(reference); !ok {
		return fiber.ErrNotFound
	}
	said := helpcentre.Verdict{Helped: c.FormValue("helped") == "yes", Comment: c.FormValue("comment")}
	if err := s.helpCentre.VoteOn(c.UserContext(), s.visitor(c), reference, said); err != nil {
		return err
	}
	return sendTo(c, "/help/articles/"+reference+"?thanks=1#helped", fiber.StatusSeeOther)
}

// near gives what the visitor may have looked for at an address where there is nothing.
func (s *helpPages) near(c *fiber.Ctx, p *Problem) []search.Result {
	// A request that was broken off or cannot be read has no route, and no parameters to ask for.
	if p.Status != fiber.StatusNotFound && p.Status != fiber.StatusGone || !slices.Contains(c.Route().Params, "slug") {
		return nil
	}
	name, err := url.PathUnescape(c.Params("slug"))
	if err != nil || name == "" {
		return nil
	}
	found, err := s.search.Near(c.UserContext(), s.visitor(c), strings.ReplaceAll(name, "-", " "))
	if err != nil {
		return nil
	}
	return found
}
