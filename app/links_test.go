package app_test

import (
	"testing"
	"time"

	"hermeneus/app"
	"hermeneus/app/apptest"
	"hermeneus/core/flow"
)

// What a conversation shows of articles follows who may see them now.
func TestCardsEndWithTheirAudience(t *testing.T) {
	w, c := open(t)
	v := apptest.Visitor("k")
	token, reference := passed(w, c, v)
	w.Must(w.Reply(w.Context, c.Agent, reference, app.AgentReply{Text: "See here.", Articles: []string{"A-0001"}}))
	last := func() flow.Card {
		t.Helper()
		view, err := w.ReadChat(w.Context, v, token, 0)
		w.Must(err)
		followed, err := w.FollowRequest(w.Context, v, token)
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

	group, err := w.AddGroup(w.Context, c.Administrator, "Solar owners")
	w.Must(err)
	id, err := w.AddCustomer(w.Context, "wim", "wim@post.example", "a long password")
	w.Must(err)
	w.Must(w.AddMember(w.Context, c.Administrator, group.Key, "wim@post.example"))
	w.Must(w.DB().Exec(`UPDATE articles SET audience = ? WHERE number = 1`, group.Audience).Error)
	v.Customer = &app.Customer{ID: id, Groups: []string{group.Key}}
	if card := last(); card.Title == "" {
		t.Error("a member does not see it")
	}
	w.Must(w.RemoveMember(w.Context, c.Administrator, group.Key, id))
	v.Customer.Groups = nil // as the next request finds them
	if card := last(); card != (flow.Card{}) {
		t.Errorf("having left the group, the customer still reads %+v", card)
	}
}

func TestLinksToConversationsEnd(t *testing.T) {
	w, c := open(t)
	v := apptest.Visitor("k")
	token, reference := passed(w, c, v)
	opens := func() app.ProblemKind {
		t.Helper()
		_, err := w.ReadChat(w.Context, v, token, 0)
		_, followed := w.FollowRequest(w.Context, v, token)
		_, _, watched := w.WatchChat(w.Context, token)
		said := w.ReadInChat(w.Context, v, token, "A-0001", time.Second)
		for _, other := range []error{followed, watched, said} {
			if (kind(other) == app.Ended) != (kind(err) == app.Ended) {
				t.Errorf("one door says %v, another %v", err, other)
			}
		}
		return kind(err)
	}
	w.Wait(90 * 24 * time.Hour)
	if k := opens(); k != "" {
		t.Errorf("while the customer waits for a person, the link says %s", k)
	}
	w.Must(w.Reply(w.Context, c.Agent, reference, app.AgentReply{Text: "Done."}))
	w.Must(w.CloseHandoff(w.Context, c.Agent, reference))
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
	if k := opens(); k != app.Ended {
		t.Errorf("its time is over, and it says %q", k)
	}
	if err := w.SayInChat(w.Context, v, token, flow.Input{Kind: flow.Words, Text: "Hello?"}); kind(err) != app.Ended {
		t.Errorf("written to: %v", err)
	}
}

func TestLinksInMailEndAndSigningInDoesNot(t *testing.T) {
	w, c := open(t)
	id, err := w.AddCustomer(w.Context, "wim", "wim@post.example", "a long password")
	w.Must(err)
	v := app.Visitor{Key: "k", Whole: true, Customer: &app.Customer{ID: id, Email: "wim@post.example"}}
	sent, err := w.SendRequest(w.Context, v, app.NewRequest{Subject: "A bill", Text: "Why?"})
	w.Must(err)
	w.Must(w.Accept(w.Context, c.Agent, sent.Reference))
	w.Must(w.CloseHandoff(w.Context, c.Agent, sent.Reference))
	link := linkInMail(t, w, "wim@post.example")
	w.Must(second(w.FollowRequest(w.Context, apptest.Visitor("other"), link)))
	w.Wait(31 * 24 * time.Hour)
	if _, err := w.FollowRequest(w.Context, apptest.Visitor("other"), link); kind(err) != app.Ended {
		t.Errorf("a month later, the link in the mail: %v", err)
	}
	w.Must(second(w.FollowRequest(w.Context, v, sent.Reference)))
}

// The names of customers, and their words, are for those whose task they are.
func TestNamesAndWordsOfCustomersAreForSome(t *testing.T) {
	w, c := open(t)
	group, err := w.AddGroup(w.Context, c.Administrator, "Solar owners")
	w.Must(err)
	_, err = w.AddCustomer(w.Context, "Wim Ott", "wim@post.example", "a long password")
	w.Must(err)
	w.Must(w.AddMember(w.Context, c.Administrator, group.Key, "wim@post.example"))
	for _, by := range []app.Staff{c.Administrator, c.Author, c.Reviewer, c.Publisher, c.Agent, c.Analyst} {
		rows, _, err := w.Trail(w.Context, by, app.TrailFilter{Action: "member added"})
		w.Must(err)
		found, _, err := w.Trail(w.Context, by, app.TrailFilter{Words: "Wim"})
		w.Must(err)
		named := rows[0].Note == "Wim Ott"
		if named != (by.ID == c.Administrator.ID) || named != (len(found) > 0) {
			t.Errorf("%s reads %+v, and finds %d by the name", by.Name, rows[0], len(found))
		}
	}
	v := app.Visitor{Key: "k", Whole: true}
	w.Must(second(w.Search(w.Context, v, "unusual estimated words")))
	w.Must(second(w.OpenPage(w.Context, v, "help", "A-0001")))
	for _, by := range []app.Staff{c.Administrator, c.Publisher, c.Analyst, c.Author, c.Reviewer, c.Agent} {
		advice, err := w.Advise(w.Context, by, "A-0001")
		w.Must(err)
		_, _, err = w.Ledger(w.Context, by, app.LedgerFilter{})
		if may := kind(err) != app.Denied; may != (len(advice.Asked) > 0) {
			t.Errorf("%s: the Ledger says %v, the margin tells %v", by.Name, err, advice.Asked)
		}
	}
	_, reference := passed(w, c, apptest.Visitor("k2"))
	w.Must(w.Reply(w.Context, c.Agent, reference, app.AgentReply{Text: "Between us: your account was wrong."}))
	if _, err := w.ArticleFromReply(w.Context, c.Author, 1, reference); kind(err) != app.Denied {
		t.Errorf("an author reads a reply to a customer: %v", err)
	}
	if _, _, err := w.WatchHandoffs(c.Author); kind(err) != app.Denied {
		t.Errorf("an author watches the handoffs: %v", err)
	}
}
