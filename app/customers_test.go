package app_test

import (
	"testing"
	"time"

	"hermeneus/app/apptest"
	"hermeneus/app/evidence"
	"hermeneus/app/problem"
	"hermeneus/app/requests"
	"hermeneus/core/audience"
	"hermeneus/core/flow"
	"hermeneus/core/outcome"
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
	); apptest.KindOf(err) != problem.NotNow {
		t.Errorf("a preview sent a request: %v", err)
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
