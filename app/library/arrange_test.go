package library_test

import (
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"hermeneus/app"
	"hermeneus/app/apptest"
	"hermeneus/app/evidence"
	"hermeneus/app/library"
	"hermeneus/app/problem"
	"hermeneus/app/sites"
	"hermeneus/core/audience"
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
	listings, err := w.Library.CategoryListings(w.Context, apptest.Visitor("k"), 0)
	w.Must(err)
	var got []string
	for _, s := range listings {
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
