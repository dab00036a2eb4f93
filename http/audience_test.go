package http_test

import (
	"bytes"
	"encoding/json"
	"fmt"
	"image"
	"image/png"
	"net/url"
	"strings"
	"testing"
	"time"

	"hermeneus/app/conversations"
	"hermeneus/app/evidence"
	"hermeneus/app/review"
	"hermeneus/core/audience"
	"hermeneus/core/outcome"
)

// Whoever may not see an article meets nothing of it, on any way: one assertion for
// each. The word is in every text of three articles, one for signed-in customers, one
// for a group of them, one for staff alone, and in what is said of a known problem.
func TestNobodyMeetsWhatIsNotForThem(t *testing.T) {
	const word = "quokkafund"
	s := open(t)
	var picture bytes.Buffer
	s.Must(png.Encode(&picture, image.NewGray(image.Rect(0, 0, 3, 3))))
	category := s.Category(s.crew.Author, "Shelf of the "+word)
	type hidden struct{ ref, picture, attachment string }
	articles := map[audience.Audience]hidden{}
	solar, err := s.Customers.AddGroup(s.Context, s.crew.Administrator, "Solar owners")
	s.Must(err)
	for i, a := range []audience.Audience{audience.SignedIn, solar.Audience, audience.Staff} {
		// Pictures and attachments of their own, so that none lends its audience to another.
		shown, err := s.Library.KeepMedia(s.Context, s.crew.Author, append(picture.Bytes(), byte(i)))
		s.Must(err)
		loaded, err := s.Library.KeepAttachment(s.Context, s.crew.Author, []byte(fmt.Sprint(word, " as a file ", i)))
		s.Must(err)
		ref := s.Draft(
			s.crew.Author,
			category,
			"The "+word+" rules",
			`<h2>How the `+word+` works</h2><p>The `+word+` pays meter bills.</p><p><img src="`+shown.Path+`" alt="`+word+`"></p><p><a href="`+loaded.Path+`">`+word+`.txt</a></p>`,
			a,
		)
		s.Publish(s.crew, ref)
		articles[a] = hidden{ref, shown.Path, loaded.Path}
	}
	problem, err := s.Review.Rechecks.AddKnownProblem(s.Context, s.crew.Author, "The "+word+" is late")
	s.Must(err)
	s.Must(
		s.Review.Rechecks.SetNotice(
			s.Context,
			s.crew.Publisher,
			problem.ID,
			review.NewNotice{
				Notice:    "The " + word + " is late today.",
				Audience:  audience.Staff,
				Reference: articles[audience.Staff].ref,
			},
		),
	)
	open, err := s.Review.Rechecks.AddKnownProblem(s.Context, s.crew.Author, "Lines")
	s.Must(err)
	s.Must(
		s.Review.Rechecks.SetNotice(
			s.Context,
			s.crew.Publisher,
			open.ID,
			review.NewNotice{
				Notice:    "Lines are down.",
				Audience:  audience.Everyone,
				Reference: articles[audience.Staff].ref,
			},
		),
	)
	staff := evidence.Visitor{Preview: true, Groups: []string{solar.Key}}
	s.Eventually(func() bool { found, _ := s.Search.Search(s.Context, staff, word); return len(found) == 3 })
	// It is asked and opened by many, so that it would be popular.
	for i := range 4 {
		customer := evidence.Visitor{
			Key:      fmt.Sprint("c", i),
			Customer: &evidence.Customer{ID: int64(1000 + i), Groups: []string{solar.Key}},
		}
		_, err := s.Search.Search(s.Context, customer, "how does the "+word+" work")
		s.Must(err)
		for _, a := range []audience.Audience{audience.SignedIn, solar.Audience} {
			_, err = s.HelpCentre.OpenPage(s.Context, customer, outcome.Help, articles[a].ref)
			s.Must(err)
		}
	}
	s.Must(s.Search.RefreshPopular(s.Context))
	for _, name := range []string{"wim", "mae"} {
		_, err = s.Accounts.People.AddCustomer(s.Context, name, name+"@post.example", "a long password")
		s.Must(err)
	}
	s.Must(s.Customers.AddMember(s.Context, s.crew.Administrator, solar.Key, "mae@post.example"))
	sites, err := s.Sites.Sites(s.Context)
	s.Must(err)

	for _, viewer := range []struct {
		name   string
		signIn string
		hidden []audience.Audience
		seen   bool // one of them is for them: then the word may stand there, but not the hidden reference
	}{
		{"a visitor", "", []audience.Audience{audience.SignedIn, solar.Audience, audience.Staff}, false},
		{"a customer", "wim", []audience.Audience{solar.Audience, audience.Staff}, true},
		{"a customer in the group", "mae", []audience.Audience{audience.Staff}, true},
	} {
		s.cookies = map[string]string{}
		if viewer.signIn != "" {
			s.ask(
				"POST",
				"/help/sign-in",
				url.Values{
					"email":    {viewer.signIn + "@post.example"},
					"password": {"a long password"},
					"back":     {"/help"},
				},
			)
		}
		for _, a := range viewer.hidden {
			h := articles[a]
			for _, way := range []struct {
				name, method, path string
				body               any
			}{
				{"page", "GET", "/help/articles/" + h.ref, nil},
				{"page under its old address, and the text of the 404", "GET", "/help/articles/" + h.ref + "/the-" + word + "-rules", nil},
				{"search", "GET", "/help/search?q=" + word + "+rules", nil},
				{"search by its reference", "GET", "/help/search?q=" + h.ref, nil},
				{"composed answer", "GET", "/help/search?q=how+does+the+" + word + "+work", nil},
				{"suggestions of the form", "POST", "/api/help/offers", map[string]string{"subject": word + " rules"}},
				{"completion", "GET", "/api/help/suggestions?q=" + word[:6], nil},
				{"related", "GET", "/help/articles/A-0001", nil},
				{"home, what is popular, and notices", "GET", "/help", nil},
				{"counts of its category", "GET", fmt.Sprintf("/help/categories/%d", category), nil},
				{"feed", "GET", fmt.Sprintf("/help/categories/%d/feed.atom", category), nil},
				{"sitemap", "GET", "/sitemap.xml", nil},
				{"picture", "GET", h.picture, nil},
				{"attachment", "GET", h.attachment, nil},
				{"vote", "POST", "/help/articles/" + h.ref + "/vote", url.Values{"helped": {"yes"}}},
				{"beside the form", "POST", "/api/help/articles/" + h.ref + "/open", nil},
				{"explain", "GET", fmt.Sprintf("/api/staff/sites/%d/search/explain?words=%s&reference=%s", sites[0].ID, word, h.ref), nil},
				{"robots", "GET", "/robots.txt", nil},
			} {
				answer, text := s.ask(way.method, way.path, way.body)
				// What the visitor typed into the search is said back to them; that is theirs.
				asked := strings.NewReplacer("“"+h.ref+"”", "", `value="`+h.ref+`"`, "", "subject="+h.ref, "", "/help/search?q="+h.ref, "").
					Replace(text)
				if strings.Contains(asked, h.ref) || strings.Contains(asked, h.picture) ||
					strings.Contains(asked, h.attachment) {
					t.Errorf("%s, %s: %s names it", viewer.name, way.name, answer.Status)
				}
				if strings.Contains(text, word+" pays") && !viewer.seen || strings.Contains(text, "late today") {
					t.Errorf("%s, %s: its words are shown", viewer.name, way.name)
				}
				if strings.HasPrefix(way.path, "/files/") && answer.StatusCode != 404 {
					t.Errorf("%s, %s: %s", viewer.name, way.name, answer.Status)
				}
			}
		}
		if !viewer.seen {
			for _, path := range []string{"/help", "/sitemap.xml", "/help/articles/A-0001", fmt.Sprintf("/help/categories/%d", category), fmt.Sprintf("/help/categories/%d/feed.atom", category), "/api/help/suggestions?q=quok", "/help/articles/A-0099/some-words"} {
				if _, text := s.ask("GET", path, nil); strings.Contains(text, word) {
					t.Errorf("%s, %s: the word is there", viewer.name, path)
				}
			}
		}
	}
	// The linked data of a page that is not for everyone is for nobody. Who is in the group reads what is for it.
	for _, a := range []audience.Audience{audience.SignedIn, solar.Audience} {
		if _, text := s.ask(
			"GET",
			"/help/articles/"+articles[a].ref,
			nil,
		); !strings.Contains(text, word) || strings.Contains(text, "ld+json") ||
			strings.Contains(text, "og:title") {
			t.Errorf("the page for %s describes itself to programs, or is not shown", a)
		}
		if _, text := s.ask("GET", "/help/search?q="+word, nil); !strings.Contains(text, articles[a].ref) {
			t.Errorf("who may see it does not find what is for %s", a)
		}
	}
	s.Must(s.Customers.RemoveMember(s.Context, s.crew.Administrator, solar.Key, memberOf(s, solar.Key)))
	if answer, _ := s.ask("GET", "/help/articles/"+articles[solar.Audience].ref, nil); answer.StatusCode != 404 {
		t.Errorf("who was taken out of the group reads on: %s", answer.Status)
	}
	// Staff find all of it.
	s.cookies = map[string]string{}
	s.signIn("ada")
	_, text := s.ask(
		"GET",
		fmt.Sprintf(
			"/api/staff/sites/%d/search/explain?words=%s&reference=%s&as=everyone",
			sites[0].ID,
			word,
			articles[audience.Staff].ref,
		),
		nil,
	)
	var e struct {
		Seen  bool
		Place int
	}
	if err := json.Unmarshal([]byte(text), &e); err != nil || e.Seen || e.Place != 0 {
		t.Errorf("explained as everyone: %s", text)
	}
	_, text = s.ask("GET", "/help/search?q="+word, nil)
	for a, h := range articles {
		if !strings.Contains(text, h.ref) {
			t.Errorf("staff do not find what is for %s in their preview", a)
		}
	}
}

