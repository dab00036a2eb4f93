package apptest

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"image"
	"image/png"
	"regexp"
	"strings"
	"testing"

	"hermeneus/app/conversations"
	"hermeneus/app/evidence"
	"hermeneus/app/exchange"
	"hermeneus/app/forms"
	"hermeneus/app/jobs"
	"hermeneus/app/library"
	"hermeneus/app/lists"
	"hermeneus/app/problem"
	"hermeneus/app/search"
	"hermeneus/app/staff"
	"hermeneus/app/writing"
	"hermeneus/core/audience"
	coreexchange "hermeneus/core/exchange"
	"hermeneus/core/flow"
	"hermeneus/core/form"
	"hermeneus/core/outcome"
	"hermeneus/core/review"
	"hermeneus/core/role"
)

// FieldOf names the first field that a problem is about, "" for none.
func FieldOf(err error) string {
	if p, ok := err.(*problem.Problem); ok && len(p.Fields) > 0 {
		return p.Fields[0].Name
	}
	return ""
}

// Done waits for a job to end, and reads what came of it.
func Done(w *World, by staff.Staff, id int64, into any) jobs.Job {
	var job jobs.Job
	w.Eventually(func() bool {
		var err error
		job, err = w.Jobs.ReadJob(w.Context, by, id)
		w.Must(err)
		return job.State == "done" || job.State == "failed"
	})
	w.Must(json.Unmarshal(job.Result, into))
	return job
}

// HandedOver is a chat that stands before an agent, who has accepted it.
func HandedOver(w *World, c Crew, v evidence.Visitor) (token, reference string) {
	w.T.Helper()
	token, err := w.Conversations.StartChat(w.Context, v)
	w.Must(err)
	w.Must(w.Conversations.SayInChat(w.Context, v, token, flow.Input{Kind: flow.WantPerson}))
	view, err := w.Conversations.ReadChat(w.Context, evidence.Visitor{}, token, 0)
	w.Must(err)
	w.Must(w.Conversations.Accept(w.Context, c.Agent, view.Reference))
	return token, view.Reference
}

// DoorFlow is a small flow with a choice, a suggestion, a look-up and a way to a person.
const DoorFlow = `{"name": "Door", "language": "en", "start": "hello", "free_text": "find", "person": "person", "person_words": ["person"], "turns": [
 {"id": "hello", "kind": "choose", "text": "What is it?", "options": [{"label": "My bill", "next": "bill"}, {"label": "Another thing", "next": "find"}]},
 {"id": "bill", "kind": "suggest", "text": "This may help.", "articles": ["A-0001"], "helped": "bye", "not_helped": "person", "nothing": "find"},
 {"id": "find", "kind": "look_up", "text": "In your words?", "helped": "bye", "not_helped": "person", "nothing": "person"},
 {"id": "person", "kind": "hand_over", "text": "I pass you on.", "team": "Accounts", "nobody": "leave"},
 {"id": "leave", "kind": "request", "text": "What shall we answer?", "team": "Accounts", "next": "bye"},
 {"id": "bye", "kind": "close", "text": "Goodbye."}]}`

// OpenWithCrew gives a world with one published article, A-0001, and the door live.
func OpenWithCrew(t *testing.T) (*World, Crew) {
	t.Helper()
	w := Open(t)
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
	_, err := w.Flows.PublishFlow(w.Context, c.Publisher, conversations.FrontDoor, DoorFlow, 0)
	w.Must(err)
	return w, c
}

