package http

import (
	"context"
	"crypto/sha256"
	"errors"
	"fmt"
	"io"
	"maps"
	"mime/multipart"
	"slices"
	"strings"

	"github.com/gofiber/fiber/v2"

	"hermeneus/app/forms"
	"hermeneus/app/instance"
	"hermeneus/app/problem"
	"hermeneus/app/requests"
	"hermeneus/app/search"
	"hermeneus/core/form"
)

// requestView is the request form: what was typed, and what is wrong with it.
type requestView struct {
	requests.NewRequest
	Errors   map[string]string
	Offers   []search.Result
	Kinds    []forms.RequestKind
	Chosen   forms.RequestKind
	Fields   []fieldView
	HadFiles bool
}

// fieldView is a field of the form's own, with what it holds.
type fieldView struct {
	form.Field
	Value     string
	Fault     string
	FaultID   string
	DependsOn string // the label of the choice that it depends on
}

// requestPages are how customers ask a person, and follow what they asked.
type requestPages struct {
	*server
	requests *requests.Requests
	forms    *forms.Forms
}

func (s *requestPages) routes(f *fiber.App) {
	f.Get("/api/staff/handoffs/:reference/files/:id<int>", s.handoffFile)
	f.Get("/help/request", s.requestPage)
	f.Post("/help/request", s.sendRequest)
	f.Post("/help/request/answered", s.answeredInForm)
	f.Get("/help/requests", s.myRequests)
	for _, place := range []string{"/help/requests/:key", "/help/conversations/:key"} {
		f.Get(place, s.requestFollowed)
		f.Post(place, s.addToRequest)
		f.Get(place+"/files/:id<int>", s.requestFile)
	}
}

func (s *requestPages) requestPage(c *fiber.Ctx) error {
	n := requests.NewRequest{Subject: c.Query("subject"), Kind: c.Query("kind")}
	if cut := []rune(n.Subject); len(cut) > 200 {
		n.Subject, n.Text = string(cut[:200]), n.Subject // what is too long for a subject is not lost
	}
	if err := s.requests.BeginForm(s.visitor(c), n.Kind); err != nil {
		return err
	}
	return s.showRequest(c, fiber.StatusOK, requestView{NewRequest: n})
}

func (s *requestPages) showRequest(c *fiber.Ctx, status int, is requestView) error {
	v := s.visitor(c)
	var err error
	if is.Kinds, err = s.forms.Kinds(c.UserContext(), v.Site); err != nil {
		return err
	}
	for _, k := range is.Kinds {
		if k.Name == is.Kind {
			is.Chosen = k
		}
	}
	is.Kind = is.Chosen.Name
	labels := map[string]string{}
	for _, f := range is.Chosen.Fields {
		labels[f.Key] = f.Label
		is.Fields = append(
			is.Fields,
			fieldView{f, is.Answers[f.Key], is.Errors[f.Key], "f-" + f.Key + "-fault", labels[f.When.Key]},
		)
	}
	if is.Subject != "" {
		offers, err := s.requests.OfferForForm(c.UserContext(), v, is.Subject, is.Text)
		var p *problem.Problem
		if err != nil && !errors.As(err, &p) {
			return err
		}
		is.Offers = offers
	}
	return s.pages.show(
		c,
		status,
		"request",
		v,
		is,
		view{
			Title:      s.say(c, "request.title"),
			Canonical:  s.address(c, "/help/request"),
			Alternates: s.alternates(c, s.address(c, "/help/request")),
		},
	)
}

