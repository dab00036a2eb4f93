package conversations_test

import (
	"testing"
	"time"

	"hermeneus/app/apptest"
	"hermeneus/app/conversations"
	"hermeneus/app/desk"
	"hermeneus/app/evidence"
	"hermeneus/app/outcomes"
	"hermeneus/app/problem"
	"hermeneus/app/requests"
	"hermeneus/app/staff"
	"hermeneus/core/flow"
)

// What a conversation shows of articles follows who may see them now.
func TestCardsEndWithTheirAudience(t *testing.T) {
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
	last := func() flow.Card {
		t.Helper()
		view, err := w.Conversations.ReadChat(w.Context, v, token, 0)
		w.Must(err)
		followed, err := w.Requests.FollowRequest(w.Context, v, token)
		w.Must(err)
		card := view.Messages[len(view.Messages)-1].Cards[0]
		if other := followed.Messages[len(followed.Messages)-1].Cards[0]; other != card {
			t.Errorf("the chat shows %+v, the page %+v", card, other)
		}
		return card
	}
	if card := last(); card.Title != "Why a bill is estimated" {
		t.Errorf("shown: %+v", card)
	}
	w.Must(w.DB().Exec(`UPDATE articles SET audience = 'staff' WHERE number = 1`).Error)
	if card := last(); card != (flow.Card{}) {
		t.Errorf("narrowed, the conversation still gives %+v", card)
	}

	group, err := w.Customers.AddGroup(w.Context, c.Administrator, "Solar owners")
	w.Must(err)
	id, err := w.Accounts.People.AddCustomer(w.Context, "wim", "wim@post.example", "a long password")
	w.Must(err)
	w.Must(w.Customers.AddMember(w.Context, c.Administrator, group.Key, "wim@post.example"))
	w.Must(w.DB().Exec(`UPDATE articles SET audience = ? WHERE number = 1`, group.Audience).Error)
	v.Customer = &evidence.Customer{ID: id, Groups: []string{group.Key}}
	if card := last(); card.Title == "" {
		t.Error("a member does not see it")
	}
	w.Must(w.Customers.RemoveMember(w.Context, c.Administrator, group.Key, id))
	v.Customer.Groups = nil // as the next request finds them
	if card := last(); card != (flow.Card{}) {
		t.Errorf("having left the group, the customer still reads %+v", card)
	}
}

func TestLinksToConversationsEnd(t *testing.T) {
	w, c := apptest.OpenWithCrew(t)
	v := apptest.Visitor("k")
	token, reference := apptest.HandedOver(w, c, v)
	opens := func() problem.Kind {
		t.Helper()
		_, err := w.Conversations.ReadChat(w.Context, v, token, 0)
		_, followed := w.Requests.FollowRequest(w.Context, v, token)
		_, _, watched := w.Conversations.WatchChat(w.Context, token)
		said := w.Conversations.ReadInChat(w.Context, v, token, "A-0001", time.Second)
		for _, other := range []error{followed, watched, said} {
			if (apptest.KindOf(other) == problem.Ended) != (apptest.KindOf(err) == problem.Ended) {
				t.Errorf("one door says %v, another %v", err, other)
			}
		}
		return apptest.KindOf(err)
	}
	w.Wait(90 * 24 * time.Hour)
	if k := opens(); k != "" {
		t.Errorf("while the customer waits for a person, the link says %s", k)
	}
	w.Must(w.Conversations.Reply(w.Context, c.Agent, reference, conversations.AgentReply{Text: "Done."}))
	w.Must(w.Conversations.CloseHandoff(w.Context, c.Agent, reference))
	w.Wait(29 * 24 * time.Hour)
	if k := opens(); k != "" {
		t.Errorf("after 29 days: %s", k)
	}
	w.Must(
		w.DB().
			Exec(`UPDATE sites
				SET reopen_days = 40, link_days = 5; UPDATE conversations
				SET site_id = (SELECT min(id) FROM sites)`).
			Error,
	)
	if k := opens(); k != "" {
		t.Errorf("while it can be reopened: %s", k)
	}
	w.Wait(12 * 24 * time.Hour)
	if k := opens(); k != problem.Ended {
		t.Errorf("its time is over, and it says %q", k)
	}
	if err := w.Conversations.SayInChat(
		w.Context,
		v,
		token,
		flow.Input{Kind: flow.Words, Text: "Hello?"},
	); apptest.KindOf(err) != problem.Ended {
		t.Errorf("written to: %v", err)
	}
}

