package app

import (
	"context"

	"github.com/lib/pq"
)

// CustomerOf gives who holds the session; ok is false when nobody does.
func (a *App) CustomerOf(ctx context.Context, token string) (c Customer, ok bool, err error) {
	var row struct {
		ID          int64
		Name, Email string
		Groups      pq.StringArray `gorm:"type:text[]"`
	}
	err = a.steady.WithContext(ctx).
		Raw(`SELECT customers.id, name, email,
				ARRAY(SELECT g.key FROM customer_group_members m JOIN customer_groups g ON g.id = m.group_id
				WHERE m.customer_id = customers.id ORDER BY g.key) AS groups
			FROM sessions JOIN customers ON customers.id = customer_id
			WHERE token_hash = ? AND expires_at > ? AND disabled_at IS NULL`, tokenHash(token), a.Now()).
		Scan(&row).
		Error
	return Customer{row.ID, row.Name, row.Email, row.Groups}, row.ID != 0, err
}
