package flows_test

import (
	"errors"
	"strings"
	"testing"
	"time"

	"hermeneus/app/apptest"
	"hermeneus/app/conversations"
	"hermeneus/app/evidence"
	"hermeneus/app/flows"
	"hermeneus/app/hours"
	"hermeneus/app/problem"
	"hermeneus/app/staff"
	"hermeneus/core/flow"
)

const script = `flow Questions (en)
hello: say Hello.
  de: Hallo.
what: choose What is it?
  de: Was ist es?
  - A bill
    de: Eine Rechnung
    ask postcode (text): Your postcode?
      de: Ihre Postleitzahl?
    go to flow second and back
    request Accounts: What shall we answer about [postcode, else "it"]?
      de: Was sollen wir zu [postcode, else "dem"] antworten?
  - Nothing
    de: Nichts
    close Bye.
      de: Tschüss.
close Good-bye.
  de: Auf Wiedersehen.
whenever a person is asked for: person
  hand over Accounts: I pass you on.
    de: Ich gebe Sie weiter.
    brief: about [postcode]
    stays
`

const second = `flow Second (en)
say The second flow speaks.
rate How was it?
`

// first publishes two flows, of which the first meets everybody.
func first(w *apptest.World, c apptest.Crew) {
	w.T.Helper()
	_, err := w.Flows.PublishFlow(w.Context, c.Publisher, "second", second+"close Bye.\n", 0)
	w.Must(err)
	w.Must(w.Flows.SetEntries(w.Context, c.Publisher, "second", nil))
	_, err = w.Flows.PublishFlow(w.Context, c.Publisher, "questions", script, 0)
	w.Must(err)
	w.Must(w.Flows.SetEntries(w.Context, c.Publisher, "questions", []flow.Entry{{Channel: "chat"}}))
}

func TestATextIsSavedWhateverIsWrongWithItAndPublishedOnlyIfSound(t *testing.T) {
	w := apptest.OpenIdle(t)
	c := w.Crew()
	slug, err := w.Flows.Create(w.Context, c.Author, flows.Beginning{Name: "  Opening   hours ", From: "hours"})
	w.Must(err)
	if slug != "opening-hours" {
		t.Errorf("slug %q", slug)
	}
	again, err := w.Flows.Create(w.Context, c.Author, flows.Beginning{Name: "Opening hours"})
	w.Must(err)
	if again != "opening-hours-2" {
		t.Errorf("the second is called %q", again)
	}
	view, err := w.Flows.Read(w.Context, c.Author, slug)
	w.Must(err)
	broken := "flow Opening hours (en)\nchoose What?\n\t- one\n   - two -> nowhere\n  maybe"
	save := flows.Save{Source: broken, Version: view.Copy, Tab: "a", Key: "k1"}
	version, err := w.Flows.Drafts.Save(w.Context, c.Author, slug, save)
	w.Must(err)
	same, err := w.Flows.Drafts.Save(w.Context, c.Author, slug, save)
	if err != nil || same != version {
		t.Errorf("the same save came again and gave %d, %v", same, err)
	}
	view, err = w.Flows.Read(w.Context, c.Author, slug)
	w.Must(err)
	if view.Source != broken || view.State != "draft" {
		t.Errorf("kept %q, %s", view.Source, view.State)
	}
	_, err = w.Flows.Publish(w.Context, c.Publisher, slug, version, "")
	var refused *problem.Problem
	if !errors.As(err, &refused) || len(refused.Fields) == 0 || !strings.HasPrefix(refused.Fields[0].Name, "line ") {
		t.Errorf("published with errors: %v", err)
	}
	if _, err = w.Flows.Drafts.Save(
		w.Context,
		c.Publisher,
		slug,
		flows.Save{Source: "x", Version: version, Tab: "b"},
	); apptest.KindOf(
		err,
	) != problem.Held {
		t.Errorf("two write at once: %v", err)
	}
	if _, err = w.Flows.Drafts.Save(
		w.Context,
		c.Author,
		slug,
		flows.Save{Source: "x", Version: version - 1, Tab: "a"},
	); apptest.KindOf(
		err,
	) != problem.StaleSave {
		t.Errorf("an older text was saved over a newer one: %v", err)
	}
	w.Must(w.Flows.Drafts.TakeOver(w.Context, c.Publisher, slug, "b"))
	version, err = w.Flows.Drafts.Save(w.Context, c.Publisher, slug, flows.Save{
		Source: "flow Opening hours (en)\nsay We are here.\nclose Bye.\n", Version: version, Tab: "b",
	})
	w.Must(err)
	if _, err = w.Flows.Publish(w.Context, c.Publisher, slug, version, " "); apptest.KindOf(err) != problem.Invalid {
		t.Errorf("warnings ask for no note: %v", err)
	}
	number, err := w.Flows.Publish(w.Context, c.Publisher, slug, version, "nobody asks for a person yet")
	w.Must(err)
	view, err = w.Flows.Read(w.Context, c.Author, slug)
	w.Must(err)
	if number != 1 || view.State != "live" || view.Changed || view.Version != 1 || len(view.Entries) != 1 {
		t.Errorf("published %d: %+v", number, view)
	}
	if _, err = w.Flows.Publish(w.Context, c.Publisher, slug, view.Copy, ""); apptest.KindOf(err) != problem.NotNow {
		t.Errorf("published again: %v", err)
	}
	states, err := w.Flows.Drafts.States(w.Context, slug)
	if err != nil || len(states) < 2 {
		t.Errorf("earlier states: %+v, %v", states, err)
	}
}

