package library_test

import (
	"bytes"
	"encoding/json"
	"image"
	"image/color"
	"image/png"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
	"time"

	"hermeneus/app"
	"hermeneus/app/apptest"
	"hermeneus/app/evidence"
	"hermeneus/app/library"
	"hermeneus/app/lists"
	"hermeneus/app/notify"
	"hermeneus/app/problem"
	"hermeneus/app/review"
	"hermeneus/app/sites"
	"hermeneus/app/writing"
	"hermeneus/core/article"
	"hermeneus/core/audience"
	corereview "hermeneus/core/review"
	"hermeneus/core/role"
	"hermeneus/store"
)

// outline writes the tree as its names, indented by points.
func outline(w *apptest.World) string {
	tree, err := w.Library.Tree(w.Context)
	w.Must(err)
	var lines []string
	for _, c := range tree {
		lines = append(lines, strings.Repeat(".", c.Depth-1)+c.Name)
	}
	return strings.Join(lines, " ")
}

func TestCategoriesMoveWithEverythingInThem(t *testing.T) {
	w := apptest.Open(t)
	c := w.Crew()
	a, b := apptest.Under(w, c.Author, 0, "A"), apptest.Under(w, c.Author, 0, "B")
	a1, a2 := apptest.Under(w, c.Author, a, "A1"), apptest.Under(w, c.Author, a, "A2")
	deep := apptest.Under(w, c.Author, a1, "A11")
	for _, step := range []struct {
		what, want string
		id         int64
		to         library.Place
	}{
		{"before its neighbour", "A .A2 .A1 ..A11 B", a2, library.Place{ParentID: a, BeforeID: a1}},
		{"into another, with what it holds", "A .A2 B .A1 ..A11", a1, library.Place{ParentID: b}},
		{"to the top", "A1 .A11 A .A2 B", a1, library.Place{BeforeID: a}},
	} {
		w.Must(w.Library.MoveCategory(w.Context, c.Author, step.id, step.to))
		if got := outline(w); got != step.want {
			t.Errorf("%s: %s", step.what, got)
		}
	}
	for name, err := range map[string]error{
		"into itself":       w.Library.MoveCategory(w.Context, c.Author, a1, library.Place{ParentID: a1}),
		"into its child":    w.Library.MoveCategory(w.Context, c.Author, a1, library.Place{ParentID: deep}),
		"merged with it":    w.Library.MergeCategory(w.Context, c.Publisher, a1, a1),
		"merged into own":   w.Library.MergeCategory(w.Context, c.Publisher, a1, deep),
		"removed when full": w.Library.RemoveCategory(w.Context, c.Publisher, a, 0),
	} {
		if apptest.KindOf(err) != problem.NotNow {
			t.Errorf("%s: %v", name, err)
		}
	}
	if apptest.KindOf(w.Library.MergeCategory(w.Context, c.Author, a, b)) != problem.Denied {
		t.Error("an author merged categories")
	}
	ref := w.Draft(c.Author, a2, "One", "<p>one</p>", audience.Everyone)
	w.Must(w.Library.RemoveCategory(w.Context, c.Publisher, a, b))
	if got := outline(w); got != "A1 .A11 B .A2" {
		t.Errorf("after merging: %s", got)
	}
	w.Must(w.Library.MergeCategory(w.Context, c.Publisher, a2, a1))
	is, err := w.Desk.ReadArticle(w.Context, c.Author, ref)
	w.Must(err)
	if is.Category.Name != "A1" {
		t.Errorf("its article is in %s", is.Category.Name)
	}
}

