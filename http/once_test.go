package http_test

import (
	"encoding/json"
	"net/url"
	"strings"
	"sync"
	"testing"

	"hermeneus/app/conversations"
)

// What is sent again under its key is made once, and gives the same answer.
func TestWhatIsSentAgainIsMadeOnce(t *testing.T) {
	e := populated(t)
	e.signInAll("ada", "gus", "max", "rex")
	count := func(table string) (n int) {
		e.Must(e.DB().Raw(`SELECT count(*) FROM ` + table).Scan(&n).Error)
		return n
	}
	for _, c := range []struct {
		as, path, table string
		body            any
	}{
		{"ada", "/api/staff/articles", "articles", map[string]any{"category_id": 1, "copy": map[string]any{"title": "T", "body": "", "keywords": []string{}, "search_title": "", "search_description": ""}}},
		{"ada", "/api/staff/categories", "categories", map[string]any{"name": "Twice", "parent_id": 0, "audience": "everyone", "description": ""}},
		{"rex", "/api/staff/articles/" + e.objects["articles"] + "/comments", "comments", map[string]any{"line": 0, "quote": "", "text": "Look."}},
		{"ada", "/api/staff/articles/" + e.objects["articles"] + "/comments/" + e.objects["comments"] + "/replies", "comments", map[string]any{"text": "Yes."}},
		{"ada", "/api/staff/batches", "batches", map[string]any{"name": "B", "references": []string{}}},
		{"ada", "/api/staff/known-problems", "known_problems", map[string]any{"name": "Storm"}},
		{"ada", "/api/staff/bulk-changes", "jobs", map[string]any{"references": []string{"A-0001"}, "add_keywords": []string{"x"}}},
		{"gus", "/api/staff/handoffs/" + e.taken + "/replies", "messages", map[string]any{"text": "Done."}},
		{"max", "/api/staff/people", "staff", map[string]any{"name": "New", "email": "new@wrenmoor.example", "password": "a long password", "roles": []string{"author"}, "team": ""}},
		{"max", "/api/staff/groups", "customer_groups", map[string]any{"name": "Tenants"}},
	} {
		before := count(c.table)
		e.cookies = map[string]string{"hermeneus_staff": e.objects["session "+c.as]}
		first, said := e.ask("POST", c.path, c.body, "Idempotency-Key", "key of "+c.path)
		if first.StatusCode >= 300 {
			t.Errorf("%s: %s %s", c.path, first.Status, said)
			continue
		}
		again, same := e.ask("POST", c.path, c.body, "Idempotency-Key", "key of "+c.path)
		if again.StatusCode != first.StatusCode || same != said {
			t.Errorf("%s again: %s %s, at first %s %s", c.path, again.Status, same, first.Status, said)
		}
		if n := count(c.table) - before; n != 1 {
			t.Errorf("%s sent twice made %d", c.path, n)
		}
	}
}

// Two that come at once under one key are one, and both hear of it.
func TestTheSameAtTheSameTimeIsOne(t *testing.T) {
	s := open(t)
	var wait sync.WaitGroup
	var mu sync.Mutex
	tokens := map[string]int{}
	s.Must(s.DB().Exec(`INSERT INTO flows (slug) VALUES ('front-door') ON CONFLICT DO NOTHING`).Error)
	_, err := s.Flows.PublishFlow(
		s.Context,
		s.crew.Publisher,
		conversations.FrontDoor,
		`{"name": "Door", "start": "hello", "turns": [{"id": "hello", "kind": "close", "text": "Hello."}]}`,
		0,
	)
	s.Must(err)
	for range 6 {
		wait.Go(func() {
			other := &site{s.World, s.crew, s.server, map[string]string{}}
			answer, text := other.ask("POST", "/api/chat", nil, "Idempotency-Key", "one chat")
			var begun struct{ Token string }
			_ = json.Unmarshal([]byte(text), &begun)
			mu.Lock()
			defer mu.Unlock()
			if answer.StatusCode != 200 {
				t.Errorf("%s %s", answer.Status, text)
			}
			tokens[begun.Token]++
		})
	}
	wait.Wait()
	if len(tokens) != 1 || tokens[""] > 0 {
		t.Errorf("six at once began %v", tokens)
	}
}

// A form that is sent twice makes one request; other words under the same key are another.
func TestARequestSentTwiceIsOne(t *testing.T) {
	s := open(t)
	_, page := s.ask("GET", "/help/request", nil)
	_, rest, found := strings.Cut(page, `name="again" value="`)
	key, _, _ := strings.Cut(rest, `"`)
	if !found || len(key) != 32 {
		t.Fatalf("the form has no key: %q", key)
	}
	form := url.Values{"again": {key}, "subject": {"A bill"}, "text": {"Why?"}, "address": {"wim@post.example"}}
	var places []string
	for range 3 {
		s.cookies = map[string]string{} // the first answer was lost, and the cookie with it
		answer, text := s.ask("POST", "/help/request", form)
		if answer.StatusCode != 303 {
			t.Fatalf("%s %s", answer.Status, text)
		}
		places = append(places, answer.Header.Get("Location"))
	}
	if places[0] != places[1] || places[1] != places[2] {
		t.Errorf("sent three times it leads to %v", places)
	}
	form.Set("text", "And one thing more.")
	answer, _ := s.ask("POST", "/help/request", form)
	if answer.Header.Get("Location") == places[0] {
		t.Error("another request was taken for the same")
	}
	var kept []string
	s.Must(s.DB().Raw(`SELECT result::text FROM made`).Scan(&kept).Error)
	token := strings.TrimSuffix(strings.TrimPrefix(places[0], "/help/conversations/"), "?sent=1")
	if all := strings.Join(
		kept,
		" ",
	); len(kept) != 2 || len(token) < 40 || strings.Contains(all, token) ||
		strings.Contains(all, "R-") {
		t.Errorf("what came of it lies open: %v", kept)
	}
	var n int
	s.Must(s.DB().Raw(`SELECT count(*) FROM conversations`).Scan(&n).Error)
	if n != 2 {
		t.Errorf("there are %d requests", n)
	}
	reply := url.Values{"again": {"one reply's key"}, "text": {"Hello?"}}
	for range 2 {
		if answer, text := s.ask("POST", strings.TrimSuffix(places[0], "?sent=1"), reply); answer.StatusCode != 303 {
			t.Fatalf("%s %s", answer.Status, text)
		}
	}
	s.Must(s.DB().Raw(`SELECT count(*) FROM messages WHERE text = 'Hello?'`).Scan(&n).Error)
	if n != 1 {
		t.Errorf("the reply stands %d times", n)
	}
}
