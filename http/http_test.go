package http_test

import (
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"net/url"
	"regexp"
	"strings"
	"testing"

	"hermeneus/app/apptest"
	"hermeneus/app/library"
	"hermeneus/core/audience"
	door "hermeneus/http"
)

// site is a served application and a browser without JavaScript.
type site struct {
	*apptest.World
	crew    apptest.Crew
	server  *door.Server
	cookies map[string]string
}

func open(t *testing.T) *site {
	t.Helper()
	return openWith(t, 0)
}

// openWith lets one address make so many requests a minute; 0 for no limit.
func openWith(t *testing.T, perMinute int) *site {
	t.Helper()
	return openOver(t, apptest.Open(t), perMinute)
}

// openOver is the door to a world.
func openOver(t *testing.T, w *apptest.World, perMinute int) *site {
	t.Helper()
	c := w.Crew()
	w.Publish(
		c,
		w.Draft(
			c.Author,
			w.Category(c.Author, "Bills"),
			"Why a bill is <estimated>",
			"<p>No reading reached us.</p>",
			audience.Everyone,
		),
	)
	server, err := door.New(w.App, door.Options{Name: "Wrenmoor", PerMinute: perMinute})
	w.Must(err)
	t.Cleanup(func() { _ = server.Close() })
	return &site{w, c, server, map[string]string{}}
}

// ask sends a request; a form is sent as a browser sends it, other bodies as JSON.
func (s *site) ask(method, path string, body any, headers ...string) (*http.Response, string) {
	s.T.Helper()
	var reader io.Reader
	contentType := ""
	switch b := body.(type) {
	case nil:
	case url.Values:
		reader, contentType = strings.NewReader(b.Encode()), "application/x-www-form-urlencoded"
	case string:
		reader, contentType = strings.NewReader(b), "application/json"
	default:
		raw, _ := json.Marshal(b)
		reader, contentType = strings.NewReader(string(raw)), "application/json"
	}
	r, err := http.NewRequest(method, path, reader)
	s.Must(err)
	if r.Host == "" {
		r.Host = "help.example"
	}
	if contentType != "" {
		r.Header.Set("Content-Type", contentType)
	}
	for i := 0; i+1 < len(headers); i += 2 {
		r.Header.Set(headers[i], headers[i+1])
	}
	for name, value := range s.cookies {
		r.AddCookie(&http.Cookie{Name: name, Value: value})
	}
	answer, err := s.server.Fiber().Test(r, 10_000)
	s.Must(err)
	for _, c := range answer.Cookies() {
		s.cookies[c.Name] = c.Value
	}
	text, err := io.ReadAll(answer.Body)
	s.Must(err)
	return answer, string(text)
}

func (s *site) signIn(name string) {
	s.T.Helper()
	if answer, text := s.ask(
		"POST",
		"/api/staff/session",
		map[string]string{"email": name + "@wrenmoor.example", "password": "a long password"},
	); answer.StatusCode != 200 {
		s.T.Fatal(answer.Status, text)
	}
}

