package accounts

import (
	"context"
	"fmt"
	"time"

	"gorm.io/gorm"

	"hermeneus/app/customers"
	"hermeneus/app/problem"
	"hermeneus/app/staff"
	"hermeneus/core/role"
	"hermeneus/store"
)

// CustomerLine is a customer in the administrators' list.
type CustomerLine struct {
	ID       int64     `json:"id"`
	Name     string    `json:"name"`
	Email    string    `json:"email"`
	Since    time.Time `json:"since"`
	Disabled bool      `json:"disabled"`
}

// Customers lists who can sign in to the help centre, by name, from one on, those whose name
// or address holds the words, and how many there are in all.
func (a *Accounts) Customers(ctx context.Context, by staff.Staff, words string, from int) ([]CustomerLine, int, error) {
	if err := by.May("Seeing customers", role.Administrator); err != nil {
		return nil, 0, err
	}
	db := a.base.DB.WithContext(ctx)
	const among = ` FROM customers WHERE ? = '' OR strpos(lower(name || ' ' || email), lower(?)) > 0`
	list, total := []CustomerLine{}, 0
	if err := db.Raw(`SELECT count(*)`+among, words, words).Scan(&total).Error; err != nil {
		return nil, 0, fmt.Errorf("counting customers: %w", err)
	}
	err := db.Raw(`SELECT id, name, email, created_at AS since, disabled_at IS NOT NULL AS disabled`+among+` ORDER BY lower(name),
			id
		LIMIT ? OFFSET ?`,
		words, words, customers.MembersShown, max(0, from)).
		Scan(&list).
		Error
	return list, total, err
}

// ChangeCustomer says whether a customer can sign in. Who no longer can is signed out at once.
func (a *Accounts) ChangeCustomer(ctx context.Context, by staff.Staff, id int64, disabled bool) error {
	if err := by.May("Changing customers", role.Administrator); err != nil {
		return err
	}
	return a.base.Transaction(ctx, func(tx *gorm.DB) error {
		var row store.Customer
		if err := tx.First(&row, id).Error; err != nil {
			return problem.From(err, "customer")
		}
		if disabled == (row.DisabledAt != nil) {
			return nil
		}
		action := "enabled"
		if row.DisabledAt = nil; disabled {
			now := a.base.Now()
			row.DisabledAt, action = &now, "disabled"
			if err := tx.Where("customer_id = ?", id).Delete(&store.Session{}).Error; err != nil {
				return err
			}
			if err := tx.Where("customer_id = ?", id).Delete(&store.PasswordLink{}).Error; err != nil {
				return err
			}
		}
		if err := tx.Save(&row).Error; err != nil {
			return err
		}
		return a.noteHolder(tx, by, holder{id: row.ID, name: row.Name}, action, "")
	})
}
