package conversations_test

import (
	"strings"
	"testing"
	"time"

	"hermeneus/app/apptest"
	"hermeneus/app/conversations"
	"hermeneus/app/evidence"
	"hermeneus/app/requests"
	"hermeneus/app/staff"
	"hermeneus/core/audience"
	"hermeneus/core/flow"
	"hermeneus/core/outcome"
	"hermeneus/core/role"
)

// An article that an agent put into the chat is none that the bot showed.
func TestACustomerOpensWhatAnAgentShowed(t *testing.T) {
	w, c := apptest.OpenWithCrew(t)
	v := apptest.Visitor("k")
	token, reference := apptest.HandedOver(w, c, v)
	w.Must(
		w.Conversations.Reply(
			w.Context,
			c.Agent,
			reference,
			conversations.AgentReply{Text: "See here.", Articles: []string{"A-0001"}},
		),
	)
	page, err := w.Conversations.OpenInChat(w.Context, v, token, "A-0001")
	if err != nil || page.Title != "Why a bill is estimated" {
		t.Fatalf("opened %q, %v", page.Title, err)
	}
	w.Wait(time.Minute)
	w.Must(w.Conversations.ReadInChat(w.Context, v, token, "A-0001", time.Minute))
	if got := apptest.Kept(w); !strings.HasSuffix(got, "chat opened  A-0001@1\nchat read  A-0001@1") {
		t.Errorf("the evidence ends otherwise:\n%s", got)
	}
}

// What was searched, offered, opened and read in the same question belongs to the brief
// of whatever contact ends it.
func TestARequestBringsWhatWasReadBefore(t *testing.T) {
	w, c := apptest.OpenWithCrew(t)
	v := evidence.Visitor{Key: "k", Whole: true}
	w.Must(apptest.Second(w.Search.Search(w.Context, v, "yesterday's question about an estimated bill")))
	w.Wait(outcome.Silence) // another question
	w.Must(apptest.Second(w.Search.Search(w.Context, v, "estimated bill")))
	w.Wait(time.Minute)
	w.Must(apptest.Second(w.HelpCentre.OpenPage(w.Context, v, outcome.Help, "A-0001")))
	w.Wait(2 * time.Minute)
	w.Must(w.HelpCentre.MarkRead(w.Context, v, outcome.Help, "A-0001", 2*time.Minute))
	w.Must(w.HelpCentre.Vote(w.Context, v, "A-0001", false, ""))
	sent, err := w.Requests.SendRequest(
		w.Context,
		v,
		requests.NewRequest{Subject: "Estimated again", Text: "Why?", Address: "wim@post.example"},
	)
	w.Must(err)
	h, err := w.Conversations.ReadHandoff(w.Context, c.Agent, sent.Reference)
	w.Must(err)
	var got []string
	for _, b := range h.Brief.Before {
		line := string(b.Kind) + " " + b.Text
		for _, a := range b.Articles {
			line += a.Title
		}
		got = append(got, strings.TrimSpace(line))
	}
	want := "asked estimated bill | offered Why a bill is estimated | told Why a bill is estimated | read Why a bill is estimated | not_helped Why a bill is estimated"
	if strings.Join(got, " | ") != want || len(h.Brief.Path) != 0 {
		t.Errorf("the brief: %s", strings.Join(got, " | "))
	}

	// It is there for a chat too, and without anything before it is empty, never somebody else's.
	other := apptest.Visitor("other")
	w.Must(apptest.Second(w.Search.Search(w.Context, other, "bills")))
	_, reference := apptest.HandedOver(w, c, other)
	h, err = w.Conversations.ReadHandoff(w.Context, c.Agent, reference)
	w.Must(err)
	if len(h.Brief.Before) == 0 || h.Brief.Before[0].Text != "bills" {
		t.Errorf("before the chat: %+v", h.Brief.Before)
	}
	sent, err = w.Requests.SendRequest(
		w.Context,
		apptest.Visitor("third"),
		requests.NewRequest{Subject: "Hello", Text: "Hello?", Address: "x@post.example"},
	)
	w.Must(err)
	if h, err = w.Conversations.ReadHandoff(w.Context, c.Agent, sent.Reference); err != nil ||
		len(h.Brief.Before) != 0 {
		t.Errorf("of nothing before: %+v, %v", h.Brief.Before, err)
	}
}

// Each answer to the bot stands in the brief beside what the bot had said.
func TestTheBriefPairsAnswersWithWhatWasSaid(t *testing.T) {
	w, c := apptest.OpenWithCrew(t)
	v := apptest.Visitor("k")
	token, err := w.Conversations.StartChat(w.Context, v)
	w.Must(err)
	w.Must(w.Conversations.SayInChat(w.Context, v, token, flow.Input{Kind: flow.Words, Text: "estimated bill"}))
	w.Must(w.Conversations.SayInChat(w.Context, v, token, flow.Input{Kind: flow.Choice, Text: flow.No}))
	view, err := w.Conversations.ReadChat(w.Context, evidence.Visitor{}, token, 0)
	w.Must(err)
	h, err := w.Conversations.ReadHandoff(w.Context, c.Agent, view.Reference)
	w.Must(err)
	var got []string
	for _, s := range h.Brief.Path {
		if s.Said != "" {
			got = append(got, s.Bot+" – "+s.Said)
		}
	}
	if strings.Join(got, " | ") != "What is it? – estimated bill | "+flow.In("en").Told+" – "+flow.No {
		t.Errorf("the brief: %s", strings.Join(got, " | "))
	}
}

