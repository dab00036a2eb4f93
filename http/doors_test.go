package http_test

import (
	"bufio"
	"encoding/json"
	"net"
	"net/http"
	"regexp"
	"strings"
	"testing"
	"time"

	"hermeneus/app/conversations"
	"hermeneus/app/evidence"
	"hermeneus/core/flow"
	door "hermeneus/http"
)

// Every operation of the staff's API, taken from its own document, refuses
// whoever is not signed in, whatever they send.
func TestNoStaffOperationIsOpen(t *testing.T) {
	s := open(t)
	raw, err := door.OpenAPI()
	s.Must(err)
	var document struct {
		Paths map[string]map[string]struct{ OperationID string }
	}
	s.Must(json.Unmarshal(raw, &document))
	parameter := regexp.MustCompile(`\{\w+\}`)
	tried := 0
	for path, operations := range document.Paths {
		for method, o := range operations {
			if !strings.HasPrefix(path, "/api/staff/") || o.OperationID == "sign-in" || o.OperationID == "sign-out" ||
				strings.Contains(path, "password-links") {
				continue
			}
			tried++
			s.cookies = map[string]string{"hermeneus_staff": "a guess"}
			answer, text := s.ask(strings.ToUpper(method), parameter.ReplaceAllString(path, "1"), "{}")
			if answer.StatusCode != 401 && answer.StatusCode != 422 {
				t.Errorf("%s %s: %s %s", method, path, answer.Status, text)
			}
			if strings.Contains(text, "estimated") {
				t.Errorf("%s %s gives something away: %s", method, path, text)
			}
		}
	}
	if tried < 25 {
		t.Errorf("only %d operations were tried", tried)
	}
	for _, path := range []string{"/api/staff/handoffs-events"} {
		if answer, _ := s.ask("GET", path, nil); answer.StatusCode != 401 {
			t.Errorf("%s: %s", path, answer.Status)
		}
	}
}

// events reads server-sent events from a real connection.
func events(t *testing.T, address string, cookies map[string]string) <-chan string {
	t.Helper()
	r, err := http.NewRequest("GET", address, nil)
	if err != nil {
		t.Fatal(err)
	}
	for name, value := range cookies {
		r.AddCookie(&http.Cookie{Name: name, Value: value})
	}
	answer, err := http.DefaultClient.Do(r)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { _ = answer.Body.Close() })
	if got := answer.Header.Get("Content-Type"); got != "text/event-stream" {
		t.Fatalf("%s: content type %q", address, got)
	}
	found := make(chan string, 9)
	go func() {
		lines := bufio.NewScanner(answer.Body)
		for lines.Scan() {
			if data, ok := strings.CutPrefix(lines.Text(), "data: "); ok {
				found <- data
			}
		}
		close(found)
	}()
	return found
}

func TestChangesArriveAsServerSentEvents(t *testing.T) {
	s := open(t)
	s.signIn("gus")
	_, err := s.Flows.PublishFlow(
		s.Context,
		s.crew.Publisher,
		conversations.FrontDoor,
		`{"name": "Door", "language": "en", "start": "ask", "turns": [
		{"id": "ask", "kind": "request", "text": "What shall we answer?", "team": "Accounts", "next": "bye"},
		{"id": "bye", "kind": "close", "text": "Goodbye."}]}`,
		0,
	)
	s.Must(err)
	token, err := s.Conversations.StartChat(s.Context, evidence.Visitor{Key: "k"})
	s.Must(err)
	line, err := net.Listen("tcp", "127.0.0.1:0")
	s.Must(err)
	go func() { _ = s.server.Fiber().Listener(line) }()
	base := "http://" + line.Addr().String()
	chat := events(t, base+"/api/chat/"+token+"/events", nil)
	queue := events(t, base+"/api/staff/handoffs-events", s.cookies)
	next := func(what string, from <-chan string, want string) {
		t.Helper()
		select {
		case got := <-from:
			if got != want {
				t.Errorf("%s: %q, want %q", what, got, want)
			}
		case <-time.After(5 * time.Second):
			t.Fatalf("%s: no event", what)
		}
	}
	next("the customer's line", chat, "ready")
	next("the agents' line", queue, "ready")
	s.Must(
		s.Conversations.SayInChat(
			s.Context,
			evidence.Visitor{Key: "k"},
			token,
			flow.Input{Kind: flow.Words, Text: "my bill"},
		),
	)
	next("the customer's line", chat, "changed")
	next("the agents' line", queue, "changed")

	s.cookies = map[string]string{}
	s.signIn("ada")
	if answer, _ := s.ask("GET", "/api/staff/handoffs-events", nil); answer.StatusCode != 403 {
		t.Errorf("an author listens to the agents' line: %s", answer.Status)
	}
	if answer, _ := s.ask("GET", "/api/chat/nonsense/events", nil); answer.StatusCode != 404 {
		t.Errorf("a conversation that is not there: %s", answer.Status)
	}
}

func TestTooManyRequestsAreToldSo(t *testing.T) {
	s := open(t)
	server, err := door.New(s.App, door.Options{Name: "Wrenmoor", PerMinute: 3})
	s.Must(err)
	s.server = server
	defer func() { _ = server.Close() }()
	for range 3 {
		if answer, _ := s.ask("GET", "/help", nil); answer.StatusCode != 200 {
			t.Fatal(answer.Status)
		}
	}
	answer, text := s.ask("GET", "/help", nil)
	if answer.StatusCode != 429 || !strings.Contains(text, "Wait a minute") {
		t.Errorf("%s %s", answer.Status, text)
	}
	if answer, _ := s.ask("GET", "/healthz", nil); answer.StatusCode != 200 {
		t.Errorf("the health check is limited too: %s", answer.Status)
	}
}

func TestCookiesAreKeptFromPrograms(t *testing.T) {
	s := open(t)
	server, err := door.New(s.App, door.Options{SecureCookie: true})
	s.Must(err)
	s.server = server
	defer func() { _ = server.Close() }()
	answer, _ := s.ask(
		"POST",
		"/api/staff/session",
		map[string]string{"email": "ada@wrenmoor.example", "password": "a long password"},
	)
	for _, c := range answer.Cookies() {
		if !c.HttpOnly || !c.Secure || c.SameSite != http.SameSiteLaxMode {
			t.Errorf("%+v", c)
		}
	}
	answer, _ = s.ask("GET", "/help", nil)
	for _, c := range answer.Cookies() {
		if !c.HttpOnly || !c.Secure || c.SameSite != http.SameSiteLaxMode {
			t.Errorf("%+v", c)
		}
	}
	if answer, _ := s.ask("GET", "/help", nil, "User-Agent", "curl/8.5.0"); len(answer.Cookies()) != 0 {
		t.Error("a crawler got a key")
	}
}
