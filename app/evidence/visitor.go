package evidence

import (
	"cmp"
	"crypto/sha256"
	"encoding/hex"
	"strconv"

	"hermeneus/core/audience"
	"hermeneus/core/outcome"
)

// Visitor is somebody in the help centre or the chat.
type Visitor struct {
	Key         string // the browser's random first-party key
	Customer    *Customer
	Preview     bool             // a member of staff looking at what customers see: never counted
	Groups      []string         // that a member of staff sees: all there are
	Site        int64            // of the help centre; 0 for none
	Whole       bool             // the help centre shows the whole library
	Crawler     bool             // a known crawler: served, never counted
	Language    string           // that the visitor reads, "" for that of the source
	AsAsker     string           // the asker of a running conversation, whose evidence this is
	Contact     string           // the reference of the contact or thread that what is done belongs to
	Network     string           // from which the visitor comes, "" where that does not matter
	NotFollowed bool             // declined to be followed: the key lives in the page alone
	Page        string           // the address that the chat stands on
	Renew       func(key string) // gives the browser another key; nil where there is none
	Where       outcome.Stood
}

// Stands is where something stands that the visitor does: what is known of it, and what is known of the visitor.
func (v Visitor) Stands(known *outcome.Stood) *outcome.Stood {
	where := v.Where
	if known != nil {
		where = *known
		where.Conversation = cmp.Or(where.Conversation, v.Where.Conversation)
		where.Flow = cmp.Or(where.Flow, v.Where.Flow)
		where.Turn = cmp.Or(where.Turn, v.Where.Turn)
	}
	if v.Site != 0 && where.Site == "" {
		where.Site = strconv.FormatInt(v.Site, 10)
	}
	where.Language = cmp.Or(where.Language, v.Language)
	where.Page = cmp.Or(where.Page, v.Page)
	if v.Customer != nil && where.Groups == nil {
		where.Groups = v.Customer.Groups
	}
	return &where
}

// Viewer is what the visitor may see.
func (v Visitor) Viewer() audience.Viewer {
	viewer := audience.Viewer{SignedIn: v.Customer != nil, Staff: v.Preview}
	if v.Customer != nil {
		viewer.Groups = v.Customer.Groups
	}
	if v.Preview {
		viewer.Groups = v.Groups
	}
	return viewer
}

// Asker is whom the evidence belongs to: the customer, else the browser.
func (v Visitor) Asker() string {
	if v.AsAsker != "" {
		return v.AsAsker
	}
	if v.Crawler {
		return Nobody
	}
	if v.Customer != nil {
		return CustomerAsker(v.Customer.ID)
	}
	sum := sha256.Sum256([]byte(v.Key))
	return outcome.VisitorKey + hex.EncodeToString(sum[:8])
}

// Askers are all keys under which the visitor is known by what is at hand.
func (v Visitor) Askers() []string {
	askers := []string{v.Asker()}
	if v.Customer != nil {
		askers = append(askers, CustomerAsker(v.Customer.ID))
	}
	if v.Key != "" {
		v.AsAsker, v.Customer = "", nil
		askers = append(askers, v.Asker())
	}
	return askers
}

// Counted reports whether what the visitor does is evidence.
func (v Visitor) Counted() bool {
	return !v.Preview && !v.Crawler && (v.AsAsker != "" || v.Customer != nil || v.Key != "")
}

// Customer is somebody who signed in to the help centre.
type Customer struct {
	ID     int64
	Name   string
	Email  string
	Groups []string // keys of the groups the customer is in
}
