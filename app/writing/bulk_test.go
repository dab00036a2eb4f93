package writing_test

import (
	"encoding/json"
	"testing"
	"time"

	"hermeneus/app/apptest"
	"hermeneus/app/evidence"
	"hermeneus/app/library"
	"hermeneus/app/lists"
	"hermeneus/app/notify"
	"hermeneus/app/problem"
	"hermeneus/app/review"
	"hermeneus/app/writing"
	"hermeneus/core/audience"
	corereview "hermeneus/core/review"
	"hermeneus/core/role"
	"hermeneus/store"
)

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
	); apptest.KindOf(err) != problem.Withdrawn {
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
	held := w.Draft(
		c.Author,
		category,
		"Held",
		"<p>a</p>",
		audience.Everyone,
	)
	live := w.Draft(
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
	w.Must(w.Accounts.People.ChangeStaff(w.Context, c.Administrator, c.Author.ID, role.Set{role.Agent}, false))
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
	w.Must(w.Review.Rechecks.Follow(w.Context, c.Reviewer, ref, true))
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
