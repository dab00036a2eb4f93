package library_test

import (
	"bytes"
	"errors"
	"image"
	"image/png"
	"slices"
	"strings"
	"sync"
	"testing"

	"hermeneus/app/accounts"
	"hermeneus/app/apptest"
	"hermeneus/app/conversations"
	"hermeneus/app/evidence"
	"hermeneus/app/library"
	"hermeneus/app/outcomes"
	"hermeneus/app/problem"
	"hermeneus/app/requests"
	"hermeneus/app/texts"
	"hermeneus/app/writing"
	"hermeneus/core/article"
	"hermeneus/core/audience"
	"hermeneus/core/review"
	"hermeneus/core/role"
	"hermeneus/store"
)

func TestAnArticleGoesItsWay(t *testing.T) {
	w := apptest.Open(t)
	c := w.Crew()
	category := w.Category(c.Author, "Bills")
	ref := w.Draft(c.Author, category, "Why a bill is estimated", "<p>No reading reached us.</p>", audience.Everyone)

	saved, err := w.Writing.SaveArticle(
		w.Context,
		c.Author,
		ref,
		writing.Save{
			Text: library.WorkingCopy{
				Title: "Why a bill is estimated",
				Body:  "<p>No reading reached us in time.</p><script>x</script>",
			},
			Version: 1,
		},
	)
	w.Must(err)
	version := saved.Version
	if version != 2 || saved.State != review.Drafting || !slices.Contains(saved.Allowed, review.Submit) {
		t.Errorf("saved as %+v", saved)
	}
	w.Must(w.Review.Act(w.Context, c.Author, ref, review.Submit, version, ""))
	w.Must(w.Review.Act(w.Context, c.Reviewer, ref, review.SendBack, version, "Say what to do."))
	a, err := w.Desk.ReadArticle(w.Context, c.Author, ref)
	w.Must(err)
	if a.State != review.SentBack || a.DecisionNote != "Say what to do." || strings.Contains(a.Copy.Body, "script") {
		t.Errorf("after sending back: %+v", a)
	}
	saved, err = w.Writing.SaveArticle(
		w.Context,
		c.Author,
		ref,
		writing.Save{
			Text:    library.WorkingCopy{Title: a.Copy.Title, Body: a.Copy.Body + "<p>Send one.</p>"},
			Version: version,
		},
	)
	w.Must(err)
	version = saved.Version
	w.Must(w.Review.Act(w.Context, c.Author, ref, review.Submit, version, ""))
	w.Must(w.Review.Act(w.Context, c.Reviewer, ref, review.Approve, version, "Good."))
	w.Must(w.Review.Act(w.Context, c.Publisher, ref, review.Publish, version, ""))

	a, err = w.Desk.ReadArticle(w.Context, c.Author, ref)
	w.Must(err)
	if a.State != review.Published || a.LiveRevision != 2 || a.LastRevision != 2 || len(a.Trail) != 6 {
		t.Errorf("after publishing: %+v", a)
	}

	// The next working copy is written while the live one stays as it is.
	_, err = w.Writing.SaveArticle(
		w.Context,
		c.Author,
		ref,
		writing.Save{Text: library.WorkingCopy{Title: "New title", Body: a.Copy.Body}, Version: version},
	)
	w.Must(err)
	page, err := w.HelpCentre.OpenPage(w.Context, apptest.Visitor("k"), "help", ref)
	w.Must(err)
	if page.Title != "Why a bill is estimated" || page.Revision != ref+"@2" {
		t.Errorf("customers see %q, %s", page.Title, page.Revision)
	}
	changes, err := w.Library.Changes(w.Context, ref, texts.TheLive, library.TheCopy)
	w.Must(err)
	if len(changes.Title) < 2 || changes.Body.Any() {
		t.Errorf("changes %+v", changes)
	}

	w.Must(w.Review.Act(w.Context, c.Publisher, ref, review.Withdraw, 0, ""))
	if _, err := w.HelpCentre.OpenPage(
		w.Context,
		apptest.Visitor("k"),
		"help",
		ref,
	); apptest.KindOf(err) != problem.Withdrawn {
		t.Errorf("a withdrawn article: %v", err)
	}
}

func TestRevisionsTrailAndEvidenceCannotBeChanged(t *testing.T) {
	w := apptest.Open(t)
	c := w.Crew()
	w.Publish(c, w.Draft(c.Author, w.Category(c.Author, "Bills"), "Bills", "<p>x</p>", audience.Everyone))
	_, err := w.Search.Search(w.Context, apptest.Visitor("k"), "bills")
	w.Must(err)
	for _, sql := range []string{"UPDATE revisions SET title = 'x'", "DELETE FROM revisions", "UPDATE trail SET note = 'x'", "DELETE FROM trail", "UPDATE evidence SET kind = 'helped'", "DELETE FROM evidence"} {
		if err := w.DB().Exec(sql).Error; err == nil {
			t.Errorf("%s was let through", sql)
		}
	}
}

