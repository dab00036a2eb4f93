package http

import (
	"cmp"
	"context"
	"crypto/sha256"
	"encoding/json"
	"errors"
	"fmt"
	"log/slog"
	"net/url"
	"reflect"
	"regexp"
	"slices"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/gofiber/fiber/v2"

	"hermeneus/app/evidence"
	"hermeneus/app/instance"
	"hermeneus/app/problem"
	"hermeneus/app/sites"
	"hermeneus/app/staff"
)

// The cookies.
const (
	staffCookie    = "hermeneus_staff"
	customerCookie = "hermeneus_customer"
	visitorCookie  = "hermeneus_visitor"
	languageCookie = "hermeneus_language"
	countedCookie  = "hermeneus_as_customer" // staff who want to be counted as a customer
	followCookie   = "hermeneus_follow"      // yes or no: whether a browser may be known from page to page
	browserCookie  = "hermeneus_browser"     // a browser that signed in before
)

type contextKey string

const (
	staffKey   contextKey = "staff"
	visitorKey contextKey = "visitor"
	placeKey   contextKey = "place"
	tokenKey   contextKey = "token"
	browserKey contextKey = "browser"
	againKey   contextKey = "again"
)

// identify finds out who makes a request, and keeps it with the request.
func (s *server) identify(c *fiber.Ctx) error {
	path := c.Path()
	if strings.HasPrefix(path, "/assets/") || path == "/healthz" {
		return c.Next()
	}
	ctx := context.WithValue(c.UserContext(), placeKey, networkOf(s.placeOf(c)))
	token := c.Cookies(staffCookie)
	ctx = context.WithValue(ctx, tokenKey, token)
	ctx = context.WithValue(ctx, browserKey, c.Cookies(browserCookie))
	if key := c.Get(againHeader); key != "" && c.Method() == fiber.MethodPost {
		ctx = context.WithValue(ctx, againKey, again{s.base, key})
	}
	signed := false
	if token != "" {
		staff, err := s.accounts.StaffOf(ctx, token)
		var p *problem.Problem
		switch {
		case err == nil:
			signed = true
			ctx = context.WithValue(ctx, staffKey, staff)
		case !errors.As(err, &p):
			return err
		}
	}
	if !strings.HasPrefix(path, "/api/staff") && !strings.HasPrefix(path, "/staff") {
		v, err := s.visit(c, signed)
		if err != nil {
			return err
		}
		ctx = context.WithValue(ctx, visitorKey, v)
	}
	c.SetUserContext(ctx)
	return c.Next()
}

// visit makes out the visitor, and gives a new one a key.
func (s *server) visit(c *fiber.Ctx, staff bool) (evidence.Visitor, error) {
	v := evidence.Visitor{
		Key:     c.Cookies(visitorCookie),
		Preview: staff && c.Cookies(countedCookie) == "",
		Crawler: s.crawlers.is(c.Get("User-Agent")) || unseen(c),
		Network: networkOf(s.placeOf(c)),
	}
	site, err := s.askedFor(c)
	if err != nil {
		return v, err
	}
	v.Site, v.Whole = site.ID, site.Whole
	v.NotFollowed = site.AsksToFollow && c.Cookies(followCookie) != follows
	if v.NotFollowed && v.Key != "" {
		v.Key = ""
		s.setCookie(c, visitorCookie, "", time.Unix(1, 0))
	}
	returning := visitKey.MatchString(v.Key)
	if !returning {
		v.Key = c.Get(visitHeader) // that the page carries, where cookies are blocked
	}
	if !visitKey.MatchString(v.Key) && !v.Crawler {
		v.Key = evidence.NewKey()
	}
	if !returning && !v.Crawler {
		s.keepVisit(c, v)
	}
	if staff {
		if v.Groups, err = s.sites.GroupKeys(c.UserContext()); err != nil {
			return v, err
		}
	}
	c.Locals(siteLocal, site)
	v.Language = s.pages.words.choose(
		site.Languages,
		c.Query("lang"),
		c.Cookies(languageCookie),
		c.Get("Accept-Language"),
	)
	if asked := c.Query("lang"); asked == v.Language && c.Cookies(languageCookie) != asked {
		s.setCookie(c, languageCookie, asked, s.base.Now().AddDate(1, 0, 0))
	}
	c.Locals(languageLocal, v.Language)
	if token := c.Cookies(customerCookie); token != "" {
		customer, ok, err := s.accounts.CustomerOf(c.UserContext(), token)
		if err != nil {
			return v, err
		}
		if ok {
			v.Customer = &customer
		}
	}
	v.Page = pageOf(c.Get(pageHeader))
	v.Renew = func(key string) {
		v.Key = key
		s.keepVisit(c, v)
	}
	if key := cmp.Or(c.Get(contactHeader), c.Query("of")); key != "" {
		if v.Contact, err = s.contact(c.UserContext(), v, key); err != nil {
			return v, err
		}
	}
	if returning && c.Method() == fiber.MethodGet && strings.Contains(c.Get("Accept"), "text/html") {
		return v, s.recorder.Look(v) // a second page
	}
	return v, nil
}

