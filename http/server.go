// Package http is the door: the API, the pages customers read, live updates and
// sessions, over Fiber. It holds no rules; it turns requests into use cases and
// their results into answers.
package http

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"net/netip"
	"strings"
	"sync"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/adapters/humafiber"
	"github.com/gofiber/fiber/v2"
	"github.com/gofiber/fiber/v2/middleware/compress"
	"github.com/gofiber/fiber/v2/middleware/limiter"
	recovering "github.com/gofiber/fiber/v2/middleware/recover"

	"hermeneus/app"
	"hermeneus/app/accounts"
	"hermeneus/app/evidence"
	"hermeneus/app/instance"
	"hermeneus/app/problem"
	"hermeneus/app/search"
	"hermeneus/app/sites"
)

// Options say how the door stands.
type Options struct {
	Name         string // of the company, shown to customers
	SampleSite   string // address of the sample member site, "" for none
	SecureCookie bool   // cookies only over HTTPS
	PerMinute    int    // requests that one address may make to public places in a minute; 0 for no limit
	Doors        int    // attempts that one address may make at the staff's door in a minute; 0 for as many

	Proxies []string // addresses and networks of the proxies whose word on where a request comes from counts
}

// server holds what every handler needs: who comes, from where, to which help centre.
type server struct {
	base     *instance.Instance
	accounts *accounts.Accounts
	sites    *sites.Sites
	recorder *evidence.Recorder
	near     func(c *fiber.Ctx, p *Problem) []search.Result                            // what may have been looked for in vain
	contact  func(ctx context.Context, v evidence.Visitor, key string) (string, error) // in whose mail a link stood

	options Options
	assets  *assets
	pages   *pages
	closing context.Context
	proxies []netip.Prefix
	lines   lines

	crawlers *crawlers
}

// Server is a running door.
type Server struct {
	fiber *fiber.App
	stop  context.CancelFunc
}

// New builds the door to an application.
func New(a *app.App, options Options) (*Server, error) {
	files, err := loadAssets()
	if err != nil {
		return nil, err
	}
	templates, err := loadPages(files, options, a.Instance.Now)
	if err != nil {
		return nil, err
	}
	crawlers, err := loadCrawlers()
	if err != nil {
		return nil, err
	}
	proxies, err := proxiesOf(options.Proxies)
	if err != nil {
		return nil, fmt.Errorf("reading the list of trusted proxies: %w", err)
	}
	closing, stop := context.WithCancel(context.Background())
	s := &server{
		base:     a.Instance,
		accounts: a.Accounts,
		sites:    a.Sites,
		recorder: a.Recorder,
		contact:  a.Requests.ContactByLink,
		options:  options,
		assets:   files,
		pages:    templates,
		closing:  closing,
		proxies:  proxies,
		crawlers: crawlers,
	}
	help := &helpPages{s, a.HelpCentre, a.Search, a.Library}
	s.near = help.near
	f := fiber.New(fiber.Config{
		AppName:                      "Hermeneus",
		DisableStartupMessage:        true,
		BodyLimit:                    mostLimit,
		StreamRequestBody:            true,
		DisablePreParseMultipartForm: true,
		ReadBufferSize:               headLimit,
		Immutable:                    true,
		EnableTrustedProxyCheck:      true,
		TrustedProxies:               options.Proxies,
		ReadTimeout:                  30 * time.Second,
		IdleTimeout:                  2 * time.Minute,
		ErrorHandler:                 s.failed,
	})
	f.Server().HeaderReceived = received
	f.Use(recovering.New(recovering.Config{EnableStackTrace: true}))
	f.Use(s.readBodies)
	f.Use(s.protect)
	f.Use(compress.New(compress.Config{Level: compress.LevelBestSpeed, Next: asItIs}))
	f.Use(
		"/api/staff/password-links",
		s.limited(options.Doors, func(c *fiber.Ctx) bool { return c.Method() != fiber.MethodPost }),
	)
	f.Use(
		"/api/staff/session",
		s.limited(options.Doors, func(c *fiber.Ctx) bool { return c.Method() != fiber.MethodPost }),
	)
	f.Use(s.limited(options.PerMinute, notPublic))
	f.Use(s.identify)
	f.Use("/api/staff", forStaff)
	s.api(f, a)
	(&liveUpdates{s, a.Conversations, a.Writing, a.Flows}).live(f)
	s.routes(f)
	(&filePages{s, a.Library}).routes(f)
	(&requestPages{s, a.Requests, a.Forms}).routes(f)
	(&accountPages{s}).routes(f)
	(&personPages{s, a.Persons}).routes(f)
	help.routes(f)
	f.Use(func(*fiber.Ctx) error {
		return fiber.NewError(fiber.StatusNotFound, "There is no page at this address.")
	})
	return &Server{f, stop}, nil
}

// Listen serves at address until Close.
func (s *Server) Listen(address string) error { return s.fiber.Listen(address) }

// Close ends live updates and waits for running requests.
func (s *Server) Close() error {
	s.stop()
	return s.fiber.ShutdownWithTimeout(5 * time.Second)
}

// Fiber is the application to send test requests to.
func (s *Server) Fiber() *fiber.App { return s.fiber }

