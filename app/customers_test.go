package app_test

import (
	"bytes"
	"encoding/json"
	"fmt"
	"strings"
	"testing"
	"time"

	"hermeneus/app/accounts"
	"hermeneus/app/apptest"
	"hermeneus/app/conversations"
	"hermeneus/app/evidence"
	"hermeneus/app/outcomes"
	"hermeneus/app/problem"
	"hermeneus/app/requests"
	"hermeneus/core/audience"
	"hermeneus/core/flow"
	"hermeneus/core/outcome"
	"hermeneus/core/role"
)

func TestASearchIsEvidenceFromAskingToVoting(t *testing.T) {
	w, _ := apptest.OpenWithCrew(t)
	v := apptest.Visitor("k")
	for range 2 { // a reload is not asking again
		_, err := w.Search.Search(w.Context, v, "estimated bill, write to me@post.example")
		w.Must(err)
	}
	_, err := w.HelpCentre.OpenPage(w.Context, v, outcome.Help, "A-0001")
	w.Must(err)
	if apptest.KindOf(w.HelpCentre.MarkRead(w.Context, v, outcome.Help, "A-0001", time.Minute)) != problem.NotNow {
		t.Error("an article was read before there was time to")
	}
	w.Wait(15 * time.Second)
	if apptest.KindOf(w.HelpCentre.MarkRead(w.Context, v, outcome.Help, "A-0001", time.Second)) != problem.NotNow {
		t.Error("an article was read that was hardly visible")
	}
	w.Must(w.HelpCentre.MarkRead(w.Context, v, outcome.Help, "A-0001", 12*time.Second))
	_, err = w.Search.Search(w.Context, v, "estimated bill, write to me@post.example") // back to the results
	w.Must(err)
	w.Must(w.HelpCentre.Vote(w.Context, v, "A-0001", true, ""))
	w.Must(w.HelpCentre.Vote(w.Context, v, "A-0001", true, "thank you"))
	w.Must(w.HelpCentre.Vote(w.Context, v, "A-0001", false, "not after all"))
	apptest.Expect(t, apptest.Kept(w), `help asked estimated bill, write to [mail address]
		help offered A-0001@1
		help opened A-0001@1
		help read A-0001@1
		help helped A-0001@1
		help not_helped A-0001@1`)
}

func TestStaffPreviewsAndCrawlersLeaveNoEvidence(t *testing.T) {
	w, _ := apptest.OpenWithCrew(t)
	for _, v := range []evidence.Visitor{{Key: "k", Preview: true}, {Key: "k", Crawler: true}} {
		_, err := w.Search.Search(w.Context, v, "bill")
		w.Must(err)
		_, err = w.HelpCentre.OpenPage(w.Context, v, outcome.Help, "A-0001")
		w.Must(err)
		w.Must(w.HelpCentre.Vote(w.Context, v, "A-0001", true, ""))
		token, err := w.Conversations.StartChat(w.Context, v)
		w.Must(err)
		w.Must(w.Conversations.SayInChat(w.Context, v, token, flow.Input{Kind: flow.WantPerson}))
		view, err := w.Conversations.ReadChat(w.Context, evidence.Visitor{}, token, 0)
		w.Must(err)
		if v.Preview && (!view.Rehearsal || view.Reference != "" || view.Status != "closed") {
			t.Errorf("the rehearsal entered the queue: %+v", view)
		}
	}
	if _, err := w.Requests.SendRequest(
		w.Context,
		evidence.Visitor{Preview: true},
		requests.NewRequest{},
	); apptest.KindOf(
		err,
	) != problem.NotNow {
		t.Errorf("a preview sent a request: %v", err)
	}
	apptest.Expect(t, apptest.Kept(w), "")
}

