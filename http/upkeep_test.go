package http_test

import (
	"encoding/xml"
	"fmt"
	"strings"
	"testing"

	"hermeneus/app/review"
	"hermeneus/core/audience"
	corereview "hermeneus/core/review"
)

func TestReadersOfAWithdrawnPageAreSentOnOrTold(t *testing.T) {
	s := open(t)
	bills := s.Category(s.crew.Author, "Prices")
	refs := map[string]string{}
	for _, title := range []string{"Old prices", "New prices", "Sold out"} {
		refs[title] = s.Draft(s.crew.Author, bills, title, "<p>Text.</p>", audience.Everyone)
		s.Publish(s.crew, refs[title])
	}
	s.Must(
		s.Review.Move(
			s.Context,
			s.crew.Publisher,
			refs["Old prices"],
			review.Step{Action: corereview.Withdraw, To: refs["New prices"]},
		),
	)
	s.Must(
		s.Review.Move(
			s.Context,
			s.crew.Publisher,
			refs["Sold out"],
			review.Step{Action: corereview.Withdraw, Notice: "We sell <none> any more."},
		),
	)
	if answer, _ := s.ask(
		"GET",
		"/help/articles/"+refs["Old prices"],
		nil,
	); answer.StatusCode != 301 ||
		answer.Header.Get("Location") != "/help/articles/"+refs["New prices"] {
		t.Errorf("sent on: %s to %s", answer.Status, answer.Header.Get("Location"))
	}
	if answer, text := s.ask(
		"GET",
		"/help/articles/"+refs["Sold out"],
		nil,
	); answer.StatusCode != 410 || !strings.Contains(text, "We sell &lt;none&gt; any more.") ||
		!strings.Contains(text, `role="search"`) {
		t.Errorf("told: %s %s", answer.Status, text)
	}
}

func TestACategorysFeedIsAtom(t *testing.T) {
	s := open(t)
	prices := s.Category(s.crew.Author, "Prices & plans")
	shown := s.Draft(s.crew.Author, prices, "New <prices>", "<p>Text.</p>", audience.Everyone)
	hidden := s.Draft(s.crew.Author, prices, "Inside prices", "<p>Secret.</p>", audience.Staff)
	s.Publish(s.crew, shown)
	s.Publish(s.crew, hidden)
	answer, text := s.ask("GET", "/help/categories/"+fmt.Sprint(prices)+"/feed.atom", nil)
	var feed struct {
		XMLName xml.Name `xml:"http://www.w3.org/2005/Atom feed"`
		ID      string   `xml:"id"`
		Title   string   `xml:"title"`
		Updated string   `xml:"updated"`
		Entries []struct {
			ID      string `xml:"id"`
			Title   string `xml:"title"`
			Updated string `xml:"updated"`
		} `xml:"entry"`
	}
	if err := xml.Unmarshal([]byte(text), &feed); err != nil {
		t.Fatal(err)
	}
	// RFC 4287, sections 4.1.1 and 4.1.2: a feed and each entry must have an id, a title and when it was updated.
	if answer.Header.Get("Content-Type") != "application/atom+xml; charset=utf-8" || feed.ID == "" ||
		!strings.HasSuffix(feed.Title, "Prices & plans") ||
		feed.Updated != "2026-03-02T09:00:00Z" {
		t.Errorf("%s: %+v", answer.Header.Get("Content-Type"), feed)
	}
	if len(feed.Entries) != 1 || feed.Entries[0].Title != "New <prices>" || feed.Entries[0].ID == "" ||
		feed.Entries[0].Updated == "" ||
		strings.Contains(text, "Inside") {
		t.Errorf("%s", text)
	}
	// Staff who look at it get what everybody gets.
	s.signIn("ada")
	if _, again := s.ask(
		"GET",
		"/help/categories/"+fmt.Sprint(prices)+"/feed.atom",
		nil,
	); strings.Contains(
		again,
		"Inside",
	) {
		t.Error("a feed shows staff what is for staff")
	}
	if answer, _ := s.ask("GET", "/help/categories/999/feed.atom", nil); answer.StatusCode != 404 {
		t.Errorf("of no category: %s", answer.Status)
	}
}

func TestTheTrailIsTakenOutAsAFile(t *testing.T) {
	s := open(t)
	if answer, _ := s.ask("GET", "/api/staff/trail/file", nil); answer.StatusCode != 401 {
		t.Errorf("by nobody: %s", answer.Status)
	}
	s.signIn("ada")
	answer, text := s.ask("GET", "/api/staff/trail/file?article=A-0001", nil)
	if answer.Header.Get("Content-Type") != "text/csv; charset=utf-8" ||
		!strings.HasPrefix(text, "at,who,subject,action,from,to,note\r\n") ||
		!strings.Contains(text, ",A-0001,begun,") {
		t.Errorf("%s\n%s", answer.Header.Get("Content-Type"), text)
	}
	for path, status := range map[string]int{"/api/staff/trail?article=nonsense": 422, "/api/staff/trail?from=soon": 422, "/api/staff/trail?who=-1": 200} {
		if answer, text := s.ask("GET", path, nil); answer.StatusCode != status {
			t.Errorf("%s: %s %s", path, answer.Status, text)
		}
	}
}
