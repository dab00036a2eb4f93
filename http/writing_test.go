package http_test

import (
	"encoding/json"
	"net/http"
	"strings"
	"testing"
	"time"

	"hermeneus/app/exchange"
	"hermeneus/app/library"
	"hermeneus/app/sites"
	"hermeneus/app/staff"
	"hermeneus/app/writing"
	"hermeneus/core/audience"
	"hermeneus/core/review"
)

func TestFilesAreShownOrFetchedByTheirContent(t *testing.T) {
	s := open(t)
	page, err := s.Library.KeepAttachment(s.Context, s.crew.Author, []byte("<html><script>x</script>"))
	s.Must(err)
	film, err := s.Library.KeepMedia(
		s.Context,
		s.crew.Author,
		append([]byte("\x00\x00\x00\x18ftypmp42\x00\x00\x00\x00mp42isom"), make([]byte, 100)...),
	)
	s.Must(err)
	if answer, _ := s.ask("GET", page.Path, nil); answer.StatusCode != 404 {
		t.Errorf("a file of no live article: %s", answer.Status)
	}
	ref := s.Draft(
		s.crew.Author,
		1,
		"A film",
		`<p><a href="`+page.Path+`" download="x.html">x</a></p><figure><video src="`+film.Path+`" controls></video><figcaption></figcaption></figure>`,
		audience.Everyone,
	)
	s.Publish(s.crew, ref)
	answer, _ := s.ask("GET", page.Path+"?name=x.html", nil)
	if answer.Header.Get("Content-Type") != "application/octet-stream" ||
		!strings.HasPrefix(answer.Header.Get("Content-Disposition"), "attachment") ||
		answer.Header.Get("X-Content-Type-Options") != "nosniff" {
		t.Errorf("a page as an attachment: %v", answer.Header)
	}
	answer, body := s.ask("GET", film.Path, nil, "Range", "bytes=4-7")
	if answer.StatusCode != 206 || body != "ftyp" || answer.Header.Get("Content-Range") != "bytes 4-7/124" {
		t.Errorf("a part of a film: %s %q %v", answer.Status, body, answer.Header)
	}
	if answer, _ := s.ask("GET", film.Path, nil, "Range", "bytes=900-"); answer.StatusCode != 416 {
		t.Errorf("a part that is not there: %s", answer.Status)
	}
	if answer, body := s.ask("GET", film.Path, nil); answer.StatusCode != 200 || len(body) != 124 {
		t.Errorf("the whole: %s, %d", answer.Status, len(body))
	}
}

func TestASiteAnswersItsHostInItsOwnLook(t *testing.T) {
	s := open(t)
	solar, err := s.Library.AddCategory(
		s.Context,
		s.crew.Author,
		library.NewCategory{Name: "Solar", Audience: audience.Everyone},
	)
	s.Must(err)
	s.Publish(
		s.crew,
		s.Draft(
			s.crew.Author,
			solar,
			"Register panels",
			"<h2>One</h2><p>a</p><h2>Two</h2><p>b</p><h2>Three</h2><p>c</p>",
			audience.Everyone,
		),
	)
	_, err = s.Sites.KeepSite(
		s.Context,
		s.crew.Administrator,
		sites.Site{
			Name:         "Wrenmoor Solar",
			Hosts:        []string{"help.example"},
			BrandColour:  "#7A4B00",
			AccentColour: "#1D5140",
			Languages:    []string{"en"},
			Categories:   []int64{solar},
		},
	)
	s.Must(err)
	for path, want := range map[string][2]string{
		"/help":                  {"Wrenmoor Solar", "Bills"},
		"/help/search?q=panels":  {"Register panels", "estimated"},
		"/help/articles/A-0002":  {`<a href="#two">Two</a>`, "Bills"},
		"/site.css":              {"--brand:#7A4B00", "<"},
		"/help/categories/1":     {"There is no page here", "Why a bill"},
		"/help/articles/A-0001":  {"There is no page here", "No reading"},
		"/help/search?q=reading": {"Nothing found", "No reading reached"},
	} {
		if _, body := s.ask("GET", path, nil); !strings.Contains(body, want[0]) || strings.Contains(body, want[1]) {
			t.Errorf("%s lacks %q or shows %q: %s", path, want[0], want[1], body)
		}
	}
}

