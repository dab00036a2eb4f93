package writing_test

import (
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"hermeneus/app/apptest"
	"hermeneus/app/library"
	"hermeneus/app/lists"
	"hermeneus/app/problem"
	"hermeneus/app/staff"
	"hermeneus/app/texts"
	"hermeneus/core/article"
	"hermeneus/core/audience"
	"hermeneus/core/prose"
	"hermeneus/core/review"
	"hermeneus/core/role"
)

func TestOnePersonWritesAtATime(t *testing.T) {
	w := apptest.Open(t)
	c := w.Crew()
	bea := w.Hire("bea", role.Author)
	chief := w.Hire("chief", role.Author, role.Publisher)
	ref := w.Draft(c.Author, w.Category(c.Author, "Bills"), "One", "<p>one</p>", audience.Everyone)

	holder, err := w.Writing.Hold(w.Context, c.Author, ref, "tab-1")
	w.Must(err)
	if holder == nil || holder.ID != c.Author.ID || !holder.Since.Equal(w.Time()) {
		t.Fatalf("held by %+v", holder)
	}
	if _, err := w.Writing.Hold(
		w.Context,
		bea,
		ref,
		"tab-2",
	); apptest.KindOf(err) != problem.Held ||
		!strings.Contains(err.Error(), "ada") {
		t.Errorf("a second holder: %v", err)
	}
	if err := apptest.SaveText(
		w,
		bea,
		ref,
		"tab-2",
		apptest.Text("Two", "<p>two</p>"),
	); apptest.KindOf(
		err,
	) != problem.Held {
		t.Errorf("a save past the holder: %v", err)
	}
	a, err := w.Desk.ReadArticle(w.Context, bea, ref)
	w.Must(err)
	if a.Holder == nil || a.Holder.Name != "ada" {
		t.Errorf("who reads sees %+v", a.Holder)
	}
	if apptest.KindOf(w.Review.Act(w.Context, bea, ref, review.Submit, a.Version, "")) != problem.Held {
		t.Error("a text that somebody is writing was sent to review by another")
	}

	// Two tabs of one person are one; closing the first leaves the second.
	w.Must(apptest.Second(w.Writing.Hold(w.Context, c.Author, ref, "tab-3")))
	w.Must(w.Writing.LetGo(w.Context, c.Author, ref, "tab-1"))
	if _, err := w.Writing.Hold(w.Context, bea, ref, "tab-2"); apptest.KindOf(err) != problem.Held {
		t.Errorf("with one of two tabs closed: %v", err)
	}
	w.Must(w.Writing.LetGo(w.Context, c.Author, ref, "tab-3"))
	w.Must(apptest.Second(w.Writing.Hold(w.Context, bea, ref, "tab-2")))

	// Silence of two minutes ends a hold; a save renews it.
	w.Wait(texts.HoldFor - time.Second)
	w.Must(apptest.SaveText(w, bea, ref, "tab-2", apptest.Text("Two", "<p>two</p>")))
	w.Wait(texts.HoldFor - time.Second)
	if _, err := w.Writing.Hold(w.Context, c.Author, ref, "tab-1"); apptest.KindOf(err) != problem.Held {
		t.Errorf("a renewed hold ended: %v", err)
	}
	w.Wait(2 * time.Second)
	w.Must(apptest.Second(w.Writing.Hold(w.Context, c.Author, ref, "tab-1")))

	// A publisher takes over; the one displaced keeps what had not arrived.
	for _, who := range []staff.Staff{bea, c.Publisher} {
		if apptest.KindOf(w.Writing.TakeOver(w.Context, who, ref, "tab-2")) != problem.Denied {
			t.Errorf("%s took over", who.Name)
		}
	}
	w.Must(w.Writing.TakeOver(w.Context, chief, ref, "tab-9"))
	unsaved := apptest.Text("Two", "<p>two, and what had not arrived</p>")
	if err := apptest.SaveText(w, c.Author, ref, "tab-1", unsaved); apptest.KindOf(err) != problem.Held {
		t.Errorf("the displaced saved: %v", err)
	}
	number, err := w.Writing.KeepUnsaved(w.Context, c.Author, ref, unsaved)
	w.Must(err)
	kept, err := w.Library.ReadText(w.Context, ref, "1")
	w.Must(err)
	if number != 1 || kept.Body != unsaved.Body {
		t.Errorf("kept as %d: %+v", number, kept)
	}
	if again, err := w.Writing.KeepUnsaved(
		w.Context,
		c.Author,
		ref,
		apptest.Text("Two", "<p>two</p>"),
	); err != nil ||
		again != 0 {
		t.Errorf("what had arrived was kept again: %d, %v", again, err)
	}
	trail, err := w.Desk.ReadArticle(w.Context, chief, ref)
	w.Must(err)
	if trail.Trail[0].Action != "kept unsaved text" || trail.Trail[1].Action != "took over" ||
		trail.Trail[1].Note != "from ada" {
		t.Errorf("trail %+v", trail.Trail[:2])
	}
}

