package outcomes

import (
	"errors"
	"fmt"
	"slices"

	"gorm.io/gorm"

	"hermeneus/store"
)

// ErrNotFolded says that evidence of somebody waits to be folded.
var ErrNotFolded = errors.New("some evidence is not folded yet")

// SetsOf parts keys by the asker that they are of; keys of which there is no evidence are left out. Until the end of
// the transaction nothing is folded. It fails with ErrNotFolded where evidence of one of them waits.
func SetsOf(tx *gorm.DB, keys store.Strings) ([]store.Strings, error) {
	if err := tx.Exec(`SELECT pg_advisory_xact_lock(?)`, int64(foldLock)).Error; err != nil {
		return nil, err
	}
	var waits bool
	err := tx.Raw(`SELECT EXISTS (SELECT FROM evidence_marks WHERE asker = ANY(?))`, keys).Scan(&waits).Error
	if err == nil && waits {
		err = ErrNotFolded
	}
	if err != nil {
		return nil, err
	}
	var rows []store.AskerKey
	if err := tx.Where("key = ANY(?)", keys).Order("asker_id, key").Find(&rows).Error; err != nil {
		return nil, fmt.Errorf("reading whose keys they are: %w", err)
	}
	var sets []store.Strings
	for i, r := range rows {
		if i == 0 || rows[i-1].AskerID != r.AskerID {
			sets = append(sets, nil)
		}
		last := len(sets) - 1
		sets[last] = append(sets[last], r.Key)
	}
	return sets, nil
}

// Rename puts a key in the place of some keys of one asker, as was done in the evidence.
func Rename(tx *gorm.DB, keys store.Strings, key string) error {
	var ids []int64
	if err := tx.Raw(`DELETE FROM asker_keys WHERE key = ANY(?) RETURNING asker_id`, keys).
		Scan(&ids).
		Error; err != nil {
		return fmt.Errorf("renaming an asker: %w", err)
	}
	ids = slices.Compact(ids)
	if len(ids) != 1 {
		return fmt.Errorf("keys of %d askers cannot become one", len(ids))
	}
	named := map[string]any{"key": key, "asker": ids[0]}
	for _, sql := range []string{
		`INSERT INTO asker_keys SELECT @key, @asker WHERE EXISTS (SELECT FROM evidence WHERE asker = @key)
			OR EXISTS (SELECT FROM evidence_links WHERE linked_to = @key)
			OR EXISTS (SELECT FROM questions WHERE asker_id = @asker)`,
		`UPDATE askers SET name = (SELECT min(key COLLATE "C") FROM asker_keys WHERE asker_id = @asker)
			WHERE id = @asker AND EXISTS (SELECT FROM asker_keys WHERE asker_id = @asker)`,
		`DELETE FROM askers WHERE id = @asker AND NOT EXISTS (SELECT FROM asker_keys WHERE asker_id = @asker)`,
	} {
		if err := tx.Exec(sql, named).Error; err != nil {
			return fmt.Errorf("renaming an asker: %w", err)
		}
	}
	return nil
}