// Whatever is moved where, nothing is lost, no category stands in itself, and none
// too deep.
func TestRandomMovesKeepTheTreeWhole(t *testing.T) {
	w := apptest.Open(t)
	c := w.Crew()
	r := rand.New(rand.NewPCG(1, 9))
	var ids []int64
	for i := range 16 {
		parent := int64(0)
		if i > 3 {
			parent = ids[r.IntN(len(ids))]
		}
		id, err := w.Library.AddCategory(
			w.Context,
			c.Author,
			library.NewCategory{ParentID: parent, Name: "c", Audience: "everyone"},
		)
		w.Must(err)
		ids = append(ids, id)
	}
	moved := 0
	for range 150 {
		to := library.Place{ParentID: ids[r.IntN(len(ids))], BeforeID: ids[r.IntN(len(ids))]}
		if r.IntN(4) == 0 {
			to.ParentID = 0
		}
		if w.Library.MoveCategory(w.Context, c.Author, ids[r.IntN(len(ids))], to) == nil {
			moved++
		}
	}
	tree, err := w.Library.Tree(w.Context)
	w.Must(err)
	if len(tree) != len(ids) || moved < 50 {
		t.Errorf("%d of %d are left after %d moves", len(tree), len(ids), moved)
	}
	for _, n := range tree {
		if n.Depth > library.MaxDepth {
			t.Errorf("one stands %d deep", n.Depth)
		}
	}
}

func TestArticlesAreOrderedAndTheHelpCentreFollows(t *testing.T) {
	w := apptest.Open(t)
	c := w.Crew()
	one, two := apptest.Under(w, c.Author, 0, "One"), apptest.Under(w, c.Author, 0, "Two")
	var refs []string
	var ids []int64
	for _, title := range []string{"First", "Second", "Third"} {
		ref := w.Draft(c.Author, one, title, "<p>"+title+"</p>", audience.Everyone)
		w.Publish(c, ref)
		a, err := w.Desk.ReadArticle(w.Context, c.Author, ref)
		w.Must(err)
		refs, ids = append(refs, ref), append(ids, a.ID)
	}
	w.Must(w.Library.MoveArticle(w.Context, c.Author, refs[2], library.Place{ParentID: one, BeforeID: ids[0]}))
	w.Must(w.Library.MoveArticle(w.Context, c.Author, refs[1], library.Place{ParentID: two}))
	shelves, err := w.Library.CategoryListings(w.Context, apptest.Visitor("k"), 0)
	w.Must(err)
	var got []string
	for _, s := range shelves {
		for _, card := range s.Cards {
			got = append(got, s.Name+" "+card.Title)
		}
	}
	if want := []string{"One Third", "One First", "Two Second"}; !slices.Equal(got, want) {
		t.Errorf("customers find %q", got)
	}
	if apptest.KindOf(
		w.Library.MoveArticle(w.Context, c.Author, refs[0], library.Place{ParentID: 9999}),
	) != problem.NotFound {
		t.Error("an article went nowhere")
	}
}