func TestOfManyAtOnceOneGetsTheHold(t *testing.T) {
	w := apptest.Open(t)
	c := w.Crew()
	ref := w.Draft(c.Author, w.Category(c.Author, "Bills"), "One", "<p>one</p>", audience.Everyone)
	var people []staff.Staff
	for _, n := range []string{"one", "two", "three", "four", "five"} {
		people = append(people, w.Hire(n, role.Author))
	}
	other := w.Another()
	var wg sync.WaitGroup
	got := make(chan int64, len(people))
	for i, p := range people {
		wg.Go(func() {
			a := w.App
			if i%2 == 1 {
				a = other
			}
			if _, err := a.Writing.Hold(w.Context, p, ref, "tab"+p.Name); err == nil {
				got <- p.ID
			}
		})
	}
	wg.Wait()
	if len(got) != 1 {
		t.Errorf("%d hold it", len(got))
	}
}

func TestWhoeverReadsHearsOfSavesOnEveryInstance(t *testing.T) {
	w := apptest.Open(t)
	c := w.Crew()
	ref := w.Draft(c.Author, w.Category(c.Author, "Bills"), "One", "<p>one</p>", audience.Everyone)
	bell, stop, err := w.Another().Writing.WatchCopy(w.Context, ref)
	w.Must(err)
	defer stop()
	w.Must(apptest.SaveText(w, c.Author, ref, "t", apptest.Text("One", "<p>more</p>")))
	select {
	case <-bell:
	case <-time.After(5 * time.Second):
		t.Error("nothing was heard")
	}
}

func TestAutosavesAreKeptAndThinned(t *testing.T) {
	w := apptest.Open(t)
	c := w.Crew()
	ref := w.Draft(c.Author, w.Category(c.Author, "Bills"), "One", "<p>one</p>", audience.Everyone)
	at := func() int {
		list, err := w.Library.Autosaves(w.Context, ref)
		w.Must(err)
		return len(list)
	}
	// Every 20 seconds for five minutes: one is kept for each minute.
	for i := range 15 {
		w.Must(apptest.SaveText(w, c.Author, ref, "t", apptest.Text("One", strings.Repeat("<p>x</p>", i+1))))
		w.Wait(20 * time.Second)
	}
	if n := at(); n < 4 || n > 5 {
		t.Errorf("%d are kept of five minutes", n)
	}
	w.Must(w.Writing.ThinAutosaves(w.Context))
	if n := at(); n < 4 {
		t.Errorf("fresh ones were thinned to %d", n)
	}
	list, err := w.Library.Autosaves(w.Context, ref)
	w.Must(err)
	newest := list[0].ID
	for _, c := range []struct {
		wait        time.Duration
		least, most int
	}{{2 * time.Hour, 1, 2}, {48 * time.Hour, 1, 2}, {10 * 24 * time.Hour, 1, 1}, {31 * 24 * time.Hour, 0, 0}} {
		w.Wait(c.wait)
		w.Must(w.Writing.ThinAutosaves(w.Context))
		list, err := w.Library.Autosaves(w.Context, ref)
		w.Must(err)
		if len(list) < c.least || len(list) > c.most {
			t.Errorf("after %s %d are left", c.wait, len(list))
		}
		if len(list) > 0 && list[0].ID != newest {
			t.Errorf("after %s the newest is gone", c.wait)
		}
	}
}

