package http_test

import (
	"encoding/json"
	"fmt"
	"net/http"
	"net/url"
	"regexp"
	"slices"
	"strings"
	"testing"

	"hermeneus/app/conversations"
	"hermeneus/app/evidence"
	"hermeneus/app/flows"
	"hermeneus/app/forms"
	"hermeneus/app/helpcentre"
	"hermeneus/app/hours"
	"hermeneus/app/requests"
	"hermeneus/app/review"
	"hermeneus/app/search"
	"hermeneus/app/writing"
	"hermeneus/core/article"
	"hermeneus/core/audience"
	"hermeneus/core/form"
	corehours "hermeneus/core/hours"
	corereview "hermeneus/core/review"
	"hermeneus/core/role"
	door "hermeneus/http"
)

// everything has one object of each kind.
type everything struct {
	*site
	objects map[string]string // values of parameters, by the part of the path that they follow
	waiting string            // a handoff that nobody took
	taken   string            // one that gus took
}

func populated(t *testing.T) *everything {
	s := open(t)
	c := s.crew
	e := &everything{site: s, objects: map[string]string{}}
	set := func(after string, value any) { e.objects[after] = fmt.Sprint(value) }
	category := s.Category(c.Author, "Meters")
	s.Category(c.Author, "Moves")
	draft := s.Draft(c.Author, category, "A draft", "<p>No words yet.</p>", audience.Everyone)
	instead := "Some words"
	comment, err := s.Review.Comments.AddComment(
		s.Context,
		c.Reviewer,
		draft,
		review.NewComment{Quote: "No words", Text: "Say more.", Suggestion: &instead},
	)
	s.Must(err)
	batch, err := s.Review.Batches.MakeBatch(s.Context, c.Author, "Prices", "", []string{draft})
	s.Must(err)
	group, err := s.Customers.AddGroup(s.Context, c.Administrator, "Solar owners")
	s.Must(err)
	customer, err := s.Accounts.People.AddCustomer(s.Context, "Wim Ott", "wim@post.example", "a long password")
	s.Must(err)
	s.Must(s.Customers.AddMember(s.Context, c.Administrator, group.Key, "wim@post.example"))
	trouble, err := s.Review.Rechecks.AddKnownProblem(s.Context, c.Author, "Line down")
	s.Must(err)
	path, err := s.Review.KeepPath(
		s.Context,
		c.Administrator,
		0,
		corereview.Path{Name: "Spare", Gates: []corereview.Gate{{Name: "Look", Roles: []role.Role{role.Reviewer}}}},
		false,
	)
	s.Must(err)
	sites, err := s.Sites.Sites(s.Context)
	s.Must(err)
	kind, err := s.Forms.Keep(
		s.Context,
		c.Administrator,
		forms.RequestKind{SiteID: sites[0].ID, Name: "Moving", Fields: []form.Field{}},
	)
	s.Must(err)
	pin, err := s.Search.AddPin(
		s.Context,
		c.Publisher,
		sites[0].ID,
		search.Pin{Words: "estimated bill", Reference: "A-0001"},
	)
	s.Must(err)
	synonym, err := s.Search.AddSynonym(s.Context, c.Publisher, sites[0].ID, "bill, invoice")
	s.Must(err)
	s.Must(s.Search.Quality.Judge(s.Context, c.Analyst, sites[0].ID, "why estimated", "A-0001", "by_hand"))
	template, err := s.Library.KeepTemplate(
		s.Context,
		c.Administrator,
		0,
		article.Template{
			Name:     "Fault",
			Kind:     "fix",
			Purpose:  "For faults",
			Sections: []article.Section{{Heading: "Cause"}},
		},
		false,
	)
	s.Must(err)
	v := evidence.Visitor{Key: "k", Whole: true, Site: sites[0].ID}
	_, err = s.Search.Search(s.Context, v, "estimated bill")
	s.Must(err)
	s.Must(
		s.HelpCentre.VoteOn(s.Context, v, "A-0001", helpcentre.Verdict{Helped: false, Comment: "It does not say why."}),
	)
	job, err := s.Writing.AskBulk(
		s.Context,
		c.Author,
		writing.Bulk{References: []string{draft}, AddKeywords: []string{"money"}},
	)
	s.Must(err)
	s.Eventually(func() bool {
		done, err := s.Jobs.ReadJob(s.Context, c.Author, job)
		return err == nil && done.State != "waiting" && done.State != "running"
	})
	for _, into := range []*string{&e.waiting, &e.taken} {
		sent, err := s.Requests.SendRequest(
			s.Context,
			evidence.Visitor{Key: "k2"},
			requests.NewRequest{Subject: "A bill", Text: "Why?", Address: "wim@post.example"},
		)
		s.Must(err)
		*into = sent.Reference
	}
	s.Must(s.Conversations.Accept(s.Context, c.Agent, e.taken))
	file, err := s.Conversations.KeepReplyFile(
		s.Context,
		c.Agent,
		e.taken,
		form.Upload{Name: "a.txt", Content: []byte("words")},
	)
	s.Must(err)
	var judged, told int64
	s.Must(s.DB().Raw(`SELECT min(id) FROM judged`).Scan(&judged).Error)
	s.Must(s.DB().Raw(`SELECT min(id) FROM feedback`).Scan(&told).Error)
	set("articles", draft)
	set("comments", comment)
	set("batches", batch)
	set("categories", category)
	set("groups", group.Key)
	set("members", customer)
	set("customers", customer)
	set("known-problems", trouble.ID)
	set("paths", path)
	set("sites", sites[0].ID)
	set("request-kinds", kind)
	set("pins", pin)
	set("synonyms", synonym)
	set("judged", judged)
	set("templates", template.ID)
	set("people", c.Reviewer.ID)
	set("feedback", told)
	set("jobs", job)
	set("handoffs", e.taken)
	set("files", file.ID)
	set("flows", conversations.FrontDoor)
	set("versions", 1)
	_, err = s.Flows.PublishFlow(s.Context, c.Publisher, conversations.FrontDoor, "flow Door (en)\nclose Bye.\n", 0)
	s.Must(err)
	door, err := s.Flows.Read(s.Context, c.Author, conversations.FrontDoor)
	s.Must(err)
	_, err = s.Flows.Drafts.Save(s.Context, c.Author, conversations.FrontDoor, flows.Save{
		Source: "flow Door (en)\nclose Good-bye.\n", Version: door.Copy,
	})
	s.Must(err)
	states, err := s.Flows.Drafts.States(s.Context, conversations.FrontDoor)
	s.Must(err)
	set("states", states[0].ID)
	rehearsal, err := s.Flows.Rehearsals.Keep(
		s.Context,
		c.Author,
		conversations.FrontDoor,
		"Straight out",
		flows.FlowTrial{
			Source: "flow Door (en)\nclose Bye.\n",
		},
	)
	s.Must(err)
	set("rehearsals", rehearsal.ID)
	set("presence", 0)
	set("hours", fmt.Sprintf("site-%d", sites[0].ID))
	holiday, err := s.Hours.AddDay(s.Context, c.Administrator, hours.Of{}, corehours.Exception{
		Name: "Midwinter", Begins: "2026-12-25", Ends: "2026-12-26",
	})
	s.Must(err)
	set("opening-days", holiday)
	set("texts", "copy")
	return e
}

