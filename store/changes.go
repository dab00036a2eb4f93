package store

import (
	"context"
	"encoding/json"
	"fmt"
	"log/slog"
	"time"

	"github.com/jackc/pgx/v5"
	"gorm.io/gorm"
)

const channel = "hermeneus"

// The things a Change can be about.
const (
	ArticleChanged      = "article"      // its live revision or audience
	CopyChanged         = "copy"         // a working copy, its state or who holds it; by edition
	ConversationChanged = "conversation" // a message or its status
	JobChanged          = "job"          // a job was asked for, went on or ended
	HoursChanged        = "hours"        // when people are there
	FlowChanged         = "flow"         // which flows are live, or where they meet customers
	SiteChanged         = "site"         // a help centre, what its search goes by, or the tree it shows
)

// Change is the word that something changed, sent to every instance when the
// transaction that changed it commits.
type Change struct {
	About string `json:"about"`
	ID    int64  `json:"id"`
}

// Announce sends a change with the transaction.
func Announce(tx *gorm.DB, about string, id int64) error {
	payload, err := json.Marshal(Change{about, id})
	if err != nil {
		return err
	}
	return tx.Exec("SELECT pg_notify(?, ?)", channel, string(payload)).Error
}

// AnnounceAll sends several changes, each once, outside of the transactions that made them.
func AnnounceAll(db *gorm.DB, changes []Change) error {
	payloads := make(Strings, len(changes))
	for i, c := range changes {
		payload, err := json.Marshal(c)
		if err != nil {
			return err
		}
		payloads[i] = string(payload)
	}
	return db.Exec(
		`SELECT pg_notify(?, p) FROM (SELECT DISTINCT p FROM unnest(?::text[]) AS p) t`,
		channel,
		payloads,
	).Error
}

// Listen calls heard for every change, until the context ends. When the connection is
// lost it calls lost, connects again and calls missed, since changes may have gone by.
// It first returns from connecting once, so that a caller knows it is listening.
func Listen(ctx context.Context, url string, heard func(Change), lost, missed func()) (wait func(), err error) {
	conn, err := listenOnce(ctx, url)
	if err != nil {
		return nil, err
	}
	done := make(chan struct{})
	go func() {
		defer close(done)
		for {
			err := hear(ctx, conn, heard)
			_ = conn.Close(context.Background())
			lost()
			for err != nil {
				if ctx.Err() != nil {
					return
				}
				slog.Warn("lost the line to other instances", "error", err)
				select {
				case <-ctx.Done():
					return
				case <-time.After(time.Second):
				}
				conn, err = listenOnce(ctx, url)
			}
			missed()
		}
	}()
	return func() { <-done }, nil
}

func listenOnce(ctx context.Context, url string) (*pgx.Conn, error) {
	conn, err := pgx.Connect(ctx, url)
	if err != nil {
		return nil, fmt.Errorf("listening for changes: %w", err)
	}
	if _, err := conn.Exec(ctx, "LISTEN "+channel); err != nil {
		_ = conn.Close(ctx)
		return nil, fmt.Errorf("listening for changes: %w", err)
	}
	return conn, nil
}

func hear(ctx context.Context, conn *pgx.Conn, heard func(Change)) error {
	for {
		n, err := conn.WaitForNotification(ctx)
		if err != nil {
			return err
		}
		var c Change
		if json.Unmarshal([]byte(n.Payload), &c) == nil {
			heard(c)
		}
	}
}