func (s *requestPages) sendRequest(c *fiber.Ctx) error {
	n, err := readRequest(c)
	if err != nil {
		return err
	}
	if c.FormValue("step") == "kind" {
		return s.showRequest(c, fiber.StatusOK, requestView{NewRequest: n, HadFiles: len(n.Files) > 0})
	}
	ctx := instance.Once(c.UserContext(), c.FormValue("again"), "request", printOfRequest(n))
	v := ofPage(c, s.visitor(c))
	key, err := s.recorder.KeyFor(ctx, v, n.Address)
	if err != nil {
		return err
	}
	if key != v.Key {
		v.Key = key
		s.keepVisit(c, v)
	}
	sent, err := s.requests.SendRequest(ctx, v, n)
	if sent, err = made(s, ctx, sent, err); err == nil {
		return sendTo(c, "/help/conversations/"+sent.Token+"?sent=1", fiber.StatusSeeOther)
	}
	var p *problem.Problem
	if errors.As(err, &p) && p.Kind == problem.Invalid {
		is := requestView{NewRequest: n, Errors: byField(p), HadFiles: len(n.Files)+len(n.Uploads) > 0}
		return s.showRequest(c, fiber.StatusUnprocessableEntity, is)
	}
	return err
}

// printOfRequest tells one request from another.
func printOfRequest(n requests.NewRequest) string {
	uploads := slices.Clone(n.Files)
	for _, key := range slices.Sorted(maps.Keys(n.Uploads)) {
		uploads = append(uploads, n.Uploads[key])
	}
	n.Files, n.Uploads = nil, nil
	return fmt.Sprintf("%+v ", n) + printOfFiles(uploads)
}

func printOfFiles(files []form.Upload) string {
	var print strings.Builder
	for _, f := range files {
		fmt.Fprintf(&print, "%q %x ", f.Name, sha256.Sum256(f.Content))
	}
	return print.String()
}

// made keeps what came of a form that was sent, or gives what came of it before.
func made[T any](s *requestPages, ctx context.Context, came T, err error) (T, error) {
	var before *instance.MadeBefore
	switch {
	case err == nil:
		err = s.base.Came(ctx, came)
	case errors.As(err, &before):
		err = s.base.WhatCame(ctx, &came)
	}
	return came, err
}

// byField gives the first thing that is wrong with each field.
func byField(p *problem.Problem) map[string]string {
	faults := map[string]string{}
	for _, f := range p.Fields {
		if faults[f.Name] == "" {
			faults[f.Name] = f.Message
		}
	}
	return faults
}

// readRequest reads the form as it was sent, with files or without.
func readRequest(c *fiber.Ctx) (requests.NewRequest, error) {
	n := requests.NewRequest{
		Kind:    c.FormValue("kind"),
		Subject: c.FormValue("subject"),
		Text:    c.FormValue("text"),
		Address: c.FormValue("address"),
		Answers: map[string]string{},
		Uploads: map[string]form.Upload{},
	}
	sent, err := c.MultipartForm()
	if err != nil {
		for key, value := range c.Request().PostArgs().All() {
			if name, ok := strings.CutPrefix(string(key), "f."); ok {
				n.Answers[name] = string(value)
			}
		}
		return n, nil //nolint:nilerr // a form without files is sent in another way
	}
	for key, values := range sent.Value {
		if name, ok := strings.CutPrefix(key, "f."); ok && len(values) > 0 {
			n.Answers[name] = values[0]
		}
	}
	for key, files := range sent.File {
		if name, ok := strings.CutPrefix(key, "f."); ok && len(files) > 0 && files[0].Size > 0 {
			if n.Uploads[name], err = readUpload(files[0]); err != nil {
				return n, err
			}
		}
	}
	n.Files, err = readUploads(sent.File["files"])
	return n, err
}

func readUploads(headers []*multipart.FileHeader) ([]form.Upload, error) {
	var list []form.Upload
	for _, h := range headers {
		if h.Filename == "" && h.Size == 0 {
			continue // a browser sends an empty field so
		}
		u, err := readUpload(h)
		if err != nil {
			return nil, err
		}
		list = append(list, u)
	}
	return list, nil
}

func readUpload(h *multipart.FileHeader) (form.Upload, error) {
	file, err := h.Open()
	if err != nil {
		return form.Upload{}, fmt.Errorf("reading a file: %w", err)
	}
	defer func() { _ = file.Close() }()
	content, err := io.ReadAll(io.LimitReader(file, form.MaxFile+1))
	return form.Upload{Name: h.Filename, Content: content}, err
}