// visitHeader carries the key of a page's visitor where cookies may be blocked.
const visitHeader = "Hermeneus-Visit"

// What a page sends along of itself: the address that the chat stands on, and the key of the mail whose link opened it.
const (
	pageHeader    = "Hermeneus-Page"
	contactHeader = "Hermeneus-Contact"
)

// mostPage bounds an address that the chat stands on.
const mostPage = 500

// pageOf is an address that the chat stands on as it is kept: without what may be somebody's own.
func pageOf(address string) string {
	at, err := url.Parse(address)
	if err != nil || (at.Scheme != "http" && at.Scheme != "https") || at.Host == "" || len(address) > mostPage {
		return ""
	}
	return at.Scheme + "://" + at.Host + at.Path
}

// visitKey is what a visitor's key looks like.
var visitKey = regexp.MustCompile(`^[0-9a-f]{32}$`)

// keepVisit gives a browser the key of its visitor, unless that declined to be followed: then it lives in the page.
func (s *server) keepVisit(c *fiber.Ctx, v evidence.Visitor) {
	if !v.NotFollowed {
		s.setCookie(c, visitorCookie, v.Key, s.base.Now().AddDate(1, 0, 0))
	}
}

// renewVisit gives a browser another key: whoever comes next is somebody else.
func (s *server) renewVisit(c *fiber.Ctx) {
	v := s.visitor(c)
	v.Key = evidence.NewKey()
	s.keepVisit(c, v)
}

// ofPage gives the visitor of a form with the key that its page carries, where the browser keeps none.
func ofPage(c *fiber.Ctx, v evidence.Visitor) evidence.Visitor {
	if key := c.FormValue("visit"); c.Cookies(visitorCookie) == "" && visitKey.MatchString(key) {
		v.Key = key
	}
	return v
}

// Where the help centre that answers a request, and the visitor's language, are kept with it.
const (
	siteLocal     = "site"
	languageLocal = "language"
)

// language is what the visitor reads the interface in.
func language(c *fiber.Ctx) string {
	if l, ok := c.Locals(languageLocal).(string); ok && l != "" {
		return l
	}
	return fallback
}

// site is the help centre that answers a request.
func site(c *fiber.Ctx) sites.Site {
	found, _ := c.Locals(siteLocal).(sites.Site)
	return found
}

func (s *server) setCookie(c *fiber.Ctx, name, value string, expires time.Time) {
	c.Cookie(s.cookie(name, value, expires))
}

func (s *server) cookie(name, value string, expires time.Time) *fiber.Cookie {
	return &fiber.Cookie{
		Name:     name,
		Value:    value,
		Path:     "/",
		Expires:  expires,
		HTTPOnly: true,
		SameSite: fiber.CookieSameSiteLaxMode,
		Secure:   s.options.SecureCookie,
	}
}

func (s *server) visitor(c *fiber.Ctx) evidence.Visitor { return visitorOf(c.UserContext()) }

func visitorOf(ctx context.Context) evidence.Visitor {
	v, _ := ctx.Value(visitorKey).(evidence.Visitor)
	return v
}

