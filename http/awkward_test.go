package http_test

import (
	"encoding/json"
	"fmt"
	"maps"
	"net/url"
	"slices"
	"strings"
	"testing"

	door "hermeneus/http"
)

// Whatever stands in a parameter or a field, the answer is a clear problem and no failure.
func TestAwkwardInputIsNoFailure(t *testing.T) {
	e := populated(t)
	e.signInAll("ada", "rex", "pia", "gus", "lyn", "max")
	raw, err := door.OpenAPI()
	e.Must(err)
	var document struct {
		Paths map[string]map[string]struct {
			OperationID string
			Parameters  []struct{ Name, In string }
		}
	}
	e.Must(json.Unmarshal(raw, &document))
	parameters := map[string][]string{}
	for _, methods := range document.Paths {
		for _, o := range methods {
			for _, p := range o.Parameters {
				if p.In == "query" {
					parameters[o.OperationID] = append(parameters[o.OperationID], p.Name)
				}
			}
		}
	}
	awkward := []string{
		"9223372036854775807",
		"-9223372036854775808",
		"99999999999999999999999",
		"2147483648",
		"-1",
		"0",
		"\x00",
		"\xff\xfe",
		"../../etc/passwd",
		"%",
		"'",
		"\u202e",
		strings.Repeat("ü", 3000),
		"[",
		"{}",
		"1e308",
		"NaN",
		"2026-02-30",
		"A-9999999999",
		"A-0001@99999999999",
		"A-0001.zz",
	}
	caller := func(o operation) string {
		for _, name := range []string{"ada", "pia", "max", "gus", "lyn", "rex"} {
			if slices.Contains(mayCall[o.id], roleOf[name]) {
				return name
			}
		}
		return "ada"
	}
	tried := 0
	failed := func(o operation, what string) {
		tried++
		if answer, text := e.call(o, caller(o)); answer.StatusCode >= 500 {
			t.Errorf("%s %s with %.60q: %s %.200s", o.method, o.id, what, answer.Status, text)
		}
	}
	for _, o := range e.operations() {
		if o.method == "DELETE" {
			continue // the objects are needed
		}
		for _, value := range awkward {
			for _, name := range parameters[o.id] {
				other := o
				other.query = maps.Clone(o.query)
				if other.query == nil {
					other.query = url.Values{}
				}
				other.query.Set(name, value)
				failed(other, name+"="+value)
			}
			if strings.Count(o.path, "/") > 3 && o.method == "GET" {
				parts := strings.Split(o.path, "/")
				for i := 4; i < len(parts); i++ {
					other := o
					changed := slices.Clone(parts)
					changed[i] = url.PathEscape(value)
					other.path = strings.Join(changed, "/")
					failed(other, other.path)
				}
			}
		}
		fields, ok := o.body.(map[string]any)
		if !ok || slices.Contains([]string{"do-change-password", "sign-in", "add-person"}, o.id) {
			continue
		}
		for field := range fields {
			for _, value := range []any{"\x00", "../../x", "/files/../../x", strings.Repeat("ü", 3000), "\u202e", float64(9007199254740991), -1.0, "2026-02-30", nil, []any{nil}, map[string]any{}} {
				other := o
				changed := maps.Clone(fields)
				changed[field] = value
				other.body = changed
				failed(other, fmt.Sprintf("%s: %v", field, value))
			}
		}
	}
	for _, path := range []string{"/help?page=9223372036854775807", "/help/search?q=%ff%00", "/help/search?q=a&page=9223372036854775807", "/help/categories/9223372036854775807", "/help/categories/99999999999999999999",
		"/help/articles/A-99999999999", "/help/articles/A-0001/%ff", "/help/articles/A-0001.zz", "/files/..%2f..%2fx", "/files/x?w=9223372036854775807", "/sitemap-99999999999999999999.xml", "/sitemap-9223372036854775807.xml",
		"/help/categories/1/feed.atom?x=%00", "/help/requests/%00", "/help/conversations/%ff%fe", "/help/request?kind=%00", "/help/request?subject=%ff", "/help?lang=%00", "/help/new-password?key=%00", "/chat?x=%ff"} {
		tried++
		if answer, text := e.ask("GET", path, nil); answer.StatusCode >= 500 {
			t.Errorf("%s: %s %.200s", path, answer.Status, text)
		}
	}
	if tried < 2000 {
		t.Errorf("only %d were tried", tried)
	}
}

// Texts that grow without bound when they are read are refused, or read in bounds.
func TestTextsThatGrowAreBounded(t *testing.T) {
	e := populated(t)
	e.signInAll("ada")
	article := "/api/staff/articles/" + e.objects["articles"]
	copyOf := func(body string) map[string]any {
		return map[string]any{
			"title":              "T",
			"body":               body,
			"keywords":           []string{},
			"search_title":       "",
			"search_description": "",
		}
	}
	for what, body := range map[string]string{
		"deep divisions": strings.Repeat("<div>", 100_000) + "x",
		"deep lists":     strings.Repeat("<ul><li>", 60_000) + "x",
		"deep quotes":    strings.Repeat("<blockquote>", 50_000) + "x" + strings.Repeat("</blockquote>", 50_000),
		"deep emphasis":  "<p>" + strings.Repeat("<b><i>", 80_000) + "x",
		"deep tables":    strings.Repeat("<table><tr><td>", 30_000) + "x",
	} {
		for _, o := range []operation{
			{method: "POST", path: "/api/staff/clean", body: map[string]any{"body": body}},
			{method: "PUT", path: article, body: map[string]any{"version": 1, "copy": copyOf(body)}},
			{method: "POST", path: article + "/side-by-side", body: map[string]any{"body": body}},
		} {
			if answer, text := e.call(o, "ada"); answer.StatusCode >= 500 {
				t.Errorf("%s to %s: %s %.200s", what, o.path, answer.Status, text)
			}
		}
	}
	bomb := "---\ntitle: T\na: &a [x,x,x,x,x,x,x,x,x]\nb: &b [*a,*a,*a,*a,*a,*a,*a,*a,*a]\nc: &c [*b,*b,*b,*b,*b,*b,*b,*b,*b]\nd: &d [*c,*c,*c,*c,*c,*c,*c,*c,*c]\ne: &e [*d,*d,*d,*d,*d,*d,*d,*d,*d]\nf: &f [*e,*e,*e,*e,*e,*e,*e,*e,*e]\ng: [*f,*f,*f,*f,*f,*f,*f,*f,*f]\nkeywords: *f\n---\nWords.\n"
	e.cookies = map[string]string{"hermeneus_staff": e.objects["session ada"]}
	answer, text := e.ask(
		"POST",
		"/api/staff/imports?name=bomb.md&dry=true",
		bomb,
		"Content-Type",
		"application/octet-stream",
	)
	if answer.StatusCode >= 500 {
		t.Errorf("a bomb of YAML: %s %s", answer.Status, text)
	}
	if answer.StatusCode == 200 {
		var job struct{ ID int64 }
		e.Must(json.Unmarshal([]byte(text), &job))
		e.Eventually(func() bool {
			done, err := e.Jobs.ReadJob(e.Context, e.crew.Author, job.ID)
			return err == nil && done.State != "waiting" && done.State != "running"
		})
	}
}
