package accounts_test

import (
	"strings"
	"testing"

	"hermeneus/app/accounts"
	"hermeneus/app/apptest"
	"hermeneus/app/evidence"
	"hermeneus/app/library"
	"hermeneus/app/problem"
	"hermeneus/app/requests"
	"hermeneus/app/staff"
	"hermeneus/core/audience"
	"hermeneus/core/review"
	"hermeneus/core/role"
)

func TestAddingStaff(t *testing.T) {
	w := apptest.Open(t)
	max := w.Hire("max", role.Administrator)
	good := accounts.NewStaff{
		Name:     "Ilse Brandreth",
		Email:    "ilse@wrenmoor.example",
		Password: "a long password",
		Roles:    role.Set{role.Agent},
		Team:     "Field",
	}
	who, err := w.Accounts.People.AddStaff(w.Context, max, good)
	w.Must(err)
	if who.Team != "Field" || !who.Roles.Has(role.Agent) {
		t.Errorf("added %+v", who)
	}
	for name, change := range map[string]func(*accounts.NewStaff){
		"a taken address, in other letters": func(n *accounts.NewStaff) { n.Email = "ILSE@wrenmoor.example" },
		"no name":                           func(n *accounts.NewStaff) { n.Email, n.Name = "a@post.example", " " },
		"no address":                        func(n *accounts.NewStaff) { n.Email = "" },
		"an address that is none":           func(n *accounts.NewStaff) { n.Email = "Ilse <i@post.example>" },
		"a short password":                  func(n *accounts.NewStaff) { n.Email, n.Password = "a@post.example", "short" },
		"no role":                           func(n *accounts.NewStaff) { n.Email, n.Roles = "a@post.example", nil },
		"a role that is none":               func(n *accounts.NewStaff) { n.Email, n.Roles = "a@post.example", role.Set{"king"} },
		"a name without end":                func(n *accounts.NewStaff) { n.Email, n.Name = "a@post.example", strings.Repeat("x", 101) },
	} {
		n := good
		change(&n)
		if _, err := w.Accounts.People.AddStaff(w.Context, max, n); apptest.KindOf(err) != problem.Invalid {
			t.Errorf("%s: %v", name, err)
		}
	}
	people, err := w.Accounts.People.ListStaff(w.Context)
	w.Must(err)
	if len(people) != 2 || people[0].Name != "Ilse Brandreth" || people[0].Team != "Field" {
		t.Errorf("the staff: %+v", people)
	}
}

func TestWhoIsDisabledIsOutAtOnce(t *testing.T) {
	w := apptest.Open(t)
	max, ada := w.Hire("max", role.Administrator), w.Hire("ada", role.Author)
	session, _, err := w.Accounts.SignInStaff(
		w.Context,
		accounts.SignIn{Email: ada.Email, Password: "a long password", Network: "here"},
	)
	w.Must(err)
	w.Must(w.Accounts.People.ChangeStaff(w.Context, max, ada.ID, ada.Roles, true))
	if _, err := w.Accounts.StaffOf(w.Context, session.Token); apptest.KindOf(err) != problem.NotSigned {
		t.Errorf("the session of somebody disabled: %v", err)
	}
	if _, _, err := w.Accounts.SignInStaff(
		w.Context,
		accounts.SignIn{Email: ada.Email, Password: "a long password", Network: "here"},
	); apptest.KindOf(err) != problem.WrongLogin {
		t.Errorf("somebody disabled signed in: %v", err)
	}
	w.Must(w.Accounts.People.ChangeStaff(w.Context, max, ada.ID, role.Set{role.Author, role.Reviewer}, false))
	_, who, err := w.Accounts.SignInStaff(
		w.Context,
		accounts.SignIn{Email: ada.Email, Password: "a long password", Network: "here"},
	)
	w.Must(err)
	if !who.Roles.Has(role.Reviewer) {
		t.Errorf("let in again as %+v", who)
	}
}

func TestAnAdministratorAlwaysRemains(t *testing.T) {
	w := apptest.Open(t)
	max := w.Hire("max", role.Administrator)
	for name, err := range map[string]error{
		"disabling oneself":                       w.Accounts.People.ChangeStaff(w.Context, max, max.ID, max.Roles, true),
		"giving up one's own administration":      w.Accounts.People.ChangeStaff(w.Context, max, max.ID, role.Set{role.Author}, false),
		"changing somebody who is not there":      w.Accounts.People.ChangeStaff(w.Context, max, 999, role.Set{role.Author}, false),
		"taking every role away from oneself too": w.Accounts.People.ChangeStaff(w.Context, max, max.ID, nil, false),
	} {
		if err == nil {
			t.Errorf("%s was let through", name)
		}
	}
}