func TestTheBotLeadsToAPersonWhoAnswers(t *testing.T) {
	w, c := apptest.OpenWithCrew(t)
	v := apptest.Visitor("k")
	token, err := w.Conversations.StartChat(w.Context, v)
	w.Must(err)
	say := func(kind flow.InputKind, text string) {
		t.Helper()
		w.Must(w.Conversations.SayInChat(w.Context, v, token, flow.Input{Kind: kind, Text: text}))
	}
	say(flow.Choice, "My bill")
	page, err := w.Conversations.OpenInChat(w.Context, v, token, "A-0001")
	w.Must(err)
	if page.Title == "" {
		t.Error("the page is empty")
	}
	say(flow.Choice, flow.No)
	say(flow.Words, "are you there?")

	lines, err := w.Conversations.Handoffs(w.Context, c.Agent)
	w.Must(err)
	if len(lines) != 1 || lines[0].Status != "waiting" || lines[0].Team != "Accounts" || lines[0].Subject != "My bill" {
		t.Fatalf("the queue: %+v", lines)
	}
	ref := lines[0].Reference
	h, err := w.Conversations.ReadHandoff(w.Context, c.Agent, ref)
	w.Must(err)
	if h.Reference != ref || len(h.Brief.Path) != 3 || len(h.Brief.Shown) != 1 ||
		h.Brief.Shown[0].Verdict != "not_helped" ||
		!h.Brief.Shown[0].Opened {
		t.Errorf("the brief: %+v", h)
	}
	if apptest.KindOf(
		w.Conversations.Reply(w.Context, c.Agent, ref, conversations.AgentReply{Text: "hello"}),
	) != problem.NotNow {
		t.Error("an agent answered what nobody had accepted")
	}
	w.Must(w.Conversations.Accept(w.Context, c.Agent, ref))
	other := w.Hire("una", role.Agent)
	if apptest.KindOf(w.Conversations.Accept(w.Context, other, ref)) != problem.NotNow ||
		apptest.KindOf(
			w.Conversations.Reply(w.Context, other, ref, conversations.AgentReply{Text: "mine"}),
		) != problem.NotNow {
		t.Error("two agents have one conversation")
	}
	suggested, err := w.Conversations.SuggestForReply(w.Context, c.Agent, ref, "")
	w.Must(err)
	if len(suggested) != 1 {
		t.Errorf("suggested %+v", suggested)
	}
	w.Must(
		w.Conversations.Reply(
			w.Context,
			c.Agent,
			ref,
			conversations.AgentReply{Text: "I put it right.", Articles: []string{"A-0001"}},
		),
	)
	w.Must(w.Conversations.Reply(w.Context, c.Agent, ref, conversations.AgentReply{Text: "Anything else?"}))
	w.Must(w.Conversations.CloseHandoff(w.Context, c.Agent, ref))
	if err := w.Conversations.SayInChat(
		w.Context,
		v,
		token,
		flow.Input{Kind: flow.Words, Text: "thanks"},
	); apptest.KindOf(
		err,
	) != problem.NotNow {
		t.Errorf("words after the end: %v", err)
	}
	view, err := w.Conversations.ReadChat(w.Context, evidence.Visitor{}, token, 0)
	w.Must(err)
	last := view.Messages[len(view.Messages)-3]
	if view.Status != "closed" || last.Text != "I put it right." || last.Name != "gus" || len(last.Cards) != 1 {
		t.Errorf("the customer sees %+v", view)
	}
	apptest.Expect(t, apptest.Kept(w), `chat asked My bill turn:hello
		chat offered turn:bill A-0001@1
		chat opened A-0001@1
		chat not_helped A-0001@1
		chat handed_off `+ref+` Accounts
		chat agent_answered `+ref+` agent:4`)
}

func TestWithNobodyThereTheBotTakesARequest(t *testing.T) {
	w, c := apptest.OpenWithCrew(t)
	w.Must(w.Accounts.ChangeStaff(w.Context, c.Administrator, c.Agent.ID, role.Set{role.Agent}, true))
	v := apptest.Visitor("k")
	token, err := w.Conversations.StartChat(w.Context, v)
	w.Must(err)
	for _, words := range []string{"a person please", "my bill is wrong", "wim@post.example"} {
		w.Must(w.Conversations.SayInChat(w.Context, v, token, flow.Input{Kind: flow.Words, Text: words}))
	}
	una := w.Hire("una", role.Agent)
	lines, err := w.Conversations.Handoffs(w.Context, una)
	w.Must(err)
	if len(lines) != 1 || lines[0].Kind != "request" || lines[0].Customer != "wim@post.example" ||
		!strings.HasPrefix(lines[0].Reference, "R-") {
		t.Fatalf("the queue: %+v", lines)
	}
	w.Must(w.Conversations.Accept(w.Context, una, lines[0].Reference))
	w.Must(
		w.Conversations.Reply(w.Context, una, lines[0].Reference, conversations.AgentReply{Text: "We looked into it."}),
	)
	view, err := w.Conversations.ReadChat(w.Context, evidence.Visitor{}, token, 0)
	w.Must(err)
	if view.Status != "with_agent" || view.Messages[len(view.Messages)-1].Text != "We looked into it." {
		t.Errorf("the customer sees %+v", view)
	}
}