// memberOf gives the only member of a group.
func memberOf(s *site, key string) int64 {
	list, total, err := s.Customers.Members(s.Context, s.crew.Administrator, key, "", 0)
	s.Must(err)
	if total != 1 || len(list) != 1 {
		s.T.Fatalf("%d members", total)
	}
	return list[0].ID
}

func TestCrawlersAreServedAndNotCounted(t *testing.T) {
	s := open(t)
	for _, agent := range []string{"curl/8.5.0", "Go-http-client/2.0", "Mozilla/5.0 (X11; Linux x86_64) AppleWebKit/537.36 (KHTML, like Gecko) HeadlessChrome/141.0.0.0 Safari/537.36"} {
		for _, path := range []string{"/help/search?q=bill", "/help/articles/A-0001", "/help", "/sitemap.xml"} {
			s.cookies = map[string]string{}
			if answer, _ := s.ask("GET", path, nil, "User-Agent", agent); answer.StatusCode != 200 {
				t.Errorf("%s gets %s of %s", agent, answer.Status, path)
			}
		}
	}
	if items, err := s.Evidence(s.Context); err != nil || len(items) != 0 {
		t.Errorf("%d items of evidence, %v", len(items), err)
	}
}

// What nobody looks at is no evidence: the head of a page, and a page that is loaded ahead.
func TestWhatIsAskedForUnseenIsNotCounted(t *testing.T) {
	s := open(t)
	kept := func() int {
		items, err := s.Evidence(s.Context)
		s.Must(err)
		return len(items)
	}
	for _, path := range []string{"/help/search?q=bill", "/help/articles/A-0001"} {
		s.ask("HEAD", path, nil)
		s.ask("GET", path, nil, "Sec-Purpose", "prefetch")
		s.ask("GET", path, nil, "Sec-Purpose", "prefetch;prerender")
		s.ask("GET", path, nil, "Purpose", "prefetch")
		s.ask("GET", path, nil, "X-Moz", "prefetch")
	}
	if n := kept(); n != 0 {
		t.Errorf("%d items of evidence of what nobody saw", n)
	}
	s.ask("GET", "/help/search?q=bill", nil)
	if kept() == 0 {
		t.Error("what is seen is not kept")
	}
}

