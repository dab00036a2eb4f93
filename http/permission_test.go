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
	"hermeneus/app/helpcentre"
	"hermeneus/app/library"
	"hermeneus/app/requests"
	"hermeneus/app/review"
	"hermeneus/app/search"
	"hermeneus/app/writing"
	"hermeneus/core/article"
	"hermeneus/core/audience"
	"hermeneus/core/form"
	corereview "hermeneus/core/review"
	"hermeneus/core/role"
	door "hermeneus/http"
)

// mayCall is who may call each operation of the staff's API: the roles, or everybody on the
// staff. What depends on the object besides stands in TestOthersObjects.
var mayCall = map[string][]role.Role{
	"accept-suggestion": {
		role.Author,
	},
	"act-on-batch": {role.Author, role.Publisher},
	"add-category": {role.Author, role.Publisher, role.Administrator},
	"add-comment": {
		role.Author,
		role.Reviewer,
		role.Publisher,
	},
	"add-edition": {role.Author},
	"add-group":   {role.Administrator},
	"add-known-problem": {
		role.Author,
		role.Publisher,
	},
	"add-path":   {role.Administrator},
	"add-person": {role.Administrator},
	"add-pin": {
		role.Publisher,
		role.Administrator,
	},
	"add-site":        {role.Administrator},
	"add-synonym":     {role.Publisher, role.Administrator},
	"add-template":    {role.Administrator},
	"begin-bulk":      {role.Author, role.Publisher},
	"begin-from-mail": {role.Author},
	"begin-from-reply": {
		role.Agent,
	},
	"begin-import":    {role.Author},
	"change-path":     {role.Administrator},
	"change-template": {role.Administrator},
	"check-flow":      role.All,
	"clean-source":    role.All,
	"count-news":      role.All,
	"create-article":  {role.Author},
	"do-accept":       {role.Agent},
	"do-act": {
		role.Author,
	},
	"do-add-member":      {role.Administrator},
	"do-answer-feedback": {role.Author, role.Reviewer, role.Publisher},
	"do-change-batch": {
		role.Author,
		role.Publisher,
	},
	"do-change-category": {role.Author, role.Publisher, role.Administrator},
	"do-change-customer": {
		role.Administrator,
	},
	"do-change-password": role.All,
	"do-change-person":   {role.Administrator},
	"do-change-settings": {
		role.Administrator,
	},
	"do-change-site": {role.Administrator},
	"do-close":       {role.Agent},
	"do-dismiss":     {role.Author, role.Reviewer},
	"do-drop-judged": {
		role.Analyst,
		role.Publisher,
		role.Administrator,
	},
	"do-drop-pin": {role.Publisher, role.Administrator},
	"do-drop-synonym": {
		role.Publisher,
		role.Administrator,
	},
	"do-follow":  role.All,
	"do-hand-on": {role.Reviewer},
	"do-judge":   {role.Analyst, role.Publisher, role.Administrator},
	"do-judge-from-ledger": {
		role.Analyst,
		role.Publisher,
		role.Administrator,
	},
	"do-keep-news-wishes": role.All,
	"do-let-go":           role.All,
	"do-match":            {role.Author, role.Reviewer, role.Publisher},
	"do-merge-category":   {role.Publisher, role.Administrator},
	"do-move-article": {
		role.Author,
		role.Publisher,
	},
	"do-move-category": {role.Author, role.Publisher, role.Administrator},
	"do-read-news":     role.All,
	"do-rename-group": {
		role.Administrator,
	},
	"do-reply":            {role.Agent},
	"do-reply-to-comment": {role.Author, role.Reviewer, role.Publisher},
	"do-resolve-comment": {
		role.Author,
		role.Reviewer,
		role.Publisher,
	},
	"do-restore":                     {role.Author},
	"do-retire-request-kind":         {role.Administrator},
	"do-send-customer-password-link": {role.Administrator},
	"do-send-password-link":          {role.Administrator},
	"do-set-category-picture": {
		role.Author,
		role.Publisher,
		role.Administrator,
	},
	"do-set-keeping": {role.Administrator},
	"read-keeping":   role.All,
	"do-set-notice":  {role.Publisher, role.Administrator},
	"do-set-properties": {
		role.Author,
		role.Publisher,
	},
	"do-set-recheck-rule":    {role.Administrator},
	"do-set-reviewing":       {role.Administrator},
	"do-set-weights":         {role.Publisher, role.Administrator},
	"do-solve-known-problem": {role.Author, role.Publisher},
	"do-still-true": {
		role.Author,
		role.Reviewer,
		role.Publisher,
	},
	"do-take-over": {}, // publishers, if they may write besides
	"drop-end":     {role.Publisher},
	"drop-group": {
		role.Administrator,
	},
	"drop-member":     {role.Administrator},
	"drop-reply-file": {role.Agent},
	"explain-search":  role.All,
	"export-articles": {
		role.Author,
		role.Publisher,
		role.Administrator,
	},
	"export-trail": role.All,
	"find":         role.All,
	"hand-over":    {role.Administrator},
	"hold-article": {
		role.Author,
	},
	"keep-attachment": {role.Author},
	"keep-media":      {role.Author},
	"keep-reply-file": {role.Agent},
	"keep-request-kind": {
		role.Administrator,
	},
	"keep-unsaved":     {role.Author},
	"lay-side-by-side": role.All,
	"list-articles":    role.All,
	"list-audiences":   role.All,
	"list-autosaves":   role.All,
	"list-batches":     role.All,
	"list-categories":  role.All,
	"list-comments":    role.All,
	"list-customers": {
		role.Administrator,
	},
	"list-feedback":       role.All,
	"list-groups":         role.All,
	"list-handoffs":       {role.Agent},
	"list-known-problems": role.All,
	"list-lanes":          role.All,
	"list-languages":      role.All,
	"list-members":        {role.Administrator},
	"list-news":           role.All,
	"list-paths":          role.All,
	"list-people":         role.All,
	"list-request-kinds":  role.All,
	"list-revisions":      role.All,
	"list-sites":          role.All,
	"list-templates":      role.All,
	"list-trail":          role.All,
	"list-trail-actions":  role.All,
	"make-batch":          {role.Author, role.Publisher},
	"measure-search": {
		role.Analyst,
		role.Publisher,
		role.Administrator,
	},
	"preview-template":  role.All,
	"publish-flow":      {role.Publisher},
	"read-advice":       role.All,
	"read-article":      role.All,
	"read-batch":        role.All,
	"read-belongings":   {role.Administrator},
	"read-changes":      role.All,
	"read-doing":        role.All,
	"read-flow":         role.All,
	"read-handoff":      {role.Agent},
	"read-job":          role.All,
	"read-ledger":       {role.Analyst, role.Publisher, role.Administrator},
	"read-news-wishes":  role.All,
	"read-outcomes":     {role.Analyst, role.Publisher, role.Administrator},
	"read-question":     {role.Analyst, role.Publisher, role.Administrator},
	"read-recheck-rule": role.All,
	"read-reviewing":    role.All,
	"read-round":        role.All,
	"read-search-rules": role.All,
	"read-settings":     role.All,
	"read-source":       role.All,
	"read-text":         role.All,
	"read-today":        role.All,
	"read-touches":      role.All,
	"remove-category":   {role.Publisher, role.Administrator},
	"remove-site": {
		role.Administrator,
	},
	"retire-path":       {role.Administrator},
	"save-article":      {role.Author},
	"suggest-for-reply": {role.Agent},
	"summarise-bulk": {
		role.Author,
		role.Publisher,
	},
	"trial-search": {role.Analyst, role.Publisher, role.Administrator, role.Author},
	"try-search":   role.All,
	"undo-bulk": {
		role.Author,
		role.Publisher,
	},
	"undo-judge-from-ledger": {role.Analyst, role.Publisher, role.Administrator},
	"undo-still-true":        {role.Author, role.Reviewer, role.Publisher},
	"who-am-i":               role.All,
}