func TestSitesShowPartsOfTheLibrary(t *testing.T) {
	w := apptest.Open(t)
	c := w.Crew()
	bills, solar := apptest.Under(w, c.Author, 0, "Bills"), apptest.Under(w, c.Author, 0, "Solar")
	panels := apptest.Under(w, c.Author, solar, "Panels")
	hidden := w.Draft(c.Author, bills, "Pay a bill for panels", "<p>Pay.</p>", audience.Everyone)
	shown := w.Draft(c.Author, panels, "Register your panels", "<p>Register.</p>", audience.Everyone)
	w.Publish(c, hidden)
	w.Publish(c, shown)
	id, err := w.Sites.KeepSite(
		w.Context,
		c.Administrator,
		sites.Site{
			Name:         "Solar help",
			Hosts:        []string{"Solar.localhost"},
			BrandColour:  "#1D5140",
			AccentColour: "#98301F",
			Languages:    []string{"en", "de"},
			Categories:   []int64{solar},
		},
	)
	w.Must(err)
	at, err := w.Sites.SiteAt(w.Context, "solar.localhost:8080")
	w.Must(err)
	elsewhere, err := w.Sites.SiteAt(w.Context, "help.wrenmoor.example")
	w.Must(err)
	if at.ID != id || elsewhere.ID == id || !elsewhere.Main {
		t.Errorf("hosts lead to %+v and %+v", at, elsewhere)
	}
	v := evidence.Visitor{Key: "k", Site: id}
	if _, err := w.HelpCentre.OpenPage(w.Context, v, "help", hidden); apptest.KindOf(err) != problem.NotFound {
		t.Errorf("an article of another part: %v", err)
	}
	w.Must(apptest.Second(w.HelpCentre.OpenPage(w.Context, v, "help", shown)))
	found, err := w.Search.Search(w.Context, v, "panels")
	w.Must(err)
	if len(found) != 1 || found[0].Reference != shown {
		t.Errorf("search finds %+v", found)
	}
	shelves, err := w.Library.CategoryListings(w.Context, v, 0)
	w.Must(err)
	if len(shelves) != 2 || shelves[0].Name != "Solar" {
		t.Errorf("shelves %+v", shelves)
	}
	helpCentres, err := w.Sites.Sites(w.Context)
	w.Must(err)
	if len(helpCentres) != 2 || helpCentres[0].Articles != 2 || helpCentres[1].Articles != 1 {
		t.Errorf("sites %+v", helpCentres)
	}
	good := helpCentres[1]
	for field, s := range map[string]func(*sites.Site){
		"brand_colour":  func(s *sites.Site) { s.BrandColour = "#FFFF00" },
		"accent_colour": func(s *sites.Site) { s.AccentColour = "red" },
		"hosts":         func(s *sites.Site) { s.Hosts = []string{"not a host"} },
		"languages":     func(s *sites.Site) { s.Languages = []string{"de"} },
		"name":          func(s *sites.Site) { s.Name = helpCentres[0].Name },
	} {
		bad := good
		s(&bad)
		_, err := w.Sites.KeepSite(w.Context, c.Administrator, bad)
		if apptest.KindOf(err) != problem.Invalid || apptest.FieldOf(err) != field {
			t.Errorf("%s: %v, %s", field, err, apptest.FieldOf(err))
		}
	}
	if apptest.KindOf(apptest.Second(w.Sites.KeepSite(w.Context, c.Author, good))) != problem.Denied ||
		apptest.KindOf(w.Sites.RemoveSite(w.Context, c.Administrator, helpCentres[0].ID)) != problem.NotNow {
		t.Error("an author changed a site, or the main one was removed")
	}
	w.Must(w.Sites.RemoveSite(w.Context, c.Administrator, id))
}

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
	w.Must(w.Accounts.ChangeStaff(w.Context, c.Administrator, leaver.ID, leaver.Roles, true))
	cause, err := w.Review.AddKnownProblem(w.Context, c.Author, "Line lost")
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
	if got := names(lists.ArticleFilter{Unopened: true}); got != "" {
		t.Errorf("opened, and still never opened: %q", got)
	}
	w.Must(w.Review.SolveKnownProblem(w.Context, c.Author, cause.ID))
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
	); apptest.KindOf(
		err,
	) != problem.Invalid {
		t.Errorf("another order: %v", err)
	}
}

