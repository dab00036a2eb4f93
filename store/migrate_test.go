package store_test

import (
	"context"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"gorm.io/gorm"

	"hermeneus/app/apptest"
	"hermeneus/store"
)

func opened(t *testing.T, url string) *gorm.DB {
	t.Helper()
	db, err := store.Open(context.Background(), url)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() {
		if pool, err := db.DB(); err == nil {
			_ = pool.Close()
		}
	})
	return db
}

func TestInstancesMigrateOneAfterTheOther(t *testing.T) {
	url := apptest.NewDatabase(t)
	now := time.Date(2026, 3, 2, 9, 0, 0, 0, time.UTC)
	var wait sync.WaitGroup
	failures := make([]error, 6)
	for i := range failures {
		db := opened(t, url)
		wait.Go(func() { failures[i] = store.Migrate(context.Background(), db, now) })
	}
	wait.Wait()
	for _, err := range failures {
		if err != nil {
			t.Error(err)
		}
	}
}

func TestANewerSchemaIsRefused(t *testing.T) {
	db := migrated(t)
	if err := db.Exec(`INSERT INTO goose_db_version (version_id, is_applied) VALUES (9999, true)`).Error; err != nil {
		t.Fatal(err)
	}
	err := store.Migrate(context.Background(), db, time.Date(2026, 3, 2, 9, 0, 0, 0, time.UTC))
	if err == nil || !strings.Contains(err.Error(), "version 9999 by a newer program") {
		t.Errorf("it says %v", err)
	}
}

// The authors of texts from before they were kept: what still tells of them is gathered.
func TestAuthorsOfOlderTextsAreGathered(t *testing.T) {
	db := opened(t, apptest.NewDatabase(t))
	steps, err := store.Migrator(db)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := steps.UpTo(context.Background(), 7); err != nil {
		t.Fatal(err)
	}
	for _, sql := range []string{
		`INSERT INTO staff (id, email, name, password_hash, roles, created_at) OVERRIDING SYSTEM VALUE
			SELECT n, n || '@wrenmoor.example', 'Somebody', '', '{author}', now()
			FROM generate_series(1, 8) n`,
		`INSERT INTO categories (id, name, audience, position) OVERRIDING SYSTEM VALUE
			VALUES (1, 'Bills', 'everyone', 1)`,
		`INSERT INTO articles (id, number, category_id, owner_id, kind, audience, position, created_at,
				recheck_on) OVERRIDING SYSTEM VALUE
			VALUES (1, 1, 1, 1, 'fix', 'everyone', 1, now(), '2027-01-01'),
				(2, 2, 1, 1, 'fix', 'everyone', 2, now(), '2027-01-01')`,
		`INSERT INTO editions (id, article_id, language, title, body, state, version, writer_id, written_at,
				submitter_id, submitted_at) OVERRIDING SYSTEM VALUE
			VALUES (1, 1, 'en', '', '', 'in_review', 9, 1, now(), 2, now()),
				(2, 2, 'en', '', '', 'published', 9, 1, now(), 2, now())`,
		`INSERT INTO autosaves (edition_id, at, staff_id, title, body)
			SELECT e, now() - interval '9 days', 3, '', ''
			FROM generate_series(1, 2) e`,
		`INSERT INTO revisions (edition_id, number, title, body, keywords, search_title, search_description,
				words, made_by, made_at)
			VALUES (1, 1, '', '', '{}', '', '', 0, 4, now() - interval '8 days')`,
		`INSERT INTO reviews (id, edition_id, path, passed, authors, gate, gate_since, began_by, began_at,
				ended_at) OVERRIDING SYSTEM VALUE
			VALUES (1, 1, '{}', '{}', '{5}', 'Review', now(), 6, now() - interval '7 days', now()),
				(2, 1, '{}', '{}', '{1,2}', 'Review', now(), 2, now(), NULL)`,
		`INSERT INTO decisions (review_id, gate, staff_id, at, action, revision, note)
			VALUES (1, 'Review', 7, now(), 'send_back', 1, 'More')`,
	} {
		if err := db.Exec(sql).Error; err != nil {
			t.Fatal(err)
		}
	}
	if _, err := steps.UpTo(context.Background(), 8); err != nil {
		t.Fatal(err)
	}
	ids := func(sql string) (list []int64) {
		if err := db.Raw(sql).Scan(&list).Error; err != nil {
			t.Fatal(err)
		}
		return list
	}
	touched := []int64{1, 2, 3, 4, 5, 6} // not 7, who only decided, nor 8
	if got := ids(`SELECT staff_id FROM writers WHERE edition_id = 1 ORDER BY 1`); !slices.Equal(got, touched) {
		t.Errorf("its authors are %v", got)
	}
	if got := ids(`SELECT unnest(authors) FROM reviews WHERE id = 2 ORDER BY 1`); !slices.Equal(got, touched) {
		t.Errorf("the round's authors are %v", got)
	}
	if got := ids(`SELECT staff_id FROM writers WHERE edition_id = 2`); len(got) > 0 {
		t.Errorf("a text that is live as it is has authors: %v", got)
	}
	if got := ids(`SELECT unnest(authors) FROM revisions ORDER BY 1`); !slices.Equal(got, []int64{3, 4}) {
		t.Errorf("the revision's authors are %v", got)
	}
}