func TestVersionsAreComparedAndRolledBack(t *testing.T) {
	w := apptest.OpenIdle(t)
	c := w.Crew()
	first(w, c)
	changed := strings.Replace(script, "say Hello.", "say Good day.", 1)
	_, err := w.Flows.PublishFlow(w.Context, c.Publisher, "questions", changed, 1)
	w.Must(err)
	if _, err := w.Flows.PublishFlow(
		w.Context,
		c.Publisher,
		"questions",
		changed,
		1,
	); apptest.KindOf(
		err,
	) != problem.StaleSave {
		t.Errorf("published over a newer version: %v", err)
	}
	compared, err := w.Flows.Compare(w.Context, "questions", flows.Pair{Before: 1, After: 2})
	w.Must(err)
	var lines []string
	for _, l := range compared.Lines {
		if l.Change != "" {
			lines = append(lines, l.Change+" "+l.Text)
		}
	}
	if got := strings.Join(lines, "; "); got != "removed hello: say Hello.; added hello: say Good day." {
		t.Errorf("changes: %s", got)
	}
	number, err := w.Flows.RollBack(w.Context, c.Publisher, "questions", 1, "")
	w.Must(err)
	source, _, err := w.Flows.ReadVersion(w.Context, "questions", number)
	w.Must(err)
	if number != 3 || source != script {
		t.Errorf("version %d is not the first again: %s", number, source)
	}
}

// A conversation goes through another flow and back, tells the agent what was said, and leaves every move.
func TestAConversationThroughTwoFlows(t *testing.T) {
	w := apptest.OpenIdle(t)
	c := w.Crew()
	first(w, c)
	v := evidence.Visitor{Key: "k", Language: "de"}
	token, err := w.Conversations.StartChat(w.Context, v)
	w.Must(err)
	say := func(kind flow.InputKind, text string) conversations.ChatView {
		t.Helper()
		w.Must(w.Conversations.SayInChat(w.Context, v, token, flow.Input{Kind: kind, Text: text}))
		view, err := w.Conversations.ReadChat(w.Context, v, token, 0)
		w.Must(err)
		return view
	}
	say(flow.Words, "rechnung")
	view := say(flow.Words, "AB1 2CD")
	if got := view.Messages[len(view.Messages)-1]; got.Text != "How was it?" || view.Waiting != flow.ForMark {
		t.Errorf("%q, %s", got.Text, view.Waiting)
	}
	// The first flow is published anew meanwhile: the conversation ends on the version that it began with.
	_, err = w.Flows.PublishFlow(w.Context, c.Publisher, "second", strings.Replace(second, "say", "close", 1), 1)
	w.Must(err)
	view = say(flow.Words, "4")
	if got := view.Messages[len(view.Messages)-1].Text; got != "Bye." {
		t.Errorf("after the other flow: %q", got)
	}
	var moves []struct{ FromTurn, ToTurn, Why string }
	w.Must(w.DB().Raw(`SELECT from_turn, to_turn, why FROM flow_moves ORDER BY id`).Scan(&moves).Error)
	var path []string
	for _, m := range moves {
		path = append(path, m.ToTurn+" ("+m.Why+")")
	}
	want := "hello (begin); what (next); your-postcode (typed); go-to-second (given); the-second-flow-speaks (go to); how-was-it (next); bye (high)"
	if got := strings.Join(path, "; "); got != want {
		t.Errorf("moves\n%s\nwant\n%s", got, want)
	}
	w.Must(w.Flows.CountMoves(w.Context))
	w.Must(w.Flows.CountMoves(w.Context))
	var counted, kept int64
	w.Must(w.DB().Raw(`SELECT coalesce(sum(moves), 0) FROM flow_move_days`).Scan(&counted).Error)
	w.Must(w.DB().Raw(`SELECT count(*) FROM flow_moves`).Scan(&kept).Error)
	if counted != kept || kept == 0 {
		t.Errorf("%d moves are counted of %d", counted, kept)
	}
	w.Wait(800 * 24 * time.Hour)
	w.Must(w.Flows.EndMoves(w.Context))
	w.Must(w.DB().Raw(`SELECT count(*) FROM flow_moves`).Scan(&kept).Error)
	if kept != 0 {
		t.Errorf("%d moves are older than they may be", kept)
	}
}