func TestEarlierTextsAreComparedAndRestored(t *testing.T) {
	w := apptest.Open(t)
	c := w.Crew()
	ref := w.Draft(c.Author, w.Category(c.Author, "Bills"), "Pay a bill", "<p>Pay in ten days.</p>", audience.Everyone)
	w.Publish(c, ref)
	w.Wait(5 * time.Minute)
	w.Must(
		apptest.SaveText(
			w,
			c.Author,
			ref,
			"t",
			apptest.Text("Pay a bill late", "<p>Pay in twenty days.</p><p>More.</p>"),
		),
	)

	changed, err := w.Library.Changes(w.Context, ref, "1", library.TheCopy)
	w.Must(err)
	if changed.Body.Changed != 1 || changed.Body.Added != 1 ||
		!strings.Contains(changed.Body.HTML, "<del>ten</del><ins>twenty</ins>") ||
		len(changed.Title) != 2 {
		t.Errorf("changes %+v", changed)
	}
	a, err := w.Desk.ReadArticle(w.Context, c.Author, ref)
	w.Must(err)
	if apptest.KindOf(w.Writing.Restore(w.Context, c.Author, ref, "t", "99", a.Version)) != problem.NotFound {
		t.Error("a revision that is not there was restored")
	}
	w.Must(w.Writing.Restore(w.Context, c.Author, ref, "t", "1", a.Version))
	now, err := w.Desk.ReadArticle(w.Context, c.Author, ref)
	w.Must(err)
	if now.Copy.Body != "<p>Pay in ten days.</p>" || now.State != review.Drafting || now.LiveRevision != 1 {
		t.Errorf("restored %+v", now)
	}
	// What was there before restoring can be had back.
	list, err := w.Library.Autosaves(w.Context, ref)
	w.Must(err)
	found := false
	for _, v := range list {
		old, err := w.Library.ReadText(w.Context, ref, "autosave-"+apptest.Itoa(v.ID))
		w.Must(err)
		found = found || strings.Contains(old.Body, "twenty")
	}
	if !found {
		t.Error("the text before restoring is lost")
	}
	if apptest.KindOf(w.Writing.Restore(w.Context, c.Reviewer, ref, "t", "1", now.Version)) != problem.Denied {
		t.Error("a reviewer restored a text")
	}
}

func TestTemplatesLeaveArticlesAlone(t *testing.T) {
	w := apptest.Open(t)
	c := w.Crew()
	list, err := w.Library.Templates(w.Context)
	w.Must(err)
	if len(list) < 5 {
		t.Fatalf("%d templates ship", len(list))
	}
	fix := list[0]
	ref, err := w.Library.CreateArticle(
		w.Context,
		c.Author,
		library.NewArticle{
			CategoryID: w.Category(c.Author, "Bills"),
			TemplateID: fix.ID,
			Copy:       apptest.Text("The meter is dark", ""),
		},
	)
	w.Must(err)
	before, err := w.Desk.ReadArticle(w.Context, c.Author, ref)
	w.Must(err)
	if before.Kind != "fix" || !strings.Contains(before.Copy.Body, "<h2>What to do</h2>") ||
		len(before.Sections) != len(fix.Sections) {
		t.Errorf("begun as %+v", before)
	}
	changed := fix.Template
	changed.Sections = []article.Section{{Heading: "Other", Prompt: "x", Required: true}}
	if _, err := w.Library.KeepTemplate(
		w.Context,
		c.Author,
		fix.ID,
		changed,
		false,
	); apptest.KindOf(
		err,
	) != problem.Denied {
		t.Errorf("an author changed a template: %v", err)
	}
	w.Must(apptest.Second(w.Library.KeepTemplate(w.Context, c.Administrator, fix.ID, changed, true)))
	after, err := w.Desk.ReadArticle(w.Context, c.Author, ref)
	w.Must(err)
	if after.Copy.Body != before.Copy.Body || !slices.Equal(after.Sections, before.Sections) {
		t.Error("changing a template changed an article")
	}
	advice, err := w.Writing.Checks(w.Context, apptest.Reader, ref)
	w.Must(err)
	empty := 0
	for _, check := range advice.Checks {
		if check.Kind == prose.SectionEmpty {
			empty++
		}
	}
	if empty != 3 {
		t.Errorf("%d required sections are said to be empty", empty)
	}
	// An empty section is a check, not a blocked save.
	w.Must(apptest.SaveText(w, c.Author, ref, "t", apptest.Text("The meter is dark", before.Copy.Body+"<p>x</p>")))
	if _, err := w.Library.KeepTemplate(
		w.Context,
		c.Administrator,
		0,
		article.Template{Name: list[1].Name, Kind: "fix", Sections: changed.Sections},
		false,
	); apptest.KindOf(
		err,
	) != problem.Invalid {
		t.Errorf("two templates of one name: %v", err)
	}
}

