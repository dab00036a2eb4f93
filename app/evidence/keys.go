package evidence

import (
	"container/list"
	"context"
	"crypto/hmac"
	"crypto/rand"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"slices"
	"strings"
	"sync"
	"time"

	"gorm.io/gorm"

	"hermeneus/app/instance"
	"hermeneus/core/outcome"
)

// An address with more keys of browsers than this within so long is one that several people share: it links no more.
const (
	keysOfAddress = 5
	sharedWithin  = 30 * 24 * time.Hour
)

// CustomerAsker is the key of a customer.
func CustomerAsker(id int64) string { return fmt.Sprintf("customer:%d", id) }

// AddressAsker is the key of whoever has a mail address: hashed with a secret, so that the address cannot be told
// from it.
func AddressAsker(db *gorm.DB, address string) (string, error) {
	secret, err := instance.Secret(db, "askers")
	if err != nil {
		return "", err
	}
	mac := hmac.New(sha256.New, secret)
	_, _ = mac.Write([]byte(strings.ToLower(strings.TrimSpace(address)))) // never fails
	return "mail:" + hex.EncodeToString(mac.Sum(nil)[:12]), nil
}

// LinkAddress keeps that a visitor's key is that of whoever has an address: for figures, never for seeing anything.
// A key that is somebody else's already is left alone.
func (a *Recorder) LinkAddress(tx *gorm.DB, v Visitor, channel outcome.Channel, address string) error {
	if !v.Counted() || strings.TrimSpace(address) == "" {
		return nil
	}
	if strings.HasPrefix(v.Asker(), outcome.VisitorKey) {
		if another, err := belongsToAnother(tx, v.Asker(), 0, address); err != nil || another {
			return err
		}
	}
	to, err := AddressAsker(tx, address)
	if err != nil {
		return err
	}
	return a.link(tx, v, channel, to)
}

// ProveAddress keeps that a visitor has an address: by signing in, or by a link that was mailed to it for that.
func (a *Recorder) ProveAddress(tx *gorm.DB, v Visitor, channel outcome.Channel, address string) error {
	if err := a.LinkAddress(tx, v, channel, address); err != nil {
		return err
	}
	to, err := AddressAsker(tx, address)
	if err != nil {
		return err
	}
	return prove(tx, v.Asker(), to)
}

// prove marks a link as proved, if it is kept.
func prove(tx *gorm.DB, key, to string) error {
	err := tx.Exec(
		`UPDATE evidence_links SET proved = true WHERE key = ? AND linked_to = ? AND NOT proved`,
		key,
		to,
	).Error
	if err != nil {
		return fmt.Errorf("marking a link as proved: %w", err)
	}
	return nil
}

// SignedIn keeps that a browser's key is that of a customer who signed in with it, whose address is proved by that.
// A key that was somebody else's is renewed first: it gives the key that the browser has from now on.
func (a *Recorder) SignedIn(ctx context.Context, v Visitor, customer Customer) (key string, err error) {
	if v.Preview || v.Crawler || v.Key == "" {
		return v.Key, nil
	}
	v.Customer = nil
	err = a.base.DB.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		another, err := belongsToAnother(tx, v.Asker(), customer.ID, customer.Email)
		if err != nil {
			return err
		}
		if another {
			v.Key = NewKey()
		}
		if err := a.link(tx, v, outcome.Help, CustomerAsker(customer.ID)); err != nil {
			return err
		}
		if err := prove(tx, v.Asker(), CustomerAsker(customer.ID)); err != nil {
			return err
		}
		signed := v
		signed.Customer = &customer
		return a.ProveAddress(tx, signed, outcome.Help, customer.Email)
	})
	return v.Key, err
}

// KeyFor gives the key of a browser in which somebody gives an address: another than before where a second person
// uses it.
func (a *Recorder) KeyFor(ctx context.Context, v Visitor, address string) (string, error) {
	if !v.Counted() || v.Customer != nil || v.Key == "" || strings.TrimSpace(address) == "" {
		return v.Key, nil
	}
	another, err := belongsToAnother(a.base.DB.WithContext(ctx), v.Asker(), 0, address)
	if another {
		return NewKey(), err
	}
	return v.Key, err
}

// AnotherPerson reports whether a browser's key is that of somebody else than whoever has an address.
func (a *Recorder) AnotherPerson(db *gorm.DB, key, address string) (bool, error) {
	if !strings.HasPrefix(key, outcome.VisitorKey) || strings.TrimSpace(address) == "" {
		return false, nil
	}
	return belongsToAnother(db, key, 0, address)
}

// NewKey gives a browser's key: 128 random bits in letters.
func NewKey() string {
	raw := make([]byte, 16)
	_, _ = rand.Read(raw) // never fails, by its documentation
	return hex.EncodeToString(raw)
}