func TestACustomersSession(t *testing.T) {
	w := apptest.Open(t)
	id, err := w.Accounts.People.AddCustomer(w.Context, "Wim Castor", "wim@post.example", "a long password")
	w.Must(err)
	session, err := w.Accounts.SignInCustomer(
		w.Context,
		accounts.SignIn{Email: "Wim@post.example", Password: "a long password", Network: "here"},
	)
	w.Must(err)
	c, ok, err := w.Accounts.CustomerOf(w.Context, session.Token)
	w.Must(err)
	if !ok || c.ID != id || c.Name != "Wim Castor" {
		t.Errorf("signed in as %+v", c)
	}
	if _, err := w.Accounts.StaffOf(w.Context, session.Token); apptest.KindOf(err) != problem.NotSigned {
		t.Errorf("a customer's session opened the staff's pages: %v", err)
	}
	if _, ok, _ := w.Accounts.CustomerOf(w.Context, "nonsense"); ok {
		t.Error("a token that is none opened a session")
	}
	a, b := evidence.Visitor{Key: "one", Customer: &c}, evidence.Visitor{Key: "two", Customer: &c}
	if a.Asker() != b.Asker() || a.Asker() == apptest.Visitor("one").Asker() {
		t.Error("a customer is one asker in every browser")
	}
	if key := apptest.Visitor("a secret key").Asker(); strings.Contains(key, "secret") {
		t.Errorf("the browser's key stands in the evidence: %s", key)
	}
}

func TestTodayShowsEachWhatTheyCanActOn(t *testing.T) {
	w := apptest.Open(t)
	c := w.Crew()
	category := w.Category(c.Author, "Bills")
	draft := func(title string) string {
		return w.Draft(c.Author, category, title, "<p>x</p>", audience.Everyone)
	}
	inReview, approved, back := draft("In review"), draft("Approved"), draft("Back")
	for _, ref := range []string{inReview, approved, back} {
		w.Must(w.Review.Act(w.Context, c.Author, ref, review.Submit, 1, ""))
	}
	w.Must(w.Review.Act(w.Context, c.Reviewer, approved, review.Approve, 1, ""))
	w.Must(w.Review.Act(w.Context, c.Reviewer, back, review.SendBack, 1, "more"))
	_, err := w.Requests.SendRequest(
		w.Context,
		apptest.Visitor("k"),
		requests.NewRequest{Subject: "bill", Text: "please", Address: "a@post.example"},
	)
	w.Must(err)

	for name, x := range map[string]struct {
		who                                staff.Staff
		review, publish, back, wait, heads int
	}{
		"the author":        {c.Author, 0, 0, 1, 0, 0},
		"the reviewer":      {c.Reviewer, 1, 1, 0, 0, 0},
		"the publisher":     {c.Publisher, 0, 1, 0, 0, 1},
		"the agent":         {c.Agent, 0, 0, 0, 1, 0},
		"the analyst":       {c.Analyst, 0, 0, 0, 0, 1},
		"the administrator": {c.Administrator, 0, 0, 0, 0, 1},
	} {
		day, err := w.Desk.Today(w.Context, x.who)
		w.Must(err)
		heads := 0
		if day.Figures != nil {
			heads = 1
		}
		if len(day.ToReview) != x.review || len(day.ToPublish) != x.publish || len(day.SentBack) != x.back ||
			len(day.Waiting) != x.wait ||
			heads != x.heads {
			t.Errorf("%s sees %+v", name, day)
		}
	}
}

func TestTheTreeIsWalkedInItsOrder(t *testing.T) {
	w := apptest.Open(t)
	c := w.Crew()
	bills, meters := w.Category(c.Author, "Bills"), w.Category(c.Author, "Meters")
	paying, err := w.Library.AddCategory(
		w.Context,
		c.Author,
		library.NewCategory{ParentID: bills, Name: "Paying", Audience: audience.Staff},
	)
	w.Must(err)
	w.Must(
		w.Library.ChangeCategory(
			w.Context,
			c.Author,
			meters,
			library.NewCategory{Name: "Meters and readings", Audience: audience.Everyone},
		),
	)
	ref := w.Draft(c.Author, paying, "Limits", "<p>x</p>", "")
	tree, err := w.Library.Tree(w.Context)
	w.Must(err)
	var walked []string
	for _, n := range tree {
		walked = append(walked, strings.Repeat("-", n.Depth)+n.Name)
	}
	if got := strings.Join(walked, " "); got != "-Bills --Paying -Meters and readings" || tree[1].Articles != 1 {
		t.Errorf("walked %s, %+v", got, tree)
	}
	a, err := w.Desk.ReadArticle(w.Context, c.Author, ref)
	w.Must(err)
	if a.Audience != audience.Staff {
		t.Errorf("the article did not take its category's audience: %s", a.Audience)
	}
	if listings, err := w.Library.CategoryListings(
		w.Context,
		apptest.Visitor("k"),
		0,
	); err != nil ||
		len(listings) != 0 {
		t.Errorf("empty listings are shown: %+v, %v", listings, err)
	}
	w.Must(w.Library.RemoveCategory(w.Context, c.Publisher, meters, 0))
	if err := w.Library.ChangeCategory(
		w.Context,
		c.Author,
		meters,
		library.NewCategory{Name: "x", Audience: "everyone"},
	); apptest.KindOf(err) != problem.NotFound {
		t.Errorf("a category that is gone was changed: %v", err)
	}
	if err := w.Library.ChangeCategory(
		w.Context,
		c.Author,
		bills,
		library.NewCategory{Name: "", Audience: "nobody"},
	); apptest.KindOf(err) != problem.Invalid {
		t.Errorf("a category lost its name: %v", err)
	}
}
