package flows_test

import (
	"strings"
	"testing"

	"hermeneus/app/apptest"
	"hermeneus/app/flows"
	"hermeneus/app/problem"
	"hermeneus/app/staff"
	"hermeneus/core/review"
	"hermeneus/core/role"
)

// A flow with a review path goes live once every gate was passed, by somebody else than who wrote it, and only the text
// that was looked at.
func TestAFlowGoesThroughItsPath(t *testing.T) {
	w := apptest.Open(t)
	c := w.Crew()
	first(w, c)
	paths, err := w.Review.Paths(w.Context)
	w.Must(err)
	path := paths[0].ID
	w.Must(w.Flows.Reviews.SetPath(w.Context, c.Administrator, "questions", path))
	if err := w.Flows.Reviews.SetPath(w.Context, c.Publisher, "questions", 0); apptest.KindOf(err) != problem.Denied {
		t.Errorf("a publisher took the path away: %v", err)
	}
	read := func(by staff.Staff) flows.FlowView {
		t.Helper()
		view, err := w.Flows.Read(w.Context, by, "questions")
		w.Must(err)
		return view
	}
	write := func(from, to string) {
		t.Helper()
		view := read(c.Author)
		_, err := w.Flows.Drafts.Save(w.Context, c.Author, "questions", flows.Save{
			Source: strings.Replace(view.Source, from, to, 1), Version: view.Copy, Tab: "t",
		})
		w.Must(err)
		w.Must(w.Flows.Drafts.LetGo(w.Context, c.Author, "questions", "t"))
	}
	step := func(by staff.Staff, action review.Action, note string) error {
		t.Helper()
		return w.Flows.Reviews.Move(w.Context, by, "questions", flows.FlowStep{
			Action: action, Copy: read(by).Copy, Note: note,
		})
	}
	publish := func(by staff.Staff) error {
		_, err := w.Flows.Publish(w.Context, by, "questions", read(by).Copy, "new words")
		return err
	}

	write("say Hello.", "say Good day.")
	if err := publish(c.Publisher); apptest.KindOf(err) != problem.NotNow {
		t.Errorf("published past its gate: %v", err)
	}
	if _, err := w.Flows.PublishFlow(
		w.Context,
		c.Publisher,
		"questions",
		script,
		1,
	); apptest.KindOf(
		err,
	) != problem.NotNow {
		t.Errorf("brought in past its gate: %v", err)
	}
	write("say Good day.", "say Good day.\n  nonsense: here")
	write("\n  nonsense: here", "")
	w.Must(step(c.Author, review.Submit, ""))
	waits, err := w.Flows.Reviews.InReview(w.Context, c.Reviewer)
	w.Must(err)
	if len(waits) != 1 || !waits[0].Mine || waits[0].Gate != "Review" {
		t.Errorf("waits for the reviewer: %+v", waits)
	}
	news, err := w.Notify.News(w.Context, c.Reviewer, "", 0)
	w.Must(err)
	if len(news.Items) == 0 || news.Items[0].Path != "/flows/questions" {
		t.Errorf("the reviewer was told %+v", news.Items)
	}
	own := c.Author
	own.Roles = role.Set{role.Author, role.Reviewer}
	if err := step(own, review.Approve, ""); apptest.KindOf(err) != problem.Denied {
		t.Errorf("the author let it pass: %v", err)
	}
	if err := step(c.Reviewer, review.SendBack, ""); apptest.KindOf(err) != problem.NotNow {
		t.Errorf("sent back without a word: %v", err)
	}
	w.Must(step(c.Reviewer, review.SendBack, "Say it warmer."))
	if way := read(c.Author).Way; way.State != review.SentBack || way.Decisions[0].Note != "Say it warmer." {
		t.Errorf("sent back: %+v", way)
	}
	w.Must(step(c.Author, review.Submit, ""))
	w.Must(step(c.Reviewer, review.Approve, ""))
	write("say Good day.", "say Good day to you.") // not what was looked at
	if view := read(c.Publisher); view.Way.State != review.Drafting || view.MayLive {
		t.Errorf("after a change it stands as %+v", view.Way)
	}
	w.Must(step(c.Author, review.Submit, ""))
	if err := w.Flows.Reviews.Move(
		w.Context,
		c.Reviewer,
		"questions",
		flows.FlowStep{Action: review.Approve, Copy: 1},
	); apptest.KindOf(
		err,
	) != problem.StaleSave {
		t.Errorf("let an older text pass: %v", err)
	}
	w.Must(step(c.Reviewer, review.Approve, ""))
	if err := publish(c.Author); apptest.KindOf(err) != problem.Denied {
		t.Errorf("an author published: %v", err)
	}
	w.Must(publish(c.Publisher))
	if view := read(c.Publisher); view.Changed || view.Version != 2 || view.Way.State != review.Drafting {
		t.Errorf("published: %+v", view.FlowLine)
	}
	if err := w.Review.RetirePath(w.Context, c.Administrator, path); apptest.KindOf(err) != problem.NotNow {
		t.Errorf("retired while a flow uses it: %v", err)
	}
}

// What somebody typed and did not save, since somebody else had, is kept; every earlier state can be put back.
func TestWhatWasNotSavedIsKeptAside(t *testing.T) {
	w := apptest.Open(t)
	c := w.Crew()
	first(w, c)
	view, err := w.Flows.Read(w.Context, c.Author, "second")
	w.Must(err)
	mine := view.Source + "say Mine.\n"
	_, err = w.Flows.Drafts.Save(w.Context, c.Publisher, "second", flows.Save{
		Source: view.Source + "say Theirs.\n", Version: view.Copy, Tab: "p",
	})
	w.Must(err)
	_, err = w.Flows.Drafts.Save(w.Context, c.Author, "second", flows.Save{Source: mine, Version: view.Copy, Tab: "a"})
	if apptest.KindOf(err) != problem.StaleSave {
		t.Fatalf("saved over somebody: %v", err)
	}
	w.Must(w.Flows.Drafts.KeepAside(w.Context, c.Author, "second", mine))
	w.Must(w.Flows.Drafts.LetGo(w.Context, c.Publisher, "second", "p"))
	states, err := w.Flows.Drafts.States(w.Context, "second")
	w.Must(err)
	var aside int64
	for _, s := range states {
		if source, err := w.Flows.Drafts.ReadState(w.Context, "second", s.ID); err == nil && source == mine {
			aside = s.ID
		}
	}
	if view, err = w.Flows.Read(w.Context, c.Author, "second"); err != nil {
		t.Fatal(err)
	}
	compared, err := w.Flows.Compare(w.Context, "second", flows.Pair{State: aside})
	w.Must(err)
	changes := 0
	for _, l := range compared.Lines {
		if l.Change != "" {
			changes++
		}
	}
	if changes != 2 {
		t.Errorf("%d lines differ from what was kept aside", changes)
	}
	_, err = w.Flows.Drafts.PutBack(w.Context, c.Author, "second", aside, flows.Save{Version: view.Copy, Tab: "a"})
	w.Must(err)
	after, err := w.Flows.Read(w.Context, c.Author, "second")
	w.Must(err)
	if after.Source != mine {
		t.Errorf("put back: %q", after.Source)
	}
	kept := false
	states, err = w.Flows.Drafts.States(w.Context, "second")
	w.Must(err)
	for _, s := range states {
		source, err := w.Flows.Drafts.ReadState(w.Context, "second", s.ID)
		w.Must(err)
		kept = kept || source == view.Source
	}
	if !kept {
		t.Error("the text that stood there is not among the earlier states")
	}
}
