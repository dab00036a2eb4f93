package store

import (
	"time"
)

// Team is a group of agents that takes conversations.
type Team struct {
	ID   int64
	Name string
}

// Staff is a person who works here.
type Staff struct {
	ID           int64
	Email        string
	Name         string
	PasswordHash string
	Roles        Strings `gorm:"type:text[]"`
	TeamID       *int64
	DisabledAt   *time.Time
	CreatedAt    time.Time
	Here         bool `gorm:"default:true"` // takes conversations now
	Chats        int  // how many at once; 0 for as many as come
}

// TableName keeps the glossary's word.
func (Staff) TableName() string { return "staff" }
