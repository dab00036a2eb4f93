package store

import (
	"time"

	"github.com/lib/pq"
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
	Refs    pq.StringArray `gorm:"type:text[]"`
	Source  string
}

// TableName keeps the glossary's word.
func (Evidence) TableName() string { return "evidence" }