// link keeps that a key is an asker, once; not for an address that several share.
func (a *Recorder) link(tx *gorm.DB, v Visitor, channel outcome.Channel, to string) error {
	key := v.Asker()
	if key == to || key == Nobody {
		return nil
	}
	var is struct {
		Linked bool
		Keys   int
	}
	now := a.base.Now()
	err := tx.Raw(`SELECT count(*) FILTER (WHERE key = ?) > 0 AS linked,
			count(*) FILTER (WHERE at > ? AND key LIKE 'visitor:%') AS keys
		FROM evidence_links WHERE linked_to = ?`, key, now.Add(-sharedWithin), to).Scan(&is).Error
	if err != nil {
		return fmt.Errorf("reading links: %w", err)
	}
	if is.Linked || (is.Keys >= keysOfAddress && strings.HasPrefix(to, "mail:")) {
		return nil
	}
	h := a.happened(v, channel, []outcome.Evidence{{Kind: outcome.Linked, To: to}})
	h.items[0].Contact = ""
	return keep(tx, now, h)
}

// AddLinks keeps links of keys in the order of their time: each once, and of an address no more than several people
// have keys.
func AddLinks(tx *gorm.DB, links []outcome.Evidence) error {
	const atOnce = 2000
	var kept []outcome.Evidence
	had := map[[2]string]bool{}
	recent := map[string][]time.Time{}
	for _, e := range links {
		if had[[2]string{e.Asker, e.To}] {
			continue
		}
		times := recent[e.To]
		for len(times) > 0 && e.At.Sub(times[0]) >= sharedWithin {
			times = times[1:]
		}
		if len(times) < keysOfAddress {
			had[[2]string{e.Asker, e.To}] = true
			kept = append(kept, e)
			times = append(times, e.At)
		}
		recent[e.To] = times
	}
	for part := range slices.Chunk(kept, atOnce) {
		if err := Keep(tx, part); err != nil {
			return err
		}
	}
	return nil
}

// belongsToAnother reports whether a browser's key is already linked to somebody else than a customer, or, with
// customer 0, than whoever has an address: then a second person uses the browser, who gets a key of their own.
func belongsToAnother(db *gorm.DB, key string, customer int64, address string) (bool, error) {
	own, err := AddressAsker(db, address)
	if err != nil {
		return false, err
	}
	var all []string
	err = db.Raw(`SELECT linked_to FROM evidence_links WHERE key = ?`, key).Scan(&all).Error
	if err != nil {
		return false, fmt.Errorf("reading links: %w", err)
	}
	for _, to := range all {
		switch {
		case strings.HasPrefix(to, "mail:") && to != own:
			return true, nil
		case customer != 0 && strings.HasPrefix(to, "customer:") && to != CustomerAsker(customer):
			return true, nil
		case customer == 0 && strings.HasPrefix(to, "customer:"):
			// Somebody signed in with this key before, and now an address is given: is it theirs?
			var theirs bool
			err := db.Raw(`SELECT EXISTS (SELECT FROM evidence_links WHERE key = ? AND linked_to = ?)`,
				to, own).Scan(&theirs).Error
			if err != nil || !theirs {
				return !theirs, err
			}
		}
	}
	return false, nil
}

// Look keeps, once for each key, that somebody looks: a second page was asked for with it, or the page's
// script reported.
func (a *Recorder) Look(v Visitor) error {
	if !v.Counted() || v.Customer != nil || v.AsAsker != "" || a.looking.had(v.Key) {
		return nil
	}
	var there bool
	err := a.base.Steady.Raw(`SELECT EXISTS (SELECT FROM evidence_keys WHERE key = ? AND seen)`, v.Asker()).
		Scan(&there).
		Error
	if err != nil {
		return fmt.Errorf("reading who was seen: %w", err)
	}
	if !there {
		if err := a.RecordAlone(v, outcome.Help, outcome.Evidence{Kind: outcome.Seen}); err != nil {
			return err
		}
	}
	a.looking.add(v.Key)
	return nil
}

// lately remembers the keys that came last, up to a number.
type lately struct {
	mu    sync.Mutex
	most  int
	order *list.List // of keys, the latest first
	at    map[string]*list.Element
}

func newLately(most int) *lately {
	return &lately{most: most, order: list.New(), at: map[string]*list.Element{}}
}

func (l *lately) had(key string) bool {
	l.mu.Lock()
	defer l.mu.Unlock()
	_, there := l.at[key]
	return there
}

func (l *lately) add(key string) {
	l.mu.Lock()
	defer l.mu.Unlock()
	if _, there := l.at[key]; there {
		return
	}
	l.at[key] = l.order.PushFront(key)
	if l.order.Len() > l.most {
		oldest := l.order.Remove(l.order.Back()).(string)
		delete(l.at, oldest)
	}
}
