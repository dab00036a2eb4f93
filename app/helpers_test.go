package app_test

import (
	"bytes"
	"encoding/json"
	"errors"
	"image"
	"image/png"
	"regexp"
	"strings"
	"testing"

	"hermeneus/app"
	"hermeneus/app/apptest"
	"hermeneus/core/article"
	"hermeneus/core/audience"
	"hermeneus/core/exchange"
	"hermeneus/core/flow"
	"hermeneus/core/form"
	"hermeneus/core/role"
)

func fieldOf(err error) string {
	if p, ok := err.(*app.Problem); ok && len(p.Fields) > 0 {
		return p.Fields[0].Name
	}
	return ""
}

// done waits for a job to end, and reads what came of it.
func done(w *apptest.World, by app.Staff, id int64, into any) app.Job {
	var job app.Job
	w.Eventually(func() bool {
		var err error
		job, err = w.ReadJob(w.Context, by, id)
		w.Must(err)
		return job.State == "done" || job.State == "failed"
	})
	w.Must(json.Unmarshal(job.Result, into))
	return job
}

// passed is a chat that stands before an agent, who has accepted it.
func passed(w *apptest.World, c apptest.Crew, v app.Visitor) (token, reference string) {
	w.T.Helper()
	token, err := w.StartChat(w.Context, v)
	w.Must(err)
	w.Must(w.SayInChat(w.Context, v, token, flow.Input{Kind: flow.WantPerson}))
	view, err := w.ReadChat(w.Context, app.Visitor{}, token, 0)
	w.Must(err)
	w.Must(w.Accept(w.Context, c.Agent, view.Reference))
	return token, view.Reference
}

const doorFlow = `{"name": "Door", "language": "en", "start": "hello", "free_text": "find", "person": "person", "person_words": ["person"], "turns": [
 {"id": "hello", "kind": "choose", "text": "What is it?", "options": [{"label": "My bill", "next": "bill"}]},
 {"id": "bill", "kind": "suggest", "text": "This may help.", "articles": ["A-0001"], "helped": "bye", "not_helped": "person", "nothing": "find"},
 {"id": "find", "kind": "look_up", "text": "In your words?", "helped": "bye", "not_helped": "person", "nothing": "person"},
 {"id": "person", "kind": "hand_over", "text": "I pass you on.", "team": "Accounts", "nobody": "leave"},
 {"id": "leave", "kind": "request", "text": "What shall we answer?", "team": "Accounts", "next": "bye"},
 {"id": "bye", "kind": "close", "text": "Goodbye."}]}`

// open gives a world with one published article, A-0001, and the door live.
func open(t *testing.T) (*apptest.World, apptest.Crew) {
	t.Helper()
	w := apptest.Open(t)
	c := w.Crew()
	w.Publish(
		c,
		w.Draft(
			c.Author,
			w.Category(c.Author, "Bills"),
			"Why a bill is estimated",
			"<p>"+strings.Repeat("No reading reached us. ", 10)+"</p>",
			audience.Everyone,
		),
	)
	_, err := w.PublishFlow(w.Context, c.Publisher, app.FrontDoor, doorFlow, 0)
	w.Must(err)
	return w, c
}

// kept lists the evidence of the world as "kind ref", in the order kept.
func kept(w *apptest.World) string {
	items, err := w.Evidence(w.Context)
	w.Must(err)
	var out []string
	for _, e := range items {
		out = append(
			out,
			strings.TrimSpace(
				strings.Join(
					[]string{string(e.Channel), string(e.Kind), e.Text, e.Ref, strings.Join(e.Refs, ",")},
					" ",
				),
			),
		)
	}
	return strings.Join(out, "\n")
}

func expect(t *testing.T, got, want string) {
	t.Helper()
	if clean := strings.Join(
		strings.Fields(strings.ReplaceAll(got, "\n", " | ")),
		" ",
	); clean != strings.Join(
		strings.Fields(strings.ReplaceAll(want, "\n", " | ")),
		" ",
	) {
		t.Errorf("\ngot\n%s\n\nwant\n%s", got, want)
	}
}

func third[A, B any](_ A, _ B, err error) error { return err }

func second[T any](_ T, err error) error { return err }

func take(w *apptest.World, by app.Staff) exchange.Bundle {
	w.T.Helper()
	b, err := w.ExportLibrary(w.Context, by, app.ArticleFilter{}, nil)
	w.Must(err)
	return b
}

func bring(w *apptest.World, by app.Staff, b exchange.Bundle, o app.ImportOptions, dry bool) app.ImportReport {
	w.T.Helper()
	report, err := w.ImportLibrary(w.Context, by, b, o, dry, nil)
	w.Must(err)
	return report
}

func dot(t *testing.T) []byte {
	var out bytes.Buffer
	if err := png.Encode(&out, image.NewRGBA(image.Rect(0, 0, 2, 2))); err != nil {
		t.Fatal(err)
	}
	return out.Bytes()
}

var picture = []byte("\x89PNG\r\n\x1a\n\x00\x00\x00\rIHDR")

// linkInMail waits for a mail to an address, and gives what its link opens.
func linkInMail(t *testing.T, w *apptest.World, address string) string {
	t.Helper()
	var key string
	link := regexp.MustCompile(`http://help\.wrenmoor\.example/help/requests/(\S+)`)
	w.Eventually(func() bool {
		for _, m := range w.Room.Letters(address) {
			if found := link.FindStringSubmatch(m.Text); found != nil {
				key = found[1]
			}
		}
		return key != ""
	})
	return key
}

