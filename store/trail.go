package store

import (
	"time"
)

// Trail is one line of who did what.
type Trail struct {
	ID         int64
	At         time.Time
	StaffID    *int64 // nobody: the program
	ArticleID  *int64
	CategoryID *int64
	Subject    string
	Action     string
	FromState  string
	ToState    string
	Note       string
	Private    bool // only administrators read the note: it names customers
}

// TableName keeps the glossary's word.
func (Trail) TableName() string { return "trail" }