func TestAnAgentCannotShowACustomerWhatIsNotForThem(t *testing.T) {
	w, c := apptest.OpenWithCrew(t)
	secret := w.Draft(c.Author, w.Category(c.Author, "Inside"), "Limits", "<p>x</p>", audience.SignedIn)
	w.Publish(c, secret)
	sent, err := w.Requests.SendRequest(
		w.Context,
		apptest.Visitor("k"),
		requests.NewRequest{Subject: "limits", Text: "which?", Address: "a@post.example"},
	)
	w.Must(err)
	w.Must(w.Conversations.Accept(w.Context, c.Agent, sent.Reference))
	if apptest.KindOf(
		w.Conversations.Reply(
			w.Context,
			c.Agent,
			sent.Reference,
			conversations.AgentReply{Text: "see", Articles: []string{secret}},
		),
	) != problem.Invalid {
		t.Error("it was shown")
	}
	if found, _ := w.Conversations.SuggestForReply(w.Context, c.Agent, sent.Reference, "limits"); len(found) != 0 {
		t.Errorf("it was suggested: %+v", found)
	}
}

func TestAStepThatFailsLeavesNothingBehind(t *testing.T) {
	w, _ := apptest.OpenWithCrew(t)
	v := apptest.Visitor("k")
	token, err := w.Conversations.StartChat(w.Context, v)
	w.Must(err)
	before, err := w.Conversations.ReadChat(w.Context, evidence.Visitor{}, token, 0)
	w.Must(err)
	if apptest.KindOf(
		w.Conversations.SayInChat(w.Context, v, token, flow.Input{Kind: flow.Choice, Text: "no such choice"}),
	) != problem.NotNow {
		t.Error("a choice that is none was taken")
	}
	after, err := w.Conversations.ReadChat(w.Context, evidence.Visitor{}, token, 0)
	w.Must(err)
	if len(after.Messages) != len(before.Messages) {
		t.Error("the message of a refused step was kept")
	}
	apptest.Expect(t, apptest.Kept(w), "")
}

func TestChangesReachOtherInstances(t *testing.T) {
	w, c := apptest.OpenWithCrew(t)
	other := w.Another()
	v := apptest.Visitor("k")
	token, err := w.Conversations.StartChat(w.Context, v)
	w.Must(err)
	bell, stop, err := other.Conversations.WatchChat(w.Context, token)
	w.Must(err)
	defer stop()
	queue, stopQueue, err := other.Conversations.WatchHandoffs(c.Agent)
	w.Must(err)
	defer stopQueue()
	w.Must(w.Conversations.SayInChat(w.Context, v, token, flow.Input{Kind: flow.WantPerson}))
	for name, ring := range map[string]<-chan struct{}{"the customer's": bell, "the agents'": queue} {
		select {
		case <-ring:
		case <-time.After(5 * time.Second):
			t.Errorf("%s bell on the other instance did not ring", name)
		}
	}
	w.Publish(c, w.Draft(c.Author, w.Category(c.Author, "New"), "Heat pumps", "<p>x</p>", audience.Everyone))
	w.Eventually(func() bool {
		found, err := other.Search.Search(w.Context, evidence.Visitor{Preview: true}, "heat pumps")
		return err == nil && len(found) == 1
	})
}