func TestAStaleSaveIsRefusedAndNothingIsOverwritten(t *testing.T) {
	w := apptest.Open(t)
	c := w.Crew()
	bea := w.Hire("bea", role.Author)
	ref := w.Draft(c.Author, w.Category(c.Author, "Bills"), "One", "<p>one</p>", audience.Everyone)
	_, err := w.Writing.SaveArticle(
		w.Context,
		bea,
		ref,
		writing.Save{Text: library.WorkingCopy{Title: "Two", Body: "<p>two</p>"}, Version: 1},
	)
	w.Must(err)
	_, err = w.Writing.SaveArticle(
		w.Context,
		c.Author,
		ref,
		writing.Save{Text: library.WorkingCopy{Title: "Three", Body: "<p>three</p>"}, Version: 1},
	)
	if apptest.KindOf(err) != problem.StaleSave || !strings.Contains(err.Error(), "bea") {
		t.Errorf("got %v", err)
	}
	if apptest.KindOf(w.Review.Act(w.Context, c.Author, ref, review.Submit, 1, "")) != problem.StaleSave {
		t.Error("a text that was not looked at was submitted")
	}

	// Of many saves of one version at once, exactly one gets through.
	var wg sync.WaitGroup
	saved := make(chan int, 8)
	for range 8 {
		wg.Go(func() {
			if v, err := w.Writing.SaveArticle(
				w.Context,
				bea,
				ref,
				writing.Save{Text: library.WorkingCopy{Title: "Four", Body: "<p>" + t.Name() + "</p>"}, Version: 2},
			); err == nil {
				saved <- v.Version
			}
		})
	}
	wg.Wait()
	if len(saved) != 1 {
		t.Errorf("%d saves got through", len(saved))
	}
}

func TestEveryoneIsHeldToTheirRoles(t *testing.T) {
	w := apptest.Open(t)
	c := w.Crew()
	category := w.Category(c.Author, "Bills")
	ref := w.Draft(c.Author, category, "One", "<p>one</p>", audience.Everyone)
	w.Publish(c, ref)
	for name, err := range map[string]error{
		"an agent writes":                 apptest.Second(w.Library.CreateArticle(w.Context, c.Agent, library.NewArticle{CategoryID: category})),
		"a reviewer edits":                apptest.Second(w.Writing.SaveArticle(w.Context, c.Reviewer, ref, writing.Save{Text: library.WorkingCopy{Title: "x"}, Version: 1})),
		"an author withdraws":             w.Review.Act(w.Context, c.Author, ref, review.Withdraw, 1, ""),
		"an agent adds a category":        apptest.Second(w.Library.AddCategory(w.Context, c.Agent, library.NewCategory{Name: "x", Audience: "everyone"})),
		"an author reads the figures":     apptest.Second(w.Outcomes.Outcomes(w.Context, c.Author, w.Time(), w.Time(), outcomes.Split{})),
		"an agent reads a question":       apptest.Second(w.Outcomes.ReadQuestion(w.Context, c.Agent, "x")),
		"an analyst answers a customer":   w.Conversations.Accept(w.Context, c.Analyst, "H-0001"),
		"an author reads handoffs":        apptest.Second(w.Conversations.Handoffs(w.Context, c.Author)),
		"a reviewer publishes a flow":     apptest.Second(w.Flows.PublishFlow(w.Context, c.Reviewer, conversations.FrontDoor, "{}", 0)),
		"a publisher adds staff":          apptest.Second(w.Accounts.People.AddStaff(w.Context, c.Publisher, accounts.NewStaff{})),
		"an analyst sets the window":      w.Outcomes.SetReturnWindow(w.Context, c.Analyst, 0),
		"an analyst keeps a picture":      apptest.Second(w.Library.KeepMedia(w.Context, c.Analyst, nil)),
		"an author removes a category":    w.Library.RemoveCategory(w.Context, c.Author, category, 0),
		"a reviewer changes properties":   w.Library.SetProperties(w.Context, c.Reviewer, ref, library.Properties{}),
		"an author changes who may do it": w.Accounts.People.ChangeStaff(w.Context, c.Author, c.Author.ID, role.All, false),
	} {
		if apptest.KindOf(err) != problem.Denied {
			t.Errorf("%s: %v", name, err)
		}
	}
}