func TestAnEditionIsLinkedAndSaysItsLanguage(t *testing.T) {
	s := open(t)
	de, err := s.Writing.AddEdition(s.Context, s.crew.Author, "A-0001", "de")
	s.Must(err)
	_, err = s.Writing.SaveArticle(
		s.Context,
		s.crew.Author,
		de,
		writing.Save{
			Text: library.WorkingCopy{
				Title:    "Warum geschätzt wird",
				Body:     "<p>Kein Stand.</p>",
				Keywords: []string{},
			},
			Version: 1,
		},
	)
	s.Must(err)
	for _, step := range []struct {
		by     staff.Staff
		action review.Action
	}{{s.crew.Author, review.Submit}, {s.crew.Reviewer, review.Approve}, {s.crew.Publisher, review.Publish}} {
		s.Must(s.Review.Act(s.Context, step.by, de, step.action, 2, ""))
	}
	_, body := s.ask("GET", "/help/articles/A-0001.de", nil)
	for _, want := range []string{`<html lang="en">`, `<h1 lang="de">`, `<div class="prose" lang="de">`, "Kein Stand.", `hreflang="en"`, "Deutsch"} {
		if !strings.Contains(body, want) {
			t.Errorf("%q is missing", want)
		}
	}
	if answer, _ := s.ask("GET", "/help/articles/A-0001.xx", nil); answer.StatusCode != 200 {
		t.Errorf("a language without an edition: %s", answer.Status)
	}
	if answer, _ := s.ask("GET", "/help/articles/A-0001.toolong", nil); answer.StatusCode != 404 {
		t.Errorf("no language: %s", answer.Status)
	}
}

func TestWritingGoesThroughTheDoor(t *testing.T) {
	s := open(t)
	s.signIn("ada")
	post := func(path string, body any) (*http.Response, map[string]any) {
		answer, text := s.ask("POST", path, body)
		var out map[string]any
		_ = json.Unmarshal([]byte(text), &out)
		return answer, out
	}
	answer, held := post("/api/staff/articles/A-0001/hold", map[string]string{"tab": "t1"})
	if answer.StatusCode != 200 || held["name"] != "ada" {
		t.Errorf("hold: %s %v", answer.Status, held)
	}
	answer, cleaned := post("/api/staff/clean", map[string]string{"body": "<p onclick=x>a</p>"})
	if answer.StatusCode != 200 || cleaned["body"] != "<p>a</p>" || len(cleaned["taken_out"].([]any)) != 1 {
		t.Errorf("clean: %s %v", answer.Status, cleaned)
	}
	answer, refused := post(
		"/api/staff/templates",
		map[string]any{"name": "", "kind": "fix", "purpose": "", "sections": []any{}},
	)
	if answer.StatusCode != 403 {
		t.Errorf("an author makes a template: %s %v", answer.Status, refused)
	}
	s.signIn("pia")
	answer, problem := post("/api/staff/articles/A-0001/hold", map[string]string{"tab": "t2"})
	if answer.StatusCode != 403 {
		t.Errorf("a publisher who does not write: %s %v", answer.Status, problem)
	}
	s.signIn("max")
	answer, problem = post(
		"/api/staff/templates",
		map[string]any{"name": "", "kind": "fix", "purpose": "", "sections": []any{}},
	)
	if answer.StatusCode != 422 || len(problem["errors"].([]any)) != 2 {
		t.Errorf("an empty template: %s %v", answer.Status, problem)
	}
	s.signIn("ada")
	archive := "---\ntitle: One\n---\nText\n"
	r, err := http.NewRequest("POST", "/api/staff/imports?name=one.md", strings.NewReader(archive))
	s.Must(err)
	r.Header.Set("Content-Type", "application/octet-stream")
	r.Host = "help.example"
	for name, value := range s.cookies {
		r.AddCookie(&http.Cookie{Name: name, Value: value})
	}
	begun, err := s.server.Fiber().Test(r, 10_000)
	s.Must(err)
	if begun.StatusCode != 200 {
		t.Fatalf("an import: %s", begun.Status)
	}
	var report struct {
		State  string
		Result exchange.ImportReport
	}
	for range 100 {
		_, text := s.ask("GET", "/api/staff/jobs/1", nil)
		s.Must(json.Unmarshal([]byte(text), &report))
		if report.State == "done" {
			break
		}
		time.Sleep(50 * time.Millisecond)
	}
	if report.Result.Created != 1 {
		t.Errorf("%+v", report)
	}
	exported, zip := s.ask("GET", "/api/staff/export?words=One", nil)
	if exported.StatusCode != 200 || exported.Header.Get("Content-Type") != "application/zip" ||
		!strings.HasPrefix(zip, "PK") {
		t.Errorf("an export: %s %v", exported.Status, exported.Header)
	}
}
