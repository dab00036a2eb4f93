package evidence_test

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"hermeneus/app/apptest"
	"hermeneus/app/evidence"
	"hermeneus/app/requests"
	"hermeneus/app/search"
	"hermeneus/core/flow"
	"hermeneus/core/outcome"
)

// outcomesIn folds what was kept, a hundred days later, and gives the outcomes in the order of the questions.
func outcomesIn(w *apptest.World) string {
	w.T.Helper()
	items, err := evidence.Items(w.DB(), "true ORDER BY e.id")
	w.Must(err)
	var list []string
	for _, q := range outcome.Fold(items, w.Time().AddDate(0, 0, 100), outcome.DefaultWindow) {
		list = append(list, string(q.Outcome))
	}
	return strings.Join(list, " ")
}

const question = "how do I give a meter reading"

func asked(number string) search.Asking { return search.Asking{Words: question, Number: number} }

func TestOnlyWhatWasSeenAnswers(t *testing.T) {
	w, _, site, _ := apptest.Searching(t)
	v := evidence.Visitor{Key: "k", Site: site}
	w.Must(apptest.Second(w.Search.SearchAll(w.Context, v, asked("1"))))
	if got := outcomesIn(w); got != "unseen" {
		t.Errorf("a page that was served: %s", got)
	}
	w.Must(w.Recorder.Look(v))
	if got := outcomesIn(w); got != "unanswered" {
		t.Errorf("results seen and left: %s", got)
	}
	if err := w.Search.MarkToldRead(w.Context, v, "1", 20*time.Second); err == nil {
		t.Error("it was read before there was time to")
	}
	w.Wait(25 * time.Second)
	if err := w.Search.MarkToldRead(w.Context, v, "1", time.Second); err == nil {
		t.Error("it was read in a second")
	}
	if err := w.Search.MarkToldRead(w.Context, v, "2", 20*time.Second); err == nil {
		t.Error("an answer was read that was not told")
	}
	w.Must(w.Search.MarkToldRead(w.Context, v, "1", 20*time.Second))
	w.Must(w.Search.MarkToldRead(w.Context, v, "1", 20*time.Second))
	if got := outcomesIn(w); got != "presumed" {
		t.Errorf("the answer was read: %s", got)
	}
	if kept := apptest.Kept(w); strings.Count(kept, "help read") != 1 {
		t.Errorf("read twice:\n%s", kept)
	}
}

func TestWhatIsAskedAgainAfterAVerdictIsKept(t *testing.T) {
	w, _, site, refs := apptest.Searching(t)
	v := evidence.Visitor{Key: "k", Site: site}
	ref := refs["Give a meter reading"]
	search := func(number string) { w.Must(apptest.Second(w.Search.SearchAll(w.Context, v, asked(number)))) }
	kinds := func() string {
		items, err := w.Evidence(w.Context)
		w.Must(err)
		var list []string
		for _, e := range items {
			list = append(list, string(e.Kind))
		}
		return strings.Join(list, " ")
	}
	search("1")
	w.Wait(time.Minute)
	search("1") // a reload
	w.Must(w.HelpCentre.Vote(w.Context, v, ref, true, ""))
	w.Must(w.HelpCentre.Vote(w.Context, v, ref, true, "Thank you"))
	if got, want := kinds(), "asked offered told helped"; got != want {
		t.Fatalf("a reload and a comment: %s, want %s", got, want)
	}
	w.Wait(time.Minute)
	search("2")
	w.Wait(time.Minute)
	w.Must(w.HelpCentre.Vote(w.Context, v, ref, true, ""))
	if got, want := kinds(), "asked offered told helped asked offered told helped"; got != want {
		t.Errorf("the same again after a verdict: %s, want %s", got, want)
	}
	if got := outcomesIn(w); got != "confirmed confirmed" {
		t.Errorf("outcomes %s", got)
	}
}

