package store

import (
	"encoding/json"
	"time"
)

// Flow is a bot conversation in all its versions, and its text as it is being written.
type Flow struct {
	ID            int64
	Slug          string
	LiveVersionID *int64
	Name          string
	Language      string
	OwnerID       *int64
	TextID        *int64
	Draft         string // the working copy; "" while nobody wrote since the live version
	Version       int    // of the working copy
	WriterID      *int64
	WrittenAt     *time.Time
	EndedAt       *time.Time
	Faults        int // errors of the live version, found since it went live
	FaultsSince   *time.Time
	PathID        *int64 // of review; nil for none
	State         string `gorm:"default:'drafting'"` // on its way through the path
}

// FlowVersion is a published script.
type FlowVersion struct {
	ID          int64
	FlowID      int64
	Number      int
	Script      json.RawMessage `gorm:"type:jsonb"`
	PublishedBy int64
	PublishedAt time.Time
	Source      string // as it was typed; "" of those from before scripts were
	Note        string
}

// FlowEntry is where a flow meets customers. What is empty holds for all.
type FlowEntry struct {
	ID       int64
	FlowID   int64
	SiteID   *int64
	Channel  string
	Page     string // the beginning of the path of pages
	GroupKey string
	Hours    string // open or closed
}

// TableName keeps the glossary's word.
func (FlowEntry) TableName() string { return "flow_entries" }

// FlowRehearsal is a conversation that a flow must go on having word for word.
type FlowRehearsal struct {
	ID        int64
	FlowID    int64
	Name      string
	Rehearsal json.RawMessage `gorm:"type:jsonb"`
	KeptBy    int64
	KeptAt    time.Time
}

// FlowMove is one move of a conversation.
type FlowMove struct {
	ID             int64
	ConversationID int64
	FlowVersionID  int64
	FromTurn       string
	ToTurn         string
	Why            string
	At             time.Time
}

// FlowMoveDay counts the moves of a day.
type FlowMoveDay struct {
	FlowVersionID int64     `gorm:"primaryKey;autoIncrement:false"`
	Day           time.Time `gorm:"type:date;primaryKey"`
	FromTurn      string    `gorm:"primaryKey"`
	ToTurn        string    `gorm:"primaryKey"`
	Why           string    `gorm:"primaryKey"`
	Moves         int64
}
