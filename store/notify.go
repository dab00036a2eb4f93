package store

import (
	"time"
)

// News is one thing that somebody on the staff is told.
type News struct {
	ID       int64
	StaffID  int64
	At       time.Time
	Kind     string
	Text     string
	Path     string
	Shown    bool
	ByMail   bool
	ReadAt   *time.Time
	MailedAt *time.Time
}

// TableName keeps the glossary's word.
func (News) TableName() string { return "news" }

// NewsWish is what somebody wants to be told, and how.
type NewsWish struct {
	StaffID int64   `gorm:"primaryKey;autoIncrement:false"`
	Off     Strings `gorm:"type:text[]"`
	NoMail  Strings `gorm:"type:text[]"`
	Rhythm  string  `gorm:"default:soon"`
}

// Mail is a mail to be sent.
type Mail struct {
	ID      int64
	MadeAt  time.Time
	Address string
	Subject string
	Body    string
	SentAt  *time.Time
	Tries   int
	NextAt  time.Time
	Fault   string

	Kind     string     // what it is for, as far as that matters for sending it
	FailedAt *time.Time // when it was given up
}

// Follower is told of what happens to an article.
type Follower struct {
	ArticleID int64 `gorm:"primaryKey"`
	StaffID   int64 `gorm:"primaryKey"`
}
