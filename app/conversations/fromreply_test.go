package conversations_test

import (
	"slices"
	"strings"
	"testing"

	"hermeneus/app/apptest"
	"hermeneus/app/conversations"
	"hermeneus/app/notify"
	"hermeneus/app/problem"
	"hermeneus/app/requests"
	"hermeneus/app/review"
	"hermeneus/app/staff"
	"hermeneus/core/role"
)

// What an agent hands to the writers belongs to whom the category names, who is told; the
// agent reads it and comments on it, and it leads back to the conversation.
func TestADraftOfAReplyIsNobodysOrphan(t *testing.T) {
	w := apptest.Open(t)
	c := w.Crew()
	steward, other := w.Hire("stu", role.Reviewer), w.Hire("oda", role.Agent)
	named := w.Category(
		c.Author,
		"Named",
	)
	written := w.Category(
		c.Author,
		"Written",
	)
	empty := w.Category(
		c.Author,
		"Empty",
	)
	w.Must(w.Review.SetReviewing(w.Context, c.Administrator, named, 0, steward.ID))
	w.Draft(c.Author, written, "One", "<p>x</p>", "")
	sent, err := w.Requests.SendRequest(
		w.Context,
		apptest.Visitor("k"),
		requests.NewRequest{Subject: "The meter", Text: "Where?", Address: "wim@post.example"},
	)
	w.Must(err)
	w.Must(w.Conversations.Accept(w.Context, c.Agent, sent.Reference))
	w.Must(w.Conversations.Reply(w.Context, c.Agent, sent.Reference, conversations.AgentReply{Text: "In the hall."}))
	w.Must(
		w.Conversations.Reply(
			w.Context,
			c.Agent,
			sent.Reference,
			conversations.AgentReply{Articles: nil, Text: "Behind the door."},
		),
	)
	for category, owner := range map[int64]staff.Staff{named: steward, written: c.Author, empty: c.Agent} {
		made, err := w.Conversations.ArticleFromReply(w.Context, c.Agent, category, sent.Reference)
		w.Must(err)
		a, err := w.Desk.ReadArticle(w.Context, c.Agent, made.Reference)
		w.Must(err)
		if a.Owner.ID != owner.ID || a.Conversation != sent.Reference || !a.MayComment ||
			!strings.Contains(a.Copy.Body, "Behind the door") {
			t.Errorf(
				"owned by %s, made of %q, may comment %t: %s",
				a.Owner.Name,
				a.Conversation,
				a.MayComment,
				a.Copy.Body,
			)
		}
		news, err := w.Notify.News(w.Context, owner, notify.NewsHandedOver, 1)
		w.Must(err)
		if told := slices.ContainsFunc(
			news.Items,
			func(n notify.NewsLine) bool { return n.Path == "/library/"+made.Reference },
		); told != (owner.ID != c.Agent.ID) {
			t.Errorf("%s is told: %t", owner.Name, told)
		}
		said := review.NewComment{Line: 0, Quote: "door", Text: "Which one?"}
		w.Must(apptest.Second(w.Review.Comments.AddComment(w.Context, c.Agent, made.Reference, said)))
		if _, err := w.Review.Comments.AddComment(
			w.Context,
			other,
			made.Reference,
			said,
		); apptest.KindOf(err) != problem.Denied {
			t.Errorf("an agent who was not there comments: %v", err)
		}
		w.Must(apptest.Second(w.Writing.Checks(w.Context, apptest.Reader, made.Reference)))
		w.Must(apptest.Second(w.HelpCentre.ArticleFeedback(w.Context, c.Agent, made.Reference)))
	}
	if _, err := w.Review.Comments.AddComment(
		w.Context,
		c.Agent,
		"A-0001",
		review.NewComment{Quote: "x", Text: "?"},
	); apptest.KindOf(err) != problem.Denied {
		t.Errorf("an agent comments on any text: %v", err)
	}
}
