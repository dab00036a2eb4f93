package trail

import (
	"gorm.io/gorm"

	"hermeneus/app/staff"
	"hermeneus/store"
)

// Note adds a line to the trail.
func (a *Trail) Note(tx *gorm.DB, by staff.Staff, line store.Trail) error {
	if line.At = a.base.Now(); by.ID != 0 {
		line.StaffID = &by.ID
	}
	return tx.Create(&line).Error
}
