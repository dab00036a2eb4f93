package flows_test

import (
	"errors"
	"reflect"
	"strings"
	"testing"

	"hermeneus/app/apptest"
	"hermeneus/app/flows"
	"hermeneus/app/problem"
	"hermeneus/core/flow"
)

func refused(t *testing.T, what string, err error) {
	t.Helper()
	var p *problem.Problem
	if !errors.As(err, &p) {
		t.Errorf("%s: %v", what, err)
	}
}

// A kept rehearsal that goes otherwise is an error of the script: it is not published until somebody mends it or says
// that it should go so. Going back to an earlier version does not wait for that.
func TestARehearsalMustPassToBePublished(t *testing.T) {
	w := apptest.Open(t)
	c := w.Crew()
	const script = "flow Bills (en)\nchoose What is it?\n  - My bill\n    say It is fine.\n  - Nothing\nclose Bye.\n"
	other := strings.Replace(script, "It is fine.", "It is high.", 1)
	slug, err := w.Flows.Create(w.Context, c.Author, flows.Beginning{Name: "Bills", Language: "en"})
	w.Must(err)
	version := 0
	save := func(text string) {
		view, err := w.Flows.Read(w.Context, c.Author, slug)
		w.Must(err)
		version, err = w.Flows.Drafts.Save(w.Context, c.Author, slug, flows.Save{Source: text, Version: view.Copy})
		w.Must(err)
	}
	publish := func() error {
		_, err := w.Flows.Publish(w.Context, c.Publisher, slug, version, "as it is")
		return err
	}
	save(other)
	w.Must(publish())
	save(script)
	w.Must(publish())

	trial := flows.FlowTrial{
		Source: script,
		Slug:   slug,
		Inputs: []flow.ExampleStep{{Kind: flow.Choice, Text: "My bill"}},
	}
	kept, err := w.Flows.Rehearsals.Keep(w.Context, c.Author, slug, " My bill ", trial)
	w.Must(err)
	if kept.Name != "My bill" || !kept.Same {
		t.Errorf("it is kept as %+v", kept)
	}
	refused(
		t,
		"a second of the name",
		apptest.Second(w.Flows.Rehearsals.Keep(w.Context, c.Author, slug, "My bill", trial)),
	)
	refused(t, "without a name", apptest.Second(w.Flows.Rehearsals.Keep(w.Context, c.Author, slug, " ", trial)))
	not := trial
	not.Inputs = []flow.ExampleStep{{Kind: flow.Choice, Text: "Free beer"}}
	refused(t, "what is not taken", apptest.Second(w.Flows.Rehearsals.Keep(w.Context, c.Author, slug, "Beer", not)))
	refused(t, "by an agent", apptest.Second(w.Flows.Rehearsals.Keep(w.Context, c.Agent, slug, "Mine", trial)))

	save(other)
	checked, err := w.Flows.Check(w.Context, slug, other)
	w.Must(err)
	if checked.Errors != 1 || len(checked.Rehearsals) != 1 || checked.Rehearsals[0].Same ||
		!strings.Contains(checked.Faults[len(checked.Faults)-1].Message, "“My bill” goes otherwise") {
		t.Errorf("the checks say %+v", checked)
	}
	refused(t, "publishing it", publish())
	_, err = w.Flows.RollBack(w.Context, c.Publisher, slug, 1, "")
	w.Must(err)

	save(strings.Replace(other, "Bye.", "Good-bye.", 1))
	refused(t, "publishing what still goes otherwise", publish())
	view, err := w.Flows.Read(w.Context, c.Author, slug)
	w.Must(err)
	w.Must(w.Flows.Rehearsals.Accept(w.Context, c.Author, slug, kept.ID, view.Source))
	w.Must(publish())

	file, err := w.Flows.Rehearsals.Read(w.Context, slug, kept.ID)
	w.Must(err)
	if went := flow.Rehearse(flow.Compile(flow.Read(view.Source).Script), file, nil); !went.Same {
		t.Errorf("out of a file it goes otherwise: %+v", went)
	}
	w.Must(w.Flows.Rehearsals.Remove(w.Context, c.Author, slug, kept.ID))
	refused(t, "what is removed", w.Flows.Rehearsals.Remove(w.Context, c.Author, slug, kept.ID))
}