func TestRefusalsAreProblemDocuments(t *testing.T) {
	s := open(t)
	for _, c := range []struct {
		name, as, method, path string
		body                   any
		status                 int
		kind, field            string
	}{
		{"nobody is signed in", "", "GET", "/api/staff/today", nil, 401, "not-signed-in", ""},
		{"a wrong password", "", "POST", "/api/staff/session", map[string]string{"email": "ada@wrenmoor.example", "password": "no"}, 401, "wrong-sign-in", ""},
		{"a field is missing", "", "POST", "/api/staff/session", map[string]string{"email": "x"}, 422, "invalid", "body"},
		{"not JSON", "", "POST", "/api/staff/session", "{", 400, "invalid", ""},
		{"a role is missing", "ada", "GET", "/api/staff/outcomes", nil, 403, "denied", ""},
		{"an unknown article", "ada", "GET", "/api/staff/articles/A-9999", nil, 404, "not-found", ""},
		{"a stale save", "ada", "PUT", "/api/staff/articles/A-0001", map[string]any{"version": 9, "copy": library.WorkingCopy{Keywords: []string{}}}, 409, "stale-save", ""},
		{"an article over 1 MB", "ada", "PUT", "/api/staff/articles/A-0001", map[string]any{"version": 1, "copy": library.WorkingCopy{Body: strings.Repeat("x", 1<<20+1), Keywords: []string{}}}, 413, "too-large", ""},
		{"an article beyond what is read", "ada", "PUT", "/api/staff/articles/A-0001", map[string]any{"version": 1, "copy": library.WorkingCopy{Body: strings.Repeat("x", 5<<20), Keywords: []string{}}}, 413, "too-large", ""},
		{"a title too long", "ada", "PUT", "/api/staff/articles/A-0001", map[string]any{"version": 1, "copy": library.WorkingCopy{Title: strings.Repeat("x", 201), Keywords: []string{}}}, 422, "invalid", "title"},
		{"an author withdraws", "ada", "POST", "/api/staff/articles/A-0001/actions", map[string]any{"action": "withdraw", "version": 1}, 403, "denied", ""},
		{"a day that is none", "lyn", "GET", "/api/staff/outcomes?from=soon", nil, 422, "invalid", "query.from"},
		{"a question too long", "", "POST", "/api/help/offers", map[string]string{"subject": strings.Repeat("x", 4001)}, 422, "question-too-long", ""},
		{"a title with a zero byte", "ada", "PUT", "/api/staff/articles/A-0001", map[string]any{"version": 1, "copy": library.WorkingCopy{Title: "a\x00b", Keywords: []string{}}}, 422, "invalid", ""},
		{"an unknown conversation", "", "GET", "/api/chat/nonsense", nil, 404, "not-found", ""},
		{"an unknown address", "", "GET", "/api/nonsense", nil, 404, "about:blank", ""},
		{"an unknown picture", "", "GET", "/files/" + strings.Repeat("0", 64), nil, 404, "not-found", ""},
	} {
		t.Run(c.name, func(t *testing.T) {
			s.cookies = map[string]string{}
			if c.as != "" {
				s.signIn(c.as)
			}
			answer, text := s.ask(c.method, c.path, c.body)
			var p door.Problem
			if err := json.Unmarshal([]byte(text), &p); err != nil {
				t.Fatalf("%s: %s", answer.Status, text)
			}
			if answer.StatusCode != c.status || p.Status != c.status || !strings.HasSuffix(p.Type, c.kind) ||
				p.Detail == "" ||
				p.Title == "" {
				t.Errorf("%s %+v", answer.Status, p)
			}
			if got := answer.Header.Get("Content-Type"); got != "application/problem+json" {
				t.Errorf("content type %s", got)
			}
			found := c.field == ""
			for _, f := range p.Errors {
				found = found || f.Field == c.field
			}
			if !found {
				t.Errorf("nothing is said of the field %s: %+v", c.field, p.Errors)
			}
		})
	}
}

