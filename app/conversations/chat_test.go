package conversations_test

import (
	"strings"
	"testing"
	"time"

	"hermeneus/app/apptest"
	"hermeneus/app/conversations"
	"hermeneus/app/evidence"
	"hermeneus/app/problem"
	"hermeneus/app/requests"
	"hermeneus/core/audience"
	"hermeneus/core/flow"
	"hermeneus/core/role"
)

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
	); apptest.KindOf(err) != problem.NotNow {
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
		chat handed_off `+ref+`
		chat agent_answered `+ref)
}

func TestWithNobodyThereTheBotTakesARequest(t *testing.T) {
	w, c := apptest.OpenWithCrew(t)
	w.Must(w.Accounts.People.ChangeStaff(w.Context, c.Administrator, c.Agent.ID, role.Set{role.Agent}, true))
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
	); apptest.KindOf(err) != problem.StaleSave {
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
	); apptest.KindOf(err) != problem.Invalid {
		t.Errorf("a faulty script: %v", err)
	}
}

// Another address given in the same browser is another person: the conversation goes on under a key of its own.
func TestASecondPersonInTheChatGetsAKeyOfTheirOwn(t *testing.T) {
	w, c := apptest.OpenWithCrew(t)
	w.Must(w.Accounts.People.ChangeStaff(w.Context, c.Administrator, c.Agent.ID, role.Set{role.Agent}, true))
	v := apptest.Visitor("k")
	renewed := ""
	v.Renew = func(key string) { renewed = key }
	asks := func(address string) {
		token, err := w.Conversations.StartChat(w.Context, v)
		w.Must(err)
		for _, words := range []string{"a person please", "my bill is wrong", address} {
			w.Must(w.Conversations.SayInChat(w.Context, v, token, flow.Input{Kind: flow.Words, Text: words}))
		}
		w.Wait(time.Hour)
	}
	asks("wim@post.example")
	asks("WIM@post.example ")
	if renewed != "" {
		t.Fatal("the same person got another key")
	}
	asks("una@post.example")
	if renewed == "" {
		t.Fatal("a second person goes on under the first one's key")
	}
	var askers []string
	w.Must(w.DB().Raw(`SELECT asker FROM evidence WHERE kind = 'requested' ORDER BY id`).Scan(&askers).Error)
	second := apptest.Visitor(renewed).Asker()
	if len(askers) != 3 || askers[0] != v.Asker() || askers[1] != v.Asker() || askers[2] != second {
		t.Errorf("requested by %v, the second person is %s", askers, second)
	}
	var linked int
	w.Must(w.DB().Raw(`SELECT count(*) FROM evidence_links WHERE key = ?`, second).Scan(&linked).Error)
	if linked != 1 {
		t.Errorf("the second person's key has %d links", linked)
	}
}