func TestManyAreChangedAtOnceAndBack(t *testing.T) {
	w := apptest.Open(t)
	c := w.Crew()
	chief := w.Hire("chief", role.Author, role.Publisher)
	from, to := apptest.Under(w, c.Author, 0, "From"), apptest.Under(w, c.Author, 0, "To")
	var refs []string
	for range 230 { // more than two chunks
		refs = append(refs, w.Draft(c.Author, from, "One", "<p>one</p>", audience.SignedIn))
	}
	live := w.Draft(c.Author, from, "Live", "<p>live</p>", audience.SignedIn)
	w.Publish(c, live)
	refs = append(refs, live)

	bulk := writing.Bulk{References: refs, CategoryID: to, AddKeywords: []string{"moved"}}
	summary, err := w.Writing.SummariseBulk(w.Context, c.Author, bulk)
	w.Must(err)
	if summary.Articles != 231 || summary.Changes != 231 || summary.Customers != 1 {
		t.Errorf("summary %+v", summary)
	}
	if lines, _, _ := w.Lists.ListArticles(w.Context, lists.ArticleFilter{CategoryID: to}); len(lines) != 0 {
		t.Error("a summary changed something")
	}
	id, err := w.Writing.AskBulk(w.Context, c.Author, bulk)
	w.Must(err)
	var result writing.BulkResult
	job := apptest.Done(w, c.Author, id, &result)
	if result.Changed != 231 || job.Done != 231 || job.Total != 231 {
		t.Errorf("job %+v, result %+v", job, result)
	}
	_, total, err := w.Lists.ListArticles(w.Context, lists.ArticleFilter{CategoryID: to, Words: "moved"})
	w.Must(err)
	if total != 231 {
		t.Errorf("%d were moved", total)
	}
	if _, err := w.Jobs.ReadJob(w.Context, c.Publisher, id); apptest.KindOf(err) != problem.NotFound {
		t.Errorf("another reads the job: %v", err)
	}

	// One is changed since; undoing leaves that one alone and says so.
	w.Must(
		w.Library.SetProperties(
			w.Context,
			c.Author,
			refs[0],
			library.Properties{CategoryID: to, OwnerID: chief.ID, Kind: "fix", Audience: audience.SignedIn},
		),
	)
	undo, err := w.Writing.AskUndo(w.Context, c.Author, id)
	w.Must(err)
	var undone writing.BulkResult
	apptest.Done(w, c.Author, undo, &undone)
	if undone.Changed != 230 || len(undone.Refused) != 1 || undone.Refused[0].Reference != refs[0] {
		t.Errorf("undone %d, %+v", undone.Changed, undone.Refused)
	}
	back, err := w.Desk.ReadArticle(w.Context, c.Author, refs[5])
	w.Must(err)
	if back.Category.ID != from || len(back.Copy.Keywords) != 0 {
		t.Errorf("put back: %+v", back)
	}

	// What somebody may not do is refused for just those articles.
	wider := writing.Bulk{Filter: &lists.ArticleFilter{CategoryID: from}, Audience: audience.Everyone}
	summary, err = w.Writing.SummariseBulk(w.Context, c.Author, wider)
	w.Must(err)
	if summary.Refusals != 1 || summary.Refused[0].Reference != live || summary.Changes != 229 {
		t.Errorf("widening as an author: %+v", summary)
	}
	if apptest.KindOf(
		apptest.Second(w.Writing.AskBulk(w.Context, c.Author, writing.Bulk{References: refs[:1], Withdraw: true})),
	) != problem.Denied {
		t.Error("an author withdraws many")
	}
	id, err = w.Writing.AskBulk(w.Context, chief, writing.Bulk{References: []string{live}, Withdraw: true})
	w.Must(err)
	apptest.Done(w, chief, id, &result)
	if _, err := w.HelpCentre.OpenPage(
		w.Context,
		evidence.Visitor{Preview: true},
		"help",
		live,
	); apptest.KindOf(
		err,
	) != problem.Withdrawn {
		t.Errorf("withdrawn, and read: %v", err)
	}
	undo, err = w.Writing.AskUndo(w.Context, chief, id)
	w.Must(err)
	apptest.Done(w, chief, undo, &undone)
	w.Must(apptest.Second(w.HelpCentre.OpenPage(w.Context, evidence.Visitor{Preview: true}, "help", live)))
	for name, bad := range map[string]writing.Bulk{"nothing chosen": {CategoryID: to}, "nothing to change": {References: refs}, "a day that is none": {References: refs, RecheckOn: "soon"}} {
		if apptest.KindOf(apptest.Second(w.Writing.SummariseBulk(w.Context, c.Author, bad))) != problem.Invalid {
			t.Errorf("%s went through", name)
		}
	}
}

