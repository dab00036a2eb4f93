package conversations_test

import (
	"testing"
	"time"

	"hermeneus/app/apptest"
	"hermeneus/core/flow"
)

// Whoever watches a conversation at one instance hears of each word that is said at another.
func TestEveryInstanceHearsOfAWord(t *testing.T) {
	w, _ := apptest.OpenWithCrew(t)
	other := w.Another()
	v := apptest.Visitor("k")
	token, err := w.Conversations.StartChat(w.Context, v)
	w.Must(err)
	bell, stop, err := other.Conversations.WatchChat(w.Context, token)
	w.Must(err)
	defer stop()
	for range 3 {
		for quiet := false; !quiet; { // what was told before has rung
			select {
			case <-bell:
			case <-time.After(200 * time.Millisecond):
				quiet = true
			}
		}
		w.Must(w.Conversations.SayInChat(w.Context, v, token, flow.Input{Kind: flow.Words, Text: "estimated bill"}))
		select {
		case <-bell:
		case <-time.After(10 * time.Second):
			t.Fatal("nobody rang")
		}
	}
}
