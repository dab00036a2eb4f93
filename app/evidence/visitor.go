package evidence

import (
	"crypto/sha256"
	"encoding/hex"
	"fmt"

	"hermeneus/core/audience"
)

// Visitor is somebody in the help centre or the chat.
type Visitor struct {
	Key      string // the browser's random first-party key
	Customer *Customer
	Preview  bool     // a member of staff looking at what customers see: never counted
	Groups   []string // that a member of staff sees: all there are
	Site     int64    // of the help centre; 0 for none
	Whole    bool     // the help centre shows the whole library
	Crawler  bool     // a known crawler: served, never counted
	Language string   // that the visitor reads, "" for that of the source
	AsAsker  string   // the asker of a running conversation, whose evidence this is
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
		return fmt.Sprintf("customer:%d", v.Customer.ID)
	}
	sum := sha256.Sum256([]byte(v.Key))
	return "visitor:" + hex.EncodeToString(sum[:8])
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
