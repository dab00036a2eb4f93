package app

import (
	"context"
	"crypto/sha256"
	"encoding/json"
	"fmt"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"hermeneus/store"
)

// A client that hears no answer sends the same again, under the same key, which it made. The
// key is kept in the transaction of what is done: so it is done once, and the second hears what
// came of the first. (The header follows the draft of the IETF on idempotency keys, from memory.)

// MadeBefore says that something was done already under the same key, and what came of it.
type MadeBefore struct {
	Result json.RawMessage // nil while nobody knows
}

func (*MadeBefore) Error() string {
	return "This was done a moment ago. Load the page again to see what came of it."
}

// once is a key on its way to the transaction that it is kept with.
type once struct {
	key  []byte
	kept bool
}

type onceKey struct{}

// LongestKey bounds the key that a client makes, in characters.
const LongestKey = 200

// Once lets what is done with the context be done once under a key. Who sends it and what is
// sent belong to the key: another's key, or other words, are something else. "" is never the same.
func Once(ctx context.Context, key string, sent ...string) context.Context {
	if key == "" || len(key) > LongestKey {
		return ctx
	}
	sum := sha256.New()
	for _, part := range append([]string{key}, sent...) {
		_, _ = fmt.Fprintf(sum, "%d:%s", len(part), part) // never fails
	}
	return context.WithValue(ctx, onceKey{}, &once{key: sum.Sum(nil)})
}

// keepOnce keeps the context's key with the first transaction that is done with it.
func (a *App) keepOnce(ctx context.Context, tx *gorm.DB) error {
	o, ok := ctx.Value(onceKey{}).(*once)
	if !ok || o.kept {
		return nil
	}
	row := store.Made{Key: o.key, At: a.now()}
	done := tx.Clauses(clause.OnConflict{DoNothing: true}).Create(&row)
	if done.Error != nil {
		return done.Error
	}
	if done.RowsAffected == 0 {
		return &MadeBefore{}
	}
	o.kept = true
	return nil
}

// Came keeps what came of what was done with the context, for whoever sends it again.
func (a *App) Came(ctx context.Context, result any) error {
	o, ok := ctx.Value(onceKey{}).(*once)
	if !ok || !o.kept {
		return nil
	}
	said, err := json.Marshal(result)
	if err != nil {
		return fmt.Errorf("keeping what came of a request: %w", err)
	}
	return a.db.WithContext(ctx).Exec(`UPDATE made SET result = ? WHERE key = ?`, string(said), o.key).Error
}

// cameWait is how long the first of two is waited for that came at once.
const cameWait = 3 * time.Second

// WhatCame gives what came of what was done before with the context's key, or MadeBefore
// without a result where the first did not live to say.
func (a *App) WhatCame(ctx context.Context, into any) error {
	o, ok := ctx.Value(onceKey{}).(*once)
	if !ok {
		return &MadeBefore{}
	}
	for waited := time.Duration(0); ; waited += 50 * time.Millisecond {
		var row store.Made
		if err := a.db.WithContext(ctx).Where("key = ?", o.key).Limit(1).Find(&row).Error; err != nil {
			return err
		}
		if len(row.Result) > 0 {
			return json.Unmarshal(row.Result, into)
		}
		if waited >= cameWait {
			return &MadeBefore{}
		}
		select {
		case <-ctx.Done():
			return ctx.Err()
		case <-time.After(50 * time.Millisecond):
		}
	}
}
