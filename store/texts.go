package store

import (
	"time"
)

// Writer says that somebody wrote of an edition's text since it was last published.
type Writer struct {
	TextID  int64 `gorm:"primaryKey;autoIncrement:false"`
	StaffID int64 `gorm:"primaryKey;autoIncrement:false"`
	Since   time.Time
}

// Autosave is an earlier state of a working copy.
type Autosave struct {
	ID      int64
	TextID  int64
	At      time.Time
	StaffID int64
	Title   string
	Body    string
	SaveKey string
	Version int
	Authors Numbers `gorm:"type:bigint[];default:'{}'"`
}

// Hold is one browser tab in which somebody is writing.
type Hold struct {
	TextID  int64  `gorm:"primaryKey"`
	Tab     string `gorm:"primaryKey"`
	StaffID int64
	Since   time.Time
	SeenAt  time.Time
}

// Text is what people write, review and comment on; what it is the text of has the same number.
type Text struct {
	ID   int64
	Kind string // edition or flow
}
