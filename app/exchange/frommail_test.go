package exchange_test

import (
	"testing"

	"hermeneus/app/apptest"
	"hermeneus/app/conversations"
	"hermeneus/app/problem"
	"hermeneus/app/requests"
)

func TestAMailAndAReplyBecomeWorkingCopies(t *testing.T) {
	w := apptest.Open(t)
	c := w.Crew()
	category := w.Category(c.Author, "Bills")
	mail := "From: Dara <dara@wrenmoor.example>\r\nSubject: Re: High bill\r\nContent-Type: text/plain\r\n\r\nHi Wim,\r\n\r\nIt is an estimate. Mail wim@post.example.\r\n\r\nRegards,\r\nDara\r\n"
	made, err := w.Exchange.ArticleFromMail(w.Context, c.Author, category, []byte(mail))
	w.Must(err)
	a, err := w.Desk.ReadArticle(w.Context, c.Author, made.Reference)
	w.Must(err)
	if a.Copy.Title != "High bill" || a.Copy.Body != "<p>It is an estimate. Mail wim@post.example.</p>" ||
		len(made.Personal) != 1 ||
		len(made.Left) != 2 {
		t.Errorf("%+v %+v", made, a.Copy)
	}
	if apptest.KindOf(
		apptest.Second(w.Exchange.ArticleFromMail(w.Context, c.Author, category, []byte("nothing"))),
	) != problem.BadFile ||
		apptest.KindOf(
			apptest.Second(w.Exchange.ArticleFromMail(w.Context, c.Agent, category, []byte(mail))),
		) != problem.Denied {
		t.Error("anything, by anybody, became an article")
	}
	sent, err := w.Requests.SendRequest(
		w.Context,
		apptest.Visitor("k"),
		requests.NewRequest{Subject: "My bill is too high", Text: "Why?", Address: "wim@post.example"},
	)
	w.Must(err)
	if apptest.KindOf(
		apptest.Second(w.Conversations.ArticleFromReply(w.Context, c.Agent, category, sent.Reference)),
	) != problem.NotNow {
		t.Error("no reply became an article")
	}
	w.Must(w.Conversations.Accept(w.Context, c.Agent, sent.Reference))
	w.Must(
		w.Conversations.Reply(
			w.Context,
			c.Agent,
			sent.Reference,
			conversations.AgentReply{Text: "Dear Wim,\n\nNo reading reached us.\n\n- Send one.\n\nKind regards\nGus"},
		),
	)
	made, err = w.Conversations.ArticleFromReply(w.Context, c.Agent, category, sent.Reference)
	w.Must(err)
	a, err = w.Desk.ReadArticle(w.Context, c.Author, made.Reference)
	w.Must(err)
	if a.Copy.Title != "My bill is too high" ||
		a.Copy.Body != "<p>No reading reached us.</p><ul><li><p>Send one.</p></li></ul>" {
		t.Errorf("%+v", a.Copy)
	}
}
