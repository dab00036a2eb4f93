package store_test

import (
	"context"
	"testing"
	"time"

	"gorm.io/gorm"

	"hermeneus/app/apptest"
	"hermeneus/store"
)

func TestChangesAreHeardWhenTheirTransactionCommits(t *testing.T) {
	ctx, stop := context.WithCancel(context.Background())
	url := apptest.NewDatabase(t)
	db, err := store.Open(ctx, url)
	if err != nil {
		t.Fatal(err)
	}
	defer func() {
		if pool, err := db.DB(); err == nil {
			_ = pool.Close()
		}
	}()
	heard, lost, missed := make(chan store.Change, 9), make(chan bool, 9), make(chan bool, 9)
	wait, err := store.Listen(
		ctx,
		url,
		func(c store.Change) { heard <- c },
		func() { lost <- true },
		func() { missed <- true },
	)
	if err != nil {
		t.Fatal(err)
	}
	next := func(what string) store.Change {
		t.Helper()
		select {
		case c := <-heard:
			return c
		case <-time.After(5 * time.Second):
			t.Fatalf("%s was not heard", what)
			return store.Change{}
		}
	}

	_ = db.Transaction(func(tx *gorm.DB) error {
		if err := store.Announce(tx, store.ArticleChanged, 1); err != nil {
			t.Fatal(err)
		}
		return gorm.ErrInvalidData // rolled back: nobody may hear of it
	})
	if err := db.Transaction(
		func(tx *gorm.DB) error { return store.Announce(tx, store.ArticleChanged, 2) },
	); err != nil {
		t.Fatal(err)
	}
	if c := next("a committed change"); c != (store.Change{About: store.ArticleChanged, ID: 2}) {
		t.Errorf("heard %+v", c)
	}

	// The line is cut: it comes back by itself, and says that something may have gone by.
	if err := db.Exec(
		`SELECT pg_terminate_backend(pid)
			FROM pg_stat_activity
			WHERE query LIKE 'LISTEN%' AND datname = current_database()`,
	).Error; err != nil {
		t.Fatal(err)
	}
	select {
	case <-lost:
	case <-time.After(5 * time.Second):
		t.Error("it is not said that the line is lost")
	}
	select {
	case <-missed:
	case <-time.After(10 * time.Second):
		t.Fatal("the line did not come back")
	}
	if err := store.Announce(db, store.ConversationChanged, 3); err != nil {
		t.Fatal(err)
	}
	if c := next("a change after the line came back"); c.ID != 3 {
		t.Errorf("heard %+v", c)
	}
	stop()
	wait()
}
