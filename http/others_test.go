package http_test

import (
	"fmt"
	"testing"

	"hermeneus/app/library"
	"hermeneus/app/writing"
	"hermeneus/core/audience"
	corereview "hermeneus/core/review"
	"hermeneus/core/role"
)

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
			e.Must(e.Review.Rechecks.StillTrue(e.Context, e.crew.Author, "A-0001", ""))
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
