package app_test

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
	"hermeneus/core/article"
	"hermeneus/core/audience"
	"hermeneus/core/role"
	"hermeneus/store"
)

func under(w *apptest.World, by app.Staff, parent int64, name string) int64 {
	id, err := w.AddCategory(w.Context, by, app.NewCategory{ParentID: parent, Name: name, Audience: audience.Everyone})
	w.Must(err)
	return id
}

// outline writes the tree as its names, indented by points.
func outline(w *apptest.World) string {
	tree, err := w.Tree(w.Context)
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
	a, b := under(w, c.Author, 0, "A"), under(w, c.Author, 0, "B")
	a1, a2 := under(w, c.Author, a, "A1"), under(w, c.Author, a, "A2")
	deep := under(w, c.Author, a1, "A11")
	for _, step := range []struct {
		what, want string
		id         int64
		to         app.Place
	}{
		{"before its neighbour", "A .A2 .A1 ..A11 B", a2, app.Place{ParentID: a, BeforeID: a1}},
		{"into another, with what it holds", "A .A2 B .A1 ..A11", a1, app.Place{ParentID: b}},
		{"to the top", "A1 .A11 A .A2 B", a1, app.Place{BeforeID: a}},
	} {
		w.Must(w.MoveCategory(w.Context, c.Author, step.id, step.to))
		if got := outline(w); got != step.want {
			t.Errorf("%s: %s", step.what, got)
		}
	}
	for name, err := range map[string]error{
		"into itself":       w.MoveCategory(w.Context, c.Author, a1, app.Place{ParentID: a1}),
		"into its child":    w.MoveCategory(w.Context, c.Author, a1, app.Place{ParentID: deep}),
		"merged with it":    w.MergeCategory(w.Context, c.Publisher, a1, a1),
		"merged into own":   w.MergeCategory(w.Context, c.Publisher, a1, deep),
		"removed when full": w.RemoveCategory(w.Context, c.Publisher, a, 0),
	} {
		if kind(err) != app.NotNow {
			t.Errorf("%s: %v", name, err)
		}
	}
	if kind(w.MergeCategory(w.Context, c.Author, a, b)) != app.Denied {
		t.Error("an author merged categories")
	}
	ref := w.Draft(c.Author, a2, "One", "<p>one</p>", audience.Everyone)
	w.Must(w.RemoveCategory(w.Context, c.Publisher, a, b))
	if got := outline(w); got != "A1 .A11 B .A2" {
		t.Errorf("after merging: %s", got)
	}
	w.Must(w.MergeCategory(w.Context, c.Publisher, a2, a1))
	is, err := w.ReadArticle(w.Context, c.Author, ref)
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
		id, err := w.AddCategory(
			w.Context,
			c.Author,
			app.NewCategory{ParentID: parent, Name: "c", Audience: "everyone"},
		)
		w.Must(err)
		ids = append(ids, id)
	}
	moved := 0
	for range 150 {
		to := app.Place{ParentID: ids[r.IntN(len(ids))], BeforeID: ids[r.IntN(len(ids))]}
		if r.IntN(4) == 0 {
			to.ParentID = 0
		}
		if w.MoveCategory(w.Context, c.Author, ids[r.IntN(len(ids))], to) == nil {
			moved++
		}
	}
	tree, err := w.Tree(w.Context)
	w.Must(err)
	if len(tree) != len(ids) || moved < 50 {
		t.Errorf("%d of %d are left after %d moves", len(tree), len(ids), moved)
	}
	for _, n := range tree {
		if n.Depth > app.MaxDepth {
			t.Errorf("one stands %d deep", n.Depth)
		}
	}
}

func TestArticlesAreOrderedAndTheHelpCentreFollows(t *testing.T) {
	w := apptest.Open(t)
	c := w.Crew()
	one, two := under(w, c.Author, 0, "One"), under(w, c.Author, 0, "Two")
	var refs []string
	var ids []int64
	for _, title := range []string{"First", "Second", "Third"} {
		ref := w.Draft(c.Author, one, title, "<p>"+title+"</p>", audience.Everyone)
		w.Publish(c, ref)
		a, err := w.ReadArticle(w.Context, c.Author, ref)
		w.Must(err)
		refs, ids = append(refs, ref), append(ids, a.ID)
	}
	w.Must(w.MoveArticle(w.Context, c.Author, refs[2], app.Place{ParentID: one, BeforeID: ids[0]}))
	w.Must(w.MoveArticle(w.Context, c.Author, refs[1], app.Place{ParentID: two}))
	shelves, err := w.Shelves(w.Context, apptest.Visitor("k"), 0)
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
	if kind(w.MoveArticle(w.Context, c.Author, refs[0], app.Place{ParentID: 9999})) != app.NotFound {
		t.Error("an article went nowhere")
	}
}

