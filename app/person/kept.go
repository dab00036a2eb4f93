package person

import (
	"context"
	"fmt"
	"time"

	"gorm.io/gorm"

	"hermeneus/app/conversations"
	"hermeneus/app/customers"
	"hermeneus/app/evidence"
	"hermeneus/app/helpcentre"
	"hermeneus/store"
)

// Kept is what is kept of a person.
type Kept struct {
	Name          string              `json:"name"` // "" for who has no account
	Address       string              `json:"address"`
	Since         *time.Time          `json:"since"` // of the account
	Groups        []string            `json:"groups"`
	Conversations []conversations.Had `json:"conversations"`
	Asked         []evidence.Words    `json:"asked"`       // in the help centre and of the bot, the latest first
	AskedInAll    int                 `json:"asked_total"` // of which Asked may be the latest part
	Remarks       []helpcentre.Remark `json:"remarks"`     // of articles
}

// Nothing reports whether nothing is kept but the address itself.
func (k Kept) Nothing() bool {
	return k.Name == "" && len(k.Conversations) == 0 && k.AskedInAll == 0 && len(k.Remarks) == 0
}

// How many words a page shows, and a file holds.
const (
	ShownAtOnce = 50
	InFile      = 100_000
)

// Kept gives what is kept of a person, and up to so many of their words.
func (a *Persons) Kept(ctx context.Context, p evidence.Person, most int) (Kept, error) {
	out := Kept{Address: p.Address, Groups: []string{}}
	err := a.base.DB.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		p, row, err := whole(tx, p)
		if err != nil {
			return err
		}
		if row.ID != 0 {
			out.Name, out.Address, out.Since = row.Name, row.Email, &row.CreatedAt
			if out.Groups, err = customers.GroupsOf(tx, row.ID); err != nil {
				return err
			}
		}
		keys, err := evidence.KeysOf(tx, p)
		if err != nil {
			return err
		}
		if out.Conversations, err = conversations.Of(tx, p, keys); err != nil {
			return err
		}
		if out.Asked, out.AskedInAll, err = evidence.WordsOf(tx, keys, most); err != nil {
			return err
		}
		out.Remarks, err = helpcentre.RemarksOf(tx, keys)
		return err
	})
	if err != nil {
		return out, fmt.Errorf("reading what is kept of somebody: %w", err)
	}
	return out, nil
}

// whole gives a person with the account of their address, and the address of their account.
func whole(db *gorm.DB, p evidence.Person) (evidence.Person, store.Customer, error) {
	var row store.Customer
	var err error
	if p.Customer != 0 {
		row, err = customers.ByID(db, p.Customer)
	} else {
		row, err = customers.ByAddress(db, p.Address)
	}
	if row.ID != 0 {
		p = evidence.Person{Customer: row.ID, Address: row.Email}
	}
	return p, row, err
}
