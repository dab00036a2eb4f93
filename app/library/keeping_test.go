package library_test

import (
	"strings"
	"testing"
	"time"

	"hermeneus/app/apptest"
	"hermeneus/app/library"
	"hermeneus/app/problem"
	"hermeneus/core/article"
	"hermeneus/core/audience"
)

func TestAnUnsavedTextIsLaidBesideTheNewerOne(t *testing.T) {
	w := apptest.Open(t)
	c := w.Crew()
	ref := w.Draft(c.Author, w.Category(c.Author, "Bills"), "One", "<p>one</p><p>two</p>", audience.Everyone)
	rows, err := w.Library.SideBySide(w.Context, ref, "<p>one</p><p onclick=x>mine</p>")
	w.Must(err)
	if len(rows) != 2 || !rows[0].Same || rows[1].Ours != "<p>mine</p>" || rows[1].Theirs != "<p>two</p>" {
		t.Errorf("%+v", rows)
	}
	if apptest.KindOf(
		apptest.Second(w.Library.SideBySide(w.Context, ref, strings.Repeat("x", article.MaxBody+1))),
	) != problem.TooLarge {
		t.Error("any size is compared")
	}
	cleaned, err := w.Library.Clean("<p>a</p><script>x</script>")
	w.Must(err)
	if cleaned.Body != "<p>a</p>" || len(cleaned.TakenOut) != 1 {
		t.Errorf("%+v", cleaned)
	}
}

func TestPropertiesSayHowLongAnArticleHolds(t *testing.T) {
	w := apptest.Open(t)
	c := w.Crew()
	category := w.Category(c.Author, "Bills")
	ref := w.Draft(c.Author, category, "One", "<p>one</p>", audience.Everyone)
	p := library.Properties{
		CategoryID:   category,
		OwnerID:      c.Author.ID,
		Kind:         "fix",
		Audience:     audience.Everyone,
		RecheckDays:  30,
		InterimUntil: "2026-05-01",
	}
	w.Must(w.Library.SetProperties(w.Context, c.Author, ref, p))
	a, err := w.Desk.ReadArticle(w.Context, c.Author, ref)
	w.Must(err)
	if a.RecheckOn != "2026-04-01" || a.InterimUntil != "2026-05-01" ||
		!strings.Contains(a.Trail[0].Note, "interim until 2026-05-01") ||
		len(a.Sites) != 1 {
		t.Errorf("%+v", a)
	}
	for field, change := range map[string]func(*library.Properties){
		"interim_until": func(p *library.Properties) { p.InterimUntil = "May" },
		"recheck_days":  func(p *library.Properties) { p.RecheckDays = 9999 },
		"known_problem": func(p *library.Properties) { p.KnownProblemID = 99 },
		"kind":          func(p *library.Properties) { p.Kind = "poem" },
	} {
		bad := p
		change(&bad)
		if err := w.Library.SetProperties(
			w.Context,
			c.Author,
			ref,
			bad,
		); apptest.KindOf(err) != problem.Invalid ||
			apptest.FieldOf(err) != field {
			t.Errorf("%s: %v", field, err)
		}
	}
	p.InterimUntil = ""
	w.Must(w.Library.SetProperties(w.Context, c.Author, ref, p))
	if a, err = w.Desk.ReadArticle(w.Context, c.Author, ref); err != nil || a.InterimUntil != "" {
		t.Errorf("standing again: %+v, %v", a.InterimUntil, err)
	}

	// Publishing is looking at it: the next recheck counts from then.
	w.Wait(20 * 24 * time.Hour)
	w.Publish(c, ref)
	if a, err = w.Desk.ReadArticle(w.Context, c.Author, ref); err != nil || a.RecheckOn != "2026-04-21" {
		t.Errorf("recheck on %s, %v", a.RecheckOn, err)
	}
	for name, err := range map[string]error{"an agent opens": apptest.Second(w.Review.Rechecks.AddKnownProblem(w.Context, c.Agent, "x")), "an agent solves": w.Review.Rechecks.SolveKnownProblem(w.Context, c.Agent, 1)} {
		if apptest.KindOf(err) != problem.Denied {
			t.Errorf("%s a known problem: %v", name, err)
		}
	}
	if apptest.KindOf(apptest.Second(w.Review.Rechecks.AddKnownProblem(w.Context, c.Author, " "))) != problem.Invalid ||
		apptest.KindOf(w.Review.Rechecks.SolveKnownProblem(w.Context, c.Author, 99)) != problem.NotFound {
		t.Error("a problem without a name, or one that is not there")
	}
}

func TestAudiencesAreCountedAndCategoriesPictured(t *testing.T) {
	w := apptest.Open(t)
	c := w.Crew()
	w.Must(apptest.Second(w.Accounts.People.AddCustomer(w.Context, "Wim", "wim@post.example", "a long password")))
	list, err := w.Library.Audiences(w.Context)
	w.Must(err)
	if len(list) != 3 || list[1].Customers != 1 || list[2].Customers != 0 || list[2].Staff != 6 {
		t.Errorf("%+v", list)
	}
	id := w.Category(c.Author, "Bills")
	kept, err := w.Library.KeepMedia(w.Context, c.Author, apptest.Dot(t))
	w.Must(err)
	hash := strings.TrimPrefix(kept.Path, article.FilePath)
	if apptest.KindOf(apptest.Second(w.Library.ReadFile(w.Context, audience.Viewer{}, hash, 0))) != problem.NotFound {
		t.Error("a picture that nothing shows is served")
	}
	w.Must(w.Library.SetCategoryPicture(w.Context, c.Author, id, hash))
	tree, err := w.Library.Tree(w.Context)
	w.Must(err)
	if tree[0].Picture != kept.Path {
		t.Errorf("%+v", tree[0])
	}
	w.Must(apptest.Second(w.Library.ReadFile(w.Context, audience.Viewer{}, hash, 0)))
	for name, err := range map[string]error{"no such picture": w.Library.SetCategoryPicture(w.Context, c.Author, id, strings.Repeat("0", 64)), "no such category": w.Library.SetCategoryPicture(w.Context, c.Author, 99, "")} {
		if apptest.KindOf(err) != problem.NotFound {
			t.Errorf("%s: %v", name, err)
		}
	}
	w.Must(w.Library.SetCategoryPicture(w.Context, c.Author, id, ""))
}
