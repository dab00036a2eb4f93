package http_test

import (
	"bufio"
	"fmt"
	"io"
	"net"
	"net/http"
	"net/url"
	"strings"
	"testing"
	"time"

	"hermeneus/app/evidence"
	"hermeneus/app/requests"
	door "hermeneus/http"
)

// send writes a request as it stands over a line of its own, and reads the answer.
func (s *site) send(address, request string) (*http.Response, string) {
	s.T.Helper()
	line, err := net.Dial("tcp", address)
	s.Must(err)
	defer func() { _ = line.Close() }()
	s.Must(line.SetDeadline(time.Now().Add(20 * time.Second)))
	_, _ = io.WriteString(line, request)
	answer, err := http.ReadResponse(bufio.NewReader(line), nil)
	if err != nil {
		s.T.Fatalf("%.80q: %v", request, err)
	}
	text, _ := io.ReadAll(answer.Body)
	return answer, string(text)
}

// What is to be gone back to cannot plant a header, nor lead away from the help centre.
func TestGoingBackStaysOnTheHelpCentre(t *testing.T) {
	s := open(t)
	_, err := s.Accounts.People.AddCustomer(s.Context, "wim", "wim@post.example", "a long password")
	s.Must(err)
	for back, want := range map[string]string{
		"/help/articles/A-0001?thanks=1#helped": "/help/articles/A-0001?thanks=1#helped",
		"/help":                                 "/help",
		"":                                      "/help",
		"/help\r\nSet-Cookie: hermeneus_customer=planted": "/help",
		"/help/%0d%0aSet-Cookie: a=b":                     "/help",
		"/help?x=\r\nSet-Cookie: a=b":                     "/help",
		"//elsewhere.example/help":                        "/help",
		"https://elsewhere.example/help":                  "/help",
		"javascript:alert(1)":                             "/help",
		`/help\..\\elsewhere.example`:                     "/help",
		"/helpless":                                       "/help",
		"/help//elsewhere.example":                        "/help",
	} {
		for path, form := range map[string]url.Values{
			"/help/sign-in": {"email": {"wim@post.example"}, "password": {"a long password"}, "back": {back}},
			"/help/preview": {"back": {back}},
		} {
			answer, _ := s.ask("POST", path, form)
			if got := answer.Header.Get("Location"); answer.StatusCode != 303 || got != want {
				t.Errorf("%s, back to %q: %d to %q", path, back, answer.StatusCode, got)
			}
			for _, cookie := range answer.Header.Values("Set-Cookie") {
				if strings.Contains(cookie, "planted") || strings.HasPrefix(cookie, "a=b") {
					t.Errorf("%s, back to %q plants %s", path, back, cookie)
				}
			}
		}
	}
}

// What a request says of where it comes from counts from a trusted proxy alone.
func TestOnlyTrustedProxiesAreBelieved(t *testing.T) {
	s := open(t)
	behind, err := door.New(
		s.App,
		door.Options{Name: "Wrenmoor", PerMinute: 3, Proxies: []string{"127.0.0.1", "10.0.0.0/8"}},
	)
	s.Must(err)
	t.Cleanup(func() { _ = behind.Close() })
	direct, err := door.New(s.App, door.Options{Name: "Wrenmoor", PerMinute: 3})
	s.Must(err)
	t.Cleanup(func() { _ = direct.Close() })
	serve := func(server *door.Server) string {
		line, err := net.Listen("tcp", "127.0.0.1:0")
		s.Must(err)
		go func() { _ = server.Fiber().Listener(line) }()
		return line.Addr().String()
	}
	asking := func(address, forwarded string) int {
		answer, _ := s.send(
			address,
			"GET /help HTTP/1.1\r\nHost: a\r\nConnection: close\r\nX-Forwarded-For: "+forwarded+"\r\n\r\n",
		)
		return answer.StatusCode
	}
	proxied, open := serve(behind), serve(direct)
	for i := range 6 { // a whole company behind a proxy is many people
		if code := asking(proxied, fmt.Sprintf("198.51.100.%d", i)); code != 200 {
			t.Errorf("visitor %d behind a trusted proxy: %d", i, code)
		}
	}
	var last int
	for i := range 6 { // one who writes the header themselves is one: the proxy adds whom it saw
		last = asking(proxied, fmt.Sprintf("192.0.2.%d, 203.0.113.9, 10.1.2.3", i))
	}
	if last != 429 {
		t.Errorf("a visitor who invents addresses is not limited: %d", last)
	}
	for i := range 6 { // and without a trusted proxy nobody's word counts
		last = asking(open, fmt.Sprintf("198.51.100.%d", i))
	}
	if last != 429 {
		t.Errorf("a header from anybody is believed: %d", last)
	}
	answer, text := s.send(
		serve(s.server),
		"GET /sitemap.xml HTTP/1.1\r\nHost: a\r\nConnection: close\r\nX-Forwarded-Host: "+
			"elsewhere.example\r\nX-Forwarded-Proto: https\r\n\r\n",
	)
	if answer.StatusCode != 200 || strings.Contains(text, "elsewhere") ||
		!strings.Contains(text, "<loc>http://help.wrenmoor.example/help</loc>") {
		t.Errorf("the sitemap: %s\n%s", answer.Status, text)
	}
}