// kind gives the kind of problem an error is, "" for none.
// reader is somebody who may read everything.
var reader = app.Staff{Name: "reader", Roles: role.Set{role.Administrator, role.Analyst}}

func kind(err error) app.ProblemKind {
	var p *app.Problem
	if errors.As(err, &p) {
		return p.Kind
	}
	return ""
}

// ready gives an article that passed its gates and is not live yet.
func ready(w *apptest.World, c apptest.Crew, category int64, title string) string {
	w.T.Helper()
	ref := w.Draft(c.Author, category, title, "<p>Text of "+title+".</p>", "")
	w.Must(w.Act(w.Context, c.Author, ref, article.Submit, 1, ""))
	w.Must(w.Act(w.Context, c.Reviewer, ref, article.Approve, 1, ""))
	return ref
}

func live(w *apptest.World, ref string) bool {
	w.T.Helper()
	_, err := w.OpenPage(w.Context, app.Visitor{Preview: true}, "help", ref)
	if err != nil && kind(err) != app.NotFound && kind(err) != app.Withdrawn {
		w.T.Fatal(err)
	}
	return err == nil
}

// showInFlow makes a live flow that shows an article. The flow's own check would
// refuse what is not live, so another is live in its place while it is published.
func showInFlow(w *apptest.World, c apptest.Crew, ref string) {
	w.T.Helper()
	script := `{"name":"The front door","language":"en","start":"hello","turns":[{"id":"hello","kind":"suggest","text":"Look.","articles":["` + ref + `"],"helped":"bye","not_helped":"bye","nothing":"bye"},{"id":"bye","kind":"close","text":"Bye."}]}`
	w.Must(w.DB().Exec(`INSERT INTO flows (slug) VALUES ('front-door') ON CONFLICT DO NOTHING`).Error)
	w.Must(
		w.DB().
			Exec(`INSERT INTO flow_versions (flow_id, number, script, published_by, published_at)
				SELECT id, 1, ?, ?, now() FROM flows WHERE slug = 'front-door'`, script, c.Publisher.ID).
			Error,
	)
	w.Must(w.DB().Exec(`UPDATE flows SET live_version_id = (SELECT max(id) FROM flow_versions)`).Error)
}

// searching is a library with a few live articles, and the number of its help centre.
func searching(t *testing.T) (w *apptest.World, c apptest.Crew, site int64, refs map[string]string) {
	w = apptest.OpenIdle(t)
	c = w.Crew()
	bills := w.Category(c.Author, "Bills")
	refs = map[string]string{}
	for _, a := range []struct{ title, body string }{
		{"Why a bill is estimated", "<p>A bill is estimated when no reading reached us in time.</p><p>Send one, and we correct it.</p>"},
		{"Give a meter reading", "<h2>On the web</h2><p>Sign in, then:</p><ol><li><p>Open your meter.</p></li><li><p>Type the five digits.</p></li></ol>"},
		{"What the night rate means", "<p>Cheaper hours from ten to six.</p>"},
		{"The rented battery shows an amber light", "<p>Wait an hour for the battery to wake.</p>"},
	} {
		refs[a.title] = w.Draft(c.Author, bills, a.title, a.body, audience.Everyone)
		w.Publish(c, refs[a.title])
	}
	w.Eventually(func() bool {
		found, _ := w.Search(w.Context, app.Visitor{Preview: true}, "amber light")
		return len(found) == 1
	})
	sites, err := w.Sites(w.Context)
	w.Must(err)
	return w, c, sites[0].ID, refs
}

func titles(results []app.Result) string {
	var list []string
	for _, r := range results {
		list = append(list, r.Title)
	}
	return strings.Join(list, " | ")
}

// saidOf gives what a problem says of a field.
func saidOf(err error, name string) string {
	var p *app.Problem
	if errors.As(err, &p) {
		for _, f := range p.Fields {
			if f.Name == name {
				return f.Message
			}
		}
	}
	return ""
}

func text(title, body string) app.WorkingCopy {
	return app.WorkingCopy{Title: title, Body: body, Keywords: []string{}}
}

func save(w *apptest.World, by app.Staff, ref, tab string, c app.WorkingCopy) error {
	a, err := w.ReadArticle(w.Context, by, ref)
	w.Must(err)
	_, err = w.SaveArticle(w.Context, by, ref, app.Save{Text: c, Version: a.Version, Tab: tab})
	return err
}

func itoa(n int64) string {
	var digits []byte
	for ; n > 0; n /= 10 {
		digits = append([]byte{byte('0' + n%10)}, digits...)
	}
	return string(digits)
}

func requesting(t *testing.T) (w *apptest.World, c apptest.Crew, site int64) {
	w = apptest.Open(t)
	c = w.Crew()
	sites, err := w.Sites(w.Context)
	w.Must(err)
	site = sites[0].ID
	_, err = w.KeepRequestKind(
		w.Context,
		c.Administrator,
		app.RequestKind{SiteID: site, Name: "I am moving", Team: "Accounts", Fields: []form.Field{
			{Key: "which", Label: "In or out?", Kind: form.Choice, Required: true, Options: []string{"In", "Out"}},
			{
				Key:      "forward",
				Label:    "New address",
				Kind:     form.Text,
				Required: true,
				When:     form.When{Key: "which", Is: "Out"},
			},
			{Key: "photo", Label: "The meter", Kind: form.File},
		}},
	)
	w.Must(err)
	return w, c, site
}
