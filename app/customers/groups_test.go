package customers_test

import (
	"strings"
	"testing"

	"hermeneus/app/apptest"
	"hermeneus/app/evidence"
	"hermeneus/app/library"
	"hermeneus/app/problem"
	"hermeneus/core/audience"
	"hermeneus/core/outcome"
)

func TestAGroupOfCustomersIsMadeFilledAndTakenAway(t *testing.T) {
	w := apptest.OpenIdle(t)
	c := w.Crew()
	admin := c.Administrator
	g, err := w.Customers.AddGroup(w.Context, admin, " Solar & Wärme owners ")
	w.Must(err)
	if g.Key != "solar-warme-owners" || g.Name != "Solar & Wärme owners" || g.Audience != audience.Group(g.Key) {
		t.Fatalf("made %+v", g)
	}
	for _, name := range []string{"wim", "mae"} {
		_, err := w.Accounts.People.AddCustomer(w.Context, name, name+"@post.example", "a long password")
		w.Must(err)
	}
	for what, err := range map[string]error{
		"the same name":           apptest.Second(w.Customers.AddGroup(w.Context, admin, "solar & wärme OWNERS")),
		"no name":                 apptest.Second(w.Customers.AddGroup(w.Context, admin, "  ")),
		"no letters for a key":    apptest.Second(w.Customers.AddGroup(w.Context, admin, "…!")),
		"a long name":             apptest.Second(w.Customers.AddGroup(w.Context, admin, strings.Repeat("x", 61))),
		"a member who is none":    w.Customers.AddMember(w.Context, admin, g.Key, "nobody@post.example"),
		"an article for no group": apptest.Second(w.Library.CreateArticle(w.Context, c.Author, library.NewArticle{CategoryID: w.Category(c.Author, "A"), Kind: "how-to", Audience: "group:none", Copy: library.WorkingCopy{Title: "T"}})),
		"a category for no group": apptest.Second(w.Library.AddCategory(w.Context, c.Author, library.NewCategory{Name: "B", Audience: "group:none"})),
	} {
		if apptest.KindOf(err) != problem.Invalid {
			t.Errorf("%s: %v", what, err)
		}
	}
	for what, err := range map[string]error{
		"an author adds one":      apptest.Second(w.Customers.AddGroup(w.Context, c.Author, "Tenants")),
		"an author adds a member": w.Customers.AddMember(w.Context, c.Author, g.Key, "wim@post.example"),
		"an agent reads members":  apptest.Third(w.Customers.Members(w.Context, c.Agent, g.Key, "", 0)),
	} {
		if apptest.KindOf(err) != problem.Denied {
			t.Errorf("%s: %v", what, err)
		}
	}
	w.Must(w.Customers.AddMember(w.Context, admin, g.Key, " WIM@post.example"))
	w.Must(w.Customers.AddMember(w.Context, admin, g.Key, "wim@post.example")) // is in it already
	w.Must(w.Customers.AddMember(w.Context, admin, g.Key, "mae@post.example"))
	list, total, err := w.Customers.Members(w.Context, admin, g.Key, "wi", 0)
	w.Must(err)
	if total != 1 || len(list) != 1 || list[0].Email != "wim@post.example" {
		t.Errorf("members %+v of %d", list, total)
	}
	w.Must(w.Customers.RemoveMember(w.Context, admin, g.Key, list[0].ID))
	if err := w.Customers.RemoveMember(w.Context, admin, g.Key, list[0].ID); apptest.KindOf(err) != problem.NotFound {
		t.Errorf("removed twice: %v", err)
	}
	w.Must(w.Customers.RenameGroup(w.Context, admin, g.Key, "Sun owners"))
	ref := w.Draft(
		c.Author,
		w.Category(c.Author, "Panels"),
		"Sell what your roof makes",
		"<p>We buy what the panels make.</p>",
		g.Audience,
	)
	groups, err := w.Customers.Groups(w.Context)
	w.Must(err)
	if len(groups) != 1 || groups[0].Name != "Sun owners" || groups[0].Key != g.Key || groups[0].Members != 1 ||
		groups[0].Uses != 1 {
		t.Errorf("groups %+v", groups)
	}
	if err := w.Customers.DropGroup(w.Context, admin, g.Key); apptest.KindOf(err) != problem.NotNow {
		t.Errorf("dropped while an article is for it: %v", err)
	}
	found, err := w.Desk.ReadArticle(w.Context, c.Author, ref)
	w.Must(err)
	if found.Audience != g.Audience {
		t.Errorf("the article is for %s", found.Audience)
	}
	empty, err := w.Customers.AddGroup(w.Context, admin, "Nobody yet")
	w.Must(err)
	w.Must(w.Customers.DropGroup(w.Context, admin, empty.Key))
}

func TestWhatIsForAGroupIsForItsMembersAlone(t *testing.T) {
	w := apptest.Open(t)
	c := w.Crew()
	solar, err := w.Customers.AddGroup(w.Context, c.Administrator, "Solar owners")
	w.Must(err)
	tenants, err := w.Customers.AddGroup(w.Context, c.Administrator, "Tenants")
	w.Must(err)
	ref := w.Draft(
		c.Author,
		w.Category(c.Author, "Panels"),
		"Sell what your roof makes",
		"<p>"+strings.Repeat("We buy what the panels make. ", 10)+"</p>",
		solar.Audience,
	)
	w.Publish(c, ref)
	as := func(key string, groups ...string) evidence.Visitor {
		return evidence.Visitor{Key: key, Customer: &evidence.Customer{ID: int64(len(key)), Groups: groups}}
	}
	member, other, plain := as("m", solar.Key, tenants.Key), as("oo", tenants.Key), as("ppp")
	w.Eventually(func() bool { found, _ := w.Search.Search(w.Context, member, "panels"); return len(found) == 1 })
	for name, v := range map[string]evidence.Visitor{"another group": other, "no group": plain, "nobody": {Key: "k"}} {
		if found, err := w.Search.Search(w.Context, v, "panels"); err != nil || len(found) != 0 {
			t.Errorf("%s finds %s, %v", name, apptest.Titles(found), err)
		}
		if list, err := w.Search.Suggest(w.Context, v, "sel"); err != nil || len(list) != 0 {
			t.Errorf("%s is offered %v, %v", name, list, err)
		}
		if _, err := w.HelpCentre.OpenPage(w.Context, v, outcome.Help, ref); apptest.KindOf(err) != problem.NotFound {
			t.Errorf("%s opens it: %v", name, err)
		}
	}
	page, err := w.HelpCentre.OpenPage(w.Context, member, outcome.Help, ref)
	if err != nil || page.Audience != solar.Audience {
		t.Errorf("a member opens %+v, %v", page.Audience, err)
	}
	// To give it to the other group shows it to people who may not see it now.
	now, err := w.Desk.ReadArticle(w.Context, c.Author, ref)
	w.Must(err)
	if err := w.Library.SetProperties(
		w.Context,
		c.Author,
		ref,
		library.Properties{
			CategoryID: now.Category.ID,
			OwnerID:    c.Author.ID,
			Kind:       "how-to",
			Audience:   tenants.Audience,
		},
	); apptest.KindOf(err) != problem.Denied {
		t.Errorf("an author gave it to another group: %v", err)
	}
}