// Links name the configured address, or a host of the settings; never what a request says.
func TestLinksNameOnlyKnownHosts(t *testing.T) {
	s := open(t)
	sites, err := s.Sites.Sites(s.Context)
	s.Must(err)
	paths := []string{
		"/help",
		"/help/articles/A-0001/why-a-bill-is-estimated",
		"/sitemap.xml",
		"/robots.txt",
		"/help/categories/1/feed.atom",
	}
	for _, path := range paths {
		_, text := s.ask("GET", "http://elsewhere.example"+path, nil)
		if strings.Contains(text, "elsewhere.example") || !strings.Contains(text, "http://help.wrenmoor.example/") {
			t.Errorf("%s repeats the host of the request:\n%s", path, text)
		}
	}
	main := sites[0]
	main.Hosts = []string{"help.wrenmoor.example", "answers.example"}
	_, err = s.Sites.KeepSite(s.Context, s.crew.Administrator, main)
	s.Must(err)
	s.Eventually(func() bool { // the word of it has gone round
		answer, _ := s.ask("GET", "http://elsewhere.example/help", nil)
		return answer.StatusCode == 421
	})
	for _, path := range paths {
		_, text := s.ask("GET", "http://answers.example"+path, nil)
		if !strings.Contains(text, "http://answers.example/") {
			t.Errorf("%s does not name the host of the settings:\n%s", path, text)
		}
		if answer, _ := s.ask("GET", "http://elsewhere.example"+path, nil); answer.StatusCode != 421 {
			t.Errorf("%s under a host that is not in the settings: %s", path, answer.Status)
		}
	}
}

// A body is refused for its length before it is read, by what its route takes.
func TestBodiesAreLimitedBeforeTheyAreRead(t *testing.T) {
	s := open(t)
	address := s.listen()
	for path, length := range map[string]int{
		"/help/sign-in": 65 << 10, "/help/preview": 65 << 10, "/help/articles/A-0001/vote": 65 << 10, "/help/request": 26 << 20, "/api/chat": 65 << 10,
		"/api/staff/articles": 6 << 20, "/api/staff/imports": 65 << 20, "/api/staff/media": 40 << 20,
	} {
		// Nothing of it is sent: who waits for it never answers.
		answer, _ := s.send(
			address,
			fmt.Sprintf("POST %s HTTP/1.1\r\nHost: a\r\nContent-Length: %d\r\n\r\n{", path, length),
		)
		if answer.StatusCode != 413 {
			t.Errorf("%s with %d bytes: %s", path, length, answer.Status)
		}
	}
	for path, want := range map[string]int{"/api/staff/imports": 401, "/api/staff/media": 401, "/api/staff/articles-from-mail": 401} {
		answer, _ := s.send(
			address,
			fmt.Sprintf(
				"POST %s HTTP/1.1\r\nHost: a\r\nContent-Type: application/octet-stream\r\nContent-Length: "+
					"4000000\r\n\r\n%s",
				path,
				strings.Repeat("x", 9000),
			),
		)
		if answer.StatusCode != want {
			t.Errorf("a stranger's body to %s: %s", path, answer.Status)
		}
	}
	for name, request := range map[string]struct {
		sent string
		want int
	}{
		"packed":         {"POST /help/sign-in HTTP/1.1\r\nHost: a\r\nContent-Encoding: gzip\r\nContent-Length: 4\r\n\r\nabcd", 415},
		"without length": {"POST /help/sign-in HTTP/1.1\r\nHost: a\r\nTransfer-Encoding: chunked\r\n\r\n4\r\nabcd\r\n0\r\n\r\n", 411},
		"an odd header":  {"POST /help/sign-in HTTP/1.1\r\nHost: a\r\nTransfer-Encoding : chunked\r\n\r\n4\r\nabcd\r\n0\r\n\r\n", 400},
	} {
		if answer, _ := s.send(address, request.sent); answer.StatusCode != request.want {
			t.Errorf("%s: %s, want %d", name, answer.Status, request.want)
		}
	}
}

// What a handler does not read of a body is not taken for the next request.
func TestAnUnreadBodyIsNoRequest(t *testing.T) {
	s := open(t)
	line, err := net.Dial("tcp", s.listen())
	s.Must(err)
	defer func() { _ = line.Close() }()
	s.Must(line.SetDeadline(time.Now().Add(20 * time.Second)))
	inner := "GET /help/search?q=smuggled HTTP/1.1\r\nHost: a\r\n\r\n"
	body := strings.Repeat(" ", 9000) + inner // beyond what is read ahead
	_, err = fmt.Fprintf(
		line,
		"GET /help HTTP/1.1\r\nHost: a\r\nContent-Length: %d\r\n\r\n%sGET /healthz HTTP/1.1\r\nHost: "+
			"a\r\nConnection: close\r\n\r\n",
		len(body),
		body,
	)
	s.Must(err)
	answers, err := io.ReadAll(line)
	s.Must(err)
	if strings.Contains(string(answers), "smuggled") || strings.Count(string(answers), "HTTP/1.1 200") > 2 {
		t.Errorf("it answered the body:\n%s", answers)
	}
}