// Kept lists the evidence of the world as "kind ref", in the order kept.
func Kept(w *World) string {
	items, err := evidence.Items(w.DB(), "e.kind NOT IN ('seen', 'began', 'linked') ORDER BY e.id")
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

// Expect compares evidence as lines with what was to be kept.
func Expect(t *testing.T, got, want string) {
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

// Third gives the error of three results.
func Third[A, B any](_ A, _ B, err error) error { return err }

// Second gives the error of two results.
func Second[T any](_ T, err error) error { return err }

// Take takes the whole library out.
func Take(w *World, by staff.Staff) coreexchange.Bundle {
	w.T.Helper()
	b, err := w.Exchange.ExportLibrary(w.Context, by, lists.ArticleFilter{}, nil)
	w.Must(err)
	return b
}

// Bring brings a bundle in.
func Bring(w *World, by staff.Staff, b coreexchange.Bundle, o exchange.ImportOptions, dry bool) exchange.ImportReport {
	w.T.Helper()
	report, err := w.Exchange.ImportLibrary(w.Context, by, b, o, dry, nil)
	w.Must(err)
	return report
}

// Dot is a picture of one dot.
func Dot(t *testing.T) []byte {
	var out bytes.Buffer
	if err := png.Encode(&out, image.NewRGBA(image.Rect(0, 0, 2, 2))); err != nil {
		t.Fatal(err)
	}
	return out.Bytes()
}

// Picture begins as a picture does.
var Picture = []byte("\x89PNG\r\n\x1a\n\x00\x00\x00\rIHDR")

// LinkInMail waits for a mail to an address, and gives what its link opens.
func LinkInMail(t *testing.T, w *World, address string) string {
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
var Reader = staff.Staff{Name: "reader", Roles: role.Set{role.Administrator, role.Analyst}}

// KindOf says what kind of problem an error is, "" for none.
func KindOf(err error) problem.Kind {
	var p *problem.Problem
	if errors.As(err, &p) {
		return p.Kind
	}
	return ""
}

// Ready gives an article that passed its gates and is not live yet.
func Ready(w *World, c Crew, category int64, title string) string {
	w.T.Helper()
	ref := w.Draft(c.Author, category, title, "<p>Text of "+title+".</p>", "")
	w.Must(w.Review.Act(w.Context, c.Author, ref, review.Submit, 1, ""))
	w.Must(w.Review.Act(w.Context, c.Reviewer, ref, review.Approve, 1, ""))
	return ref
}

// IsLive reports whether an article is live.
func IsLive(w *World, ref string) bool {
	w.T.Helper()
	_, err := w.HelpCentre.OpenPage(w.Context, evidence.Visitor{Preview: true}, "help", ref)
	if err != nil && KindOf(err) != problem.NotFound && KindOf(err) != problem.Withdrawn {
		w.T.Fatal(err)
	}
	return err == nil
}

// ShowInFlow makes a live flow that shows an article. The flow's own check would
// refuse what is not live, so another is live in its place while it is published.
func ShowInFlow(w *World, c Crew, ref string) {
	w.T.Helper()
	script := `{"name":"The front door","language":"en","start":"hello","turns":[{"id":"hello","kind":"suggest","text":"Look.","articles":["` + ref + `"],"helped":"bye","not_helped":"bye","nothing":"bye"},{"id":"bye","kind":"close","text":"Bye."}]}`
	w.Must(w.DB().Exec(`INSERT INTO flows (slug) VALUES ('front-door') ON CONFLICT DO NOTHING`).Error)
	w.Must(
		w.DB().
			Exec(`INSERT INTO flow_versions (flow_id, number, script, published_by, published_at)
				SELECT id, 1, ?, ?, now() FROM flows WHERE slug = 'front-door'`, script, c.Publisher.ID).
			Error,
	)
	w.Must(w.DB().Exec(`INSERT INTO flow_entries (flow_id) SELECT id FROM flows WHERE slug = 'front-door'`).Error)
	w.Must(w.DB().Exec(`UPDATE flows SET live_version_id = (SELECT max(id) FROM flow_versions)`).Error)
}

// Searching is a library with a few live articles, and the number of its help centre.
func Searching(t *testing.T) (w *World, c Crew, site int64, refs map[string]string) {
	w = OpenIdle(t)
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
		found, _ := w.Search.Search(w.Context, evidence.Visitor{Preview: true}, "amber light")
		return len(found) == 1
	})
	sites, err := w.Sites.Sites(w.Context)
	w.Must(err)
	return w, c, sites[0].ID, refs
}

// Titles lists the titles of what was found.
func Titles(results []search.Result) string {
	var list []string
	for _, r := range results {
		list = append(list, r.Title)
	}
	return strings.Join(list, " | ")
}

// SaidOf gives what a problem says of a field.
func SaidOf(err error, name string) string {
	var p *problem.Problem
	if errors.As(err, &p) {
		for _, f := range p.Fields {
			if f.Name == name {
				return f.Message
			}
		}
	}
	return ""
}

// Text is a working copy of a title and a body.
func Text(title, body string) library.WorkingCopy {
	return library.WorkingCopy{Title: title, Body: body, Keywords: []string{}}
}

// SaveText saves a text over what is there.
func SaveText(w *World, by staff.Staff, ref, tab string, c library.WorkingCopy) error {
	a, err := w.Desk.ReadArticle(w.Context, by, ref)
	w.Must(err)
	_, err = w.Writing.SaveArticle(w.Context, by, ref, writing.Save{Text: c, Version: a.Version, Tab: tab})
	return err
}

// Itoa writes a number.
func Itoa(n int64) string {
	var digits []byte
	for ; n > 0; n /= 10 {
		digits = append([]byte{byte('0' + n%10)}, digits...)
	}
	return string(digits)
}

// Requesting opens a world with a help centre that takes requests.
func Requesting(t *testing.T) (w *World, c Crew, site int64) {
	w = Open(t)
	c = w.Crew()
	sites, err := w.Sites.Sites(w.Context)
	w.Must(err)
	site = sites[0].ID
	_, err = w.Forms.Keep(
		w.Context,
		c.Administrator,
		forms.RequestKind{SiteID: site, Name: "I am moving", Team: "Accounts", Fields: []form.Field{
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

// Under adds a category below another.
func Under(w *World, by staff.Staff, parent int64, name string) int64 {
	id, err := w.Library.AddCategory(
		w.Context,
		by,
		library.NewCategory{ParentID: parent, Name: name, Audience: audience.Everyone},
	)
	w.Must(err)
	return id
}

// Evidence reads what was kept, in its order, but for what only says who was there.
func (w *World) Evidence(ctx context.Context) ([]outcome.Evidence, error) {
	return evidence.Items(w.DB().WithContext(ctx), "e.kind NOT IN ('seen', 'began', 'linked') ORDER BY e.id")
}