func TestRunningConversationsKeepTheirVersion(t *testing.T) {
	w, c := apptest.OpenWithCrew(t)
	v := apptest.Visitor("k")
	token, err := w.Conversations.StartChat(w.Context, v)
	w.Must(err)
	changed := strings.ReplaceAll(apptest.DoorFlow, "This may help.", "Read this.")
	if _, err := w.Flows.PublishFlow(
		w.Context,
		c.Publisher,
		conversations.FrontDoor,
		changed,
		0,
	); apptest.KindOf(
		err,
	) != problem.StaleSave {
		t.Errorf("a script made from an older version: %v", err)
	}
	_, err = w.Flows.PublishFlow(w.Context, c.Publisher, conversations.FrontDoor, changed, 1)
	w.Must(err)
	w.Must(w.Conversations.SayInChat(w.Context, v, token, flow.Input{Kind: flow.Choice, Text: "My bill"}))
	view, err := w.Conversations.ReadChat(w.Context, evidence.Visitor{}, token, 0)
	w.Must(err)
	if last := view.Messages[len(view.Messages)-1]; last.Text != "This may help." {
		t.Errorf("the bot says %q", last.Text)
	}
	if _, err := w.Flows.PublishFlow(
		w.Context,
		c.Publisher,
		conversations.FrontDoor,
		strings.Replace(apptest.DoorFlow, `"start": "hello"`, `"start": "nowhere"`, 1),
		2,
	); apptest.KindOf(
		err,
	) != problem.Invalid {
		t.Errorf("a faulty script: %v", err)
	}
}

// lives makes a few days of mixed questions.
func lives(w *apptest.World, c apptest.Crew) {
	for i := range 12 {
		v := apptest.Visitor(fmt.Sprint("visitor ", i%9))
		_, err := w.Search.Search(w.Context, v, "why is my bill estimated")
		w.Must(err)
		if i%3 != 0 {
			_, err = w.HelpCentre.OpenPage(w.Context, v, outcome.Help, "A-0001")
			w.Must(err)
			w.Wait(20 * time.Second)
			w.Must(w.HelpCentre.MarkRead(w.Context, v, outcome.Help, "A-0001", 18*time.Second))
		}
		if i%4 == 1 {
			w.Must(w.HelpCentre.Vote(w.Context, v, "A-0001", i%8 == 1, ""))
		}
		if i%5 == 4 {
			w.Wait(3 * time.Hour)
			sent, err := w.Requests.SendRequest(
				w.Context,
				v,
				requests.NewRequest{Subject: "bill", Text: "please", Address: "a@post.example"},
			)
			w.Must(err)
			w.Must(w.Conversations.Accept(w.Context, c.Agent, sent.Reference))
			w.Must(w.Conversations.Reply(w.Context, c.Agent, sent.Reference, conversations.AgentReply{Text: "done"}))
		}
		w.Wait(9 * time.Hour)
	}
}

func TestTheLiveFiguresAreThoseOfTheExport(t *testing.T) {
	w, c := apptest.OpenWithCrew(t)
	begins := w.Time()
	lives(w, c)
	live, err := w.Outcomes.Outcomes(w.Context, c.Analyst, begins.AddDate(0, 0, -1), w.Time())
	w.Must(err)

	items, err := w.Outcomes.Evidence(w.Context)
	w.Must(err)
	var file bytes.Buffer
	w.Must(outcome.WriteJSONL(&file, items))
	back, err := outcome.ReadJSONL(&file)
	w.Must(err)
	report := outcome.NewReport(outcome.Fold(back, w.Time(), outcome.DefaultWindow))
	if live.Counts != report.Counts {
		t.Errorf("live %+v, from the export %+v", live.Counts, report.Counts)
	}
	if live.Counts.Settled() < 5 || live.Counts.Person == 0 || live.Counts.Confirmed == 0 || live.Counts.Returned == 0 {
		t.Errorf("the days were too quiet to show much: %+v", live.Counts)
	}
	if *report.Rates.Deflection.Value != live.Rates.Deflection.Value ||
		*report.Rates.Deflection.Low != live.Rates.Deflection.Low {
		t.Errorf("live %+v, from the export %+v", live.Rates, report.Rates)
	}
	sum := outcome.Counts{}
	for _, d := range live.Days {
		sum.Confirmed += d.Counts.Confirmed
		sum.Person += d.Counts.Person
	}
	if sum.Confirmed != live.Counts.Confirmed || sum.Person != live.Counts.Person {
		t.Errorf("the days add up to %+v, the counts are %+v", sum, live.Counts)
	}
}

