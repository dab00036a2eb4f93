package texts

import (
	"slices"

	"hermeneus/store"

	"gorm.io/gorm"
)

// Whoever wrote any of a text since it was last published is one of its authors, whom the
// gates of its path may keep from passing it. They are kept apart from the autosaves, which
// are thinned.

// NoteAuthors notes that people wrote of a text.
func (a *Texts) NoteAuthors(tx *gorm.DB, text int64, people ...int64) error {
	return tx.Exec(`INSERT INTO writers SELECT ?, id, ? FROM staff WHERE id = ANY(?) ON CONFLICT DO NOTHING`,
		text, a.base.Now(), store.Numbers(people)).Error
}

// Authors lists who wrote a text since it was last published.
func Authors(tx *gorm.DB, text int64) ([]int64, error) {
	authors := []int64{}
	err := tx.Raw(`SELECT staff_id FROM writers WHERE text_id = ? ORDER BY 1`, text).Scan(&authors).Error
	return authors, err
}

// ClearAuthors begins anew with a text's authors: it is live.
func ClearAuthors(tx *gorm.DB, text int64) error {
	return tx.Exec(`DELETE FROM writers WHERE text_id = ?`, text).Error
}

// Union is a list of people and more of them, each once, in order.
func Union(people []int64, more ...int64) []int64 {
	all := slices.Concat(people, more)
	slices.Sort(all)
	return slices.Compact(all)
}
