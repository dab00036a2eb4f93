package http_test

import (
	"net/http"
	"net/url"
	"regexp"
	"strings"
	"testing"
	"time"

	"hermeneus/app/evidence"
	"hermeneus/app/outcomes"
	"hermeneus/core/outcome"
)

var visitOf = regexp.MustCompile(`<meta name="visit" content="([0-9a-f]{32})">`)

// asking lets the main help centre ask before it keeps a key.
func (s *site) asking() {
	s.T.Helper()
	list, err := s.Sites.Sites(s.Context)
	s.Must(err)
	list[0].AsksToFollow = true
	list[0].FollowWords = map[string]string{"en": "May we know you again?"}
	_, err = s.App.Sites.KeepSite(s.Context, s.crew.Administrator, list[0])
	s.Must(err)
}

func keptKey(answer *http.Response) string {
	for _, c := range answer.Cookies() {
		if c.Name == "hermeneus_visitor" {
			return c.Value
		}
	}
	return ""
}

func TestWhoDeclinesIsServedAndMarked(t *testing.T) {
	s := open(t)
	s.asking()
	const search = "/help/search?q=estimated+bill"
	answer, page := s.ask("GET", search, nil)
	if keptKey(answer) != "" || !strings.Contains(page, "May we know you again?") {
		t.Fatalf("before anybody was asked a key is kept: %v", answer.Cookies())
	}
	first := visitOf.FindStringSubmatch(page)[1]
	if answer, _ := s.ask(
		"POST",
		"/help/follow",
		url.Values{"follow": {"no"}, "back": {search}},
	); answer.StatusCode != 303 {
		t.Fatal(answer.Status)
	}
	answer, page = s.ask("GET", search, nil)
	if keptKey(answer) != "" || strings.Contains(page, "May we know you again?") {
		t.Error("who declined is asked again, or kept a key of")
	}
	second := visitOf.FindStringSubmatch(page)[1]
	if first == second {
		t.Error("the key lives on from page to page")
	}
	// The page's own script goes on under the page's key, which makes a person of it.
	s.ask("POST", "/api/help/seen", nil, "Hermeneus-Visit", second)
	s.Wait(100 * time.Hour)
	items, err := evidence.Items(s.DB(), "true ORDER BY e.id")
	s.Must(err)
	for _, e := range items {
		if !e.NotFollowed {
			t.Errorf("not marked: %+v", e)
		}
	}
	s.Must(s.Outcomes.FoldAll(s.Context))
	now := s.Time()
	f, err := s.Outcomes.Outcomes(s.Context, s.crew.Analyst, now.AddDate(0, 0, -10), now, outcomes.Split{})
	s.Must(err)
	if f.Beside.NotFollowed.Count != 1 || f.Beside.NotFollowed.Of != 1 || f.Beside.Followed.Of != 0 ||
		f.Counts.Unseen != 1 {
		t.Errorf("beside the headline: %+v, %+v", f.Beside, f.Counts)
	}
	for followed, want := range map[string]int{"no": 1, "yes": 0} {
		_, total, err := s.Outcomes.Ledger(s.Context, s.crew.Analyst, outcomes.LedgerFilter{
			Period: f.Period, Settled: true, Followed: followed,
		})
		s.Must(err)
		if total != want {
			t.Errorf("followed %s: the Ledger has %d, want %d", followed, total, want)
		}
	}
}

func TestWhoAgreesGoesOnUnderTheKeyOfThePage(t *testing.T) {
	s := open(t)
	s.asking()
	_, page := s.ask("GET", "/help/search?q=estimated+bill", nil)
	key := visitOf.FindStringSubmatch(page)[1]
	answer, _ := s.ask("POST", "/help/follow", url.Values{
		"follow": {"yes"}, "visit": {key}, "back": {"//elsewhere.example"},
	})
	if keptKey(answer) != key || answer.Header.Get("Location") != "/help" {
		t.Errorf("kept %v, to %s", answer.Cookies(), answer.Header.Get("Location"))
	}
	_, page = s.ask("GET", "/help/articles/A-0001", nil)
	if visitOf.FindStringSubmatch(page)[1] != key || strings.Contains(page, "May we know you again?") {
		t.Error("the next page has another key, or asks again")
	}
	// Saying no later takes the key away.
	s.ask("POST", "/help/follow", url.Values{"follow": {"no"}})
	_, page = s.ask("GET", "/help", nil)
	if visitOf.FindStringSubmatch(page)[1] == key {
		t.Error("who said no later keeps the key")
	}
}

// A form belongs to the page it stands on, also where the browser keeps no key.
func TestAFormGoesOnUnderTheKeyOfItsPage(t *testing.T) {
	s := open(t)
	s.asking()
	s.ask("POST", "/help/follow", url.Values{"follow": {"no"}})
	_, page := s.ask("GET", "/help/request?subject=An+estimated+bill", nil)
	key := visitOf.FindStringSubmatch(page)[1]
	answer, text := s.ask("POST", "/help/request", url.Values{
		"subject": {"An estimated bill"}, "text": {"Why?"}, "address": {"una@post.example"}, "visit": {key},
	})
	if answer.StatusCode != 303 {
		t.Fatal(answer.Status, text)
	}
	items, err := s.Evidence(s.Context)
	s.Must(err)
	last := items[len(items)-1]
	if last.Kind != outcome.Requested || last.Asker != (evidence.Visitor{Key: key}).Asker() {
		t.Errorf("the request is of %s, not of its page: %+v", last.Asker, last)
	}
}

func TestWhatIsKeptNeedsAProof(t *testing.T) {
	s := open(t)
	_, err := s.Accounts.People.AddCustomer(s.Context, "Wim Castor", "wim@post.example", "a long password")
	s.Must(err)
	for _, path := range []string{"/help/kept/file", "/help/kept/forget"} {
		if answer, _ := s.ask(
			"POST",
			path,
			url.Values{"sure": {"yes"}, "address": {"wim@post.example"}},
		); answer.StatusCode != 401 {
			t.Errorf("%s without a proof: %s", path, answer.Status)
		}
		if answer, _ := s.ask("POST", path, url.Values{"sure": {"yes"}, "key": {"made-up"}}); answer.StatusCode != 410 {
			t.Errorf("%s with a made-up link: %s", path, answer.Status)
		}
	}
	if answer, text := s.ask("POST", "/help/kept", url.Values{"address": {"no address"}}); answer.StatusCode != 422 {
		t.Error(answer.Status, text)
	}
	s.ask("POST", "/help/sign-in", url.Values{"email": {"wim@post.example"}, "password": {"a long password"}})
	if _, page := s.ask("GET", "/help/kept", nil); !strings.Contains(page, "Wim Castor") {
		t.Error("who signed in does not see what is kept")
	}
	answer, file := s.ask("POST", "/help/kept/file", url.Values{})
	if answer.StatusCode != 200 || !strings.Contains(file, `"Wim Castor"`) {
		t.Error(answer.Status, file)
	}
	if answer, _ := s.ask("POST", "/help/kept/forget", url.Values{}); answer.StatusCode != 422 {
		t.Errorf("without saying so for sure: %s", answer.Status)
	}
	if answer, page := s.ask("POST", "/help/kept/forget", url.Values{"sure": {"yes"}}); answer.StatusCode != 200 ||
		strings.Contains(page, "Castor") {
		t.Error(answer.Status, page)
	}
	if _, page := s.ask("GET", "/help/kept", nil); strings.Contains(page, "Castor") {
		t.Error("who was forgotten is still signed in")
	}
}