func TestACustomerNeedsNoJavaScript(t *testing.T) {
	s := open(t)
	steps := []struct {
		method, path string
		form         url.Values
		status       int
		holds        []string
	}{
		{"GET", "/", nil, 302, nil},
		{
			"GET",
			"/help",
			nil,
			200,
			[]string{"What would you like to know?", "Bills", "Why a bill is &lt;estimated&gt;"},
		},
		{"GET", "/help/categories/1", nil, 200, []string{"/help/articles/A-0001/why-a-bill-is-estimated"}},
		{"GET", "/help/search?q=estimated+reading", nil, 200, []string{"<mark>reading</mark>", "A-0001"}},
		{
			"GET",
			"/help/search?q=%3Cscript%3Ealert(1)%3C/script%3E",
			nil,
			200,
			[]string{"Nothing found", "&lt;script&gt;alert(1)"},
		},
		{"GET", "/help/articles/A-0001/an-old-title?x=1", nil, 301, nil},
		{"GET", "/help/articles/a-0001", nil, 301, nil},
		{
			"GET",
			"/help/articles/A-0001/why-a-bill-is-estimated",
			nil,
			200,
			[]string{
				"<p>No reading reached us.</p>",
				`<link rel="canonical" href="http://help.wrenmoor.example/help/articles/A-0001/why-a-bill-is-estimated">`,
				`name="description" content="No reading reached us."`,
			},
		},
		{"POST", "/help/articles/A-0001/vote", url.Values{"helped": {"no"}, "comment": {"what now?"}}, 303, nil},
		{"GET", "/help/articles/A-0001?thanks=1", nil, 200, []string{"Thank you", `value="no" aria-pressed="true"`}},
		{
			"GET",
			"/help/request?subject=estimated+bill",
			nil,
			200,
			[]string{`value="estimated bill"`, "This may answer it"},
		},
		{
			"POST",
			"/help/request",
			url.Values{"subject": {"My <bill>"}, "text": {""}, "address": {"nonsense"}},
			422,
			[]string{`value="My &lt;bill&gt;"`, `id="text-fault"`, `id="address-fault"`, "Nothing you typed is lost"},
		},
		{"GET", "/help/search?q=" + strings.Repeat("%C3%A9", 4001), nil, 422, []string{"at most 4000 characters"}},
		{"GET", "/help/articles/A-0099", nil, 404, []string{"There is no page here", "Search for an answer"}},
		{
			"GET",
			"/help/articles/A-0099/estimated-bill",
			nil,
			404,
			[]string{"Related", "Why a bill is &lt;estimated&gt;"},
		},
		{"GET", "/help/categories/x", nil, 404, []string{"There is no page here"}},
		{"GET", "/nowhere", nil, 404, []string{"There is no page here", "Find answers"}},
		{
			"POST",
			"/help/sign-in",
			url.Values{"email": {"wim@post.example"}, "password": {"no"}},
			401,
			[]string{"is not right", `value="wim@post.example"`},
		},
	}
	for _, step := range steps {
		var form any
		if step.form != nil {
			form = step.form
		}
		answer, text := s.ask(step.method, step.path, form)
		if answer.StatusCode != step.status {
			t.Errorf("%s %s: %s", step.method, step.path, answer.Status)
		}
		for _, words := range step.holds {
			if !strings.Contains(text, words) {
				t.Errorf("%s %s does not hold %q:\n%s", step.method, step.path, words, text)
			}
		}
		if strings.Contains(text, "<script>alert") {
			t.Errorf("%s lets a script through", step.path)
		}
	}

	answer, _ := s.ask(
		"POST",
		"/help/request",
		url.Values{"subject": {"My bill"}, "text": {"Why?"}, "address": {"wim@post.example"}},
	)
	if answer.StatusCode != 303 {
		t.Fatal(answer.Status)
	}
	path := answer.Header.Get("Location")
	if _, text := s.ask("GET", path, nil); !strings.Contains(text, "Your request R-0001") {
		t.Error(text)
	}
	path = strings.TrimSuffix(path, "?sent=1")
	s.ask("POST", path, url.Values{"text": {"And one more thing"}})
	if _, text := s.ask("GET", path, nil); !strings.Contains(text, "And one more thing") {
		t.Error(text)
	}
}

func TestACustomerSignsInAndOut(t *testing.T) {
	s := open(t)
	_, err := s.Accounts.People.AddCustomer(s.Context, "Wim Castor", "wim@post.example", "a long password")
	s.Must(err)
	answer, _ := s.ask(
		"POST",
		"/help/sign-in",
		url.Values{"email": {"wim@post.example"}, "password": {"a long password"}, "back": {"//elsewhere.example"}},
	)
	if answer.StatusCode != 303 || answer.Header.Get("Location") != "/help" {
		t.Errorf("%s to %s", answer.Status, answer.Header.Get("Location"))
	}
	if _, text := s.ask("GET", "/help", nil); !strings.Contains(text, "Wim Castor") {
		t.Error("the page does not know who signed in")
	}
	s.ask("POST", "/help/sign-out", url.Values{})
	if _, text := s.ask("GET", "/help", nil); strings.Contains(text, "Wim Castor") {
		t.Error("the page still knows who was signed in")
	}
}