// byObject are operations that somebody of any role may be entitled to, because of the object:
// those above may call them on the objects of this test.
var byObject = []string{"act-on-batch", "do-act", "do-hand-on", "read-job"}

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
	comment, err := s.Review.AddComment(
		s.Context,
		c.Reviewer,
		draft,
		review.NewComment{Quote: "No words", Text: "Say more.", Suggestion: &instead},
	)
	s.Must(err)
	batch, err := s.Review.MakeBatch(s.Context, c.Author, "Prices", "", []string{draft})
	s.Must(err)
	group, err := s.Customers.AddGroup(s.Context, c.Administrator, "Solar owners")
	s.Must(err)
	customer, err := s.Accounts.AddCustomer(s.Context, "Wim Ott", "wim@post.example", "a long password")
	s.Must(err)
	s.Must(s.Customers.AddMember(s.Context, c.Administrator, group.Key, "wim@post.example"))
	trouble, err := s.Review.AddKnownProblem(s.Context, c.Author, "Line down")
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
	kind, err := s.Requests.KeepRequestKind(
		s.Context,
		c.Administrator,
		requests.RequestKind{SiteID: sites[0].ID, Name: "Moving", Fields: []form.Field{}},
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
	s.Must(s.Search.Judge(s.Context, c.Analyst, sites[0].ID, "why estimated", "A-0001", "by_hand"))
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
	set("texts", "copy")
	return e
}

