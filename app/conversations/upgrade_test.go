package conversations_test

import (
	"encoding/json"
	"testing"
	"time"

	"hermeneus/app/apptest"
	"hermeneus/app/conversations"
	"hermeneus/app/evidence"
	"hermeneus/app/requests"
	"hermeneus/store"
)

// Addresses that were given before links were kept are linked once, as they would have been.
func TestOldConversationsLinkTheirAddresses(t *testing.T) {
	w := apptest.OpenIdle(t)
	w.Crew()
	send := func(key, address string) {
		n := requests.NewRequest{Subject: "Reading", Text: "Where?", Address: address}
		w.Must(apptest.Second(w.Requests.SendRequest(w.Context, evidence.Visitor{Key: key}, n)))
		w.Wait(time.Minute)
	}
	send("one", "wim@post.example")
	send("two", "WIM@post.example")
	for _, key := range []string{"a", "b", "c", "d", "e", "f", "g"} {
		send(key, "office@post.example")
	}
	links := func() (n int) {
		w.Must(w.DB().Raw(`SELECT count(*) FROM evidence_links`).Scan(&n).Error)
		return n
	}
	want := links()
	// As it was before: there were no links.
	w.Must(w.DB().Exec(`DELETE FROM evidence_links`).Error)
	w.Must(conversations.LinkOld(w.DB()))
	if links() != 0 {
		t.Error("a library in which nothing is old was linked")
	}
	until, err := json.Marshal(w.Time())
	w.Must(err)
	w.Must(w.DB().Create(&store.Setting{Name: "older_rules_until", Value: until}).Error)
	w.Wait(time.Hour)
	send("later", "una@post.example")
	for range 2 {
		w.Must(conversations.LinkOld(w.DB()))
	}
	if got := links(); got != want+1 || want != 2+5 {
		t.Errorf("%d links were made, %d are, and one later", want, got)
	}
}
