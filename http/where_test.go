package http_test

import (
	"net/url"
	"strings"
	"testing"
	"time"

	"hermeneus/app/apptest"
	"hermeneus/app/conversations"
	"hermeneus/app/evidence"
	"hermeneus/app/requests"
	"hermeneus/core/outcome"
)

// What is opened, read or said through a link in a mail belongs to the contact whose mail it was, however late.
func TestWhatIsOpenedFromAMailBelongsToItsContact(t *testing.T) {
	s := open(t)
	v := evidence.Visitor{Key: strings.Repeat("ab", 16), Site: 1}
	sent, err := s.Requests.SendRequest(s.Context, v,
		requests.NewRequest{Subject: "My bill", Text: "Why?", Address: "wim@post.example"})
	s.Must(err)
	s.Must(s.Conversations.Accept(s.Context, s.crew.Agent, sent.Reference))
	s.Must(s.Conversations.Reply(s.Context, s.crew.Agent, sent.Reference,
		conversations.AgentReply{Text: "Read this.", Articles: []string{"A-0001"}}))
	var link string
	s.Must(s.DB().Raw(`SELECT substring(body FROM '(/help/articles/A-0001\S+)') FROM mails
		WHERE body LIKE '%Read it at%'`).Scan(&link).Error)
	_, key, there := strings.Cut(link, "?of=")
	if !there {
		t.Fatalf("the link in the mail is %q", link)
	}
	s.Wait(50 * time.Hour)
	answer, page := s.ask("GET", link, nil)
	if answer.StatusCode != 200 || !strings.Contains(page, `<meta name="contact" content="`+key+`">`) {
		t.Fatal(answer.Status)
	}
	s.Wait(time.Minute)
	contact := []string{"Hermeneus-Contact", key}
	if answer, text := s.ask(
		"POST",
		"/api/help/articles/A-0001/read",
		map[string]any{"seconds": 60},
		contact...); answer.StatusCode != 204 {
		t.Fatal(answer.Status, text)
	}
	s.ask("POST", "/help/articles/A-0001/vote?of="+url.QueryEscape(key), url.Values{"helped": {"yes"}})
	s.ask("GET", "/help/articles/A-0001?of="+sent.Reference+".made-up", nil) // signed by nobody
	s.ask("GET", "/help/articles/A-0001?of="+sent.Reference, nil)
	items, err := s.Evidence(s.Context)
	s.Must(err)
	carried := map[outcome.Kind]int{}
	for _, e := range items {
		if e.Contact == sent.Reference {
			carried[e.Kind]++
		}
	}
	if carried[outcome.Opened] != 1 || carried[outcome.Read] != 1 || carried[outcome.Helped] != 1 {
		t.Errorf("of the contact: %v\n%+v", carried, items)
	}
	questions := outcome.Fold(items, s.Time().AddDate(0, 0, 30), outcome.DefaultWindow)
	for _, q := range questions {
		if q.Outcome != outcome.Person && q.Outcome != outcome.Browsing {
			t.Errorf("a question of its own: %+v", q)
		}
	}
}

func TestTheFormAndTheEmbedSayWhere(t *testing.T) {
	s := open(t)
	s.ask("GET", "/help/request", nil)
	_, err := s.Flows.PublishFlow(s.Context, s.crew.Publisher, conversations.FrontDoor, apptest.DoorFlow, 0)
	s.Must(err)
	for page, want := range map[string]string{
		"https://member.example/bills?me=wim#now":            "https://member.example/bills",
		"javascript:alert(1)":                                "",
		"https://member.example/" + strings.Repeat("x", 600): "",
	} {
		if answer, text := s.ask("POST", "/api/chat", nil, "Hermeneus-Page", page); answer.StatusCode != 200 {
			t.Fatal(answer.Status, text)
		}
		var kept string
		s.Must(
			s.DB().Raw(`SELECT page FROM evidence WHERE kind = 'began' AND channel = 'chat' ORDER BY id DESC LIMIT 1`).
				Scan(&kept).Error,
		)
		if kept != want {
			t.Errorf("%s is kept as %q, want %q", page, kept, want)
		}
	}
	var forms int
	s.Must(s.DB().Raw(`SELECT count(*) FROM evidence WHERE kind = 'began' AND channel = 'form'`).Scan(&forms).Error)
	if forms != 1 {
		t.Errorf("%d forms were begun", forms)
	}
}