func TestFindLooksEverywhereAsOneTypes(t *testing.T) {
	w := apptest.Open(t)
	c := w.Crew()
	category := w.Category(c.Author, "Bills")
	one, err := w.Library.CreateArticle(
		w.Context,
		c.Author,
		library.NewArticle{
			CategoryID: category,
			Copy: library.WorkingCopy{
				Title:    "Change the day money is taken",
				Keywords: []string{"direct debit"},
				Body:     "<p>Choose <strong>Payments</strong> &amp; more.</p>",
			},
		},
	)
	w.Must(err)
	two := w.Draft(c.Author, category, "Refunds", "<p>Money goes back in five working days.</p>", audience.Staff)
	find := func(words string) string {
		found, err := w.Search.Find(w.Context, words)
		w.Must(err)
		var list []string
		for _, f := range found {
			list = append(list, f.Reference)
		}
		return strings.Join(list, " ")
	}
	for words, want := range map[string]string{"mon": one + " " + two, "money tak": one, "debi": one, "payment": one, "working day": two, "refunding": two, "payments": one, "refund": two,
		one: one, "a-0002": two, "2": two, "nothing at all": "", "": "", "'; --": "", "& | !": "", "<script>": ""} {
		if got := find(words); got != want {
			t.Errorf("%q finds %q, want %q", words, got, want)
		}
	}
	found, err := w.Search.Find(w.Context, "working")
	w.Must(err)
	if found[0].Match.Text() != "Money goes back in five working days." || found[0].Match.Hits() != 1 {
		t.Errorf("the match is %+v", found[0].Match)
	}
	if apptest.KindOf(apptest.Second(w.Search.Find(w.Context, strings.Repeat("x", 201)))) != problem.TooLong {
		t.Error("any length is looked for")
	}
}

func TestPicturesAreKeptInSeveralWidths(t *testing.T) {
	w := apptest.Open(t)
	c := w.Crew()
	r := rand.New(rand.NewPCG(3, 4))
	full := image.NewRGBA(image.Rect(0, 0, 1000, 300))
	for i := range full.Pix {
		full.Pix[i] = byte(r.IntN(256))
	}
	full.Set(0, 0, color.Black)
	var raw bytes.Buffer
	w.Must(png.Encode(&raw, full))
	kept, err := w.Library.KeepMedia(w.Context, c.Author, raw.Bytes())
	w.Must(err)
	hash := strings.TrimPrefix(kept.Path, article.FilePath)
	staff := audience.Viewer{Staff: true}
	for width, want := range map[int]int{0: 1000, 400: 400, 800: 800, 1600: 1000, 77: 1000} {
		file, err := w.Library.ReadFile(w.Context, staff, hash, width)
		w.Must(err)
		got, err := png.DecodeConfig(bytes.NewReader(file.Bytes))
		if err != nil || got.Width != want || (want == 400 && got.Height != 120) {
			t.Errorf("asked for %d: %+v, %v", width, got, err)
		}
	}
	category := w.Category(c.Author, "Bills")
	ref := w.Draft(c.Author, category, "A dial", `<p><img src="`+kept.Path+`" alt="A dial"></p>`, audience.SignedIn)
	w.Publish(c, ref)
	page, err := w.HelpCentre.OpenPage(w.Context, evidence.Visitor{Customer: &evidence.Customer{ID: 1}}, "help", ref)
	if err == nil && !strings.Contains(page.Body, kept.Path+"?w=400 400w") {
		t.Errorf("the page offers %s", page.Body)
	}
	if _, err := w.Library.ReadFile(w.Context, audience.Viewer{}, hash, 400); apptest.KindOf(err) != problem.NotFound {
		t.Errorf("a smaller picture leaks: %v", err)
	}
	attached, err := w.Library.KeepAttachment(w.Context, c.Author, []byte("%PDF-1.4 x"))
	w.Must(err)
	if attached.MediaType != "application/pdf" {
		t.Errorf("kept as %s", attached.MediaType)
	}
	if apptest.KindOf(apptest.Second(w.Library.KeepAttachment(w.Context, c.Author, nil))) != problem.TooLarge ||
		apptest.KindOf(
			apptest.Second(w.Library.KeepMedia(w.Context, c.Author, []byte("<svg onload=x>"))),
		) != problem.BadFile {
		t.Error("anything is kept")
	}
	// A picture without words keeps an article from going to review.
	bare := w.Draft(c.Author, category, "Bare", `<p>x <img src="`+kept.Path+`"></p>`, audience.Everyone)
	if err := w.Review.Act(
		w.Context,
		c.Author,
		bare,
		corereview.Submit,
		1,
		"",
	); apptest.KindOf(err) != problem.NotNow ||
		!strings.Contains(err.Error(), "picture") {
		t.Errorf("submitted: %v", err)
	}
}

