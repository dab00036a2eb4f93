package store

import "time"

// OwnLink lets whoever has a mail address see what is kept of them, for a while.
type OwnLink struct {
	TokenHash []byte `gorm:"primaryKey"`
	Address   string
	MadeAt    time.Time
	ExpiresAt time.Time
}
