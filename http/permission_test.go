package http_test

import (
	"slices"
	"testing"

	"hermeneus/core/role"
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
	"begin-import":        {role.Author},
	"change-path":         {role.Administrator},
	"change-template":     {role.Administrator},
	"check-flow":          role.All,
	"add-opening-day":     {role.Administrator, role.Publisher},
	"bring-calendar":      {role.Administrator, role.Publisher},
	"compare-flow":        role.All,
	"create-flow":         {role.Author, role.Publisher},
	"drop-opening-day":    {role.Administrator, role.Publisher},
	"end-flow":            {role.Publisher},
	"give-calendar":       role.All,
	"hold-flow":           {role.Author, role.Publisher},
	"let-go-flow":         role.All,
	"keep-flow-aside":     {role.Author, role.Publisher},
	"keep-rehearsal":      {role.Author, role.Publisher},
	"accept-rehearsal":    {role.Author, role.Publisher},
	"remove-rehearsal":    {role.Author, role.Publisher},
	"read-rehearsal":      role.All,
	"list-flow-reviews":   role.All,
	"list-flow-states":    role.All,
	"move-flow":           role.All,
	"put-back-flow-state": {role.Author, role.Publisher},
	"set-flow-path":       {role.Administrator},
	"list-flow-versions":  role.All,
	"list-flow-words":     role.All,
	"list-flows":          role.All,
	"publish-flow-copy":   {role.Publisher},
	"read-flow-state":     role.All,
	"read-flow-version":   role.All,
	"read-hours":          role.All,
	"read-presence":       role.All,
	"rename-flow-turn":    role.All,
	"roll-back-flow":      {role.Publisher},
	"save-flow":           {role.Author, role.Publisher},
	"set-flow-entries":    {role.Publisher},
	"set-flow-properties": {role.Author, role.Publisher},
	"set-flow-text":       role.All,
	"set-hours":           {role.Administrator, role.Publisher},
	"set-presence":        {role.Administrator, role.Agent},
	"take-over-flow":      {role.Publisher},
	"try-flow":            role.All,
	"clean-source":        role.All,
	"count-news":          role.All,
	"create-article":      {role.Author},
	"do-accept":           {role.Agent},
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

	"do-set-newcomers": {role.Administrator},
	"read-newcomers":   role.All,
	"read-keeping":     role.All,
	"do-set-notice":    {role.Publisher, role.Administrator},
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
	"forget-customer":  {role.Administrator},
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
	"preview-template":     role.All,
	"publish-flow":         {role.Publisher},
	"read-advice":          role.All,
	"read-article":         role.All,
	"read-batch":           role.All,
	"read-belongings":      {role.Administrator},
	"read-changes":         role.All,
	"read-doing":           role.All,
	"read-flow":            role.All,
	"read-handoff":         {role.Agent},
	"read-job":             role.All,
	"read-ledger":          {role.Analyst, role.Publisher, role.Administrator},
	"read-news-wishes":     role.All,
	"read-outcomes":        {role.Analyst, role.Publisher, role.Administrator},
	"read-outcome-choices": {role.Analyst, role.Publisher, role.Administrator},
	"read-question":        {role.Analyst, role.Publisher, role.Administrator},
	"read-recheck-rule":    role.All,
	"read-reviewing":       role.All,
	"read-round":           role.All,
	"read-search-rules":    role.All,
	"read-settings":        role.All,
	"read-source":          role.All,
	"read-text":            role.All,
	"read-today":           role.All,
	"read-touches":         role.All,
	"remove-category":      {role.Publisher, role.Administrator},
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

type schema struct {
	Ref        string `json:"$ref"`
	Type       any
	Required   []string
	Properties map[string]schema
	Enum       []any
	Minimum    *float64
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
	_, err := e.Accounts.People.AddCustomer(e.Context, "Mae", "mae@post.example", "a long password")
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
	// What takes others' objects away comes last.
	last := func(o operation) bool { return o.id == "forget-customer" }
	slices.SortStableFunc(all, func(x, y operation) int {
		switch {
		case last(x) == last(y):
			return 0
		case last(x):
			return 1
		}
		return -1
	})
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
