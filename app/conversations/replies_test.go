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
	"hermeneus/core/form"
)

// A mail says the answer itself, and where it is read.
func TestAReplyByMailCarriesTheAnswer(t *testing.T) {
	w, c := apptest.OpenWithCrew(t)
	long := "<p>" + strings.Repeat("word ", 900) + "</p><p>The very end.</p>"
	ref := w.Draft(
		c.Author,
		w.Category(c.Author, "Meters"),
		"Read a meter",
		`<ol><li><p>Open the <a href="/help/articles/A-0001">door</a>.</p></li><li><p>Press Menu.</p></li></ol>`+long,
		audience.Everyone,
	)
	w.Publish(c, ref)
	sent, err := w.Requests.SendRequest(
		w.Context,
		apptest.Visitor("k"),
		requests.NewRequest{Subject: "My meter", Text: "How?", Address: "wim@post.example"},
	)
	w.Must(err)
	w.Must(w.Conversations.Accept(w.Context, c.Agent, sent.Reference))
	file, err := w.Conversations.KeepReplyFile(
		w.Context,
		c.Agent,
		sent.Reference,
		form.Upload{Name: "meter.txt", Content: []byte("48213")},
	)
	w.Must(err)
	w.Must(
		w.Conversations.Reply(
			w.Context,
			c.Agent,
			sent.Reference,
			conversations.AgentReply{Text: "Dear Wim,", Articles: []string{ref}, Files: []int64{file.ID}},
		),
	)
	w.Eventually(func() bool { return len(w.Room.Letters("wim@post.example")) == 2 })
	letter := w.Room.Letters("wim@post.example")[0].Text
	for _, want := range []string{"Dear Wim,", "Read a meter", "Press Menu.", "http://help.wrenmoor.example/help/articles/A-0001", "Read it at http://help.wrenmoor.example/help/articles/" + ref, "meter.txt", "/help/requests/" + sent.Reference + "."} {
		if !strings.Contains(letter, want) {
			t.Errorf("the mail does not say %q:\n%s", want, letter[:min(len(letter), 1200)])
		}
	}
	if strings.Contains(letter, "The very end.") || !strings.Contains(letter, "It goes on there") ||
		strings.Contains(letter, "<p>") {
		t.Error("a long article is not cut, or is no plain text")
	}
}

// A file is the agent's alone until it is sent; then the customer has it too.
func TestAgentsAttachFiles(t *testing.T) {
	w, c := apptest.OpenWithCrew(t)
	v := apptest.Visitor("k")
	token, reference := apptest.HandedOver(w, c, v)
	other := w.Hire("oda", "agent")
	if _, err := w.Conversations.KeepReplyFile(
		w.Context,
		other,
		reference,
		form.Upload{Name: "a.txt", Content: []byte("x")},
	); apptest.KindOf(err) != problem.NotNow {
		t.Errorf("kept in somebody else's conversation: %v", err)
	}
	if _, err := w.Conversations.KeepReplyFile(
		w.Context,
		c.Agent,
		reference,
		form.Upload{Name: "a.exe", Content: []byte("MZ\x90\x00")},
	); apptest.SaidOf(
		err,
		"files",
	) == "" {
		t.Errorf("a program was kept: %v", err)
	}
	sent, err := w.Conversations.KeepReplyFile(
		w.Context,
		c.Agent,
		reference,
		form.Upload{Name: "bill.txt", Content: []byte("19.40")},
	)
	w.Must(err)
	dropped, err := w.Conversations.KeepReplyFile(
		w.Context,
		c.Agent,
		reference,
		form.Upload{Name: "wrong.txt", Content: []byte("x")},
	)
	w.Must(err)
	if _, err := w.Requests.RequestFile(w.Context, v, token, sent.ID); apptest.KindOf(err) != problem.NotFound {
		t.Errorf("the customer has it before it was sent: %v", err)
	}
	w.Must(w.Conversations.DropReplyFile(w.Context, c.Agent, reference, dropped.ID))
	w.Must(w.Conversations.Reply(w.Context, c.Agent, reference, conversations.AgentReply{Files: []int64{sent.ID}}))
	if err := w.Conversations.Reply(
		w.Context,
		c.Agent,
		reference,
		conversations.AgentReply{Files: []int64{sent.ID}},
	); apptest.SaidOf(
		err,
		"files",
	) == "" {
		t.Errorf("sent twice: %v", err)
	}
	view, err := w.Conversations.ReadChat(w.Context, evidence.Visitor{}, token, 0)
	w.Must(err)
	last := view.Messages[len(view.Messages)-1]
	if len(last.Files) != 1 || last.Files[0].Name != "bill.txt" {
		t.Errorf("the customer reads %+v", last)
	}
	if file, err := w.Requests.RequestFile(w.Context, v, token, sent.ID); err != nil || string(file.Bytes) != "19.40" {
		t.Errorf("the customer fetches it: %v", err)
	}

	// What is never sent ends.
	forgotten, err := w.Conversations.KeepReplyFile(
		w.Context,
		c.Agent,
		reference,
		form.Upload{Name: "b.txt", Content: []byte("x")},
	)
	w.Must(err)
	w.Wait(25 * time.Hour)
	w.Must(w.Conversations.DropUnsent(w.Context))
	if err := w.Conversations.Reply(
		w.Context,
		c.Agent,
		reference,
		conversations.AgentReply{Files: []int64{forgotten.ID}},
	); apptest.SaidOf(
		err,
		"files",
	) == "" {
		t.Errorf("a file of yesterday was sent: %v", err)
	}
}