// answeredInForm takes it that an offered article answered what was being asked.
func (s *requestPages) answeredInForm(c *fiber.Ctx) error {
	if err := s.requests.AnsweredInForm(
		c.UserContext(),
		ofPage(c, s.visitor(c)),
		c.FormValue("reference"),
	); err != nil {
		return err
	}
	return s.pages.show(
		c,
		fiber.StatusOK,
		"answered",
		s.visitor(c),
		nil,
		view{Title: s.say(c, "request.answered"), NoIndex: true},
	)
}

func (s *requestPages) myRequests(c *fiber.Ctx) error {
	v := s.visitor(c)
	var list []requests.RequestLine
	if v.Customer != nil {
		var err error
		if list, err = s.requests.MyRequests(c.UserContext(), v); err != nil {
			return err
		}
	}
	return s.pages.show(c, fiber.StatusOK, "mine", v, list, view{Title: s.say(c, "followed.mine"), NoIndex: true})
}

// followedView is a request as its customer follows it.
type followedView struct {
	requests.FollowedRequest
	Address string // of this page
	Sent    bool
	Typed   string
	Errors  map[string]string
}

func (s *requestPages) requestFollowed(c *fiber.Ctx) error {
	return s.showFollowed(c, fiber.StatusOK, followedView{Sent: c.Query("sent") != ""})
}

func (s *requestPages) showFollowed(c *fiber.Ctx, status int, is followedView) error {
	followed, err := s.requests.FollowRequest(c.UserContext(), s.visitor(c), c.Params("key"))
	if err != nil {
		return err
	}
	is.FollowedRequest, is.Address = followed, strings.TrimSuffix(c.Path(), "/")
	return s.pages.show(
		c,
		status,
		"conversation",
		s.visitor(c),
		is,
		view{Title: s.say(c, "followed.title", "reference", followed.Reference), NoIndex: true},
	)
}

func (s *requestPages) addToRequest(c *fiber.Ctx) error {
	text := c.FormValue("text")
	var files []form.Upload
	if sent, err := c.MultipartForm(); err == nil {
		if files, err = readUploads(sent.File["files"]); err != nil {
			return err
		}
	}
	ctx := instance.Once(c.UserContext(), c.FormValue("again"), "reply", c.Params("key"), text, printOfFiles(files))
	_, err := made(s, ctx, true, s.requests.AddToRequest(ctx, s.visitor(c), c.Params("key"), text, files))
	var p *problem.Problem
	if errors.As(err, &p) && p.Kind == problem.Invalid {
		return s.showFollowed(c, fiber.StatusUnprocessableEntity, followedView{Typed: text, Errors: byField(p)})
	}
	if err != nil {
		return err
	}
	return sendTo(c, c.Path(), fiber.StatusSeeOther)
}

func (s *requestPages) requestFile(c *fiber.Ctx) error {
	id, err := c.ParamsInt("id")
	if err != nil {
		return fiber.ErrNotFound
	}
	file, err := s.requests.RequestFile(c.UserContext(), s.visitor(c), c.Params("key"), int64(id))
	if err != nil {
		return err
	}
	return sendFile(c, file.Name, file.MediaType, file.Bytes)
}

// sendFile gives a customer's file to be fetched, never to be shown in a page.
func sendFile(c *fiber.Ctx, name, mediaType string, content []byte) error {
	c.Set("Cache-Control", "private, no-store")
	return sendAttachment(c, name, mediaType, content)
}

// handoffFile gives an agent a file that came with a request.
func (s *requestPages) handoffFile(c *fiber.Ctx) error {
	who, err := staffOf(c.UserContext())
	if err != nil {
		return err
	}
	id, err := c.ParamsInt("id")
	if err != nil {
		return fiber.ErrNotFound
	}
	file, err := s.requests.HandoffFile(c.UserContext(), who, c.Params("reference"), int64(id))
	if err != nil {
		return err
	}
	return sendFile(c, file.Name, file.MediaType, file.Bytes)
}