// call makes a request as somebody, "" for nobody.
func (e *everything) call(o operation, as string) (*http.Response, string) {
	e.T.Helper()
	e.cookies = map[string]string{}
	if as != "" {
		e.cookies["hermeneus_staff"] = e.objects["session "+as]
	}
	path := o.path
	if len(o.query) > 0 {
		path += "?" + o.query.Encode()
	}
	if o.raw != "" {
		return e.ask(o.method, path, o.body, "Content-Type", o.raw)
	}
	return e.ask(o.method, path, o.body)
}

func (e *everything) signInAll(names ...string) {
	for _, name := range names {
		session, err := e.SignInStaffByName(name)
		e.Must(err)
		e.objects["session "+name] = session.Token
	}
}

// operations are all of the staff's API, from its own document, with bodies as it describes them.
func (e *everything) operations() []operation {
	raw, err := door.OpenAPI()
	e.Must(err)
	var document struct {
		Components struct{ Schemas map[string]schema }
		Paths      map[string]map[string]struct {
			OperationID string
			Tags        []string
			Parameters  []struct {
				Name, In string
				Required bool
				Schema   schema
			}
			RequestBody struct {
				Content map[string]struct{ Schema schema }
			}
		}
	}
	e.Must(json.Unmarshal(raw, &document))
	var fill func(name string, s schema) any
	fill = func(name string, s schema) any {
		if s.Ref != "" {
			s = document.Components.Schemas[s.Ref[strings.LastIndex(s.Ref, "/")+1:]]
		}
		if known, ok := map[string]any{"email": "mae@post.example", "reference": "A-0001", "category_id": 1, "parent_id": 1, "audience": "everyone", "password": "a long password",
			"rule": "meter, counter", "owner_id": e.crew.Author.ID, "owner": e.crew.Author.ID, "reviewer": e.crew.Publisher.ID, "steward": e.crew.Author.ID, "to": e.crew.Reviewer.ID, "language": "de", "kind": "how-to", "which": "1", "into": 2,
			"key": "a-key", "return_window_hours": 72, "before_id": 0, "site_id": 1, "base": 1, "brand_colour": "#1D5140", "accent_colour": "#98301F", "roles": []string{"reviewer"},
			"languages": []string{"en"}, "rhythm": "soon", "action": "submit", "hash": "", "question": "why is it so"}[name]; ok {
			return known
		}
		if len(s.Enum) > 0 {
			return s.Enum[0]
		}
		kind, _ := s.Type.(string)
		if list, ok := s.Type.([]any); ok {
			kind, _ = list[0].(string)
		}
		switch kind {
		case "object":
			out := map[string]any{}
			for _, p := range s.Required {
				out[p] = fill(p, s.Properties[p])
			}
			return out
		case "array":
			return []any{}
		case "integer", "number":
			return 1
		case "boolean":
			return false
		}
		return "Some words"
	}
	var all []operation
	place := regexp.MustCompile(`([\w-]+)/\{\w+\}`)
	for path, methods := range document.Paths {
		for method, o := range methods {
			if !slices.Contains(o.Tags, "staff") {
				continue
			}
			op := operation{method: strings.ToUpper(method), id: o.OperationID, query: url.Values{}}
			for content, c := range o.RequestBody.Content {
				if op.body = fill("", c.Schema); content != "application/json" {
					op.body, op.raw = "From: a@post.example\r\nSubject: A\r\n\r\nWords.", content
				}
			}
			for _, p := range o.Parameters {
				if p.In == "query" && p.Required {
					op.query.Set(p.Name, fmt.Sprint(fill(p.Name, p.Schema)))
				}
			}
			op.path = place.ReplaceAllStringFunc(path, func(part string) string {
				after, _, _ := strings.Cut(part, "/")
				if _, known := e.objects[after]; !known {
					e.T.Errorf("%s: there is no object for %s", o.OperationID, part)
				}
				return after + "/" + e.objects[after]
			})
			all = append(all, op)
		}
	}
	order := func(o operation) int { // what takes an object away comes last
		return map[string]int{"GET": 0, "POST": 1, "PUT": 2, "DELETE": 3}[o.method]
	}
	slices.SortFunc(all, func(a, b operation) int {
		if d := order(a) - order(b); d != 0 {
			return d
		}
		if a.method == "DELETE" { // a member goes before the group
			a, b = b, a
		}
		return strings.Compare(a.id, b.id)
	})
	return all
}

// operation is one of the API's document.
type operation struct {
	method, path, id string
	body             any
	query            url.Values
	raw              string // the type of a body that is no JSON
}
