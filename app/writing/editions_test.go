package writing_test

import (
	"strings"
	"testing"

	"hermeneus/app/apptest"
	"hermeneus/app/lists"
	"hermeneus/app/problem"
	"hermeneus/app/staff"
	"hermeneus/core/audience"
	"hermeneus/core/review"
)

func TestEditionsFallBehindTheirSource(t *testing.T) {
	w := apptest.Open(t)
	c := w.Crew()
	ref := w.Draft(
		c.Author,
		w.Category(c.Author, "Bills"),
		"Pay a bill",
		"<h2>How</h2><p>Pay in ten days.</p>",
		audience.Everyone,
	)
	w.Publish(c, ref)
	if _, err := w.Writing.AddEdition(w.Context, c.Author, ref, "en"); apptest.KindOf(err) != problem.Invalid {
		t.Errorf("an edition in the source's language: %v", err)
	}
	de, err := w.Writing.AddEdition(w.Context, c.Author, ref, "de")
	w.Must(err)
	if _, err := w.Writing.AddEdition(w.Context, c.Author, ref, "de"); apptest.KindOf(err) != problem.NotNow {
		t.Errorf("a second one: %v", err)
	}
	w.Must(
		apptest.SaveText(
			w,
			c.Author,
			de,
			"t",
			apptest.Text("Eine Rechnung bezahlen", "<h2>Wie</h2><p>Zahlen Sie in zehn Tagen.</p>"),
		),
	)
	a, err := w.Desk.ReadArticle(w.Context, c.Author, de)
	w.Must(err)
	german, err := w.HelpCentre.OpenPage(w.Context, apptest.Visitor("k"), "help", de)
	w.Must(err)
	if german.Title != "Pay a bill" {
		t.Errorf("an edition that is not live shows %q", german.Title)
	}
	for _, step := range []struct {
		by     staff.Staff
		action review.Action
	}{{c.Author, review.Submit}, {c.Reviewer, review.Approve}, {c.Publisher, review.Publish}} {
		w.Must(w.Review.Act(w.Context, step.by, de, step.action, a.Version, ""))
	}
	german, err = w.HelpCentre.OpenPage(w.Context, apptest.Visitor("k"), "help", de)
	w.Must(err)
	if german.Title != "Eine Rechnung bezahlen" || german.Language != "de" || len(german.Languages) != 2 ||
		german.Revision != ref+"@2" {
		t.Errorf("the German page: %+v", german)
	}
	view, err := w.Writing.BesideSource(w.Context, de)
	w.Must(err)
	if view.Behind || len(view.Rows) != 2 || view.Rows[1].Theirs != "<p>Zahlen Sie in zehn Tagen.</p>" {
		t.Errorf("beside its source: %+v", view)
	}

	w.Must(
		apptest.SaveText(w, c.Author, ref, "t", apptest.Text("Pay a bill", "<h2>How</h2><p>Pay in twenty days.</p>")),
	)
	if view, err = w.Writing.BesideSource(w.Context, de); err != nil || view.Behind {
		t.Error("a draft of the source makes an edition behind")
	}
	w.Publish(c, ref)
	view, err = w.Writing.BesideSource(w.Context, de)
	w.Must(err)
	if !view.Behind || view.Since == nil || !strings.Contains(view.Since.Body.HTML, "<ins>twenty</ins>") ||
		view.SaysAs != 1 {
		t.Errorf("behind: %+v", view)
	}
	lines, total, err := w.Lists.ListArticles(w.Context, lists.ArticleFilter{Behind: true})
	w.Must(err)
	if total != 1 || lines[0].Languages != "de!" {
		t.Errorf("in the list: %+v", lines)
	}
	w.Must(w.Writing.Matched(w.Context, c.Author, de))
	if view, err = w.Writing.BesideSource(w.Context, de); err != nil || view.Behind {
		t.Errorf("matched: %+v, %v", view, err)
	}
}
