package library_test

import (
	"slices"
	"strings"
	"testing"

	"hermeneus/app/apptest"
	"hermeneus/app/library"
	"hermeneus/app/problem"
	"hermeneus/core/article"
	"hermeneus/core/prose"
)

func TestTemplatesLeaveArticlesAlone(t *testing.T) {
	w := apptest.Open(t)
	c := w.Crew()
	list, err := w.Library.Templates(w.Context)
	w.Must(err)
	if len(list) < 5 {
		t.Fatalf("%d templates ship", len(list))
	}
	fix := list[0]
	ref, err := w.Library.CreateArticle(
		w.Context,
		c.Author,
		library.NewArticle{
			CategoryID: w.Category(c.Author, "Bills"),
			TemplateID: fix.ID,
			Copy:       apptest.Text("The meter is dark", ""),
		},
	)
	w.Must(err)
	before, err := w.Desk.ReadArticle(w.Context, c.Author, ref)
	w.Must(err)
	if before.Kind != "fix" || !strings.Contains(before.Copy.Body, "<h2>What to do</h2>") ||
		len(before.Sections) != len(fix.Sections) {
		t.Errorf("begun as %+v", before)
	}
	changed := fix.Template
	changed.Sections = []article.Section{{Heading: "Other", Prompt: "x", Required: true}}
	if _, err := w.Library.KeepTemplate(
		w.Context,
		c.Author,
		fix.ID,
		changed,
		false,
	); apptest.KindOf(err) != problem.Denied {
		t.Errorf("an author changed a template: %v", err)
	}
	w.Must(apptest.Second(w.Library.KeepTemplate(w.Context, c.Administrator, fix.ID, changed, true)))
	after, err := w.Desk.ReadArticle(w.Context, c.Author, ref)
	w.Must(err)
	if after.Copy.Body != before.Copy.Body || !slices.Equal(after.Sections, before.Sections) {
		t.Error("changing a template changed an article")
	}
	advice, err := w.Writing.Checks(w.Context, apptest.Reader, ref)
	w.Must(err)
	empty := 0
	for _, check := range advice.Checks {
		if check.Kind == prose.SectionEmpty {
			empty++
		}
	}
	if empty != 3 {
		t.Errorf("%d required sections are said to be empty", empty)
	}
	// An empty section is a check, not a blocked save.
	w.Must(apptest.SaveText(w, c.Author, ref, "t", apptest.Text("The meter is dark", before.Copy.Body+"<p>x</p>")))
	if _, err := w.Library.KeepTemplate(
		w.Context,
		c.Administrator,
		0,
		article.Template{Name: list[1].Name, Kind: "fix", Sections: changed.Sections},
		false,
	); apptest.KindOf(err) != problem.Invalid {
		t.Errorf("two templates of one name: %v", err)
	}
}
