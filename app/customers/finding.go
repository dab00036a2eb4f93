package customers

import (
	"strings"

	"gorm.io/gorm"

	"hermeneus/store"
)

// ByAddress finds the customer with a mail address; one without an ID for nobody.
func ByAddress(db *gorm.DB, address string) (store.Customer, error) {
	var row store.Customer
	err := db.Where("lower(email) = lower(?)", strings.TrimSpace(address)).Limit(1).Find(&row).Error
	return row, err
}

// ByID finds a customer; one without an ID for nobody.
func ByID(db *gorm.DB, id int64) (store.Customer, error) {
	var row store.Customer
	err := db.Where("id = ?", id).Limit(1).Find(&row).Error
	return row, err
}