// What is accepted is what the checks show: the conversation in the world that is kept, not in that of the moment.
func TestARehearsalIsAcceptedInItsOwnWorld(t *testing.T) {
	w := apptest.Open(t)
	c := w.Crew()
	var team string
	w.Must(w.DB().Raw(`SELECT t.name FROM teams t JOIN staff s ON s.team_id = t.id WHERE s.id = ?`, c.Agent.ID).
		Scan(&team).Error)
	script := "flow Help (en)\nsay Hello.\nhand over " + team + ": I pass you on.\n"
	slug, err := w.Flows.Create(w.Context, c.Author, flows.Beginning{Name: "Help", Language: "en"})
	w.Must(err)
	kept, err := w.Flows.Rehearsals.Keep(w.Context, c.Author, slug, "By day", flows.FlowTrial{Source: script})
	w.Must(err)
	before, err := w.Flows.Rehearsals.Read(w.Context, slug, kept.ID)
	w.Must(err)
	w.Must(w.DB().Exec(`UPDATE staff SET here = NOT here`).Error)
	changed := strings.Replace(script, "Hello.", "Good day.", 1)
	w.Must(w.Flows.Rehearsals.Accept(w.Context, c.Author, slug, kept.ID, changed))
	after, err := w.Flows.Rehearsals.Read(w.Context, slug, kept.ID)
	w.Must(err)
	if after.Lines[0].Text != "Good day." || !reflect.DeepEqual(after.Lines[1:], before.Lines[1:]) {
		t.Errorf("kept as %+v, accepted as %+v", before.Lines, after.Lines)
	}
	if state, err := w.Flows.Rehearsals.Try(w.Context, c.Author, flows.FlowTrial{Source: script}); err != nil ||
		len(state.Lines) == len(before.Lines) && state.Lines[1].Text == before.Lines[1].Text {
		t.Errorf("the moment makes no difference: %+v, %v", state.Lines, err)
	}
	gone := "flow Help (en)\nclose Bye.\n"
	kept, err = w.Flows.Rehearsals.Keep(w.Context, c.Author, slug, "Words", flows.FlowTrial{
		Source: "flow Help (en)\nask reading (text): What?\nclose Bye.\n",
		Inputs: []flow.ExampleStep{{Kind: flow.Words, Text: "12"}},
	})
	w.Must(err)
	refused(t, "accepting what is not taken", w.Flows.Rehearsals.Accept(w.Context, c.Author, slug, kept.ID, gone))
}

// A trial can be had as a customer, by whoever may see customers; it is not kept.
func TestAFlowIsTriedAsACustomer(t *testing.T) {
	w := apptest.Open(t)
	c := w.Crew()
	w.Must(
		w.DB().
			Exec(`INSERT INTO customers (name, email, password_hash, created_at) VALUES ('Bo Marsh', 'bo@post.example', '', now())`).
			Error,
	)
	trial := flows.FlowTrial{
		Source: "flow Hello (en)\nsay Hello [name, else \"you\"].\nclose Bye.\n",
		World:  flow.ExampleWorld{Customer: "BO@post.example"},
	}
	state, err := w.Flows.Rehearsals.Try(w.Context, c.Administrator, trial)
	w.Must(err)
	if len(state.Lines) == 0 || state.Lines[0].Text != "Hello Bo Marsh." {
		t.Errorf("the bot says %+v", state.Lines)
	}
	refused(t, "by an author", apptest.Second(w.Flows.Rehearsals.Try(w.Context, c.Author, trial)))
	trial.World.Customer = "nobody@post.example"
	refused(t, "as nobody", apptest.Second(w.Flows.Rehearsals.Try(w.Context, c.Administrator, trial)))
	slug, err := w.Flows.Create(w.Context, c.Author, flows.Beginning{Name: "Hello", Language: "en"})
	w.Must(err)
	trial.World.Customer = "bo@post.example"
	refused(t, "kept", apptest.Second(w.Flows.Rehearsals.Keep(w.Context, c.Author, slug, "Bo", trial)))
}