// limited lets one address make so many requests a minute, 0 for as many as it likes.
func (s *server) limited(most int, next func(*fiber.Ctx) bool) fiber.Handler {
	if most == 0 {
		return func(c *fiber.Ctx) error { return c.Next() }
	}
	return limiter.New(limiter.Config{
		Max: most, Expiration: time.Minute, Next: next,
		KeyGenerator: func(c *fiber.Ctx) string { return networkOf(s.placeOf(c)) },
		LimitReached: func(*fiber.Ctx) error {
			return &problem.Problem{
				Kind:   problem.TooMany,
				Detail: "Too many requests from your address. Wait a minute and try again.",
			}
		},
	})
}

// OpenAPI gives the document that describes the API, as JSON.
func OpenAPI() ([]byte, error) {
	s := &server{}
	api := s.api(fiber.New(), &app.App{})
	return api.OpenAPI().MarshalJSON()
}

// setUpAPI sets what the framework keeps for all servers of a program.
var setUpAPI = sync.OnceFunc(func() {
	huma.NewError = newError
	huma.DefaultArrayNullable = false
})

func (s *server) api(f *fiber.App, a *app.App) huma.API {
	config := huma.DefaultConfig("Hermeneus", "1")
	config.DocsPath, config.SchemasPath, config.CreateHooks = "", "", nil
	config.Transformers = append(config.Transformers, noNilLists)
	setUpAPI()
	api := humafiber.New(f, config)
	accountsAPI(api, a.Accounts, s.options.SecureCookie)
	conversationsAPI(api, a.Conversations)
	customersAPI(api, a.Customers)
	personAPI(api, a.Persons)
	deskAPI(api, a.Desk)
	exchangeAPI(api, a.Exchange)
	flowsAPI(api, a.Flows)
	hoursAPI(api, a.Hours)
	evidenceAPI(api, a.Recorder)
	helpCentreAPI(api, a.HelpCentre)
	jobsAPI(api, a.Jobs)
	keepingAPI(api, a.Keeping)
	libraryAPI(api, a.Library)
	listsAPI(api, a.Lists)
	notifyAPI(api, a.Notify)
	outcomesAPI(api, a.Outcomes)
	formsAPI(api, a.Forms)
	requestsAPI(api, a.Requests)
	reviewAPI(api, a.Review)
	searchAPI(api, a.Search)
	sitesAPI(api, a.Sites)
	writingAPI(api, a.Writing)
	return api
}

// asItIs reports whether an answer goes out uncompressed: live updates, and the few
// suggestions that fit one packet anyway and must be there with the next key.
func asItIs(c *fiber.Ctx) bool {
	return strings.HasSuffix(c.Path(), "/events") || c.Path() == "/api/help/suggestions"
}

// notPublic reports whether a request goes where only staff go, or for a file.
func notPublic(c *fiber.Ctx) bool {
	p := c.Path()
	return strings.HasPrefix(p, "/api/staff/") || strings.HasPrefix(p, "/assets/") || strings.HasPrefix(p, "/staff") ||
		p == "/healthz"
}

// protect sets the headers that keep pages to themselves, and refuses requests
// that another site's page makes in a visitor's name.
func (s *server) protect(c *fiber.Ctx) error {
	c.Set("X-Content-Type-Options", "nosniff")
	c.Set("Referrer-Policy", "same-origin")
	c.Set("Content-Security-Policy", policyFor(c.Path()))
	switch c.Method() {
	case fiber.MethodGet, fiber.MethodHead, fiber.MethodOptions:
	default:
		origin := c.Get("Origin")
		if host := c.Hostname(); origin != "" && origin != "http://"+host && origin != "https://"+host {
			return &problem.Problem{Kind: problem.Denied, Detail: "This request came from a page of another site."}
		}
	}
	return c.Next()
}

func policyFor(path string) string {
	common := "default-src 'none'; script-src 'self'; font-src 'self'; img-src 'self'; connect-src 'self'; form-action 'self'; base-uri 'none'; "
	switch {
	case path == "/chat":
		return common + "style-src 'self'; frame-ancestors *"
	case strings.HasPrefix(path, "/staff"):
		// The component library writes its styles into the page.
		return common + "style-src 'self' 'unsafe-inline'; media-src 'self'; frame-src 'self'; frame-ancestors 'none'"
	}
	// A film from elsewhere loads in a frame, and only once somebody asks for it.
	return common + "style-src 'self'; media-src 'self' https:; frame-src https:; frame-ancestors 'none'"
}

// failed answers an error that no handler answered: a problem document to
// programs, a page to people.
func (s *server) failed(c *fiber.Ctx, err error) (answered error) {
	defer func() {
		// What recovers handlers does not stand around this: it must end no more than the one request.
		if r := recover(); r != nil {
			slog.Error("answering a failure failed", "error", err, "panic", r)
			answered = c.Status(fiber.StatusInternalServerError).
				SendString("Something went wrong on our side. Try again in a moment.\n")
		}
	}()
	p := toProblem(err)
	var fiberError *fiber.Error
	if errors.As(err, &fiberError) {
		p = plainProblem(fiberError.Code, fiberError.Message)
	}
	if p.Status >= 500 {
		// By its pattern: an address may hold a token.
		slog.Error("a request failed", "method", c.Method(), "route", c.Route().Path, "error", err)
	}
	if strings.HasPrefix(c.Path(), "/api/") || strings.HasPrefix(c.Path(), "/files/") {
		return c.Status(p.Status).JSON(p, "application/problem+json")
	}
	return s.pages.problem(c, s.visitor(c), p, s.near(c, p))
}