func TestTheMarginKnowsTheLibraryAndTheCustomers(t *testing.T) {
	w := apptest.Open(t)
	c := w.Crew()
	category := w.Category(c.Author, "Bills")
	long := "<p>" + strings.Repeat(
		"You can change the day on which money is taken from your account as often as you like. ",
		3,
	) + "</p>"
	first := w.Draft(c.Author, category, "Change the payment day", long, audience.Everyone)
	w.Publish(c, first)
	ref := w.Draft(
		c.Author,
		category,
		"Change the day money is taken",
		long+`<p><a href="/help/articles/`+first+`">a</a> <a href="/help/articles/A-0999">b</a></p>`,
		audience.Everyone,
	)
	visitor := apptest.Visitor("k")
	for _, words := range []string{"direct debit date", "direct debit", "move my direct debit", "direct debit day", "payment day direct debit"} {
		visitor.Key += "x"
		w.Must(apptest.Second(w.Search.Search(w.Context, visitor, words)))
		w.Must(apptest.Second(w.HelpCentre.OpenPage(w.Context, visitor, "help", first)))
	}
	advice, err := w.Writing.Checks(w.Context, apptest.Reader, ref)
	w.Must(err)
	kinds := map[prose.CheckKind]string{}
	for _, check := range advice.Checks {
		kinds[check.Kind] = check.Message
	}
	if !strings.Contains(kinds[prose.NearDuplicate], first) ||
		!strings.Contains(kinds[prose.BrokenLink], "A-0999") {
		t.Errorf("checks %+v", kinds)
	}
	about, err := w.Writing.Checks(w.Context, apptest.Reader, first)
	w.Must(err)
	if len(about.Asked) != 5 || !slices.Contains(about.Keywords, "direct debit") {
		t.Errorf("asked %+v, suggested %q", about.Asked, about.Keywords)
	}

	key := advice.Checks[0].Key
	if apptest.KindOf(w.Library.Dismiss(w.Context, c.Agent, ref, key, "x")) != problem.Denied {
		t.Error("an agent set a note aside")
	}
	w.Must(w.Library.Dismiss(w.Context, c.Author, ref, key, "It is meant so."))
	after, err := w.Writing.Checks(w.Context, apptest.Reader, ref)
	w.Must(err)
	if len(after.Checks) != len(advice.Checks)-1 || after.Dismissed[0].Reason != "It is meant so." ||
		after.Dismissed[0].Who != "ada" {
		t.Errorf("after setting aside: %+v", after.Dismissed)
	}
	w.Must(w.Library.Dismiss(w.Context, c.Author, ref, key, ""))
	back, err := w.Writing.Checks(w.Context, apptest.Reader, ref)
	w.Must(err)
	if len(back.Checks) != len(advice.Checks) {
		t.Error("a dismissal could not be taken back")
	}
}

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