// An instance that goes away in the middle of a job leaves it running, with how far
// it was; the next instance to look goes on from there.
func TestAJobGoesOnWhereAnInstanceLeftIt(t *testing.T) {
	w := apptest.Open(t)
	c := w.Crew()
	from, to := apptest.Under(w, c.Author, 0, "From"), apptest.Under(w, c.Author, 0, "To")
	var numbers []int
	for n := range 120 {
		w.Draft(c.Author, from, "One", "<p>one</p>", audience.Everyone)
		numbers = append(numbers, n+1)
	}
	input, err := json.Marshal(map[string]any{"bulk": writing.Bulk{CategoryID: to}, "numbers": numbers})
	w.Must(err)
	row := store.Job{
		Kind:    "bulk",
		StaffID: c.Author.ID,
		AskedAt: w.Time(),
		Input:   input,
		State:   store.JobRunning,
		Total:   120,
		Done:    100,
		Result:  json.RawMessage("{}"),
	}
	w.Must(w.DB().Create(&row).Error)
	w.Another()
	var result writing.BulkResult
	apptest.Done(w, c.Author, row.ID, &result)
	_, moved, err := w.Lists.ListArticles(w.Context, lists.ArticleFilter{CategoryID: to})
	w.Must(err)
	if moved != 20 || result.Changed != 20 {
		t.Errorf("%d were moved after the first hundred, %d said", moved, result.Changed)
	}
}

func TestABulkChangeGoesUnderNobodysHandsAndUndoLeavesLaterTextsAlone(t *testing.T) {
	w := apptest.Open(t)
	c := w.Crew()
	bea := w.Hire("bea", role.Author)
	category := w.Category(c.Author, "Bills")
	held, live := w.Draft(
		c.Author,
		category,
		"Held",
		"<p>a</p>",
		audience.Everyone,
	), w.Draft(
		c.Author,
		category,
		"Live",
		"<p>b</p>",
		audience.Everyone,
	)
	w.Publish(c, live)
	w.Must(apptest.Second(w.Writing.Hold(w.Context, bea, held, "tab")))
	id, err := w.Writing.AskBulk(
		w.Context,
		c.Author,
		writing.Bulk{References: []string{held, live}, AddKeywords: []string{"new"}},
	)
	w.Must(err)
	var result writing.BulkResult
	apptest.Done(w, c.Author, id, &result)
	if result.Changed != 1 || len(result.Refused) != 1 || result.Refused[0].Reference != held {
		t.Errorf("%+v", result)
	}
	// Somebody writes on; taking the keyword back would call another text published.
	a, err := w.Desk.ReadArticle(w.Context, bea, live)
	w.Must(err)
	copied := a.Copy
	copied.Body = "<p>b, and more</p>"
	w.Must(
		apptest.Second(
			w.Writing.SaveArticle(w.Context, bea, live, writing.Save{Text: copied, Version: a.Version, Tab: "tab2"}),
		),
	)
	undo, err := w.Writing.AskUndo(w.Context, c.Author, id)
	w.Must(err)
	apptest.Done(w, c.Author, undo, &result)
	if a, err = w.Desk.ReadArticle(
		w.Context,
		bea,
		live,
	); err != nil || a.State != corereview.Drafting ||
		result.Changed != 0 {
		t.Errorf("%s after undoing %+v, %v", a.State, result, err)
	}
	w.Must(w.Accounts.ChangeStaff(w.Context, c.Administrator, c.Author.ID, role.Set{role.Agent}, false))
	demoted := c.Author
	demoted.Roles = role.Set{role.Agent}
	if apptest.KindOf(apptest.Second(w.Writing.AskUndo(w.Context, demoted, id))) != problem.Denied {
		t.Error("somebody without the role takes a change back")
	}
}