// staffOf gives who is signed in, or a NotSigned problem.
func staffOf(ctx context.Context) (staff.Staff, error) {
	if who, ok := ctx.Value(staffKey).(staff.Staff); ok {
		return who, nil
	}
	return staff.Staff{}, &problem.Problem{
		Kind:   problem.NotSigned,
		Detail: "Sign in first. If you were signed in, the session has ended.",
	}
}

// againHeader carries a key that a client makes for what it may send again.
const againHeader = "Idempotency-Key"

// again is a key under which something is done once.
type again struct {
	base *instance.Instance
	key  string
}

// doOnce does what was asked for, unless it was done before under the request's key: then it
// gives what came of it.
func doOnce[I, O any](
	ctx context.Context,
	who string,
	op huma.Operation,
	in *I,
	handle func(context.Context, *I) (*O, error),
) (*O, error) {
	a, ok := ctx.Value(againKey).(again)
	if !ok {
		return handle(ctx, in)
	}
	sent, err := printOf(in)
	if err != nil {
		return handle(ctx, in)
	}
	ctx = instance.Once(ctx, a.key, who, op.OperationID, sent)
	out, err := handle(ctx, in)
	var before *instance.MadeBefore
	switch {
	case err == nil:
		if err := a.base.Came(ctx, out); err != nil {
			slog.Warn("what came of a request could not be kept", "operation", op.OperationID, "error", err)
		}
	case errors.As(err, &before):
		out = new(O)
		err = a.base.WhatCame(ctx, &out)
	}
	return out, err
}

// printOf tells one input from another; of a file, by its content's hash.
func printOf[I any](in *I) (string, error) {
	copied := *in
	if raw := reflect.ValueOf(&copied).Elem().FieldByName("RawBody"); raw.IsValid() && raw.CanSet() {
		sum := sha256.Sum256(raw.Bytes())
		raw.SetBytes(sum[:])
	}
	print, err := json.Marshal(copied)
	return string(print), err
}

// staffCall registers an operation that only staff can call.
func staffCall[I, O any](api huma.API, op huma.Operation, handle func(context.Context, staff.Staff, *I) (*O, error)) {
	op.Tags = append(op.Tags, "staff")
	op.Errors = append(op.Errors, 401, 403, 404, 409, 422)
	huma.Register(api, op, func(ctx context.Context, in *I) (*O, error) {
		who, err := staffOf(ctx)
		if err != nil {
			return nil, answer(err)
		}
		out, err := doOnce(
			ctx,
			fmt.Sprintf("staff:%d", who.ID),
			op,
			in,
			func(ctx context.Context, in *I) (*O, error) { return handle(ctx, who, in) },
		)
		return out, answer(err)
	})
}

// saidOnce are the operations that anybody can call and that make something each time.
var saidOnce = []string{"start-chat", "do-say"}

// publicCall registers an operation that anybody can call.
func publicCall[I, O any](api huma.API, op huma.Operation, handle func(context.Context, *I) (*O, error)) {
	op.Tags = append(op.Tags, "public")
	op.Errors = append(op.Errors, 404, 409, 422, 429)
	huma.Register(api, op, func(ctx context.Context, in *I) (*O, error) {
		var out *O
		var err error
		if slices.Contains(saidOnce, op.OperationID) {
			out, err = doOnce(ctx, "", op, in, handle)
		} else {
			out, err = handle(ctx, in)
		}
		return out, answer(err)
	})
}

// body is an answer with a body.
type body[T any] struct{ Body T }

func wrap[T any](value T, err error) (*body[T], error) {
	if err != nil {
		return nil, err
	}
	return &body[T]{value}, nil
}

// none is an answer without one.
type none struct{}

// list is one page of a list, and how many there are in all.
type list[T any] struct {
	Items []T `json:"items"`
	Total int `json:"total"`
}

func wrapList[T any](items []T, total int, err error) (*body[list[T]], error) {
	return wrap(list[T]{items, total}, err)
}

func op(method, path, id, summary string) huma.Operation {
	o := huma.Operation{Method: method, Path: path, OperationID: id, Summary: summary}
	if method == fiber.MethodDelete || strings.HasPrefix(id, "do-") {
		o.DefaultStatus = fiber.StatusNoContent
	}
	return o
}