func TestStaffSeeThatTheyAreNotCounted(t *testing.T) {
	s := open(t)
	s.signIn("ada")
	if _, text := s.ask("GET", "/help/search?q=bill", nil); !strings.Contains(text, "nothing here is counted") {
		t.Error("staff are not told that this is a preview")
	}
	s.ask("POST", "/help/preview", url.Values{"counted": {"yes"}, "back": {"/help"}})
	if _, text := s.ask("GET", "/help/search?q=bill", nil); !strings.Contains(text, "what you do here is counted") {
		t.Error("staff are not told that they are counted")
	}
	items, err := s.Evidence(s.Context)
	s.Must(err)
	if len(items) != 3 {
		t.Errorf(
			"%d items of evidence, want the asking, the offer and the composed answer of the second search",
			len(items),
		)
	}
}

func TestAnotherSitesPageCannotActForAVisitor(t *testing.T) {
	s := open(t)
	s.signIn("ada")
	answer, _ := s.ask("DELETE", "/api/staff/session", nil, "Origin", "https://elsewhere.example")
	if answer.StatusCode != 403 {
		t.Error(answer.Status)
	}
	if answer, _ := s.ask(
		"DELETE",
		"/api/staff/session",
		nil,
		"Origin",
		"http://help.example",
	); answer.StatusCode != 204 {
		t.Error(answer.Status)
	}
}

func TestPagesAreServedUnderAStrictPolicy(t *testing.T) {
	s := open(t)
	for path, frames := range map[string]string{"/help": "frame-ancestors 'none'", "/chat": "frame-ancestors *", "/staff/today": "frame-ancestors 'none'"} {
		answer, _ := s.ask("GET", path, nil)
		policy := answer.Header.Get("Content-Security-Policy")
		if !strings.Contains(policy, "default-src 'none'; script-src 'self'; ") || !strings.Contains(policy, frames) ||
			answer.Header.Get("X-Content-Type-Options") != "nosniff" {
			t.Errorf("%s: %s", path, policy)
		}
	}
}

func TestLinkedDataCannotLeaveItsElement(t *testing.T) {
	s := open(t)
	_, text := s.ask("GET", "/help/articles/A-0001", nil)
	found := regexp.MustCompile(`(?s)<script type="application/ld\+json">(.*?)</script>`).FindStringSubmatch(text)
	if found == nil {
		t.Fatal("there is no linked data")
	}
	var data struct {
		Graph []map[string]any `json:"@graph"`
	}
	if err := json.Unmarshal(
		[]byte(found[1]),
		&data,
	); err != nil || len(data.Graph) != 2 || data.Graph[0]["headline"] != "Why a bill is <estimated>" ||
		data.Graph[0]["@type"] != "TechArticle" {
		t.Errorf("%v: %v", err, data)
	}
}

// Every {parameter} of an address must be declared, or a handler would read nothing.
func TestTheAPIDocumentDeclaresItsParameters(t *testing.T) {
	raw, err := door.OpenAPI()
	if err != nil {
		t.Fatal(err)
	}
	var document struct {
		OpenAPI string
		Paths   map[string]map[string]struct {
			Parameters []struct{ Name, In string }
		}
	}
	if err := json.Unmarshal(raw, &document); err != nil {
		t.Fatal(err)
	}
	if !strings.HasPrefix(document.OpenAPI, "3.1") || len(document.Paths) < 30 {
		t.Errorf("version %s with %d paths", document.OpenAPI, len(document.Paths))
	}
	parameter := regexp.MustCompile(`\{(\w+)\}`)
	for path, operations := range document.Paths {
		for method, o := range operations {
			for _, name := range parameter.FindAllStringSubmatch(path, -1) {
				if !strings.Contains(fmt.Sprint(o.Parameters), "{"+name[1]+" path}") {
					t.Errorf("%s %s does not declare %s", method, path, name[1])
				}
			}
		}
	}
}
