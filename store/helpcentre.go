package store

import (
	"encoding/json"
	"time"
)

// Vote is what one asker last said of one revision.
type Vote struct {
	RevisionID int64  `gorm:"primaryKey"`
	Asker      string `gorm:"primaryKey"`
	Helped     bool
	Comment    string
	At         time.Time
}

// Feedback is what a reader said of a live text.
type Feedback struct {
	ID         int64
	RevisionID int64
	EditionID  int64
	Asker      string
	CustomerID *int64
	At         time.Time
	Helped     bool
	Text       string
	Anchor     *json.RawMessage `gorm:"type:jsonb"`
	Answer     string
	AnswerNote string
	MendedIn   *int
	ForID      *int64
	AnsweredBy *int64
	AnsweredAt *time.Time
}

// TableName keeps the glossary's word.
func (Feedback) TableName() string { return "feedback" }
