package store

import (
	"time"
)

// Evidence is one append-only fact.
type Evidence struct {
	ID           int64 `gorm:"primaryKey"`
	At           time.Time
	Asker        string
	Channel      string
	Kind         string
	Ref          string
	Refs         Strings `gorm:"type:text[]"`
	Source       string
	LinkedTo     string // the asker that this key is
	Contact      string // the reference of the contact or thread it belongs to
	Unlikely     bool
	NotFollowed  bool // of somebody who declined to be followed
	Site         string
	Language     string
	Groups       Strings `gorm:"type:text[]"`
	Page         string
	Conversation string
	Flow         string // name@version
	Turn         string
	Intent       string
	Score        *float64
	Category     string
	Team         string
	Reason       string
	Arm          string
	Chosen       bool
}

// TableName keeps the glossary's word.
func (Evidence) TableName() string { return "evidence" }

// EvidenceWords are the words of an item, redacted, until they are forgotten.
type EvidenceWords struct {
	EvidenceID int64 `gorm:"primaryKey;autoIncrement:false"`
	At         time.Time
	Text       string
}

// EvidenceKey is what is asked of a key whenever something is kept under it.
type EvidenceKey struct {
	Key      string `gorm:"primaryKey"`
	Unlikely bool
	Seen     bool
}

// EvidenceLink says that a key is an asker.
type EvidenceLink struct {
	Key      string `gorm:"primaryKey"`
	LinkedTo string `gorm:"primaryKey"`
	At       time.Time
	Proved   bool // by signing in, or by opening what was mailed
}

// Newcomers counts the new askers of one network within an hour.
type Newcomers struct {
	Network string    `gorm:"primaryKey"`
	Hour    time.Time `gorm:"primaryKey"`
	Part    int       `gorm:"primaryKey"` // of several, so that those who come at once do not wait for each other
	Askers  int
}

// TableName is one word for many.
func (Newcomers) TableName() string { return "newcomers" }