// The words of the last message alone would name another article first.
func TestSuggestionsLookAtWhatWasAskedAsAWhole(t *testing.T) {
	w, c := apptest.OpenWithCrew(t)
	category := w.Category(c.Author, "Moving")
	w.Publish(
		c,
		w.Draft(
			c.Author,
			category,
			"Move out of a home",
			"<p>Tell us the day you move out, and read the meter on it.</p>",
			audience.Everyone,
		),
	)
	w.Publish(
		c,
		w.Draft(
			c.Author,
			category,
			"Planned work in your street",
			"<p>We switch off at noon and hand out keys over the phone.</p>",
			audience.Everyone,
		),
	)
	sent, err := w.Requests.SendRequest(
		w.Context,
		apptest.Visitor("k"),
		requests.NewRequest{Subject: "We are moving out", Text: "Which day do you need?", Address: "wim@post.example"},
	)
	w.Must(err)
	w.Must(w.Requests.AddToRequest(w.Context, apptest.Visitor("k"), sent.Token, "We hand the keys over at noon.", nil))
	found, err := w.Conversations.SuggestForReply(w.Context, c.Agent, sent.Reference, "")
	w.Must(err)
	if len(found) == 0 || found[0].Title != "Move out of a home" {
		t.Errorf("suggested %s", apptest.Titles(found))
	}
	other, err := w.Conversations.SuggestForReply(w.Context, c.Agent, sent.Reference, "at noon")
	w.Must(err)
	if len(other) == 0 || other[0].Title != "Planned work in your street" {
		t.Errorf("by other words %s", apptest.Titles(other))
	}
}

// An option that was tapped says nothing of how customers call a thing: not as a question that
// many ask, not as a keyword, not as a judged question. The same words typed elsewhere do.
func TestOptionsOfAFlowAreNoWordsOfCustomers(t *testing.T) {
	w := apptest.Open(t)
	c := w.Crew()
	ref := w.Draft(
		c.Author,
		w.Category(c.Author, "Bills"),
		"The estimate",
		"<p>"+strings.Repeat("My bill is too high, estimated. ", 4)+"</p>",
		audience.Everyone,
	)
	w.Publish(c, ref)
	door := strings.Replace(apptest.DoorFlow, "My bill", "My bill is too high", 1)
	_, err := w.Flows.PublishFlow(w.Context, c.Publisher, conversations.FrontDoor, door, 0)
	w.Must(err)
	sites, err := w.Sites.Sites(w.Context)
	w.Must(err)
	for i := range 4 {
		v := evidence.Visitor{Key: strings.Repeat("k", i+1), Site: sites[0].ID, Whole: true}
		token, err := w.Conversations.StartChat(w.Context, v)
		w.Must(err)
		w.Must(
			w.Conversations.SayInChat(w.Context, v, token, flow.Input{Kind: flow.Choice, Text: "My bill is too high"}),
		)
		w.Must(apptest.Second(w.Conversations.OpenInChat(w.Context, v, token, ref)))
		w.Must(w.Conversations.SayInChat(w.Context, v, token, flow.Input{Kind: flow.Choice, Text: flow.Yes}))
	}
	// The flow reads otherwise by now: what counts is the version that was running.
	_, err = w.Flows.PublishFlow(
		w.Context,
		c.Publisher,
		conversations.FrontDoor,
		strings.Replace(apptest.DoorFlow, "My bill", "Bills", 1),
		1,
	)
	w.Must(err)
	reader := evidence.Visitor{Key: "reader", Site: sites[0].ID, Whole: true}
	offered := func() int {
		w.Must(w.Search.RefreshPopular(w.Context))
		found, err := w.Search.Suggest(w.Context, reader, "my bill is too h")
		w.Must(err)
		return len(found)
	}
	asked := func() int {
		w.Must(w.Outcomes.FoldAll(w.Context))
		advised, err := w.Writing.Checks(w.Context, staff.Staff{Roles: role.Set{role.Analyst}}, ref)
		w.Must(err)
		return len(advised.Asked) + len(advised.Keywords)
	}
	var judged int64
	gathered := func() int64 {
		w.Must(w.Outcomes.FoldAll(w.Context))
		w.Must(w.Search.Quality.GatherConfirmed(w.Context))
		w.Must(w.DB().Table("judged").Where("source = 'confirmed'").Count(&judged).Error)
		return judged
	}
	if n, m, j := offered(), asked(), gathered(); n+m != 0 || j != 0 {
		t.Errorf("options are offered %d times, asked %d times, judged %d times", n, m, j)
	}
	for i := range 3 {
		v := evidence.Visitor{Key: strings.Repeat("s", i+1), Site: sites[0].ID, Whole: true}
		w.Must(apptest.Second(w.Search.Search(w.Context, v, "my bill is too high")))
		w.Must(apptest.Second(w.HelpCentre.OpenPage(w.Context, v, outcome.Help, ref)))
		w.Must(w.HelpCentre.Vote(w.Context, v, ref, true, ""))
	}
	if n, m, j := offered(), asked(), gathered(); n == 0 || m == 0 || j != 1 {
		t.Errorf("the same words typed are offered %d times, asked %d times, judged %d times", n, m, j)
	}
}
