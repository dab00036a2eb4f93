package app_test

import (
	"context"
	"strings"
	"testing"
	"time"

	"hermeneus/app"
	"hermeneus/app/apptest"
	"hermeneus/app/evidence"
	"hermeneus/app/problem"
	"hermeneus/core/flow"
	"hermeneus/store"
)

// Chats of the demo of schema 18, before scripts were texts: one in every state in which somebody can wait. Each goes
// on where it was, in the script with which it began.
var openChats = []struct {
	name, token string
	waits       flow.Waiting // before
	in          flow.Input
	then        flow.Waiting
	status      string
	says        string // somewhere after the input
}{
	{"at the first choice", "hfalMiBQVDew3bF68dkf7DusRBeILrUSSo9klG9gUps", flow.ForChoice,
		flow.Input{Kind: flow.Choice, Text: "A bill or payment"}, flow.ForVerdict, store.WithBot, "These answer most"},
	{
		"at a choice below it",
		"yRk6lCpXg2KhQI6QGeidn_Lkg2UbzSpwX9EpLk53u6s",
		flow.ForChoice,
		flow.Input{
			Kind: flow.Choice,
			Text: "The whole street is dark",
		},
		flow.ForVerdict,
		store.WithBot,
		"Check this first",
	},
	{"at a verdict", "Jd0ABmIiiNnVWadbNzN9b1ygKaBW5wxeiADRDOP7ozA", flow.ForVerdict,
		flow.Input{Kind: flow.Choice, Text: flow.No}, flow.ForWords, store.WithBot, "in your own words"},
	{"before looking up", "OfRphCzt3J3CNkNLgD66s9AZ28H6a9bJs1bFhz845MU", flow.ForWords,
		flow.Input{Kind: flow.Words, Text: "why is my bill estimated"}, flow.ForVerdict, store.WithBot, ""},
	{"at what was found", "tU3zQjKDgRDye3h1GXmUdCL58l77O47u8kvE02db40Q", flow.ForVerdict,
		flow.Input{Kind: flow.Choice, Text: flow.No}, flow.ForPerson, store.Waiting, "I pass you on"},
	{"typed instead of a verdict", "TP6TX3OhX91-iMmlzEta1pjZDFzGQaSEBXnVgaDHdOQ", flow.ForVerdict,
		flow.Input{Kind: flow.Words, Text: "a person please"}, flow.ForPerson, store.Waiting, "I pass you on"},
	{"at the text of a request", "YNwbl0QKPyud-rIFrCtov-1KGpRIvPSgR1S-b3MySMk", flow.ForDetails,
		flow.Input{Kind: flow.Words, Text: "It is dark"}, flow.ForAddress, store.WithBot, "By which mail address"},
	{"at its address", "xQhd0xCN5KFi0fNvw2SBQRfVh0WZu-nIa2yVEagPnEU", flow.ForAddress,
		flow.Input{Kind: flow.Words, Text: "wim@post.example"}, flow.ForNothing, store.Waiting, "Your number is R-"},
	{"with a request that is filed", "j7dhGnzA2zu6pKuZcI61qJpAF8Gox1Ku12NniodeUZQ", flow.ForNothing,
		flow.Input{Kind: flow.Words, Text: "Any news?"}, flow.ForNothing, store.Waiting, "Any news?"},
	{"waiting for a person", "vlVTpO0A6u1SNPrMpGfZOoX9uK28OKlLezEpIgkdcFI", flow.ForPerson,
		flow.Input{Kind: flow.Words, Text: "Are you there?"}, flow.ForPerson, store.Waiting, "Are you there?"},
	{"with a person", "qgl4u0nNZR3KaV9lbqG1i2Rx3h4Gh0dHr5U7Q4Jr4ko", flow.ForPerson,
		flow.Input{Kind: flow.Words, Text: "Good."}, flow.ForPerson, store.WithAgent, "Good."},
}

const closedChat = "CMBa1_SEhawLNnU7vP9stOkP5jroYBP7d8ANjyFFj_o"

func TestOpenChatsOfEveryStateGoOnAfterAnUpgrade(t *testing.T) {
	t.Parallel()
	url := restored(t, "demo-18")
	scripts := func() (sums []string) {
		db, err := store.Open(context.Background(), url)
		if err != nil {
			t.Fatal(err)
		}
		pool, _ := db.DB()
		defer func() { _ = pool.Close() }()
		if err := db.Raw(`SELECT id || ' ' || number || ' ' || md5(script::text) FROM flow_versions ORDER BY id`).
			Scan(&sums).Error; err != nil {
			t.Fatal(err)
		}
		return sums
	}
	before := scripts()
	ctx := context.Background()
	clock := func() time.Time { return time.Date(2026, 11, 26, 7, 10, 0, 0, time.UTC) }
	a, err := app.Open(ctx, app.Config{Database: url, Clock: clock, Zone: time.UTC, Idle: true})
	if err != nil {
		t.Fatal(err)
	}
	defer a.Close()
	if after := scripts(); len(before) == 0 || strings.Join(after, ";") != strings.Join(before, ";") {
		t.Errorf("the scripts were %v, and are %v", before, after)
	}
	for _, c := range openChats {
		t.Run(c.name, func(t *testing.T) {
			v := evidence.Visitor{}
			view, err := a.Conversations.ReadChat(ctx, v, c.token, 0)
			if err != nil {
				t.Fatal(err)
			}
			if view.Waiting != c.waits {
				t.Errorf("it waited for %s, want %s", view.Waiting, c.waits)
			}
			last := view.Messages[len(view.Messages)-1].ID
			if err := a.Conversations.SayInChat(ctx, v, c.token, c.in); err != nil {
				t.Fatal(err)
			}
			if view, err = a.Conversations.ReadChat(ctx, v, c.token, last); err != nil {
				t.Fatal(err)
			}
			said := ""
			for _, m := range view.Messages {
				said += m.Text + "\n"
			}
			if view.Waiting != c.then || view.Status != c.status || !strings.Contains(said, c.says) {
				t.Errorf("waits for %s, is %s, and was said:\n%s", view.Waiting, view.Status, said)
			}
		})
	}
	err = a.Conversations.SayInChat(ctx, evidence.Visitor{}, closedChat, flow.Input{Kind: flow.Words, Text: "Hello?"})
	if apptest.KindOf(err) != problem.NotNow {
		t.Errorf("words in a closed chat: %v", err)
	}
	// Until somebody says otherwise agents are here without a limit, and nobody closes.
	openings, err := a.Hours.ReadOpenings(ctx)
	if err != nil {
		t.Fatal(err)
	}
	for _, o := range openings.List {
		if !o.Open || o.Set {
			t.Errorf("%s: %+v", o.Name, o)
		}
		for _, one := range o.Agents {
			if !one.Here || one.Chats != 0 {
				t.Errorf("%s is %+v", one.Name, one)
			}
		}
	}
}
