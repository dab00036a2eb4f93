package store

import (
	"encoding/json"
	"time"
)

// Made says that something was made under a key that its client made, and what came of it.
type Made struct {
	Key    []byte `gorm:"primaryKey"`
	At     time.Time
	Result json.RawMessage `gorm:"type:jsonb"`
}

// TableName is short.
func (Made) TableName() string { return "made" }

// Setting is one named setting.
type Setting struct {
	Name  string          `gorm:"primaryKey"`
	Value json.RawMessage `gorm:"type:jsonb"`
}

// Chore is when something regular was last done.
type Chore struct {
	Name   string `gorm:"primaryKey"`
	DoneAt time.Time
}

// Secret is a key of the installation.
type Secret struct {
	Name  string `gorm:"primaryKey"`
	Value []byte
}
