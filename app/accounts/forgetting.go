package accounts

import (
	"errors"
	"fmt"
	"strings"

	"gorm.io/gorm"

	"hermeneus/app/staff"
	"hermeneus/store"
)

// Forget takes a customer away: name, address, groups, sign-ins, and the name where the trail tells it. Nothing else
// may hold on to the customer.
func (a *Accounts) Forget(tx *gorm.DB, by staff.Staff, customer store.Customer) error {
	who := holder{id: customer.ID, name: customer.Name, email: customer.Email}
	account := "customer:" + strings.ToLower(customer.Email)
	if err := errors.Join(
		tx.Exec(`DELETE FROM sessions WHERE customer_id = ?`, customer.ID).Error,
		tx.Exec(`DELETE FROM sign_in_failures WHERE account = ?`, account).Error,
		tx.Exec(`DELETE FROM known_browsers WHERE account = ?`, account).Error,
		tx.Exec(`UPDATE trail SET note = '' WHERE subject = ? AND private`, who.subject()).Error,
		tx.Exec(`UPDATE trail SET note = '' WHERE subject IN (SELECT 'group ' || g.name FROM customer_groups g)
			AND note = ? AND private`, customer.Name).Error,
		tx.Delete(&customer).Error,
	); err != nil {
		return fmt.Errorf("forgetting a customer: %w", err)
	}
	who.name = ""
	return a.noteHolder(tx, by, who, "forgotten", "")
}