func TestComingBackToResultsForMoreIsKept(t *testing.T) {
	w, _, site, refs := apptest.Searching(t)
	v := evidence.Visitor{Key: "k", Site: site}
	w.Must(apptest.Second(w.Search.SearchAll(w.Context, v, asked("1"))))
	open := func(title string) {
		w.Wait(time.Minute)
		w.Must(apptest.Second(w.HelpCentre.OpenFrom(w.Context, v, outcome.Help, refs[title], "results:1")))
	}
	open("Give a meter reading")
	open("Give a meter reading") // went back, and there again
	if kept := apptest.Kept(w); strings.Contains(kept, "came_back") {
		t.Errorf("the same again is not further:\n%s", kept)
	}
	open("Why a bill is estimated")
	items, err := w.Evidence(w.Context)
	w.Must(err)
	last := items[len(items)-1]
	if back := items[len(items)-2]; back.Kind != outcome.CameBack || back.Ref != "results:1" ||
		!back.At.Before(last.At) {
		t.Errorf("before the further opening: %+v", back)
	}
	if last.Stood == nil || last.Category == "" || last.Site == "" || last.Turn != "results:1" {
		t.Errorf("the opening does not say where it stood: %+v", last.Stood)
	}
}

func TestSigningInAndAddressesLinkKeys(t *testing.T) {
	w, _, site, refs := apptest.Searching(t)
	id, err := w.Accounts.People.AddCustomer(w.Context, "Wim", "wim@post.example", "a long password")
	w.Must(err)
	v := evidence.Visitor{Key: "browser", Site: site}
	wim := evidence.Customer{ID: id, Name: "Wim", Email: "wim@post.example"}
	w.Must(apptest.Second(w.Search.SearchAll(w.Context, v, asked("1"))))
	w.Must(apptest.Second(w.HelpCentre.OpenPage(w.Context, v, outcome.Help, refs["Give a meter reading"])))
	w.Wait(time.Minute)
	w.Must(w.HelpCentre.MarkRead(w.Context, v, outcome.Help, refs["Give a meter reading"], 30*time.Second))
	w.Wait(2 * time.Hour)
	key, err := w.Recorder.SignedIn(w.Context, v, wim)
	w.Must(err)
	if key != v.Key {
		t.Error("the first who signs in keeps the browser's key")
	}
	w.Must(apptest.Second(w.Recorder.SignedIn(w.Context, v, wim)))
	signed := v
	signed.Customer = &wim
	w.Must(
		apptest.Second(
			w.Requests.SendRequest(w.Context, signed, requests.NewRequest{Subject: "Reading", Text: "Where?"}),
		),
	)
	if got := outcomesIn(w); got != "returned person" {
		t.Errorf("read, signed in, wrote: %s", got)
	}
	var links int
	w.Must(w.DB().Raw(`SELECT count(*) FROM evidence WHERE kind = 'linked'`).Scan(&links).Error)
	if links != 2 {
		t.Errorf("%d links: the browser to the customer, and the customer to the address, once each", links)
	}
	// A second person in the same browser gets a key of their own.
	other, err := w.Recorder.SignedIn(w.Context, v, evidence.Customer{ID: id + 1, Email: "una@post.example"})
	w.Must(err)
	if other == v.Key {
		t.Error("two people share a key")
	}
	if key, err := w.Recorder.KeyFor(w.Context, v, "una@post.example"); err != nil || key == v.Key {
		t.Errorf("another address: %v", err)
	}
	if key, err := w.Recorder.KeyFor(w.Context, v, " Wim@Post.example "); err != nil || key != v.Key {
		t.Errorf("the customer's own address: %v", err)
	}
}

func TestAnAddressLinksUntilTooManyShareIt(t *testing.T) {
	w, _, site, _ := apptest.Searching(t)
	for i := range 8 {
		v := evidence.Visitor{Key: fmt.Sprint("browser ", i), Site: site}
		n := requests.NewRequest{Subject: "Reading", Text: "Where?", Address: "office@post.example"}
		w.Must(apptest.Second(w.Requests.SendRequest(w.Context, v, n)))
		w.Wait(time.Hour)
	}
	var linked int
	w.Must(w.DB().Raw(`SELECT count(*) FROM evidence WHERE kind = 'linked' AND linked_to LIKE 'mail:%'`).
		Scan(&linked).
		Error)
	if linked != 5 {
		t.Errorf("%d keys of a shared address are linked, want 5", linked)
	}
	if raw := apptest.Kept(w); strings.Contains(raw, "office@") {
		t.Error("evidence tells an address")
	}
}