func TestWideningALiveArticleNeedsAPublisher(t *testing.T) {
	w := apptest.Open(t)
	c := w.Crew()
	category := w.Category(c.Author, "Bills")
	ref := w.Draft(c.Author, category, "Limits", "<p>x</p>", audience.Staff)
	w.Publish(c, ref)
	p := library.Properties{CategoryID: category, OwnerID: c.Author.ID, Kind: "policy", Audience: audience.Everyone}
	if apptest.KindOf(w.Library.SetProperties(w.Context, c.Author, ref, p)) != problem.Denied {
		t.Error("an author showed a staff article to everyone")
	}
	w.Must(w.Library.SetProperties(w.Context, c.Publisher, ref, p))
	p.Audience = audience.Staff
	w.Must(w.Library.SetProperties(w.Context, c.Author, ref, p))
	if _, err := w.HelpCentre.OpenPage(
		w.Context,
		apptest.Visitor("k"),
		"help",
		ref,
	); apptest.KindOf(err) != problem.NotFound {
		t.Errorf("narrowing did not take effect at once: %v", err)
	}
}

func TestBadInputGetsItsOwnProblem(t *testing.T) {
	w := apptest.Open(t)
	c := w.Crew()
	category := w.Category(c.Author, "Level 1")
	ref := w.Draft(c.Author, category, "One", "<p>one</p>", audience.Everyone)
	parent := category
	for range library.MaxDepth - 1 {
		id, err := w.Library.AddCategory(
			w.Context,
			c.Author,
			library.NewCategory{ParentID: parent, Name: "deeper", Audience: "everyone"},
		)
		w.Must(err)
		parent = id
	}
	long := strings.Repeat("x", 4001)
	for _, x := range []struct {
		name string
		err  error
		want problem.Kind
	}{
		{"a thirteenth level", apptest.Second(w.Library.AddCategory(w.Context, c.Author, library.NewCategory{ParentID: parent, Name: "too deep", Audience: "everyone"})), problem.TooDeep},
		{"a parent that is not there", apptest.Second(w.Library.AddCategory(w.Context, c.Author, library.NewCategory{ParentID: 9999, Name: "x", Audience: "everyone"})), problem.NotFound},
		{"a category with things in it", w.Library.RemoveCategory(w.Context, c.Publisher, category, 0), problem.NotNow},
		{"an article over 1 MB", apptest.Second(w.Writing.SaveArticle(w.Context, c.Author, ref, writing.Save{Text: library.WorkingCopy{Body: strings.Repeat("x", article.MaxBody+1)}, Version: 1})), problem.TooLarge},
		{"a title over its limit", apptest.Second(w.Writing.SaveArticle(w.Context, c.Author, ref, writing.Save{Text: library.WorkingCopy{Title: long}, Version: 1})), problem.Invalid},
		{"an unknown article", apptest.Second(w.Desk.ReadArticle(w.Context, c.Author, "A-9999")), problem.NotFound},
		{"a reference that is none", apptest.Second(w.Desk.ReadArticle(w.Context, c.Author, "'; DROP TABLE")), problem.NotFound},
		{"an unknown revision", apptest.Second(w.Library.ReadText(w.Context, ref, "7")), problem.NotFound},
		{"a question too long", apptest.Second(w.Search.Search(w.Context, apptest.Visitor("k"), long)), problem.TooLong},
		{"a form question too long", apptest.Second(w.Requests.OfferForForm(w.Context, apptest.Visitor("k"), long, "")), problem.TooLong},
		{"a request with missing fields", apptest.Second(w.Requests.SendRequest(w.Context, apptest.Visitor("k"), requests.NewRequest{Address: "nonsense"})), problem.Invalid},
		{"an unknown conversation", apptest.Second(w.Conversations.ReadChat(w.Context, evidence.Visitor{}, "nonsense", 0)), problem.NotFound},
		{"a chat without a flow", apptest.Second(w.Conversations.StartChat(w.Context, apptest.Visitor("k"))), problem.NotFound},
		{"a picture that is none", apptest.Second(w.Library.KeepMedia(w.Context, c.Author, []byte("<svg onload=alert(1)>"))), problem.BadFile},
		{"an empty article to review", w.Review.Act(w.Context, c.Author, w.Draft(c.Author, category, "Empty", "", audience.Everyone), review.Submit, 1, ""), problem.NotNow},
		{"an unknown kind", apptest.Second(w.Library.CreateArticle(w.Context, c.Author, library.NewArticle{CategoryID: category, Kind: "poem"})), problem.Invalid},
		{"a window out of bounds", w.Outcomes.SetReturnWindow(w.Context, c.Administrator, 0), problem.Invalid},
		{"a period the wrong way round", apptest.Second(w.Outcomes.Outcomes(w.Context, c.Analyst, w.Time(), w.Time().AddDate(0, 0, -3), outcomes.Split{})), problem.Invalid},
		{"an unknown question", apptest.Second(w.Outcomes.ReadQuestion(w.Context, c.Analyst, "nobody~1")), problem.NotFound},
	} {
		if apptest.KindOf(x.err) != x.want {
			t.Errorf("%s: %v (%s), want %s", x.name, x.err, apptest.KindOf(x.err), x.want)
		}
	}
	var p *problem.Problem
	if err := apptest.Second(
		w.Requests.SendRequest(w.Context, apptest.Visitor("k"), requests.NewRequest{}),
	); !errors.As(err, &p) ||
		len(p.Fields) != 3 {
		t.Errorf("missing fields: %+v", p)
	}
}

