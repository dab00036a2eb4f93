package store

import (
	"encoding/json"
	"time"
)

// RequestKind is a kind of request that a help centre's form offers.
type RequestKind struct {
	ID          int64
	SiteID      int64
	Name        string
	Description string
	Team        string
	Fields      json.RawMessage `gorm:"type:jsonb"`
	Position    int
	RetiredAt   *time.Time
}
