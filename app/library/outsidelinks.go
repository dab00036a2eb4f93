package library

import (
	"gorm.io/gorm"

	"hermeneus/core/article"
	"hermeneus/store"
)

// KeepOutside notes which addresses outside a working copy points to.
func KeepOutside(tx *gorm.DB, e store.Edition) error {
	if err := tx.Exec(`DELETE FROM outside_uses WHERE edition_id = ?`, e.ID).Error; err != nil {
		return err
	}
	for _, address := range article.Read(e.Body).Outside {
		err := tx.Exec(`INSERT INTO outside_links (address) VALUES (?) ON CONFLICT DO NOTHING`, address).Error
		if err == nil {
			err = tx.Exec(`INSERT INTO outside_uses VALUES (?, ?) ON CONFLICT DO NOTHING`, e.ID, address).Error
		}
		if err != nil {
			return err
		}
	}
	return nil
}
