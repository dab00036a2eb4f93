package app_test

import (
	"bytes"
	"compress/gzip"
	"context"
	"crypto/hmac"
	"crypto/sha256"
	"encoding/base64"
	"fmt"
	"os"
	"os/exec"
	"testing"
	"time"

	"hermeneus/app"
	"hermeneus/app/apptest"
	"hermeneus/app/evidence"
	"hermeneus/app/outcomes"
	"hermeneus/app/staff"
	"hermeneus/core/flow"
	"hermeneus/core/role"
	"hermeneus/store"
)

// What was true in the dump, whose demo world was made by the version of schema 13: sign-ins and chats that were open.
const (
	dumped      = "demo-13"
	signedIn    = "WT-FA3iG0pIyGoCZPRUYgwpdJqmOgqWXqUll-OhyDrg" // Maren
	openChat    = "YBi6nbQ97sQWospf0_VUOsCYBWMBc-aaqbmpBNHTVbI"
	anotherChat = "5dtqkecqAXThwX2nI_7CxNGt8eLESeJyi8HhJyqGfAo"
)

// restored gives a database with a dump.
func restored(t *testing.T, dumped string) string {
	t.Helper()
	url := apptest.NewDatabase(t)
	file, err := os.Open("testdata/" + dumped + ".sql.gz")
	if err != nil {
		t.Fatal(err)
	}
	defer func() { _ = file.Close() }()
	dump, err := gzip.NewReader(file)
	if err != nil {
		t.Fatal(err)
	}
	restore := exec.Command("psql", "-q", "-v", "ON_ERROR_STOP=1", "-o", os.DevNull, "-d", url)
	restore.Stdin = dump
	if out, err := restore.CombinedOutput(); err != nil {
		t.Fatalf("restoring the dump: %v\n%s", err, bytes.TrimSpace(out))
	}
	return url
}

// rowsOf counts the rows of every table.
func rowsOf(t *testing.T, url string) map[string]int {
	t.Helper()
	db, err := store.Open(context.Background(), url)
	if err != nil {
		t.Fatal(err)
	}
	pool, _ := db.DB()
	defer func() { _ = pool.Close() }()
	var tables []string
	if err := db.Raw(`SELECT c.relname FROM pg_class c WHERE c.relkind IN ('r', 'p') AND NOT c.relispartition
		AND c.relnamespace = 'public'::regnamespace`).Scan(&tables).Error; err != nil {
		t.Fatal(err)
	}
	counts := map[string]int{}
	for _, table := range tables {
		var n int
		if err := db.Raw(`SELECT count(*) FROM "` + table + `"`).Scan(&n).Error; err != nil {
			t.Fatal(err)
		}
		counts[table] = n
	}
	return counts
}

// A library of an older version is upgraded with nothing lost: its rows, open chats, links in mails and sign-ins are
// the same, and its history is counted.
func TestALibraryOfAnOlderVersionIsUpgraded(t *testing.T) {
	t.Parallel()
	url := restored(t, dumped)
	before := rowsOf(t, url)
	clock := func() time.Time { return time.Date(2026, 11, 26, 0, 40, 0, 0, time.UTC) }
	ctx := context.Background()
	a, err := app.Open(ctx, app.Config{Database: url, Clock: clock, Zone: time.UTC, Idle: true})
	if err != nil {
		t.Fatal(err)
	}
	defer a.Close()
	check := func(what string, err error) {
		t.Helper()
		if err != nil {
			t.Errorf("%s: %v", what, err)
		}
	}
	after := rowsOf(t, url)
	// What the upgrade adds to: links and who was seen, until when older rules counted, what hashes addresses, and the
	// texts of flows.
	more := map[string]bool{
		"evidence":         true,
		"secrets":          true,
		"settings":         true,
		"goose_db_version": true,
		"texts":            true,
	}
	for table, n := range before {
		if after[table] != n && (!more[table] || after[table] < n) {
			t.Errorf("%s had %d rows, and has %d", table, n, after[table])
		}
	}
	if before["evidence"] < 5000 || before["conversations"] < 100 || after["evidence_words"] == 0 {
		t.Errorf("the dump is no demo: %v", before)
	}
	// Sign-ins.
	maren, err := a.Accounts.StaffOf(ctx, signedIn)
	check("a sign-in", err)
	if maren.Name != "Maren Tolle" {
		t.Errorf("the sign-in is of %q", maren.Name)
	}
	// Chats that were open go on.
	for token, words := range map[string]int{openChat: 2, anotherChat: 1} {
		view, err := a.Conversations.ReadChat(ctx, evidence.Visitor{}, token, 0)
		check("an open chat", err)
		if view.Status != store.WithBot || len(view.Messages) < words {
			t.Errorf("an open chat: %+v", view)
		}
		check("going on in a chat", a.Conversations.SayInChat(ctx, evidence.Visitor{}, token,
			flow.Input{Kind: flow.Words, Text: "and when is my bill due"}))
	}
	// Links that were mailed.
	var request struct{ Reference, Address string }
	check("a request", a.DB().Raw(`SELECT reference, address FROM conversations
		WHERE kind = 'request' AND address <> '' AND status <> 'closed' ORDER BY id LIMIT 1`).Scan(&request).Error)
	var secret []byte
	check("the secret of links", a.DB().Raw(`SELECT value FROM secrets WHERE name = 'links'`).Row().Scan(&secret))
	mac := hmac.New(sha256.New, secret)
	_, _ = fmt.Fprintf(mac, "%s\n%s", request.Reference, request.Address)
	key := request.Reference + "." + base64.RawURLEncoding.EncodeToString(mac.Sum(nil)[:18])
	followed, err := a.Requests.FollowRequest(ctx, evidence.Visitor{Key: "k"}, key)
	check("a mailed link", err)
	if followed.Reference != request.Reference {
		t.Errorf("the link to %s opens %q", request.Reference, followed.Reference)
	}
	// The history is counted, and says by which rules.
	check("folding", a.Outcomes.FoldAll(ctx))
	check("verifying", a.Outcomes.Verify(ctx, func(difference string) { t.Error(difference) }))
	analyst := staff.Staff{Roles: role.Set{role.Analyst}}
	f, err := a.Outcomes.Outcomes(ctx, analyst, clock().AddDate(0, 0, -60), clock(), outcomes.Split{})
	check("the figures", err)
	if f.Counts.Settled() < 500 || f.Counts.Person < 50 || f.Counts.Presumed < 50 || f.OlderRules == nil {
		t.Errorf("the figures of the history: %+v, older rules %v", f.Counts, f.OlderRules)
	}
	if f.Beside.Linkable.Count == 0 {
		t.Error("no contact of the history is linked to what was looked for before")
	}
}
