package http

import (
	"errors"
	"net/url"
	"strconv"
	"strings"
	"time"

	"github.com/gofiber/fiber/v2"

	"hermeneus/app"
	"hermeneus/core/article"
	"hermeneus/core/flow"
	"hermeneus/core/outcome"
)

// routes serves the pages.
func (s *server) routes(f *fiber.App) {
	f.Get("/", func(c *fiber.Ctx) error { return c.Redirect("/help") })
	f.Get("/healthz", func(c *fiber.Ctx) error {
		if err := s.app.Ready(c.UserContext()); err != nil {
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
	f.Get("/staff", s.staffPage)
	f.Get("/staff/*", s.staffPage)
	f.Get("/chat", s.chatPage)
	f.Get("/help", s.homePage)
	f.Get("/help/search", s.searchPage)
	f.Get("/help/categories/:id", s.categoryPage)
	f.Get("/help/categories/:id/feed.atom", s.feed)
	f.Get("/help/articles/:reference/:slug?", s.articlePage)
	f.Post("/help/articles/:reference/vote", s.vote)
	f.Get("/help/request", s.requestPage)
	f.Post("/help/request", s.sendRequest)
	f.Get("/help/conversations/:token", s.conversationPage)
	f.Post("/help/conversations/:token", s.answerConversation)
	f.Get("/help/sign-in", s.signInPage)
	f.Post("/help/sign-in", s.signIn)
	f.Post("/help/sign-out", s.signOut)
	f.Post("/help/preview", s.preview)
	f.Use(func(*fiber.Ctx) error {
		return fiber.NewError(fiber.StatusNotFound, "There is no page at this address.")
	})
}

func (s *server) staffPage(c *fiber.Ctx) error {
	script, styles := s.assets.of("src/staff/main.ts")
	return s.pages.show(c, fiber.StatusOK, "staff", app.Visitor{}, nil, view{Title: "Hermeneus", NoIndex: true, Script: script, Styles: styles})
}

func (s *server) chatPage(c *fiber.Ctx) error {
	script, styles := s.assets.of("src/chat/main.ts")
	return s.pages.show(c, fiber.StatusOK, "chat", s.visitor(c), nil, view{Title: "Ask " + s.company(c), NoIndex: true, Script: script, Styles: styles})
}

func (s *server) homePage(c *fiber.Ctx) error {
	v := s.visitor(c)
	shelves, err := s.app.Shelves(c.UserContext(), v, 0)
	if err != nil {
		return err
	}
	return s.pages.show(c, fiber.StatusOK, "home", v, topShelves(shelves), view{Title: s.company(c) + " help", Canonical: s.address(c, "/help"),
		Description: "Answers about your account, your meter, your bills and your supply."})
}

// topShelf is a category of the top with the first articles in it or below it.
type topShelf struct {
	app.Category
	First []flow.Card
}

// onShelf is how many articles of each category the home page names.
const onShelf = 4

func topShelves(shelves []app.Shelf) []topShelf {
	var top []topShelf
	for _, shelf := range shelves {
		if shelf.Depth == 1 {
			top = append(top, topShelf{Category: shelf.Category})
		}
		last := &top[len(top)-1]
		room := onShelf - len(last.First)
		last.First = append(last.First, shelf.Cards[:min(room, len(shelf.Cards))]...)
	}
	return top
}

// company is whose help centre it is.
func (s *server) company(c *fiber.Ctx) string {
	if name := site(c).Name; name != "" {
		return name
	}
	return s.options.Name
}

func (s *server) address(c *fiber.Ctx, path string) string { return c.BaseURL() + path }

func (s *server) categoryPage(c *fiber.Ctx) error {
	v := s.visitor(c)
	id, err := strconv.ParseInt(c.Params("id"), 10, 64)
	if err != nil || id <= 0 {
		return &app.Problem{Kind: app.NotFound, Detail: "There is no such category."}
	}
	shelves, err := s.app.Shelves(c.UserContext(), v, id)
	if err != nil {
		return err
	}
	if len(shelves) == 0 || shelves[0].ID != id {
		return &app.Problem{Kind: app.NotFound, Detail: "There is no such category."}
	}
	return s.pages.show(c, fiber.StatusOK, "category", v, shelves, view{Title: shelves[0].Name, Description: shelves[0].Description,
		Canonical: s.address(c, "/help/categories/"+c.Params("id")), Feed: s.address(c, "/help/categories/"+c.Params("id")+"/feed.atom")})
}

func (s *server) searchPage(c *fiber.Ctx) error {
	v := s.visitor(c)
	words := strings.TrimSpace(c.Query("q"))
	results, err := s.app.Search(c.UserContext(), v, words)
	if err != nil {
		return err
	}
	return s.pages.show(c, fiber.StatusOK, "results", v, results, view{Title: "Search", Words: words, NoIndex: true})
}

// articleView is what the article's page shows.
type articleView struct {
	app.Page
	Said    string // "yes", "no" or ""
	Thanks  bool
	Seconds float64
}

func (s *server) articlePage(c *fiber.Ctx) error {
	v := s.visitor(c)
	page, err := s.app.OpenPage(c.UserContext(), v, outcome.Help, c.Params("reference"))
	var gone *app.Gone
	if errors.As(err, &gone) && gone.To != "" {
		return c.Redirect("/help/articles/"+gone.To, fiber.StatusMovedPermanently)
	} else if err != nil {
		return err
	}
	path := "/help/articles/" + page.Reference + "/" + url.PathEscape(slug(page.Title))
	is := articleView{Page: page, Thanks: c.Query("thanks") != "", Seconds: page.ReadAfter.Seconds()}
	if page.Voted != nil {
		is.Said = map[bool]string{true: "yes", false: "no"}[*page.Voted]
	}
	title := page.SearchTitle
	if title == "" {
		title = page.Title
	}
	address := s.address(c, path)
	var alternates []alternate
	if len(page.Languages) > 1 {
		for _, l := range page.Languages {
			alternates = append(alternates, alternate{l.Language, s.address(c, "/help/articles/"+l.Reference)})
		}
	}
	return s.pages.show(c, fiber.StatusOK, "article", v, is, view{Title: title, Description: page.Description, Canonical: address,
		NoIndex: page.Audience != "everyone", LinkedData: s.pages.linkedData(page, site(c).Name, address), Language: page.Language, Alternates: alternates})
}

func (s *server) vote(c *fiber.Ctx) error {
	reference := c.Params("reference")
	if _, _, ok := article.ParseReference(reference); !ok {
		return fiber.ErrNotFound
	}
	said := app.Verdict{Helped: c.FormValue("helped") == "yes", Comment: c.FormValue("comment")}
	if err := s.app.VoteOn(c.UserContext(), s.visitor(c), reference, said); err != nil {
		return err
	}
	return c.Redirect("/help/articles/"+reference+"?thanks=1#helped", fiber.StatusSeeOther)
}

// requestView is the request form: what was typed, and what is wrong with it.
type requestView struct {
	app.NewRequest
	Errors map[string]string
	Offers []app.Result
}

func (s *server) requestPage(c *fiber.Ctx) error {
	return s.showRequest(c, fiber.StatusOK, requestView{NewRequest: app.NewRequest{Subject: c.Query("subject")}})
}

func (s *server) showRequest(c *fiber.Ctx, status int, is requestView) error {
	v := s.visitor(c)
	if is.Subject != "" {
		offers, err := s.app.OfferForForm(c.UserContext(), v, is.Subject, is.Text)
		var p *app.Problem
		if err != nil && !errors.As(err, &p) {
			return err
		}
		is.Offers = offers
	}
	return s.pages.show(c, status, "request", v, is, view{Title: "Send a request", Canonical: s.address(c, "/help/request")})
}

func (s *server) sendRequest(c *fiber.Ctx) error {
	n := app.NewRequest{Subject: c.FormValue("subject"), Text: c.FormValue("text"), Address: c.FormValue("address")}
	sent, err := s.app.SendRequest(c.UserContext(), s.visitor(c), n)
	var p *app.Problem
	if errors.As(err, &p) && p.Kind == app.Invalid {
		is := requestView{NewRequest: n, Errors: map[string]string{}}
		for _, f := range p.Fields {
			if is.Errors[f.Name] == "" {
				is.Errors[f.Name] = f.Message
			}
		}
		return s.showRequest(c, fiber.StatusUnprocessableEntity, is)
	}
	if err != nil {
		return err
	}
	return c.Redirect("/help/conversations/"+sent.Token+"?sent=1", fiber.StatusSeeOther)
}

type conversationView struct {
	app.ChatView
	Token string
	Sent  bool
}

func (s *server) conversationPage(c *fiber.Ctx) error {
	chat, err := s.app.ReadChat(c.UserContext(), c.Params("token"), 0)
	if err != nil {
		return err
	}
	return s.pages.show(c, fiber.StatusOK, "conversation", s.visitor(c), conversationView{chat, c.Params("token"), c.Query("sent") != ""},
		view{Title: "Your request " + chat.Reference, NoIndex: true})
}

func (s *server) answerConversation(c *fiber.Ctx) error {
	token := c.Params("token")
	err := s.app.SayInChat(c.UserContext(), s.visitor(c), token, flow.Input{Kind: flow.Words, Text: c.FormValue("text")})
	if err != nil {
		return err
	}
	return c.Redirect("/help/conversations/"+url.PathEscape(token), fiber.StatusSeeOther)
}

type signInView struct{ Email, Error, Back string }

// ownPath keeps a redirect on this site.
func ownPath(path string) string {
	if strings.HasPrefix(path, "/help") && !strings.Contains(path, "//") && !strings.Contains(path, "\\") {
		return path
	}
	return "/help"
}

func (s *server) signInPage(c *fiber.Ctx) error {
	return s.pages.show(c, fiber.StatusOK, "signin", s.visitor(c), signInView{Back: ownPath(c.Query("back"))}, view{Title: "Sign in", NoIndex: true})
}

func (s *server) signIn(c *fiber.Ctx) error {
	email, back := c.FormValue("email"), ownPath(c.FormValue("back"))
	session, err := s.app.SignInCustomer(c.UserContext(), email, c.FormValue("password"), c.IP())
	var p *app.Problem
	if errors.As(err, &p) {
		return s.pages.show(c, toProblem(err).Status, "signin", s.visitor(c), signInView{email, p.Detail, back}, view{Title: "Sign in", NoIndex: true})
	}
	if err != nil {
		return err
	}
	s.setCookie(c, customerCookie, session.Token, session.Expires)
	return c.Redirect(back, fiber.StatusSeeOther)
}

func (s *server) signOut(c *fiber.Ctx) error {
	if err := s.app.SignOut(c.UserContext(), c.Cookies(customerCookie)); err != nil {
		return err
	}
	s.setCookie(c, customerCookie, "", time.Unix(1, 0))
	return c.Redirect("/help", fiber.StatusSeeOther)
}

// preview lets a member of staff be counted as a customer in this browser, or
// go back to looking without being counted.
func (s *server) preview(c *fiber.Ctx) error {
	if c.FormValue("counted") == "yes" {
		s.setCookie(c, countedCookie, "yes", s.app.Now().Add(12*time.Hour))
	} else {
		s.setCookie(c, countedCookie, "", time.Unix(1, 0))
	}
	return c.Redirect(ownPath(c.FormValue("back")), fiber.StatusSeeOther)
}