// A withdrawal of many is one like any other: the end that was set goes with it, and who
// follows an article is told; undone, both come back.
func TestABulkWithdrawalTakesItsEndDateAlong(t *testing.T) {
	w := apptest.Open(t)
	c := w.Crew()
	ref := w.Draft(c.Author, apptest.Under(w, c.Author, 0, "Bills"), "Prices", "<p>Prices.</p>", audience.Everyone)
	w.Publish(c, ref)
	w.Must(w.Review.Follow(w.Context, c.Reviewer, ref, true))
	ends := w.Time().Add(48 * time.Hour)
	w.Must(
		w.Review.Move(
			w.Context,
			c.Publisher,
			ref,
			review.Step{Action: corereview.Withdraw, Wall: ends.Format("2006-01-02T15:04")},
		),
	)
	told := func() int {
		news, err := w.Notify.News(w.Context, c.Reviewer, notify.NewsChanged, 1)
		w.Must(err)
		return news.Total
	}
	before := told()
	id, err := w.Writing.AskBulk(w.Context, c.Publisher, writing.Bulk{References: []string{ref}, Withdraw: true})
	w.Must(err)
	apptest.Done(w, c.Publisher, id, &writing.BulkResult{})
	a, err := w.Desk.ReadArticle(w.Context, c.Author, ref)
	w.Must(err)
	if a.LiveRevision != 0 || a.Ends != nil || told() != before+1 {
		t.Errorf("withdrawn: live %d, ends %+v, told %d times", a.LiveRevision, a.Ends, told()-before)
	}
	undo, err := w.Writing.AskUndo(w.Context, c.Publisher, id)
	w.Must(err)
	apptest.Done(w, c.Publisher, undo, &writing.BulkResult{})
	if a, err = w.Desk.ReadArticle(
		w.Context,
		c.Author,
		ref,
	); err != nil || a.LiveRevision == 0 || a.Ends == nil ||
		told() != before+2 {
		t.Errorf("back: live %d, ends %+v, told %d times, %v", a.LiveRevision, a.Ends, told()-before, err)
	}

	// Withdrawn and published again, nothing of the old end is left.
	id, err = w.Writing.AskBulk(w.Context, c.Publisher, writing.Bulk{References: []string{ref}, Withdraw: true})
	w.Must(err)
	apptest.Done(w, c.Publisher, id, &writing.BulkResult{})
	w.Must(apptest.SaveText(w, c.Author, ref, "t", apptest.Text("Prices of spring", "<p>Other prices.</p>")))
	w.Publish(c, ref)
	w.Wait(72 * time.Hour)
	time.Sleep(1500 * time.Millisecond) // longer than what is due is looked for
	if a, err = w.Desk.ReadArticle(w.Context, c.Author, ref); err != nil || a.LiveRevision == 0 {
		t.Errorf("it vanished at the end that was set before: %v", err)
	}
}

// The index knows the category of what was merged, on every instance.
func TestWhatWasMergedIsFoundInItsNewPlace(t *testing.T) {
	w := apptest.Open(t)
	c := w.Crew()
	bills, solar := apptest.Under(w, c.Author, 0, "Bills"), apptest.Under(w, c.Author, 0, "Solar")
	ref := w.Draft(c.Author, bills, "Register your panels", "<p>Register.</p>", audience.Everyone)
	w.Publish(c, ref)
	site, err := w.Sites.KeepSite(
		w.Context,
		c.Administrator,
		sites.Site{
			Name:         "Solar help",
			Hosts:        []string{"solar.localhost"},
			BrandColour:  "#1D5140",
			AccentColour: "#98301F",
			Languages:    []string{"en"},
			Categories:   []int64{solar},
		},
	)
	w.Must(err)
	other := w.Another()
	found := func(a *app.App) int {
		list, err := a.Search.Search(w.Context, evidence.Visitor{Preview: true, Site: site}, "register panels")
		w.Must(err)
		return len(list)
	}
	if found(w.App) != 0 || found(other) != 0 {
		t.Fatal("a help centre shows what is in none of its categories")
	}
	w.Must(w.Library.MergeCategory(w.Context, c.Publisher, bills, solar))
	w.Eventually(func() bool { return found(w.App) == 1 && found(other) == 1 })
}
