package store

import (
	"time"
)

// Evidence is one append-only fact.
type Evidence struct {
	ID      int64 `gorm:"primaryKey"`
	At      time.Time
	Asker   string
	Channel string
	Kind    string
	Text    string
	Ref     string
	Refs    Strings `gorm:"type:text[]"`
	Source  string
}

// TableName keeps the glossary's word.
func (Evidence) TableName() string { return "evidence" }
