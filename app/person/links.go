package person

import (
	"context"
	"net/url"
	"strings"
	"time"

	"gorm.io/gorm"

	"hermeneus/app/accounts"
	"hermeneus/app/evidence"
	"hermeneus/app/problem"
	"hermeneus/core/outcome"
	"hermeneus/store"
)

// How long a link works, and how many are mailed to an address in an hour.
const (
	linkLasts   = 2 * time.Hour
	linksInHour = 3
)

// AskLink mails a link, which shows what is kept, to an address. It never says whether anything is.
func (a *Persons) AskLink(ctx context.Context, address string) error {
	address = strings.TrimSpace(address)
	var f problem.Fields
	f.Address("address", address)
	if err := f.Err(); err != nil {
		return err
	}
	return a.base.Transaction(ctx, func(tx *gorm.DB) error {
		lock := "own link " + strings.ToLower(address)
		if err := tx.Exec(`SELECT pg_advisory_xact_lock(hashtextextended(?, 0))`, lock).Error; err != nil {
			return err
		}
		now := a.base.Now()
		var lately int
		err := tx.Raw(`SELECT count(*) FROM own_links WHERE lower(address) = lower(?) AND made_at > ?`,
			address, now.Add(-time.Hour)).Scan(&lately).Error
		if err != nil || lately >= linksInHour {
			return err
		}
		token, hash := accounts.NewToken()
		row := store.OwnLink{TokenHash: hash, Address: address, MadeAt: now, ExpiresAt: now.Add(linkLasts)}
		if err := tx.Create(&row).Error; err != nil {
			return err
		}
		return a.notify.SendMail(tx, address, "What we keep of you",
			"Somebody, most likely you, asked what we keep of "+address+
				".\n\nSee it, take it with you or have it deleted here within two hours:\n"+
				a.base.Address+"/help/kept?key="+url.QueryEscape(token)+
				"\n\nIf it was not you, leave this mail be: nothing happens.\n")
	})
}

// Proved gives who a visitor proved to be: whoever has the address that a link (key) was mailed to, else the customer
// who signed in; known is false for who proved nothing. Forgetting and showing are for these alone.
func (a *Persons) Proved(
	ctx context.Context,
	v evidence.Visitor,
	key string,
) (p evidence.Person, known bool, err error) {
	switch {
	case key != "":
		p, err = a.ByLink(ctx, v, key)
		return p, err == nil, err
	case v.Customer != nil:
		return evidence.Person{Customer: v.Customer.ID, Address: v.Customer.Email}, true, nil
	}
	return p, false, nil
}

// ByLink gives the person whose address a link was mailed to, and keeps that it was opened by whoever looks.
func (a *Persons) ByLink(ctx context.Context, v evidence.Visitor, key string) (evidence.Person, error) {
	db := a.base.DB.WithContext(ctx)
	var row store.OwnLink
	err := db.Where("token_hash = ? AND expires_at > ?", accounts.TokenHash(key), a.base.Now()).
		Limit(1).
		Find(&row).
		Error
	if err != nil {
		return evidence.Person{}, err
	}
	if row.Address == "" {
		return evidence.Person{}, problem.New(problem.Ended, "This link has ended, or was used. Ask for another.")
	}
	err = db.Transaction(func(tx *gorm.DB) error {
		return a.recorder.ProveAddress(tx, v, outcome.Mail, row.Address)
	})
	return evidence.Person{Address: row.Address}, err
}

// EndLinks lets go of the links that have had their time.
func (a *Persons) EndLinks(ctx context.Context) error {
	return a.base.DB.WithContext(ctx).
		Exec(`DELETE FROM own_links WHERE expires_at < ?`, a.base.Now().Add(-time.Hour)).Error
}