// operation is one of the API's document.
type operation struct {
	method, path, id string
	body             any
	query            url.Values
	raw              string // the type of a body that is no JSON
}

type schema struct {
	Ref        string `json:"$ref"`
	Type       any
	Required   []string
	Properties map[string]schema
	Enum       []any
	Minimum    *float64
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

var roleOf = map[string]role.Role{
	"ada": role.Author,
	"rex": role.Reviewer,
	"pia": role.Publisher,
	"gus": role.Agent,
	"lyn": role.Analyst,
	"max": role.Administrator,
}

// Each operation × each role, on real objects: who may not is refused whatever they send, and
// who may is not. An operation that nobody put into the table fails.
func TestWhoMayCallWhat(t *testing.T) {
	e := populated(t)
	e.signInAll("ada", "rex", "pia", "gus", "lyn", "max")
	_, err := e.Accounts.AddCustomer(e.Context, "Mae", "mae@post.example", "a long password")
	e.Must(err)
	all := e.operations()
	if len(all) < 140 {
		t.Fatalf("only %d operations", len(all))
	}
	for _, o := range all {
		may, known := mayCall[o.id]
		if !known {
			t.Errorf("%s %s (%s) is not in the table of who may call it", o.method, o.path, o.id)
			continue
		}
		if answer, text := e.call(o, ""); answer.StatusCode != 401 {
			t.Errorf("%s: nobody gets %s %s", o.id, answer.Status, text)
		}
		for name, r := range roleOf {
			if slices.Contains(may, r) || slices.Contains(byObject, o.id) {
				continue
			}
			if answer, text := e.call(o, name); answer.StatusCode != 403 {
				t.Errorf("%s: %s gets %s %.200s", o.id, r, answer.Status, text)
			}
		}
	}
	for _, o := range all {
		for name, r := range roleOf {
			if !slices.Contains(mayCall[o.id], r) {
				continue
			}
			if o.method != "GET" && r != mayCall[o.id][0] {
				continue // what is done once need not be possible again
			}
			answer, text := e.call(o, name)
			refused := answer.StatusCode == 401 || answer.StatusCode == 403
			missing := answer.StatusCode == 404 &&
				!slices.Contains(
					[]string{
						"read-flow",
						"read-question",
						"undo-judge-from-ledger",
						"explain-search",
						"do-judge-from-ledger",
					},
					o.id,
				)
			if slices.Contains(byObject, o.id) {
				missing = false
			}
			if refused || missing || answer.StatusCode >= 500 {
				t.Errorf("%s: %s gets %s %.200s", o.id, r, answer.Status, text)
			}
		}
	}
}

// What is somebody's own is for nobody else of the same role, whatever they send.
func TestOthersObjects(t *testing.T) {
	e := populated(t)
	e.Hire("bea", role.Author)
	e.Hire("gil", role.Agent)
	e.Hire("rob", role.Reviewer, role.Author)
	e.signInAll("ada", "bea", "gus", "gil", "rex", "rob", "max", "pia")
	own := e.Draft(e.crew.Author, 1, "Of ada", "<p>Words.</p>", audience.Everyone)
	_, err := e.Writing.Hold(e.Context, e.crew.Author, own, "tab")
	e.Must(err)
	sent := e.Draft(e.crew.Author, 1, "Sent by rob", "<p>Words.</p>", audience.Everyone)
	rob, err := e.Staff.StaffByEmail(e.Context, "rob@wrenmoor.example")
	e.Must(err)
	_, err = e.Writing.SaveArticle(
		e.Context,
		rob,
		sent,
		writing.Save{Text: library.WorkingCopy{Title: "Sent by rob", Body: "<p>Words by rob.</p>"}, Version: 1},
	)
	e.Must(err)
	e.Must(e.Review.Act(e.Context, rob, sent, corereview.Submit, 0, ""))
	copyOf := map[string]any{
		"title":              "T",
		"body":               "<p>Mine.</p>",
		"keywords":           []string{},
		"search_title":       "",
		"search_description": "",
	}
	for _, c := range []struct {
		what, as, method, path string
		body                   any
		status                 int
	}{
		{"reads another's job", "bea", "GET", "/api/staff/jobs/" + e.objects["jobs"], nil, 404},
		{"undoes another's job", "bea", "POST", "/api/staff/jobs/" + e.objects["jobs"] + "/undo", nil, 404},
		{"accepts what another took", "gil", "POST", "/api/staff/handoffs/" + e.taken + "/accept", nil, 409},
		{"replies in what another took", "gil", "POST", "/api/staff/handoffs/" + e.taken + "/replies", map[string]any{"text": "Hello"}, 409},
		{"closes what another took", "gil", "POST", "/api/staff/handoffs/" + e.taken + "/close", nil, 409},
		{"drops another's file", "gil", "DELETE", "/api/staff/handoffs/" + e.taken + "/files/" + e.objects["files"], nil, 404},
		{"replies in what nobody took", "gil", "POST", "/api/staff/handoffs/" + e.waiting + "/replies", map[string]any{"text": "Hello"}, 409},
		{"reads a file that was not sent", "gil", "GET", "/api/staff/handoffs/" + e.taken + "/files/" + e.objects["files"], nil, 404},
		{"saves what another writes", "bea", "PUT", "/api/staff/articles/" + own, map[string]any{"version": 1, "copy": copyOf}, 423},
		{"sends what another writes", "bea", "POST", "/api/staff/articles/" + own + "/actions", map[string]any{"action": "submit"}, 423},
		{"takes over without being a publisher", "bea", "POST", "/api/staff/articles/" + own + "/take-over", map[string]any{"tab": "x"}, 403},
		{"passes a text of their own", "rob", "POST", "/api/staff/articles/" + sent + "/actions", map[string]any{"action": "approve"}, 403},
		{"takes their own administration away", "max", "PUT", "/api/staff/people/" + fmt.Sprint(e.crew.Administrator.ID), map[string]any{"roles": []string{"author"}, "disabled": false}, 409},
		{"takes back another's confirmation", "rex", "DELETE", "/api/staff/articles/A-0001/still-true", nil, 409},
	} {
		if c.what == "takes back another's confirmation" {
			e.Must(e.Review.StillTrue(e.Context, e.crew.Author, "A-0001", ""))
		}
		answer, text := e.call(operation{method: c.method, path: c.path, body: c.body}, c.as)
		if answer.StatusCode != c.status {
			t.Errorf("%s %s: %s %.200s", c.as, c.what, answer.Status, text)
		}
	}
	// Marking news as read reaches nobody else's.
	news, err := e.Notify.News(e.Context, e.crew.Reviewer, "", 1)
	e.Must(err)
	if news.Unread == 0 {
		t.Fatal("the reviewer was told nothing")
	}
	for _, id := range []int64{0, news.Items[0].ID} {
		if answer, text := e.call(
			operation{method: "POST", path: "/api/staff/news/read", body: map[string]any{"id": id}},
			"bea",
		); answer.StatusCode != 204 {
			t.Errorf("%s %s", answer.Status, text)
		}
	}
	if after, err := e.Notify.News(e.Context, e.crew.Reviewer, "", 1); err != nil || after.Unread != news.Unread {
		t.Errorf("another's news were marked: %d unread of %d, %v", after.Unread, news.Unread, err)
	}
	// The own handoff goes on.
	if answer, text := e.call(
		operation{
			method: "POST",
			path:   "/api/staff/handoffs/" + e.taken + "/replies",
			body:   map[string]any{"text": "Hello"},
		},
		"gus",
	); answer.StatusCode >= 300 {
		t.Errorf("gus cannot answer: %s %s", answer.Status, text)
	}
}
