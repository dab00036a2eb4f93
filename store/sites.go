package store

import "encoding/json"

// Site is a help centre over parts of the library.
type Site struct {
	ID           int64
	Name         string
	Main         bool
	Hosts        Strings `gorm:"type:text[]"`
	BrandColour  string
	AccentColour string
	Logo         *string
	Languages    Strings `gorm:"type:text[]"`
	AvoidedWords Strings `gorm:"type:text[]"`
	Zone         string
	Weights      Floats `gorm:"type:real[]"`
	ReopenDays   int
	LinkDays     int `gorm:"default:30"`
	AsksToFollow bool
	FollowWords  json.RawMessage `gorm:"type:jsonb;default:'{}'"`
}