func TestSitesShowPartsOfTheLibrary(t *testing.T) {
	w := apptest.Open(t)
	c := w.Crew()
	bills, solar := under(w, c.Author, 0, "Bills"), under(w, c.Author, 0, "Solar")
	panels := under(w, c.Author, solar, "Panels")
	hidden := w.Draft(c.Author, bills, "Pay a bill for panels", "<p>Pay.</p>", audience.Everyone)
	shown := w.Draft(c.Author, panels, "Register your panels", "<p>Register.</p>", audience.Everyone)
	w.Publish(c, hidden)
	w.Publish(c, shown)
	id, err := w.KeepSite(
		w.Context,
		c.Administrator,
		app.Site{
			Name:         "Solar help",
			Hosts:        []string{"Solar.localhost"},
			BrandColour:  "#1D5140",
			AccentColour: "#98301F",
			Languages:    []string{"en", "de"},
			Categories:   []int64{solar},
		},
	)
	w.Must(err)
	at, err := w.SiteAt(w.Context, "solar.localhost:8080")
	w.Must(err)
	elsewhere, err := w.SiteAt(w.Context, "help.wrenmoor.example")
	w.Must(err)
	if at.ID != id || elsewhere.ID == id || !elsewhere.Main {
		t.Errorf("hosts lead to %+v and %+v", at, elsewhere)
	}
	v := app.Visitor{Key: "k", Site: id}
	if _, err := w.OpenPage(w.Context, v, "help", hidden); kind(err) != app.NotFound {
		t.Errorf("an article of another part: %v", err)
	}
	w.Must(second(w.OpenPage(w.Context, v, "help", shown)))
	found, err := w.Search(w.Context, v, "panels")
	w.Must(err)
	if len(found) != 1 || found[0].Reference != shown {
		t.Errorf("search finds %+v", found)
	}
	shelves, err := w.Shelves(w.Context, v, 0)
	w.Must(err)
	if len(shelves) != 2 || shelves[0].Name != "Solar" {
		t.Errorf("shelves %+v", shelves)
	}
	helpCentres, err := w.Sites(w.Context)
	w.Must(err)
	if len(helpCentres) != 2 || helpCentres[0].Articles != 2 || helpCentres[1].Articles != 1 {
		t.Errorf("sites %+v", helpCentres)
	}
	good := helpCentres[1]
	for field, s := range map[string]func(*app.Site){
		"brand_colour":  func(s *app.Site) { s.BrandColour = "#FFFF00" },
		"accent_colour": func(s *app.Site) { s.AccentColour = "red" },
		"hosts":         func(s *app.Site) { s.Hosts = []string{"not a host"} },
		"languages":     func(s *app.Site) { s.Languages = []string{"de"} },
		"name":          func(s *app.Site) { s.Name = helpCentres[0].Name },
	} {
		bad := good
		s(&bad)
		_, err := w.KeepSite(w.Context, c.Administrator, bad)
		if kind(err) != app.Invalid || fieldOf(err) != field {
			t.Errorf("%s: %v, %s", field, err, fieldOf(err))
		}
	}
	if kind(second(w.KeepSite(w.Context, c.Author, good))) != app.Denied ||
		kind(w.RemoveSite(w.Context, c.Administrator, helpCentres[0].ID)) != app.NotNow {
		t.Error("an author changed a site, or the main one was removed")
	}
	w.Must(w.RemoveSite(w.Context, c.Administrator, id))
}