// One address, and one person, hold so many streams of events open and no more.
func TestStreamsOfEventsAreBounded(t *testing.T) {
	s := open(t)
	address := s.listen()
	session, err := s.SignInStaffByName("gus")
	s.Must(err)
	open := func() (net.Conn, string) {
		line, err := net.Dial("tcp", address)
		s.Must(err)
		s.Must(line.SetDeadline(time.Now().Add(20 * time.Second)))
		_, err = fmt.Fprintf(
			line,
			"GET /api/staff/handoffs-events HTTP/1.1\r\nHost: a\r\nCookie: hermeneus_staff=%s\r\n\r\n",
			session.Token,
		)
		s.Must(err)
		status, err := bufio.NewReader(line).ReadString('\n')
		s.Must(err)
		return line, status
	}
	var kept []net.Conn
	defer func() {
		for _, line := range kept {
			_ = line.Close()
		}
	}()
	for i := range 20 {
		line, status := open()
		kept = append(kept, line)
		if !strings.Contains(status, " 200 ") {
			t.Fatalf("stream %d: %s", i, status)
		}
	}
	if line, status := open(); !strings.Contains(status, " 429 ") {
		t.Errorf("one more: %s", status)
	} else {
		_ = line.Close()
	}
	_ = kept[0].Close() // a page is closed: another can open
	s.Eventually(func() bool {
		_, err := s.Requests.SendRequest(
			s.Context,
			evidence.Visitor{Key: "k"},
			requests.NewRequest{Subject: "A bill", Text: "Why?", Address: "wim@post.example"},
		) // rings
		s.Must(err)
		line, status := open()
		_ = line.Close()
		return strings.Contains(status, " 200 ")
	})
}

// A customer sets and changes their password on pages that need no JavaScript.
func TestPasswordPages(t *testing.T) {
	s := open(t)
	_, err := s.Accounts.People.AddCustomer(s.Context, "wim", "wim@post.example", "a long password")
	s.Must(err)
	if answer, text := s.ask(
		"GET",
		"/help/forgotten",
		nil,
	); answer.StatusCode != 200 ||
		!strings.Contains(text, "Set a new password") {
		t.Fatalf("%s %s", answer.Status, text)
	}
	for _, address := range []string{"wim@post.example", "nobody@post.example"} {
		answer, text := s.ask("POST", "/help/forgotten", url.Values{"email": {address}})
		if answer.StatusCode != 200 || !strings.Contains(text, "a link is on its way") {
			t.Errorf("%s: %s %s", address, answer.Status, text)
		}
	}
	var body string
	s.Must(s.DB().Raw(`SELECT body FROM mails WHERE address = 'wim@post.example'`).Scan(&body).Error)
	_, rest, _ := strings.Cut(body, "/help/new-password?key=")
	key, _, _ := strings.Cut(rest, "\n")
	answer, text := s.ask("GET", "/help/new-password?key="+key, nil)
	if answer.StatusCode != 200 || !strings.Contains(text, "For wim@post.example") ||
		answer.Header.Get("Referrer-Policy") != "same-origin" {
		t.Errorf("%s %v %s", answer.Status, answer.Header, text)
	}
	if answer, text := s.ask(
		"POST",
		"/help/new-password",
		url.Values{"key": {key}, "password": {"short"}},
	); answer.StatusCode != 422 ||
		!strings.Contains(text, "At least 10 characters.") {
		t.Errorf("%s %s", answer.Status, text)
	}
	if answer, text := s.ask(
		"POST",
		"/help/new-password",
		url.Values{"key": {key}, "password": {"quite a new password"}},
	); answer.StatusCode != 200 {
		t.Errorf("%s %s", answer.Status, text)
	}
	if answer, _ := s.ask("GET", "/help/new-password?key="+key, nil); answer.StatusCode != 410 {
		t.Errorf("used, the link says %s", answer.Status)
	}
	if answer, _ := s.ask("GET", "/help/password", nil); answer.StatusCode != 303 {
		t.Errorf("signed out: %s", answer.Status)
	}
	s.ask("POST", "/help/sign-in", url.Values{"email": {"wim@post.example"}, "password": {"quite a new password"}})
	if answer, text := s.ask(
		"POST",
		"/help/password",
		url.Values{"present": {"wrong"}, "next": {"one password more"}},
	); answer.StatusCode != 422 ||
		!strings.Contains(text, "not your present password") {
		t.Errorf("%s %s", answer.Status, text)
	}
	if answer, text := s.ask(
		"POST",
		"/help/password",
		url.Values{"present": {"quite a new password"}, "next": {"one password more"}},
	); answer.StatusCode != 200 {
		t.Errorf("%s %s", answer.Status, text)
	}
	if _, text := s.ask("GET", "/help/requests", nil); !strings.Contains(text, "Change your password") {
		t.Error("the customer was signed out, or finds no way to it")
	}
}
