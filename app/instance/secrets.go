package instance

import (
	"crypto/rand"
	"fmt"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"hermeneus/store"
)

// Secret gives a secret of this library by its name, 32 random bytes, made when it is first asked for.
func Secret(db *gorm.DB, name string) ([]byte, error) {
	var kept store.Secret
	if err := db.Where("name = ?", name).Limit(1).Find(&kept).Error; err != nil || kept.Name != "" {
		return kept.Value, err
	}
	fresh := make([]byte, 32)
	_, _ = rand.Read(fresh) // never fails, by its documentation
	if err := db.Clauses(clause.OnConflict{DoNothing: true}).
		Create(&store.Secret{Name: name, Value: fresh}).
		Error; err != nil {
		return nil, fmt.Errorf("making the secret %s: %w", name, err)
	}
	err := db.Where("name = ?", name).Take(&kept).Error
	return kept.Value, err
}