func TestListsAreFilteredEveryWay(t *testing.T) {
	w := apptest.Open(t)
	c := w.Crew()
	leaver := w.Hire("ruth", role.Author)
	top := under(w, c.Author, 0, "Top")
	below := under(w, c.Author, top, "Below")
	ref := map[string]string{}
	ref["live"] = w.Draft(c.Author, top, "Live", "<p>live</p>", audience.Everyone) // A-0001
	ref["linking"] = w.Draft(c.Author, below, "Linking", `<p><a href="/help/articles/A-0001">x</a></p>`, audience.Staff)
	ref["left"] = w.Draft(leaver, top, "Left", "<p>left</p>", audience.Everyone)
	w.Publish(c, ref["live"])
	w.Must(w.ChangeStaff(w.Context, c.Administrator, leaver.ID, leaver.Roles, true))
	cause, err := w.AddKnownProblem(w.Context, c.Author, "Line lost")
	w.Must(err)
	w.Must(
		w.SetProperties(
			w.Context,
			c.Author,
			ref["live"],
			app.Properties{
				CategoryID:     top,
				OwnerID:        c.Author.ID,
				Kind:           "fix",
				Audience:       audience.Everyone,
				KnownProblemID: cause.ID,
			},
		),
	)
	names := func(f app.ArticleFilter) string {
		lines, total, err := w.ListArticles(w.Context, f)
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
		filter app.ArticleFilter
		want   string
	}{
		{app.ArticleFilter{}, "Live Left Linking"},
		{app.ArticleFilter{CategoryID: top}, "Live Left Linking"},
		{app.ArticleFilter{CategoryID: top, Here: true}, "Live Left"},
		{app.ArticleFilter{State: article.Published}, "Live"},
		{app.ArticleFilter{OwnerID: c.Author.ID}, "Live Linking"},
		{app.ArticleFilter{LeftOwner: true}, "Left"},
		{app.ArticleFilter{Audience: audience.Staff}, "Linking"},
		{app.ArticleFilter{Kind: "fix"}, "Live"},
		{app.ArticleFilter{Interim: true}, "Live"},
		{app.ArticleFilter{Unlinked: true}, "Left Linking"},
		{app.ArticleFilter{Unopened: true}, "Live"},
		{app.ArticleFilter{Overdue: true}, ""},
		{app.ArticleFilter{Words: "LINK"}, "Linking"},
		{app.ArticleFilter{Words: "A-0001"}, "Live"},
		{app.ArticleFilter{Sort: "title"}, "Left Linking Live"},
		{app.ArticleFilter{Sort: "-title"}, "Live Linking Left"},
		{app.ArticleFilter{OwnerID: c.Author.ID, Audience: audience.Staff, Unlinked: true}, "Linking"},
	} {
		if got := names(f.filter); got != f.want {
			t.Errorf("%+v gives %q, want %q", f.filter, got, f.want)
		}
	}
	w.Must(second(w.OpenPage(w.Context, apptest.Visitor("k"), "help", ref["live"])))
	if got := names(app.ArticleFilter{Unopened: true}); got != "" {
		t.Errorf("opened, and still never opened: %q", got)
	}
	w.Must(w.SolveKnownProblem(w.Context, c.Author, cause.ID))
	if got := names(app.ArticleFilter{Live: true}); got != "" {
		t.Errorf("its cause is solved, and still live: %q", got)
	}
	live, err := w.ReadArticle(w.Context, c.Publisher, ref["live"])
	w.Must(err)
	p := app.Properties{CategoryID: live.Category.ID, OwnerID: live.Owner.ID, Kind: live.Kind, Audience: live.Audience}
	w.Must(w.SetProperties(w.Context, c.Publisher, ref["live"], p))
	w.Must(w.Act(w.Context, c.Publisher, ref["live"], article.Publish, live.Version, ""))
	w.Wait(300 * 24 * time.Hour)
	if got := names(app.ArticleFilter{Overdue: true}); got != "Live" {
		t.Errorf("most of a year later: %q", got)
	}
	if _, _, err := w.ListArticles(w.Context, app.ArticleFilter{Sort: "x; DROP TABLE"}); kind(err) != app.Invalid {
		t.Errorf("another order: %v", err)
	}
}

