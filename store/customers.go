package store

import "time"

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

// Customer is somebody who can sign in to the help centre.
type Customer struct {
	ID           int64
	Email        string
	Name         string
	PasswordHash string
	CreatedAt    time.Time
	DisabledAt   *time.Time
}
