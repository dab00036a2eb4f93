package store

import (
	"encoding/json"
	"time"
)

// OpeningHours is when a team or a help centre is open, and what is said while it is not.
type OpeningHours struct {
	ID          int64
	TeamID      *int64
	SiteID      *int64
	Zone        string // "" for that of the installation
	Always      bool
	Week        json.RawMessage `gorm:"type:jsonb"`
	AwayUntil   *time.Time
	AwayWords   json.RawMessage `gorm:"type:jsonb"` // by language
	BusyWords   json.RawMessage `gorm:"type:jsonb"`
	ClosedWords json.RawMessage `gorm:"type:jsonb"`
	Version     int
}

// TableName keeps the trade's word.
func (OpeningHours) TableName() string { return "opening_hours" }

// OpeningDay is a time on which it is otherwise than the week says.
type OpeningDay struct {
	ID         int64
	HoursID    *int64 // nil: of all teams and help centres
	UID        string
	Name       string
	Begins     string
	Ends       string
	Rule       string
	ExceptDays Strings `gorm:"type:text[]"`
	AlsoDays   Strings `gorm:"type:text[]"`
	Opens      bool
}
