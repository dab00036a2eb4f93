package requests_test

import (
	"crypto/sha256"
	"errors"
	"strings"
	"testing"
	"time"

	"hermeneus/app/apptest"
	"hermeneus/app/conversations"
	"hermeneus/app/evidence"
	"hermeneus/app/problem"
	"hermeneus/app/requests"
	"hermeneus/core/form"
	"hermeneus/core/outcome"
)

func TestARequestIsTakenWithItsFieldsAndFiles(t *testing.T) {
	w, c, site := apptest.Requesting(t)
	v := evidence.Visitor{Key: "k", Site: site}
	n := requests.NewRequest{
		Kind:    "I am moving",
		Subject: "Moving",
		Text:    "On Friday.",
		Address: "wim@post.example",
		Answers: map[string]string{"which": "Out"},
		Uploads: map[string]form.Upload{
			"photo": {Name: "meter.png", Content: []byte("<html>")},
		},
		Files: []form.Upload{{Name: "a.exe", Content: []byte("MZ\x90\x00")}},
	}
	_, err := w.Requests.SendRequest(w.Context, v, n)
	faults := map[string]bool{}
	var refused *problem.Problem
	if !errors.As(err, &refused) {
		t.Fatal(err)
	}
	for _, f := range refused.Fields {
		faults[f.Name] = true
	}
	if refused.Kind != problem.Invalid || !faults["forward"] || !faults["photo"] || !faults["files"] ||
		len(faults) != 3 {
		t.Fatalf("refused for %v", faults)
	}
	n.Answers["forward"] = "12 Long Lane"
	n.Uploads["photo"] = form.Upload{
		Name:    "../me/ter.png",
		Content: apptest.Picture,
	}
	n.Files = []form.Upload{
		{Name: "readings.txt", Content: []byte("48213")},
	}
	sent, err := w.Requests.SendRequest(w.Context, v, n)
	w.Must(err)
	if _, err := w.Requests.SendRequest(
		w.Context,
		v,
		requests.NewRequest{Kind: "Of another site", Subject: "x", Text: "x", Address: "x@post.example"},
	); apptest.KindOf(err) != problem.NotFound {
		t.Errorf("a kind that is not offered: %v", err)
	}
	followed, err := w.Requests.FollowRequest(w.Context, v, sent.Token)
	w.Must(err)
	if len(followed.Answers) != 3 || followed.Answers[1].Value != "12 Long Lane" || len(followed.Files) != 2 ||
		followed.KindName != "I am moving" {
		t.Errorf("followed %+v", followed)
	}
	for _, f := range followed.Files {
		if strings.ContainsAny(f.Name, `/\`) {
			t.Errorf("a file is called %q", f.Name)
		}
	}
	w.Must(w.Conversations.Accept(w.Context, c.Agent, sent.Reference))
	handoff, err := w.Conversations.ReadHandoff(w.Context, c.Agent, sent.Reference)
	if err != nil || handoff.Team != "Accounts" || len(handoff.Answers) != 3 || len(handoff.Files) != 2 {
		t.Errorf("the agent sees %+v, %v", handoff, err)
	}
	if file, err := w.Requests.HandoffFile(
		w.Context,
		c.Agent,
		sent.Reference,
		handoff.Files[0].ID,
	); err != nil ||
		file.Size == 0 {
		t.Errorf("the agent's file: %v", err)
	}
	if _, err := w.Requests.HandoffFile(
		w.Context,
		c.Author,
		sent.Reference,
		handoff.Files[0].ID,
	); apptest.KindOf(err) != problem.Denied {
		t.Errorf("an author reads a customer's file: %v", err)
	}
}

// A signed link opens one request and no other; nobody else's session or token does.
func TestARequestIsFollowedByItsCustomerAlone(t *testing.T) {
	w, c, site := apptest.Requesting(t)
	id, err := w.Accounts.People.AddCustomer(w.Context, "Wim", "wim@post.example", "a long password")
	w.Must(err)
	other, err := w.Accounts.People.AddCustomer(w.Context, "Odile", "odile@post.example", "a long password")
	w.Must(err)
	wim := evidence.Visitor{Key: "k", Site: site, Customer: &evidence.Customer{ID: id, Email: "wim@post.example"}}
	odile := evidence.Visitor{
		Key:      "o",
		Site:     site,
		Customer: &evidence.Customer{ID: other, Email: "odile@post.example"},
	}
	sent, err := w.Requests.SendRequest(
		w.Context,
		wim,
		requests.NewRequest{
			Subject: "My bill",
			Text:    "Too high.",
			Files:   []form.Upload{{Name: "a.txt", Content: []byte("words")}},
		},
	)
	w.Must(err)
	hers, err := w.Requests.SendRequest(w.Context, odile, requests.NewRequest{Subject: "Hers", Text: "Hers."})
	w.Must(err)
	link := apptest.LinkInMail(t, w, "wim@post.example")
	anybody := evidence.Visitor{Key: "x"}
	for name, key := range map[string]string{"by the token": sent.Token, "by the link in the mail": link} {
		if f, err := w.Requests.FollowRequest(w.Context, anybody, key); err != nil || f.Reference != sent.Reference {
			t.Errorf("%s: %v", name, err)
		}
	}
	if f, err := w.Requests.FollowRequest(w.Context, wim, sent.Reference); err != nil || len(f.Files) != 1 {
		t.Errorf("signed in: %v", err)
	}
	forged := hers.Reference + link[strings.IndexByte(link, '.'):]
	for name, err := range map[string]error{
		"the reference alone":         apptest.Second(w.Requests.FollowRequest(w.Context, anybody, sent.Reference)),
		"another customer":            apptest.Second(w.Requests.FollowRequest(w.Context, odile, sent.Reference)),
		"the signature of another":    apptest.Second(w.Requests.FollowRequest(w.Context, anybody, forged)),
		"a signature cut short":       apptest.Second(w.Requests.FollowRequest(w.Context, anybody, link[:len(link)-1])),
		"no signature":                apptest.Second(w.Requests.FollowRequest(w.Context, anybody, sent.Reference+".")),
		"a file by another's session": apptest.Second(w.Requests.RequestFile(w.Context, odile, sent.Reference, 1)),
		"a file of another's request": apptest.Second(w.Requests.RequestFile(w.Context, odile, hers.Reference, 1)),
		"words by another":            w.Requests.AddToRequest(w.Context, odile, sent.Reference, "mine now", nil),
		"nothing at all":              apptest.Second(w.Requests.FollowRequest(w.Context, anybody, "")),
	} {
		if apptest.KindOf(err) != problem.NotFound {
			t.Errorf("%s: %v", name, err)
		}
	}
	// A token is random, and may begin as a number does.
	token := "R-0012aBcDeFgHiJkLmNoPqRsTuVwXyZ0123456789-_"
	sum := sha256.Sum256([]byte(token))
	w.Must(w.DB().Exec(`UPDATE conversations SET token_hash = ? WHERE reference = ?`, sum[:], sent.Reference).Error)
	if f, err := w.Requests.FollowRequest(w.Context, anybody, token); err != nil || f.Reference != sent.Reference {
		t.Errorf("by a token that begins like a number: %v", err)
	}
	list, err := w.Requests.MyRequests(w.Context, wim)
	if err != nil || len(list) != 1 || list[0].Subject != "My bill" {
		t.Errorf("my requests %+v, %v", list, err)
	}
	if _, err := w.Requests.MyRequests(w.Context, anybody); apptest.KindOf(err) != problem.NotSigned {
		t.Errorf("not signed in: %v", err)
	}
	_ = c
}

func TestAClosedRequestIsReopenedWithinItsWindow(t *testing.T) {
	w, c, site := apptest.Requesting(t)
	v := evidence.Visitor{Key: "k", Site: site}
	sent, err := w.Requests.SendRequest(
		w.Context,
		v,
		requests.NewRequest{Subject: "My bill", Text: "Too high.", Address: "wim@post.example"},
	)
	w.Must(err)
	w.Must(w.Conversations.Accept(w.Context, c.Agent, sent.Reference))
	w.Must(w.Conversations.Reply(w.Context, c.Agent, sent.Reference, conversations.AgentReply{Text: "Mended."}))
	w.Must(
		w.Requests.AddToRequest(
			w.Context,
			v,
			sent.Token,
			"Thank you!",
			[]form.Upload{{Name: "a.txt", Content: []byte("words")}},
		),
	)
	w.Must(w.Conversations.CloseHandoff(w.Context, c.Agent, sent.Reference))
	if err := w.Requests.AddToRequest(w.Context, v, sent.Token, " ", nil); apptest.KindOf(err) != problem.Invalid {
		t.Errorf("nothing is added: %v", err)
	}
	w.Wait(13 * 24 * time.Hour)
	if f, _ := w.Requests.FollowRequest(w.Context, v, sent.Token); !f.MayReopen {
		t.Error("it cannot be reopened on the 13th day")
	}
	w.Must(w.Requests.AddToRequest(w.Context, v, sent.Token, "It came back.", nil))
	list, err := w.Conversations.Handoffs(w.Context, c.Agent)
	if err != nil || list[0].Reference != sent.Reference || list[0].Status != "waiting" {
		t.Errorf("reopened: %+v, %v", list, err)
	}
	items, err := w.Evidence(w.Context)
	w.Must(err)
	requested := 0
	for _, e := range items {
		if e.Kind == outcome.Requested {
			requested++
		}
	}
	if requested != 2 {
		t.Errorf("%d contacts in evidence, want the first and the one that reopened it", requested)
	}
	w.Must(w.Conversations.Accept(w.Context, c.Agent, sent.Reference))
	w.Must(w.Conversations.CloseHandoff(w.Context, c.Agent, sent.Reference))
	w.Wait(14 * 24 * time.Hour)
	if err := w.Requests.AddToRequest(
		w.Context,
		v,
		sent.Token,
		"And again.",
		nil,
	); apptest.KindOf(err) != problem.NotNow {
		t.Errorf("on the 14th day: %v", err)
	}
	if f, _ := w.Requests.FollowRequest(w.Context, v, sent.Token); f.MayReopen {
		t.Error("it can be reopened on the 14th day")
	}
}

func TestThisAnsweredItClosesTheFormAsAnswered(t *testing.T) {
	w, _, site, refs := apptest.Searching(t)
	v := evidence.Visitor{Key: "k", Site: site}
	offers, err := w.Requests.OfferForForm(w.Context, v, "amber light", "the rented battery shows it")
	if err != nil || apptest.Titles(offers) != "The rented battery shows an amber light" {
		t.Fatal(apptest.Titles(offers), err)
	}
	w.Must(w.Requests.AnsweredInForm(w.Context, v, refs["The rented battery shows an amber light"]))
	items, err := w.Evidence(w.Context)
	w.Must(err)
	q := outcome.Fold(items, w.Time(), outcome.DefaultWindow)
	if len(q) != 1 || q[0].Outcome != outcome.Confirmed {
		t.Errorf("outcome %+v", q)
	}
}
