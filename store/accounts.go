package store

import (
	"time"
)

// Session is somebody signed in: staff or customer, never both.
type Session struct {
	TokenHash  []byte `gorm:"primaryKey"`
	StaffID    *int64
	CustomerID *int64
	CreatedAt  time.Time
	ExpiresAt  time.Time
}

// SignInFailure is an attempt to sign in that was not right, or is being looked at.
type SignInFailure struct {
	ID      int64
	Account string // staff: or customer:, and the mail address in small letters
	Network string
	Browser []byte // the hash of what it is known by, nil for none
	At      time.Time
}

// KnownBrowser is a browser that signed in to an account before.
type KnownBrowser struct {
	TokenHash []byte `gorm:"primaryKey"`
	Account   string `gorm:"primaryKey"`
	SeenAt    time.Time
}

// PasswordLink lets whoever holds it set a new password, once.
type PasswordLink struct {
	TokenHash  []byte `gorm:"primaryKey"`
	StaffID    *int64
	CustomerID *int64
	MadeAt     time.Time
	ExpiresAt  time.Time
}
