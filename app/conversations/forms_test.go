package conversations_test

import (
	"slices"
	"testing"

	"hermeneus/app/apptest"
	"hermeneus/core/flow"
	"hermeneus/core/form"
)

// The fields of a request form are asked in the chat, and stand with the request as if the form had been sent.
func TestTheBotFillsInARequestForm(t *testing.T) {
	w, c, site := apptest.Requesting(t)
	_, err := w.Flows.PublishFlow(w.Context, c.Publisher, "moving", `flow Moving (en)
request Accounts: What else shall we know?
  form: I am moving
close We write to you.
`, 0)
	w.Must(err)
	v := apptest.Visitor("k")
	v.Site = site
	token, err := w.Conversations.StartChat(w.Context, v)
	w.Must(err)
	view, err := w.Conversations.ReadChat(w.Context, v, token, 0)
	w.Must(err)
	asks := view.Messages[len(view.Messages)-1]
	if view.Waiting != flow.ForField || asks.Text != "In or out?" ||
		!slices.Equal(asks.Choices, []string{"In", "Out"}) {
		t.Fatalf("it asks %+v", asks)
	}
	for _, in := range []flow.Input{
		{Kind: flow.Choice, Text: "Out"},
		{Kind: flow.Words, Text: "4 Wharf Row"},
		{Kind: flow.Words, Text: "I leave on Friday"},
		{Kind: flow.Words, Text: "wim@post.example"},
	} {
		w.Must(w.Conversations.SayInChat(w.Context, v, token, in))
	}
	lines, err := w.Conversations.Handoffs(w.Context, c.Agent)
	w.Must(err)
	h, err := w.Conversations.ReadHandoff(w.Context, c.Agent, lines[0].Reference)
	w.Must(err)
	want := []form.Answer{
		{Key: "which", Label: "In or out?", Value: "Out"},
		{Key: "forward", Label: "New address", Value: "4 Wharf Row"},
	}
	if lines[0].Kind != "request" || h.KindName != "I am moving" || !slices.Equal(h.Answers, want) {
		t.Errorf("the request: %+v, %+v", h.KindName, h.Answers)
	}
}