func TestManyAreChangedAtOnceAndBack(t *testing.T) {
	w := apptest.Open(t)
	c := w.Crew()
	chief := w.Hire("chief", role.Author, role.Publisher)
	from, to := under(w, c.Author, 0, "From"), under(w, c.Author, 0, "To")
	var refs []string
	for range 230 { // more than two chunks
		refs = append(refs, w.Draft(c.Author, from, "One", "<p>one</p>", audience.SignedIn))
	}
	live := w.Draft(c.Author, from, "Live", "<p>live</p>", audience.SignedIn)
	w.Publish(c, live)
	refs = append(refs, live)

	bulk := app.Bulk{References: refs, CategoryID: to, AddKeywords: []string{"moved"}}
	summary, err := w.SummariseBulk(w.Context, c.Author, bulk)
	w.Must(err)
	if summary.Articles != 231 || summary.Changes != 231 || summary.Customers != 1 {
		t.Errorf("summary %+v", summary)
	}
	if lines, _, _ := w.ListArticles(w.Context, app.ArticleFilter{CategoryID: to}); len(lines) != 0 {
		t.Error("a summary changed something")
	}
	id, err := w.AskBulk(w.Context, c.Author, bulk)
	w.Must(err)
	var result app.BulkResult
	job := done(w, c.Author, id, &result)
	if result.Changed != 231 || job.Done != 231 || job.Total != 231 {
		t.Errorf("job %+v, result %+v", job, result)
	}
	_, total, err := w.ListArticles(w.Context, app.ArticleFilter{CategoryID: to, Words: "moved"})
	w.Must(err)
	if total != 231 {
		t.Errorf("%d were moved", total)
	}
	if _, err := w.ReadJob(w.Context, c.Publisher, id); kind(err) != app.NotFound {
		t.Errorf("another reads the job: %v", err)
	}

	// One is changed since; undoing leaves that one alone and says so.
	w.Must(
		w.SetProperties(
			w.Context,
			c.Author,
			refs[0],
			app.Properties{CategoryID: to, OwnerID: chief.ID, Kind: "fix", Audience: audience.SignedIn},
		),
	)
	undo, err := w.AskUndo(w.Context, c.Author, id)
	w.Must(err)
	var undone app.BulkResult
	done(w, c.Author, undo, &undone)
	if undone.Changed != 230 || len(undone.Refused) != 1 || undone.Refused[0].Reference != refs[0] {
		t.Errorf("undone %d, %+v", undone.Changed, undone.Refused)
	}
	back, err := w.ReadArticle(w.Context, c.Author, refs[5])
	w.Must(err)
	if back.Category.ID != from || len(back.Copy.Keywords) != 0 {
		t.Errorf("put back: %+v", back)
	}

	// What somebody may not do is refused for just those articles.
	wider := app.Bulk{Filter: &app.ArticleFilter{CategoryID: from}, Audience: audience.Everyone}
	summary, err = w.SummariseBulk(w.Context, c.Author, wider)
	w.Must(err)
	if summary.Refusals != 1 || summary.Refused[0].Reference != live || summary.Changes != 229 {
		t.Errorf("widening as an author: %+v", summary)
	}
	if kind(second(w.AskBulk(w.Context, c.Author, app.Bulk{References: refs[:1], Withdraw: true}))) != app.Denied {
		t.Error("an author withdraws many")
	}
	id, err = w.AskBulk(w.Context, chief, app.Bulk{References: []string{live}, Withdraw: true})
	w.Must(err)
	done(w, chief, id, &result)
	if _, err := w.OpenPage(w.Context, app.Visitor{Preview: true}, "help", live); kind(err) != app.Withdrawn {
		t.Errorf("withdrawn, and read: %v", err)
	}
	undo, err = w.AskUndo(w.Context, chief, id)
	w.Must(err)
	done(w, chief, undo, &undone)
	w.Must(second(w.OpenPage(w.Context, app.Visitor{Preview: true}, "help", live)))
	for name, bad := range map[string]app.Bulk{"nothing chosen": {CategoryID: to}, "nothing to change": {References: refs}, "a day that is none": {References: refs, RecheckOn: "soon"}} {
		if kind(second(w.SummariseBulk(w.Context, c.Author, bad))) != app.Invalid {
			t.Errorf("%s went through", name)
		}
	}
}

