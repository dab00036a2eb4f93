package conversations_test

import (
	"strings"
	"testing"
	"time"

	"hermeneus/app/apptest"
	"hermeneus/app/evidence"
	"hermeneus/app/library"
	"hermeneus/app/problem"
	"hermeneus/core/audience"
	"hermeneus/core/flow"
)

// An answer that the bot is sure of is told word for word, counts once it was seen, and is hidden from whoever may not
// see its article any more.
func TestTheBotTellsAnAnswer(t *testing.T) {
	w, c := apptest.OpenWithCrew(t)
	category := w.Category(c.Author, "Moving")
	moving := w.Draft(c.Author, category, "Moving into a new flat",
		"<p>Tell us the new address two weeks before you move into the flat.</p>", "")
	w.Publish(c, moving)
	v := apptest.Visitor("k")
	token, err := w.Conversations.StartChat(w.Context, v)
	w.Must(err)
	words := flow.Input{Kind: flow.Words, Text: "new address before I move into the flat"}
	w.Must(w.Conversations.SayInChat(w.Context, v, token, words))
	view, err := w.Conversations.ReadChat(w.Context, v, token, 0)
	w.Must(err)
	last := view.Messages[len(view.Messages)-1]
	if last.Told == nil || len(last.Told.Passages) != 1 || last.Told.Passages[0].Reference != moving ||
		!strings.Contains(last.Told.Passages[0].Blocks[0].Text, "two weeks before") {
		t.Fatalf("told %+v", last.Told)
	}
	read := func(visible time.Duration) error {
		return w.Conversations.ToldReadInChat(w.Context, v, token, last.ID, visible)
	}
	if err := read(time.Minute); apptest.KindOf(err) != problem.NotNow {
		t.Errorf("read before it could be: %v", err)
	}
	w.Wait(time.Minute)
	if err := read(time.Second); apptest.KindOf(err) != problem.NotNow {
		t.Errorf("read at a glance: %v", err)
	}
	w.Must(read(time.Minute))
	apptest.Expect(t, apptest.Kept(w), `chat asked new address before I move into the flat turn:hello
		chat offered turn:find `+moving+`@1
		chat told turn:find `+moving+`@1
		chat read turn:find `+moving+`@1`)

	other := apptest.Visitor("other")
	theirs, err := w.Conversations.StartChat(w.Context, other)
	w.Must(err)
	err = w.Conversations.ToldReadInChat(w.Context, other, theirs, last.ID, time.Minute)
	if apptest.KindOf(err) != problem.NotFound {
		t.Errorf("read in the conversation of another: %v", err)
	}
	w.Must(w.Library.SetProperties(w.Context, c.Publisher, moving, library.Properties{
		CategoryID: category, OwnerID: c.Author.ID, Kind: "how-to", Audience: audience.SignedIn,
	}))
	view, err = w.Conversations.ReadChat(w.Context, evidence.Visitor{Key: "k"}, token, 0)
	w.Must(err)
	if told := view.Messages[len(view.Messages)-1].Told; len(told.Passages) != 0 {
		t.Errorf("still told: %+v", told)
	}
}