func TestEveryCountOpensIntoItsQuestions(t *testing.T) {
	w, c := apptest.OpenWithCrew(t)
	begins := w.Time()
	lives(w, c)
	figures, err := w.Outcomes.Outcomes(w.Context, c.Analyst, begins.AddDate(0, 0, -1), w.Time())
	w.Must(err)
	counts, _ := json.Marshal(figures.Counts)
	var by map[outcome.Outcome]int
	w.Must(json.Unmarshal(counts, &by))
	for _, o := range outcome.All {
		f := outcomes.LedgerFilter{
			Period:  figures.Period,
			Outcome: o,
			Settled: o != outcome.Open && o != outcome.Browsing,
		}
		lines, total, err := w.Outcomes.Ledger(w.Context, c.Analyst, f)
		w.Must(err)
		if total != by[o] {
			t.Errorf("%s: the count is %d, the Ledger has %d", o, by[o], total)
		}
		for _, l := range lines {
			q, err := w.Outcomes.ReadQuestion(w.Context, c.Analyst, l.Key)
			w.Must(err)
			if q.Outcome != o || len(q.Evidence) != l.Items {
				t.Errorf("%s opens to %+v", l.Key, q)
			}
			if o == outcome.Returned {
				back, err := w.Outcomes.ReadQuestion(w.Context, c.Analyst, q.ReturnedIn)
				w.Must(err)
				if back.Outcome != outcome.Person || len(back.Earlier) == 0 {
					t.Errorf("the return is not linked: %+v", back)
				}
			}
		}
	}
	if _, total, _ := w.Outcomes.Ledger(
		w.Context,
		c.Analyst,
		outcomes.LedgerFilter{Period: figures.Period, Settling: true},
	); total != figures.Counts.Settling {
		t.Errorf("settling: the count is %d, the Ledger has %d", figures.Counts.Settling, total)
	}
}

func TestTheReturnWindowTakesEffectOnPastFigures(t *testing.T) {
	w, c := apptest.OpenWithCrew(t)
	begins := w.Time()
	lives(w, c)
	before, err := w.Outcomes.Outcomes(w.Context, c.Analyst, begins, w.Time())
	w.Must(err)
	w.Must(w.Outcomes.SetReturnWindow(w.Context, c.Administrator, time.Hour))
	after, err := w.Outcomes.Outcomes(w.Context, c.Analyst, begins, w.Time())
	w.Must(err)
	if after.Counts.Returned >= before.Counts.Returned || after.Counts.Settling >= before.Counts.Settling {
		t.Errorf("72 h: %+v, 1 h: %+v", before.Counts, after.Counts)
	}
}

func TestSigningIn(t *testing.T) {
	w := apptest.Open(t)
	ada := w.Hire("ada", role.Author)
	session, who, err := w.Accounts.SignInStaff(
		w.Context,
		accounts.SignIn{Email: "ADA@wrenmoor.example", Password: "a long password", Network: "here"},
	)
	w.Must(err)
	if who.ID != ada.ID || !who.Roles.Has(role.Author) {
		t.Errorf("signed in as %+v", who)
	}
	for name, err := range map[string]error{
		"a wrong password":   apptest.Third(w.Accounts.SignInStaff(w.Context, accounts.SignIn{Email: "ada@wrenmoor.example", Password: "a wrong password", Network: "there"})),
		"an unknown address": apptest.Third(w.Accounts.SignInStaff(w.Context, accounts.SignIn{Email: "eve@wrenmoor.example", Password: "a long password", Network: "there"})),
	} {
		if apptest.KindOf(err) != problem.WrongLogin {
			t.Errorf("%s: %v", name, err)
		}
	}
	w.Must(w.Accounts.SignOut(w.Context, session.Token))
	if _, err := w.Accounts.StaffOf(w.Context, session.Token); apptest.KindOf(err) != problem.NotSigned {
		t.Errorf("after signing out: %v", err)
	}
	session, _, err = w.Accounts.SignInStaff(
		w.Context,
		accounts.SignIn{Email: "ada@wrenmoor.example", Password: "a long password", Network: "here"},
	)
	w.Must(err)
	w.Wait(13 * time.Hour)
	if _, err := w.Accounts.StaffOf(w.Context, session.Token); apptest.KindOf(err) != problem.NotSigned {
		t.Errorf("after thirteen hours: %v", err)
	}
}
