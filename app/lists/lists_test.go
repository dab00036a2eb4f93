package lists_test

import (
	"strings"
	"testing"
	"time"

	"hermeneus/app/apptest"
	"hermeneus/app/instance"
	"hermeneus/app/library"
	"hermeneus/app/lists"
	"hermeneus/app/problem"
	"hermeneus/core/audience"
	corereview "hermeneus/core/review"
	"hermeneus/core/role"
)

func TestListsAreFilteredEveryWay(t *testing.T) {
	w := apptest.Open(t)
	c := w.Crew()
	leaver := w.Hire("ruth", role.Author)
	top := apptest.Under(w, c.Author, 0, "Top")
	below := apptest.Under(w, c.Author, top, "Below")
	ref := map[string]string{}
	ref["live"] = w.Draft(c.Author, top, "Live", "<p>live</p>", audience.Everyone) // A-0001
	ref["linking"] = w.Draft(c.Author, below, "Linking", `<p><a href="/help/articles/A-0001">x</a></p>`, audience.Staff)
	ref["left"] = w.Draft(leaver, top, "Left", "<p>left</p>", audience.Everyone)
	w.Publish(c, ref["live"])
	w.Must(w.Accounts.People.ChangeStaff(w.Context, c.Administrator, leaver.ID, leaver.Roles, true))
	cause, err := w.Review.Rechecks.AddKnownProblem(w.Context, c.Author, "Line lost")
	w.Must(err)
	w.Must(
		w.Library.SetProperties(
			w.Context,
			c.Author,
			ref["live"],
			library.Properties{
				CategoryID:     top,
				OwnerID:        c.Author.ID,
				Kind:           "fix",
				Audience:       audience.Everyone,
				KnownProblemID: cause.ID,
			},
		),
	)
	names := func(f lists.ArticleFilter) string {
		lines, total, err := w.Lists.ListArticles(w.Context, f)
		w.Must(err)
		var list []string
		for _, l := range lines {
			list = append(list, l.Title)
		}
		if total != len(list) {
			t.Errorf("%+v: %d of %d", f, len(list), total)
		}
		return strings.Join(list, " ")
	}
	for _, f := range []struct {
		filter lists.ArticleFilter
		want   string
	}{
		{lists.ArticleFilter{}, "Live Left Linking"},
		{lists.ArticleFilter{CategoryID: top}, "Live Left Linking"},
		{lists.ArticleFilter{CategoryID: top, Here: true}, "Live Left"},
		{lists.ArticleFilter{State: corereview.Published}, "Live"},
		{lists.ArticleFilter{OwnerID: c.Author.ID}, "Live Linking"},
		{lists.ArticleFilter{LeftOwner: true}, "Left"},
		{lists.ArticleFilter{Audience: audience.Staff}, "Linking"},
		{lists.ArticleFilter{Kind: "fix"}, "Live"},
		{lists.ArticleFilter{Interim: true}, "Live"},
		{lists.ArticleFilter{Unlinked: true}, "Left Linking"},
		{lists.ArticleFilter{Unopened: true}, "Live"},
		{lists.ArticleFilter{Overdue: true}, ""},
		{lists.ArticleFilter{Words: "LINK"}, "Linking"},
		{lists.ArticleFilter{Words: "A-0001"}, "Live"},
		{lists.ArticleFilter{Sort: "title"}, "Left Linking Live"},
		{lists.ArticleFilter{Sort: "-title"}, "Live Linking Left"},
		{lists.ArticleFilter{OwnerID: c.Author.ID, Audience: audience.Staff, Unlinked: true}, "Linking"},
	} {
		if got := names(f.filter); got != f.want {
			t.Errorf("%+v gives %q, want %q", f.filter, got, f.want)
		}
	}
	w.Must(apptest.Second(w.HelpCentre.OpenPage(w.Context, apptest.Visitor("k"), "help", ref["live"])))
	w.Must(w.Outcomes.FoldAll(w.Context))
	if got := names(lists.ArticleFilter{Unopened: true}); got != "" {
		t.Errorf("opened, and still never opened: %q", got)
	}
	w.Must(w.Review.Rechecks.SolveKnownProblem(w.Context, c.Author, cause.ID))
	if got := names(lists.ArticleFilter{Live: true}); got != "" {
		t.Errorf("its cause is solved, and still live: %q", got)
	}
	live, err := w.Desk.ReadArticle(w.Context, c.Publisher, ref["live"])
	w.Must(err)
	p := library.Properties{
		CategoryID: live.Category.ID,
		OwnerID:    live.Owner.ID,
		Kind:       live.Kind,
		Audience:   live.Audience,
	}
	w.Must(w.Library.SetProperties(w.Context, c.Publisher, ref["live"], p))
	w.Must(w.Review.Act(w.Context, c.Publisher, ref["live"], corereview.Publish, live.Version, ""))
	w.Wait(300 * 24 * time.Hour)
	if got := names(lists.ArticleFilter{Overdue: true}); got != "Live" {
		t.Errorf("most of a year later: %q", got)
	}
	if _, _, err := w.Lists.ListArticles(
		w.Context,
		lists.ArticleFilter{Sort: "x; DROP TABLE"},
	); apptest.KindOf(err) != problem.Invalid {
		t.Errorf("another order: %v", err)
	}
}

func TestListsAreFilteredAndPaged(t *testing.T) {
	w := apptest.Open(t)
	c := w.Crew()
	top := w.Category(c.Author, "Top")
	below, err := w.Library.AddCategory(
		w.Context,
		c.Author,
		library.NewCategory{ParentID: top, Name: "Below", Audience: "everyone"},
	)
	w.Must(err)
	other := w.Category(c.Author, "Other")
	for range instance.PageSize {
		w.Draft(c.Author, below, "Meter", "<p>x</p>", audience.Everyone)
	}
	w.Publish(c, w.Draft(c.Author, top, "100% of bills", "<p>x</p>", audience.Everyone))
	w.Draft(c.Author, other, "Elsewhere", "<p>x</p>", audience.Everyone)
	for name, x := range map[string]struct {
		filter      lists.ArticleFilter
		here, total int
	}{
		"everything":               {lists.ArticleFilter{}, 50, 52},
		"the second page":          {lists.ArticleFilter{Page: 2}, 2, 52},
		"a category and below":     {lists.ArticleFilter{CategoryID: top}, 50, 51},
		"what is published":        {lists.ArticleFilter{State: corereview.Published}, 1, 1},
		"what is live":             {lists.ArticleFilter{Live: true}, 1, 1},
		"words with a wildcard":    {lists.ArticleFilter{Words: "100%"}, 1, 1},
		"a reference":              {lists.ArticleFilter{Words: "a-0051"}, 1, 1},
		"nobody's":                 {lists.ArticleFilter{OwnerID: c.Agent.ID}, 0, 0},
		"beyond the end":           {lists.ArticleFilter{Page: 9}, 0, 52},
		"words that nothing holds": {lists.ArticleFilter{Words: "zebra"}, 0, 0},
	} {
		lines, total, err := w.Lists.ListArticles(w.Context, x.filter)
		w.Must(err)
		if len(lines) != x.here || total != x.total {
			t.Errorf("%s: %d of %d, want %d of %d", name, len(lines), total, x.here, x.total)
		}
	}
}