// What the bot says of a team is so: its hours, and who is here with room for one more.
func TestTheBotPromisesNothingElse(t *testing.T) {
	w := apptest.OpenIdle(t)
	c := w.Crew()
	first(w, c)
	ask := func() string {
		t.Helper()
		v := evidence.Visitor{Key: "k"}
		token, err := w.Conversations.StartChat(w.Context, v)
		w.Must(err)
		w.Must(w.Conversations.SayInChat(w.Context, v, token, flow.Input{Kind: flow.WantPerson}))
		view, err := w.Conversations.ReadChat(w.Context, v, token, 0)
		w.Must(err)
		for i := len(view.Messages) - 1; i >= 0; i-- {
			if view.Messages[i].Speaker == "bot" {
				return view.Messages[i].Text
			}
		}
		return ""
	}
	own := flow.In("en")
	if got := ask(); got != "I pass you on." {
		t.Errorf("free: %q", got)
	}
	for _, who := range []staff.Staff{c.Agent} {
		w.Must(w.Hours.SetPresence(w.Context, who, who.ID, hours.Presence{Here: true, Chats: 1}))
	}
	lines, err := w.Conversations.Handoffs(w.Context, c.Agent)
	w.Must(err)
	w.Must(w.Conversations.Accept(w.Context, c.Agent, lines[0].Reference))
	if got := ask(); got != own.Busy {
		t.Errorf("with hands full: %q", got)
	}
	w.Must(w.Hours.SetPresence(w.Context, c.Agent, c.Agent.ID, hours.Presence{}))
	if got := ask(); got != own.Closed {
		t.Errorf("away: %q", got)
	}
	w.Must(w.Hours.SetPresence(w.Context, c.Agent, c.Agent.ID, hours.Presence{Here: true}))
	openings, err := w.Hours.ReadOpenings(w.Context)
	w.Must(err)
	for _, o := range openings.List {
		if o.Name == "Accounts" {
			w.Must(
				w.Hours.SetOpening(
					w.Context,
					c.Administrator,
					"team",
					o.ID,
					hours.OpeningSetting{Week: make([]string, 7)},
				),
			)
		}
	}
	if got := ask(); got != own.Closed {
		t.Errorf("closed: %q", got)
	}
}

// What a live flow leans on ends: its owner is told once, it stands on Today, and nobody gets an empty message meanwhile.
func TestALiveFlowIsCheckedAgain(t *testing.T) {
	w, c := apptest.OpenWithCrew(t)
	w.Must(w.Flows.CheckLive(w.Context))
	news := func() (told int) {
		t.Helper()
		page, err := w.Notify.News(w.Context, c.Publisher, "flow_fault", 1)
		w.Must(err)
		return len(page.Items)
	}
	if today, err := w.Desk.Today(w.Context, c.Publisher); err != nil || len(today.Flows) != 0 || news() != 0 {
		t.Fatalf("%+v, %v", today.Flows, err)
	}
	w.Must(w.DB().Exec(`UPDATE staff SET disabled_at = now() WHERE name = 'gus' OR id = ?`, c.Agent.ID).Error)
	for range 2 {
		w.Must(w.Flows.CheckLive(w.Context))
	}
	today, err := w.Desk.Today(w.Context, c.Publisher)
	w.Must(err)
	if len(today.Flows) != 1 || today.Flows[0].Faults == 0 || today.Flows[0].FaultsSince == nil || news() != 1 {
		t.Errorf("%+v, told %d times", today.Flows, news())
	}
	v := evidence.Visitor{Key: "k"}
	token, err := w.Conversations.StartChat(w.Context, v)
	w.Must(err)
	w.Must(w.Conversations.SayInChat(w.Context, v, token, flow.Input{Kind: flow.WantPerson}))
	view, err := w.Conversations.ReadChat(w.Context, v, token, 0)
	w.Must(err)
	for _, m := range view.Messages {
		if m.Text == "" {
			t.Errorf("an empty message: %+v", m)
		}
	}
	w.Must(w.DB().Exec(`UPDATE staff SET disabled_at = NULL WHERE id = ?`, c.Agent.ID).Error)
	w.Must(w.Flows.CheckLive(w.Context))
	if today, err := w.Desk.Today(w.Context, c.Publisher); err != nil || len(today.Flows) != 0 {
		t.Errorf("mended: %+v, %v", today.Flows, err)
	}
}
