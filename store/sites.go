package store

import (
	"github.com/lib/pq"
)

// Site is a help centre over parts of the library.
type Site struct {
	ID           int64
	Name         string
	Main         bool
	Hosts        pq.StringArray `gorm:"type:text[]"`
	BrandColour  string
	AccentColour string
	Logo         *string
	Languages    pq.StringArray `gorm:"type:text[]"`
	AvoidedWords pq.StringArray `gorm:"type:text[]"`
	Zone         string
	Weights      pq.Float32Array `gorm:"type:real[]"`
	ReopenDays   int
	LinkDays     int `gorm:"default:30"`
}
