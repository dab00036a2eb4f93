package store_test

import (
	"context"
	"slices"
	"testing"
	"time"

	"hermeneus/app/apptest"
	"hermeneus/store"
)

// Evidence from before it was kept where it stood: nothing of it is lost, its words stand apart, and what the rules
// need of it is made up.
func TestOlderEvidenceIsCopiedWithItsWordsApart(t *testing.T) {
	ctx := context.Background()
	db := opened(t, apptest.NewDatabase(t))
	steps, err := store.Migrator(db)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := steps.UpTo(ctx, 13); err != nil {
		t.Fatal(err)
	}
	if err := store.EvidenceMonths.Ensure(ctx, db, time.Date(2026, 3, 2, 0, 0, 0, 0, time.UTC),
		time.Date(2026, 4, 2, 0, 0, 0, 0, time.UTC)); err != nil {
		t.Fatal(err)
	}
	for _, sql := range []string{
		`INSERT INTO staff (email, name, password_hash, roles, created_at) VALUES ('a', 'A', '', '{author}', now())`,
		`INSERT INTO flows (slug) VALUES ('door')`,
		`INSERT INTO flow_versions (flow_id, number, script, published_by, published_at)
			VALUES (1, 1, '{"turns": [{"id": "hello", "options": [{"label": "My Bill"}]}, {"id": "bye"}]}', 1, now())`,
		`INSERT INTO customers (email, name, password_hash, created_at) VALUES ('w@x', 'Wim', '', now())`,
		`INSERT INTO conversations (token_hash, kind, asker, status, began_at, customer_id, address)
			VALUES ('a', 'chat', 'visitor:1', 'closed', '2026-03-02T09:00Z', 1, ''),
				('b', 'request', 'visitor:2', 'closed', '2026-03-02T10:00Z', NULL, 'una@x')`,
		`INSERT INTO evidence (at, asker, channel, kind, text, ref, refs) VALUES
			('2026-03-02T09:00Z', 'visitor:1', 'chat', 'asked', 'my bill', 'turn:hello', '{}'),
			('2026-03-02T09:01Z', 'visitor:1', 'chat', 'told', '', 'turn:x', '{A-0001@1}'),
			('2026-04-02T09:00Z', 'visitor:2', 'help', 'asked', 'my bill', '', '{}'),
			('2026-04-02T09:00Z', 'visitor:2', 'help', 'told', '', '', '{A-0001@1}'),
			('2031-04-02T09:00Z', 'visitor:1', 'chat', 'handed_off', '', 'H-0001', '{Accounts}')`,
	} {
		if err := db.Exec(sql).Error; err != nil {
			t.Fatal(err)
		}
	}
	if _, err := steps.UpTo(ctx, 14); err != nil {
		t.Fatal(err)
	}
	lines := func(sql string) (list []string) {
		if err := db.Raw(sql).Scan(&list).Error; err != nil {
			t.Fatal(err)
		}
		return list
	}
	for _, c := range []struct {
		name, sql string
		want      []string
	}{
		{
			"what happened", `SELECT concat_ws(' ', id, asker, kind, ref, refs::text, nullif(team, ''), CASE WHEN chosen THEN 'tapped' END)
				FROM evidence WHERE id <= 5 ORDER BY id`,
			[]string{
				"1 visitor:1 asked turn:hello {} tapped", "2 visitor:1 told turn:x {A-0001@1}",
				"3 visitor:2 asked  {}", "4 visitor:2 told  {A-0001@1}", "5 visitor:1 handed_off H-0001 {} Accounts",
			},
		},
		{"its words", `SELECT evidence_id || ' ' || text FROM evidence_words ORDER BY 1`, []string{"1 my bill", "3 my bill"}},
		{
			"what is made up", `SELECT concat_ws(' ', asker, kind, ref, linked_to, to_char(at AT TIME ZONE 'UTC', 'YYYY-MM'))
				FROM evidence WHERE id > 5 ORDER BY 1`,
			[]string{
				"visitor:1 linked  customer:1 2026-03", "visitor:1 read turn:x  2026-03", "visitor:1 seen   2031-04",
				"visitor:2 seen   2026-04",
			},
		},
		{
			"the months", `SELECT relname::text FROM pg_class WHERE relispartition AND relkind = 'r' AND relname LIKE 'evidence%'
				AND pg_relation_size(oid) > 0 ORDER BY 1`,
			[]string{"evidence_2026_03", "evidence_2026_04", "evidence_2031_04"},
		},
		{"the mark", `SELECT name FROM settings WHERE name = 'older_rules_until'`, []string{"older_rules_until"}},
	} {
		if got := lines(c.sql); !slices.Equal(got, c.want) {
			t.Errorf("%s:\ngot  %q\nwant %q", c.name, got, c.want)
		}
	}
	if err := db.Exec(`UPDATE evidence SET kind = 'helped'`).Error; err == nil {
		t.Error("evidence can be changed")
	}
	if err := db.Exec(
		`INSERT INTO evidence (at, asker, channel, kind) VALUES (now(), 'a', 'help', 'asked')`,
	).Error; err != nil {
		t.Errorf("more cannot be kept: %v", err)
	}
	if _, err := steps.DownTo(ctx, 13); err != nil {
		t.Fatal(err)
	}
	if got := lines(`SELECT id || ' ' || text FROM evidence WHERE text <> '' ORDER BY id`); !slices.Equal(got,
		[]string{"1 my bill", "3 my bill"}) {
		t.Errorf("back at the version before: %q", got)
	}
}