func TestLinksInMailEndAndSigningInDoesNot(t *testing.T) {
	w, c := apptest.OpenWithCrew(t)
	id, err := w.Accounts.People.AddCustomer(w.Context, "wim", "wim@post.example", "a long password")
	w.Must(err)
	v := evidence.Visitor{Key: "k", Whole: true, Customer: &evidence.Customer{ID: id, Email: "wim@post.example"}}
	sent, err := w.Requests.SendRequest(w.Context, v, requests.NewRequest{Subject: "A bill", Text: "Why?"})
	w.Must(err)
	w.Must(w.Conversations.Accept(w.Context, c.Agent, sent.Reference))
	w.Must(w.Conversations.CloseHandoff(w.Context, c.Agent, sent.Reference))
	link := apptest.LinkInMail(t, w, "wim@post.example")
	w.Must(apptest.Second(w.Requests.FollowRequest(w.Context, apptest.Visitor("other"), link)))
	w.Wait(31 * 24 * time.Hour)
	if _, err := w.Requests.FollowRequest(
		w.Context,
		apptest.Visitor("other"),
		link,
	); apptest.KindOf(err) != problem.Ended {
		t.Errorf("a month later, the link in the mail: %v", err)
	}
	w.Must(apptest.Second(w.Requests.FollowRequest(w.Context, v, sent.Reference)))
}

// The names of customers, and their words, are for those whose task they are.
func TestNamesAndWordsOfCustomersAreForSome(t *testing.T) {
	w, c := apptest.OpenWithCrew(t)
	group, err := w.Customers.AddGroup(w.Context, c.Administrator, "Solar owners")
	w.Must(err)
	_, err = w.Accounts.People.AddCustomer(w.Context, "Wim Ott", "wim@post.example", "a long password")
	w.Must(err)
	w.Must(w.Customers.AddMember(w.Context, c.Administrator, group.Key, "wim@post.example"))
	for _, by := range []staff.Staff{c.Administrator, c.Author, c.Reviewer, c.Publisher, c.Agent, c.Analyst} {
		rows, _, err := w.Desk.Trail(w.Context, by, desk.TrailFilter{Action: "member added"})
		w.Must(err)
		found, _, err := w.Desk.Trail(w.Context, by, desk.TrailFilter{Words: "Wim"})
		w.Must(err)
		named := rows[0].Note == "Wim Ott"
		if named != (by.ID == c.Administrator.ID) || named != (len(found) > 0) {
			t.Errorf("%s reads %+v, and finds %d by the name", by.Name, rows[0], len(found))
		}
	}
	v := evidence.Visitor{Key: "k", Whole: true}
	w.Must(apptest.Second(w.Search.Search(w.Context, v, "unusual estimated words")))
	w.Must(apptest.Second(w.HelpCentre.OpenPage(w.Context, v, "help", "A-0001")))
	w.Must(w.Outcomes.FoldAll(w.Context))
	for _, by := range []staff.Staff{c.Administrator, c.Publisher, c.Analyst, c.Author, c.Reviewer, c.Agent} {
		advice, err := w.Writing.Checks(w.Context, by, "A-0001")
		w.Must(err)
		_, _, err = w.Outcomes.Ledger(w.Context, by, outcomes.LedgerFilter{})
		if may := apptest.KindOf(err) != problem.Denied; may != (len(advice.Asked) > 0) {
			t.Errorf("%s: the Ledger says %v, the margin tells %v", by.Name, err, advice.Asked)
		}
	}
	_, reference := apptest.HandedOver(w, c, apptest.Visitor("k2"))
	w.Must(
		w.Conversations.Reply(
			w.Context,
			c.Agent,
			reference,
			conversations.AgentReply{Text: "Between us: your account was wrong."},
		),
	)
	if _, err := w.Conversations.ArticleFromReply(
		w.Context,
		c.Author,
		1,
		reference,
	); apptest.KindOf(err) != problem.Denied {
		t.Errorf("an author reads a reply to a customer: %v", err)
	}
	if _, _, err := w.Conversations.WatchHandoffs(c.Author); apptest.KindOf(err) != problem.Denied {
		t.Errorf("an author watches the handoffs: %v", err)
	}
}
