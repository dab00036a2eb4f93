package store

import (
	"encoding/json"
	"time"
)

// Flow is a bot conversation in all its versions.
type Flow struct {
	ID            int64
	Slug          string
	LiveVersionID *int64
}

// FlowVersion is a published script.
type FlowVersion struct {
	ID          int64
	FlowID      int64
	Number      int
	Script      json.RawMessage `gorm:"type:jsonb"`
	PublishedBy int64
	PublishedAt time.Time
}