func TestARequestWhileAHandoffWaitsIsTheSameContact(t *testing.T) {
	w, c := apptest.OpenWithCrew(t)
	v := apptest.Visitor("k")
	token, err := w.Conversations.StartChat(w.Context, v)
	w.Must(err)
	w.Must(w.Conversations.SayInChat(w.Context, v, token, flow.Input{Kind: flow.WantPerson}))
	w.Wait(40 * time.Minute)
	n := requests.NewRequest{Subject: "Still waiting", Text: "Nobody came.", Address: "wim@post.example"}
	sent, err := w.Requests.SendRequest(w.Context, v, n)
	w.Must(err)
	if got := outcomesIn(w); got != "person" {
		t.Errorf("a handoff that nobody took, and a request: %s", got)
	}
	w.Wait(time.Minute)
	w.Must(apptest.Second(w.Search.SearchAll(w.Context, v, search.Asking{Words: "something else", Number: "1"})))
	if got := outcomesIn(w); got != "person unanswered" {
		t.Errorf("what is asked after a contact is a question of its own: %s", got)
	}
	// Opened again after it was closed it is a contact of its own.
	w.Must(w.Conversations.Accept(w.Context, c.Agent, sent.Reference))
	w.Must(w.Conversations.CloseHandoff(w.Context, c.Agent, sent.Reference))
	w.Wait(20 * time.Hour)
	w.Must(w.Requests.AddToRequest(w.Context, v, sent.Token, "It is not solved.", nil))
	if kept := apptest.Kept(w); !strings.HasSuffix(kept, "form requested  "+sent.Reference+".2") {
		t.Errorf("opened again:\n%s", kept)
	}
	if got := outcomesIn(w); got != "person unanswered person" {
		t.Errorf("opened again: %s", got)
	}
}

func TestTooManyNewAskersOfOneNetworkAreUnlikely(t *testing.T) {
	w, c, site, refs := apptest.Searching(t)
	if err := w.Recorder.SetNewcomers(w.Context, c.Publisher, 3); err == nil {
		t.Error("a publisher changes it")
	}
	if err := w.Recorder.SetNewcomers(w.Context, c.Administrator, 0); err == nil {
		t.Error("nobody is likely")
	}
	w.Must(w.Recorder.SetNewcomers(w.Context, c.Administrator, 3))
	if most, err := w.Recorder.Newcomers(w.Context); err != nil || most != 3 {
		t.Errorf("%d are likely, %v", most, err)
	}
	confirm := func(key, network string) evidence.Visitor {
		v := evidence.Visitor{Key: key, Site: site, Network: network}
		w.Must(apptest.Second(w.Search.SearchAll(w.Context, v, asked(w.Time().String()))))
		w.Must(w.HelpCentre.Vote(w.Context, v, refs["Give a meter reading"], true, ""))
		w.Wait(time.Second)
		return v
	}
	for i := range 5 {
		confirm(fmt.Sprint("fresh ", i), "203.0.113.7")
	}
	confirm("elsewhere", "203.0.113.8")
	if got, want := outcomesIn(w), "confirmed confirmed confirmed unlikely unlikely confirmed"; got != want {
		t.Errorf("six new askers: %s, want %s", got, want)
	}
	// Who comes back with such a key is unlikely still, unless they reach a person.
	w.Wait(2 * time.Hour)
	confirm("fresh 4", "203.0.113.7")
	if got := outcomesIn(w); !strings.HasSuffix(got, "confirmed unlikely") {
		t.Errorf("two hours later: %s", got)
	}
	v := confirm("fresh 5", "203.0.113.7") // a new hour
	w.Wait(time.Hour)
	w.Must(apptest.Second(w.Requests.SendRequest(w.Context, evidence.Visitor{Key: "fresh 4", Site: site},
		requests.NewRequest{Subject: "x", Text: "y", Address: "wim@post.example"})))
	if got := outcomesIn(w); strings.Count(got, "unlikely") != 1 || v.Key == "" {
		t.Errorf("one of them is somebody: %s", got)
	}
}