func TestAReloadAndADoubleClickAreOneEvent(t *testing.T) {
	s := open(t)
	for range 3 {
		s.ask("GET", "/help/search?q=estimated+bill", nil)
	}
	for range 3 {
		s.ask("GET", "/help/articles/A-0001", nil)
	}
	for range 2 {
		s.ask("POST", "/help/articles/A-0001/vote", url.Values{"helped": {"yes"}})
	}
	s.Wait(time.Minute)
	s.ask("POST", "/help/articles/A-0001/vote", url.Values{"helped": {"no"}})
	items, err := s.Evidence(s.Context)
	s.Must(err)
	var kinds []string
	for _, e := range items {
		kinds = append(kinds, string(e.Kind))
	}
	if got := strings.Join(kinds, " "); got != "asked offered told opened helped not_helped" {
		t.Errorf("evidence: %s", got)
	}
}

func TestTooManyRequestsGetAFriendlyPage(t *testing.T) {
	s := openWith(t, 5)
	for range 5 {
		s.ask("GET", "/help", nil)
	}
	answer, text := s.ask("GET", "/help?lang=en", nil)
	if answer.StatusCode != 429 || !strings.Contains(text, "A moment, please") ||
		!strings.Contains(text, "Find answers") {
		t.Errorf("%s: %s", answer.Status, text)
	}
	if answer, _ := s.ask("GET", "/help", nil, "Accept-Language", "de"); answer.Header.Get("Retry-After") == "" {
		t.Error("it is not said when to come back")
	}
}

