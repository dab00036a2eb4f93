package instance

import (
	"context"
	"crypto/aes"
	"crypto/cipher"
	"crypto/sha256"
	"encoding/base64"
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

// MadeBefore says that something was done already under the same key; WhatCame gives what
// came of it.
type MadeBefore struct{}

func (*MadeBefore) Error() string {
	return "This was done a moment ago. Load the page again to see what came of it."
}

// once is a key on its way to the transaction that it is kept with.
type once struct {
	key    []byte // as it is kept: a hash
	secret []byte // what came of it is sealed with, since it may hold a token; only who has the key has it
	kept   bool
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
	kept := sum.Sum(nil)
	_, _ = sum.Write([]byte("secret"))
	return context.WithValue(ctx, onceKey{}, &once{key: kept, secret: sum.Sum(nil)})
}

// keepOnce keeps the context's key with the first transaction that is done with it.
func (a *Instance) keepOnce(ctx context.Context, tx *gorm.DB) error {
	o, ok := ctx.Value(onceKey{}).(*once)
	if !ok || o.kept {
		return nil
	}
	row := store.Made{Key: o.key, At: a.Now()}
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
func (a *Instance) Came(ctx context.Context, result any) error {
	o, ok := ctx.Value(onceKey{}).(*once)
	if !ok || !o.kept {
		return nil
	}
	said, err := json.Marshal(result)
	if err != nil {
		return fmt.Errorf("keeping what came of a request: %w", err)
	}
	sealed, err := o.seal(said)
	if err != nil {
		return fmt.Errorf("sealing what came of a request: %w", err)
	}
	return a.DB.WithContext(ctx).Exec(`UPDATE made SET result = to_jsonb(?::text) WHERE key = ?`, sealed, o.key).Error
}

// seal encrypts with the secret (AES-256-GCM, NIST SP 800-38D). A secret seals once, so that
// the nonce can be fixed.
func (o *once) seal(plain []byte) (string, error) {
	lock, err := o.lock()
	if err != nil {
		return "", err
	}
	return base64.StdEncoding.EncodeToString(lock.Seal(nil, make([]byte, lock.NonceSize()), plain, nil)), nil
}

func (o *once) unseal(kept json.RawMessage) ([]byte, error) {
	var sealed []byte // base64 in JSON is bytes
	if err := json.Unmarshal(kept, &sealed); err != nil {
		return nil, err
	}
	lock, err := o.lock()
	if err != nil {
		return nil, err
	}
	return lock.Open(nil, make([]byte, lock.NonceSize()), sealed, nil)
}

func (o *once) lock() (cipher.AEAD, error) {
	block, err := aes.NewCipher(o.secret)
	if err != nil {
		return nil, err
	}
	return cipher.NewGCM(block)
}

// cameWait is how long the first of two is waited for that came at once.
const cameWait = 3 * time.Second

// WhatCame gives what came of what was done before with the context's key, or MadeBefore
// without a result where the first did not live to say.
func (a *Instance) WhatCame(ctx context.Context, into any) error {
	o, ok := ctx.Value(onceKey{}).(*once)
	if !ok {
		return &MadeBefore{}
	}
	for waited := time.Duration(0); ; waited += 50 * time.Millisecond {
		var row store.Made
		if err := a.DB.WithContext(ctx).Where("key = ?", o.key).Limit(1).Find(&row).Error; err != nil {
			return err
		}
		if len(row.Result) > 0 {
			said, err := o.unseal(row.Result)
			if err != nil {
				return fmt.Errorf("reading what came of a request: %w", err)
			}
			return json.Unmarshal(said, into)
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

// madeLasts is for how long the same sent again is known to be the same.
const madeLasts = 48 * time.Hour

// EndKeys lets go of the keys that have had their time.
func (a *Instance) EndKeys(ctx context.Context) error {
	return a.DB.WithContext(ctx).Exec(`DELETE FROM made WHERE at < ?`, a.Now().Add(-madeLasts)).Error
}