func TestFindLooksEverywhereAsOneTypes(t *testing.T) {
	w := apptest.Open(t)
	c := w.Crew()
	category := w.Category(c.Author, "Bills")
	one, err := w.CreateArticle(
		w.Context,
		c.Author,
		app.NewArticle{
			CategoryID: category,
			Copy: app.WorkingCopy{
				Title:    "Change the day money is taken",
				Keywords: []string{"direct debit"},
				Body:     "<p>Choose <strong>Payments</strong> &amp; more.</p>",
			},
		},
	)
	w.Must(err)
	two := w.Draft(c.Author, category, "Refunds", "<p>Money goes back in five working days.</p>", audience.Staff)
	find := func(words string) string {
		found, err := w.Find(w.Context, words)
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
	found, err := w.Find(w.Context, "working")
	w.Must(err)
	if found[0].Match.Text() != "Money goes back in five working days." || found[0].Match.Hits() != 1 {
		t.Errorf("the match is %+v", found[0].Match)
	}
	if kind(second(w.Find(w.Context, strings.Repeat("x", 201)))) != app.TooLong {
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
	kept, err := w.KeepMedia(w.Context, c.Author, raw.Bytes())
	w.Must(err)
	hash := strings.TrimPrefix(kept.Path, article.FilePath)
	staff := audience.Viewer{Staff: true}
	for width, want := range map[int]int{0: 1000, 400: 400, 800: 800, 1600: 1000, 77: 1000} {
		file, err := w.ReadFile(w.Context, staff, hash, width)
		w.Must(err)
		got, err := png.DecodeConfig(bytes.NewReader(file.Bytes))
		if err != nil || got.Width != want || (want == 400 && got.Height != 120) {
			t.Errorf("asked for %d: %+v, %v", width, got, err)
		}
	}
	category := w.Category(c.Author, "Bills")
	ref := w.Draft(c.Author, category, "A dial", `<p><img src="`+kept.Path+`" alt="A dial"></p>`, audience.SignedIn)
	w.Publish(c, ref)
	page, err := w.OpenPage(w.Context, app.Visitor{Customer: &app.Customer{ID: 1}}, "help", ref)
	if err == nil && !strings.Contains(page.Body, kept.Path+"?w=400 400w") {
		t.Errorf("the page offers %s", page.Body)
	}
	if _, err := w.ReadFile(w.Context, audience.Viewer{}, hash, 400); kind(err) != app.NotFound {
		t.Errorf("a smaller picture leaks: %v", err)
	}
	attached, err := w.KeepAttachment(w.Context, c.Author, []byte("%PDF-1.4 x"))
	w.Must(err)
	if attached.MediaType != "application/pdf" {
		t.Errorf("kept as %s", attached.MediaType)
	}
	if kind(second(w.KeepAttachment(w.Context, c.Author, nil))) != app.TooLarge ||
		kind(second(w.KeepMedia(w.Context, c.Author, []byte("<svg onload=x>")))) != app.BadFile {
		t.Error("anything is kept")
	}
	// A picture without words keeps an article from going to review.
	bare := w.Draft(c.Author, category, "Bare", `<p>x <img src="`+kept.Path+`"></p>`, audience.Everyone)
	if err := w.Act(
		w.Context,
		c.Author,
		bare,
		article.Submit,
		1,
		"",
	); kind(err) != app.NotNow ||
		!strings.Contains(err.Error(), "picture") {
		t.Errorf("submitted: %v", err)
	}
}

// An instance that goes away in the middle of a job leaves it running, with how far
// it was; the next instance to look goes on from there.
func TestAJobGoesOnWhereAnInstanceLeftIt(t *testing.T) {
	w := apptest.Open(t)
	c := w.Crew()
	from, to := under(w, c.Author, 0, "From"), under(w, c.Author, 0, "To")
	var numbers []int
	for n := range 120 {
		w.Draft(c.Author, from, "One", "<p>one</p>", audience.Everyone)
		numbers = append(numbers, n+1)
	}
	input, err := json.Marshal(map[string]any{"bulk": app.Bulk{CategoryID: to}, "numbers": numbers})
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
	w.Instance()
	var result app.BulkResult
	done(w, c.Author, row.ID, &result)
	_, moved, err := w.ListArticles(w.Context, app.ArticleFilter{CategoryID: to})
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
	w.Must(second(w.Hold(w.Context, bea, held, "tab")))
	id, err := w.AskBulk(w.Context, c.Author, app.Bulk{References: []string{held, live}, AddKeywords: []string{"new"}})
	w.Must(err)
	var result app.BulkResult
	done(w, c.Author, id, &result)
	if result.Changed != 1 || len(result.Refused) != 1 || result.Refused[0].Reference != held {
		t.Errorf("%+v", result)
	}
	// Somebody writes on; taking the keyword back would call another text published.
	a, err := w.ReadArticle(w.Context, bea, live)
	w.Must(err)
	copied := a.Copy
	copied.Body = "<p>b, and more</p>"
	w.Must(second(w.SaveArticle(w.Context, bea, live, app.Save{Text: copied, Version: a.Version, Tab: "tab2"})))
	undo, err := w.AskUndo(w.Context, c.Author, id)
	w.Must(err)
	done(w, c.Author, undo, &result)
	if a, err = w.ReadArticle(w.Context, bea, live); err != nil || a.State != article.Drafting || result.Changed != 0 {
		t.Errorf("%s after undoing %+v, %v", a.State, result, err)
	}
	w.Must(w.ChangeStaff(w.Context, c.Administrator, c.Author.ID, role.Set{role.Agent}, false))
	demoted := c.Author
	demoted.Roles = role.Set{role.Agent}
	if kind(second(w.AskUndo(w.Context, demoted, id))) != app.Denied {
		t.Error("somebody without the role takes a change back")
	}
}

// A withdrawal of many is one like any other: the end that was set goes with it, and who
// follows an article is told; undone, both come back.
func TestABulkWithdrawalTakesItsEndDateAlong(t *testing.T) {
	w := apptest.Open(t)
	c := w.Crew()
	ref := w.Draft(c.Author, under(w, c.Author, 0, "Bills"), "Prices", "<p>Prices.</p>", audience.Everyone)
	w.Publish(c, ref)
	w.Must(w.Follow(w.Context, c.Reviewer, ref, true))
	ends := w.Time().Add(48 * time.Hour)
	w.Must(
		w.Move(w.Context, c.Publisher, ref, app.Step{Action: article.Withdraw, Wall: ends.Format("2006-01-02T15:04")}),
	)
	told := func() int {
		news, err := w.News(w.Context, c.Reviewer, app.NewsChanged, 1)
		w.Must(err)
		return news.Total
	}
	before := told()
	id, err := w.AskBulk(w.Context, c.Publisher, app.Bulk{References: []string{ref}, Withdraw: true})
	w.Must(err)
	done(w, c.Publisher, id, &app.BulkResult{})
	a, err := w.ReadArticle(w.Context, c.Author, ref)
	w.Must(err)
	if a.LiveRevision != 0 || a.Ends != nil || told() != before+1 {
		t.Errorf("withdrawn: live %d, ends %+v, told %d times", a.LiveRevision, a.Ends, told()-before)
	}
	undo, err := w.AskUndo(w.Context, c.Publisher, id)
	w.Must(err)
	done(w, c.Publisher, undo, &app.BulkResult{})
	if a, err = w.ReadArticle(
		w.Context,
		c.Author,
		ref,
	); err != nil || a.LiveRevision == 0 || a.Ends == nil ||
		told() != before+2 {
		t.Errorf("back: live %d, ends %+v, told %d times, %v", a.LiveRevision, a.Ends, told()-before, err)
	}

	// Withdrawn and published again, nothing of the old end is left.
	id, err = w.AskBulk(w.Context, c.Publisher, app.Bulk{References: []string{ref}, Withdraw: true})
	w.Must(err)
	done(w, c.Publisher, id, &app.BulkResult{})
	w.Must(save(w, c.Author, ref, "t", text("Prices of spring", "<p>Other prices.</p>")))
	w.Publish(c, ref)
	w.Wait(72 * time.Hour)
	time.Sleep(1500 * time.Millisecond) // longer than what is due is looked for
	if a, err = w.ReadArticle(w.Context, c.Author, ref); err != nil || a.LiveRevision == 0 {
		t.Errorf("it vanished at the end that was set before: %v", err)
	}
}

// The index knows the category of what was merged, on every instance.
func TestWhatWasMergedIsFoundInItsNewPlace(t *testing.T) {
	w := apptest.Open(t)
	c := w.Crew()
	bills, solar := under(w, c.Author, 0, "Bills"), under(w, c.Author, 0, "Solar")
	ref := w.Draft(c.Author, bills, "Register your panels", "<p>Register.</p>", audience.Everyone)
	w.Publish(c, ref)
	site, err := w.KeepSite(
		w.Context,
		c.Administrator,
		app.Site{
			Name:         "Solar help",
			Hosts:        []string{"solar.localhost"},
			BrandColour:  "#1D5140",
			AccentColour: "#98301F",
			Languages:    []string{"en"},
			Categories:   []int64{solar},
		},
	)
	w.Must(err)
	other := w.Instance()
	found := func(a *app.App) int {
		list, err := a.Search(w.Context, app.Visitor{Preview: true, Site: site}, "register panels")
		w.Must(err)
		return len(list)
	}
	if found(w.App) != 0 || found(other) != 0 {
		t.Fatal("a help centre shows what is in none of its categories")
	}
	w.Must(w.MergeCategory(w.Context, c.Publisher, bills, solar))
	w.Eventually(func() bool { return found(w.App) == 1 && found(other) == 1 })
}