// Who is taken for a crawler is helped like anybody, only not counted; and who has a telephone
// with such a name is a person.
func TestWhoIsTakenForACrawlerReachesAPerson(t *testing.T) {
	s := open(t)
	flow := `{"name": "Door", "start": "hello", "person": "person", "turns": [{"id": "hello", "kind": "hand_over", "text": "I pass you on.", "team": "Accounts", "nobody": "bye"}, {"id": "bye", "kind": "close", "text": "Hello."}]}`
	flow = strings.Replace(flow, `"person": "person"`, `"person": "hello"`, 1)
	_, err := s.Flows.PublishFlow(s.Context, s.crew.Publisher, conversations.FrontDoor, flow, 0)
	s.Must(err)
	telephone := "Mozilla/5.0 (Linux; Android 13; Fernbot 7 Build/TP1A) AppleWebKit/537.36 (KHTML, like Gecko) Chrome/141.0.0.0 Mobile Safari/537.36"
	for i, agent := range []string{telephone, "curl/8.5.0"} {
		s.cookies = map[string]string{}
		answer, text := s.ask("POST", "/api/chat", nil, "User-Agent", agent)
		if answer.StatusCode != 200 {
			t.Fatalf("%s: %s %s", agent, answer.Status, text)
		}
		sent, _ := s.ask(
			"POST",
			"/help/request",
			url.Values{"subject": {"A bill"}, "text": {"Why?"}, "address": {"wim@post.example"}},
			"User-Agent",
			agent,
		)
		if sent.StatusCode != 303 {
			t.Errorf("%s cannot send a request: %s", agent, sent.Status)
		}
		queue, err := s.Conversations.Handoffs(s.Context, s.crew.Agent)
		s.Must(err)
		if len(queue) != 2*(i+1) {
			t.Errorf("after %s there are %d before people", agent, len(queue))
		}
		for _, h := range queue[:1] {
			s.Must(s.Conversations.Accept(s.Context, s.crew.Agent, h.Reference))
			s.Must(
				s.Conversations.Reply(s.Context, s.crew.Agent, h.Reference, conversations.AgentReply{Text: "Hello."}),
			)
		}
	}
	items, err := s.Evidence(s.Context)
	s.Must(err)
	askers := map[string]bool{}
	for _, e := range items {
		askers[e.Asker] = true
	}
	if len(askers) != 1 || len(items) == 0 {
		t.Errorf("%d items of evidence of %v", len(items), askers)
	}
}
