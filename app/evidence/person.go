package evidence

import (
	"errors"
	"fmt"
	"time"

	"gorm.io/gorm"

	"hermeneus/core/outcome"
	"hermeneus/store"
)

// Person is whoever proved to be a customer, or to have a mail address.
type Person struct {
	Customer int64 // 0 for nobody who can sign in
	Address  string
}

// KeysOf gives the keys that are proved to be a person's: those of the customer and the address, and of browsers in
// which they signed in or opened the link that was mailed to them for that. A browser in which the address was merely
// typed is not theirs, nor one in which a mail was opened that may have been passed on.
func KeysOf(db *gorm.DB, p Person) (store.Strings, error) {
	var own store.Strings
	if p.Customer != 0 {
		own = append(own, CustomerAsker(p.Customer))
	}
	if p.Address != "" {
		key, err := AddressAsker(db, p.Address)
		if err != nil {
			return nil, err
		}
		own = append(own, key)
	}
	var browsers store.Strings
	// A browser that is proved to be somebody else's too is not this person's alone.
	err := db.Raw(`SELECT coalesce(array_agg(DISTINCT key ORDER BY key), '{}') FROM evidence_links l
		WHERE linked_to = ANY(?) AND proved AND key LIKE 'visitor:%' AND NOT EXISTS (SELECT FROM evidence_links o
			WHERE o.key = l.key AND o.proved AND NOT (o.linked_to = ANY(?)))`, own, own).Row().Scan(&browsers)
	if err != nil {
		return nil, fmt.Errorf("reading whose keys they are: %w", err)
	}
	return append(own, browsers...), nil
}

// Words are what somebody said once, and when.
type Words struct {
	At   time.Time `json:"at"`
	Text string    `json:"text"`
}

// WordsOf gives the words that are kept under some keys, the latest first, and how many there are in all.
func WordsOf(db *gorm.DB, keys store.Strings, most int) ([]Words, int, error) {
	list := []Words{}
	err := db.Raw(`SELECT w.at, w.text FROM evidence e JOIN evidence_words w ON w.evidence_id = e.id
		WHERE e.asker = ANY(?) ORDER BY w.at DESC, w.evidence_id DESC LIMIT ?`, keys, most).Scan(&list).Error
	if err != nil {
		return nil, 0, fmt.Errorf("reading somebody's words: %w", err)
	}
	var total int
	err = db.Raw(`SELECT count(*) FROM evidence e JOIN evidence_words w ON w.evidence_id = e.id
		WHERE e.asker = ANY(?)`, keys).Scan(&total).Error
	return list, total, err
}

// Forgetting lets what is kept under some keys be kept under another in this transaction, and nothing else be changed.
func Forgetting(tx *gorm.DB) error {
	return tx.Exec(`SELECT set_config('hermeneus.forgetting', 'on', true)`).Error
}

// ForgetWords takes the words away that were kept under some keys, and those that askers said in some contacts.
func ForgetWords(tx *gorm.DB, keys, askers, contacts store.Strings) error {
	err := tx.Exec(`DELETE FROM evidence_words WHERE evidence_id IN (SELECT id FROM evidence WHERE asker = ANY(?)
		UNION ALL SELECT id FROM evidence WHERE asker = ANY(?)
			AND (contact = ANY(?) OR ref = ANY(?) OR 'conversation:' || conversation = ANY(?)))`,
		keys, askers, contacts, contacts, contacts).Error
	if err != nil {
		return fmt.Errorf("forgetting somebody's words: %w", err)
	}
	return nil
}

// Forget puts a key that leads nowhere in the place of some keys of one asker: items stay, and with them the figures.
// Links among the keys go; what others were linked to is the new key. Forgetting must hold in the transaction.
func Forget(tx *gorm.DB, keys store.Strings) (key string, err error) {
	key = outcome.ForgottenKey + NewKey()
	named := map[string]any{"keys": keys, "key": key, "linked": string(outcome.Linked)}
	aside, err := asideTables(tx)
	if err != nil {
		return "", err
	}
	var failures []error
	for _, table := range aside {
		failures = append(
			failures,
			tx.Exec(
				`DELETE FROM `+table+` WHERE kind = @linked AND asker = ANY(@keys) AND linked_to = ANY(@keys)`,
				named,
			).Error,
			tx.Exec(`UPDATE `+table+` SET asker = @key WHERE asker = ANY(@keys)`, named).Error,
			tx.Exec(
				`UPDATE `+table+` SET linked_to = @key WHERE kind = @linked AND linked_to = ANY(@keys)`,
				named,
			).Error,
		)
	}
	for _, sql := range []string{
		`DELETE FROM evidence WHERE kind = @linked AND asker = ANY(@keys) AND linked_to = ANY(@keys)`,
		`UPDATE evidence SET asker = @key WHERE asker = ANY(@keys)`,
		`UPDATE evidence SET linked_to = @key WHERE asker IN (SELECT key FROM evidence_links WHERE linked_to = ANY(@keys))
			AND kind = @linked AND linked_to = ANY(@keys)`,
		`INSERT INTO evidence_links (key, linked_to, at, proved)
			SELECT CASE WHEN key = ANY(@keys) THEN @key ELSE key END,
				CASE WHEN linked_to = ANY(@keys) THEN @key ELSE linked_to END, min(at), false
			FROM evidence_links WHERE (key = ANY(@keys)) <> (linked_to = ANY(@keys)) GROUP BY 1, 2`,
		`DELETE FROM evidence_links WHERE key = ANY(@keys) OR linked_to = ANY(@keys)`,
		`INSERT INTO evidence_keys (key, unlikely, seen)
			SELECT @key, bool_or(unlikely), bool_or(seen) FROM evidence_keys WHERE key = ANY(@keys) HAVING count(*) > 0`,
		`DELETE FROM evidence_keys WHERE key = ANY(@keys)`,
	} {
		failures = append(failures, tx.Exec(sql, named).Error)
	}
	if err := errors.Join(failures...); err != nil {
		return "", fmt.Errorf("forgetting somebody's evidence: %w", err)
	}
	return key, nil
}

// asideTables lists the months of evidence that were put aside.
func asideTables(tx *gorm.DB) ([]string, error) {
	var tables []string
	err := tx.Raw(`SELECT c.oid::regclass::text FROM pg_class c JOIN pg_namespace n ON n.oid = c.relnamespace
		WHERE n.nspname = 'aside' AND c.relkind = 'r' AND c.relname LIKE 'evidence\_%'`).Scan(&tables).Error
	if err != nil {
		return nil, fmt.Errorf("listing what was put aside: %w", err)
	}
	return tables, nil
}