// One assertion for each way on which an article could reach somebody whom it is
// not for.
func TestNobodySeesWhatIsNotForThem(t *testing.T) {
	w := apptest.Open(t)
	c := w.Crew()
	secret := w.Category(c.Author, "Secret listing")
	var picture bytes.Buffer
	w.Must(png.Encode(&picture, image.NewGray(image.Rect(0, 0, 3, 3))))
	kept, err := w.Library.KeepMedia(w.Context, c.Author, picture.Bytes())
	w.Must(err)
	ref := w.Draft(
		c.Author,
		secret,
		"Goodwill limits",
		`<p>goodwill</p><p><img src="`+kept.Path+`" alt="x"></p>`,
		audience.Staff,
	)
	w.Publish(c, ref)
	customerID, err := w.Accounts.People.AddCustomer(w.Context, "Wim", "wim@post.example", "a long password")
	w.Must(err)
	hash := strings.TrimPrefix(kept.Path, "/files/")

	// Each way is asked for with staff's eyes too: one that finds nothing for anybody shows nothing.
	ways := map[string]func(evidence.Visitor) int{
		"search": func(v evidence.Visitor) int {
			found, err := w.Search.Search(w.Context, v, "goodwill limits")
			w.Must(err)
			return len(found)
		},
		"form": func(v evidence.Visitor) int {
			found, err := w.Requests.OfferForForm(w.Context, v, "goodwill limits", "")
			w.Must(err)
			return len(found)
		},
		"listings and their counts": func(v evidence.Visitor) int {
			listings, err := w.Library.CategoryListings(w.Context, v, 0)
			w.Must(err)
			return len(listings)
		},
		"suggestions": func(v evidence.Visitor) int {
			offered, err := w.Search.Suggest(w.Context, v, "goodw")
			w.Must(err)
			return len(offered)
		},
	}
	staff := evidence.Visitor{Preview: true, Whole: true}
	for way, count := range ways {
		if count(staff) == 0 {
			t.Errorf("%s: not even staff find it", way)
		}
	}
	for name, v := range map[string]evidence.Visitor{"a visitor": {Key: "k", Whole: true}, "a customer": {Key: "k", Whole: true, Customer: &evidence.Customer{ID: customerID}}} {
		for way, count := range ways {
			if n := count(v); n != 0 {
				t.Errorf("%s, %s: %d", name, way, n)
			}
		}
		if _, err := w.HelpCentre.OpenPage(
			w.Context,
			v,
			"help",
			ref,
		); apptest.KindOf(err) != problem.NotFound ||
			strings.Contains(err.Error(), "Goodwill") {
			t.Errorf("%s, page: %v", name, err)
		}
		if _, err := w.Library.ReadFile(w.Context, v.Viewer(), hash, 0); apptest.KindOf(err) != problem.NotFound {
			t.Errorf("%s, picture: %v", name, err)
		}
		if apptest.KindOf(w.HelpCentre.Vote(w.Context, v, ref, true, "")) != problem.NotFound {
			t.Errorf("%s could vote on it", name)
		}
		if apptest.KindOf(w.HelpCentre.MarkRead(w.Context, v, "help", ref, 99)) != problem.NotFound {
			t.Errorf("%s could mark it read", name)
		}
	}
	if _, err := w.HelpCentre.OpenPage(w.Context, staff, "help", ref); err != nil {
		t.Errorf("staff cannot read it: %v", err)
	}
	if _, err := w.Library.ReadFile(w.Context, staff.Viewer(), hash, 0); err != nil {
		t.Errorf("staff cannot see its picture: %v", err)
	}
	checked, err := w.Flows.Check(w.Context, "", strings.Replace(apptest.DoorFlow, "A-0001", ref, 1))
	if err != nil || checked.Errors+checked.Warnings == 0 {
		t.Errorf("a flow for everyone may show it, and nothing is said: %+v, %v", checked, err)
	}
	var rows int64
	w.Must(w.DB().Model(&store.Evidence{}).Where("kind = 'offered'").Count(&rows).Error)
	if rows != 0 {
		t.Errorf("%d offers were recorded", rows)
	}
}
