package accounts

import (
	"context"

	"hermeneus/store"

	"hermeneus/app/evidence"
)

// CustomerOf gives who holds the session; ok is false when nobody does.
func (a *Accounts) CustomerOf(ctx context.Context, token string) (c evidence.Customer, ok bool, err error) {
	var row struct {
		ID          int64
		Name, Email string
		Groups      store.Strings `gorm:"type:text[]"`
	}
	err = a.base.Steady.WithContext(ctx).
		Raw(`SELECT customers.id, name, email,
				ARRAY(SELECT g.key FROM customer_group_members m JOIN customer_groups g ON g.id = m.group_id
				WHERE m.customer_id = customers.id ORDER BY g.key) AS groups
			FROM sessions JOIN customers ON customers.id = customer_id
			WHERE token_hash = ? AND expires_at > ? AND disabled_at IS NULL`, TokenHash(token), a.base.Now()).
		Scan(&row).
		Error
	return evidence.Customer{ID: row.ID, Name: row.Name, Email: row.Email, Groups: row.Groups}, row.ID != 0, err
}
