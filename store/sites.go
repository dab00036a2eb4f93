package store

import (
	"time"

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

// SiteCategory says that a site shows a category and all below it.
type SiteCategory struct {
	SiteID     int64 `gorm:"primaryKey"`
	CategoryID int64 `gorm:"primaryKey"`
}

// CustomerGroup is a named group of customers.
type CustomerGroup struct {
	ID     int64 `gorm:"primaryKey"`
	Key    string
	Name   string
	MadeAt time.Time
}

// CustomerGroupMember says that a customer is in a group.
type CustomerGroupMember struct {
	GroupID    int64 `gorm:"primaryKey"`
	CustomerID int64 `gorm:"primaryKey"`
}
