package app_test

import (
	"strings"
	"testing"

	"hermeneus/app"
	"hermeneus/app/apptest"
	"hermeneus/core/audience"
	"hermeneus/core/outcome"
)

func TestAGroupOfCustomersIsMadeFilledAndTakenAway(t *testing.T) {
	w := apptest.OpenIdle(t)
	c := w.Crew()
	admin := c.Administrator
	g, err := w.AddGroup(w.Context, admin, " Solar & Wärme owners ")
	w.Must(err)
	if g.Key != "solar-warme-owners" || g.Name != "Solar & Wärme owners" || g.Audience != audience.Group(g.Key) {
		t.Fatalf("made %+v", g)
	}
	for _, name := range []string{"wim", "mae"} {
		_, err := w.AddCustomer(w.Context, name, name+"@post.example", "a long password")
		w.Must(err)
	}
	for what, err := range map[string]error{
		"the same name":           second(w.AddGroup(w.Context, admin, "solar & wärme OWNERS")),
		"no name":                 second(w.AddGroup(w.Context, admin, "  ")),
		"no letters for a key":    second(w.AddGroup(w.Context, admin, "…!")),
		"a long name":             second(w.AddGroup(w.Context, admin, strings.Repeat("x", 61))),
		"a member who is none":    w.AddMember(w.Context, admin, g.Key, "nobody@post.example"),
		"an article for no group": second(w.CreateArticle(w.Context, c.Author, app.NewArticle{CategoryID: w.Category(c.Author, "A"), Kind: "how-to", Audience: "group:none", Copy: app.WorkingCopy{Title: "T"}})),
		"a category for no group": second(w.AddCategory(w.Context, c.Author, app.NewCategory{Name: "B", Audience: "group:none"})),
	} {
		if kind(err) != app.Invalid {
			t.Errorf("%s: %v", what, err)
		}
	}
	for what, err := range map[string]error{
		"an author adds one":      second(w.AddGroup(w.Context, c.Author, "Tenants")),
		"an author adds a member": w.AddMember(w.Context, c.Author, g.Key, "wim@post.example"),
		"an agent reads members":  third(w.Members(w.Context, c.Agent, g.Key, "", 0)),
	} {
		if kind(err) != app.Denied {
			t.Errorf("%s: %v", what, err)
		}
	}
	w.Must(w.AddMember(w.Context, admin, g.Key, " WIM@post.example"))
	w.Must(w.AddMember(w.Context, admin, g.Key, "wim@post.example")) // is in it already
	w.Must(w.AddMember(w.Context, admin, g.Key, "mae@post.example"))
	list, total, err := w.Members(w.Context, admin, g.Key, "wi", 0)
	w.Must(err)
	if total != 1 || len(list) != 1 || list[0].Email != "wim@post.example" {
		t.Errorf("members %+v of %d", list, total)
	}
	w.Must(w.RemoveMember(w.Context, admin, g.Key, list[0].ID))
	if err := w.RemoveMember(w.Context, admin, g.Key, list[0].ID); kind(err) != app.NotFound {
		t.Errorf("removed twice: %v", err)
	}
	w.Must(w.RenameGroup(w.Context, admin, g.Key, "Sun owners"))
	ref := w.Draft(
		c.Author,
		w.Category(c.Author, "Panels"),
		"Sell what your roof makes",
		"<p>We buy what the panels make.</p>",
		g.Audience,
	)
	groups, err := w.Groups(w.Context)
	w.Must(err)
	if len(groups) != 1 || groups[0].Name != "Sun owners" || groups[0].Key != g.Key || groups[0].Members != 1 ||
		groups[0].Uses != 1 {
		t.Errorf("groups %+v", groups)
	}
	if err := w.DropGroup(w.Context, admin, g.Key); kind(err) != app.NotNow {
		t.Errorf("dropped while an article is for it: %v", err)
	}
	found, err := w.ReadArticle(w.Context, c.Author, ref)
	w.Must(err)
	if found.Audience != g.Audience {
		t.Errorf("the article is for %s", found.Audience)
	}
	empty, err := w.AddGroup(w.Context, admin, "Nobody yet")
	w.Must(err)
	w.Must(w.DropGroup(w.Context, admin, empty.Key))
}

func TestWhatIsForAGroupIsForItsMembersAlone(t *testing.T) {
	w := apptest.Open(t)
	c := w.Crew()
	solar, err := w.AddGroup(w.Context, c.Administrator, "Solar owners")
	w.Must(err)
	tenants, err := w.AddGroup(w.Context, c.Administrator, "Tenants")
	w.Must(err)
	ref := w.Draft(
		c.Author,
		w.Category(c.Author, "Panels"),
		"Sell what your roof makes",
		"<p>"+strings.Repeat("We buy what the panels make. ", 10)+"</p>",
		solar.Audience,
	)
	w.Publish(c, ref)
	as := func(key string, groups ...string) app.Visitor {
		return app.Visitor{Key: key, Customer: &app.Customer{ID: int64(len(key)), Groups: groups}}
	}
	member, other, plain := as("m", solar.Key, tenants.Key), as("oo", tenants.Key), as("ppp")
	w.Eventually(func() bool { found, _ := w.Search(w.Context, member, "panels"); return len(found) == 1 })
	for name, v := range map[string]app.Visitor{"another group": other, "no group": plain, "nobody": {Key: "k"}} {
		if found, err := w.Search(w.Context, v, "panels"); err != nil || len(found) != 0 {
			t.Errorf("%s finds %s, %v", name, titles(found), err)
		}
		if list, err := w.Suggest(w.Context, v, "sel"); err != nil || len(list) != 0 {
			t.Errorf("%s is offered %v, %v", name, list, err)
		}
		if _, err := w.OpenPage(w.Context, v, outcome.Help, ref); kind(err) != app.NotFound {
			t.Errorf("%s opens it: %v", name, err)
		}
	}
	page, err := w.OpenPage(w.Context, member, outcome.Help, ref)
	if err != nil || page.Audience != solar.Audience {
		t.Errorf("a member opens %+v, %v", page.Audience, err)
	}
	// To give it to the other group shows it to people who may not see it now.
	now, err := w.ReadArticle(w.Context, c.Author, ref)
	w.Must(err)
	if err := w.SetProperties(
		w.Context,
		c.Author,
		ref,
		app.Properties{CategoryID: now.Category.ID, OwnerID: c.Author.ID, Kind: "how-to", Audience: tenants.Audience},
	); kind(
		err,
	) != app.Denied {
		t.Errorf("an author gave it to another group: %v", err)
	}
}
