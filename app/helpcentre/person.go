package helpcentre

import (
	"errors"
	"fmt"
	"time"

	"gorm.io/gorm"

	"hermeneus/app/library"
	"hermeneus/store"
)

// Remark is what somebody said of an article.
type Remark struct {
	At        time.Time `json:"at"`
	Reference string    `json:"reference"`
	Helped    bool      `json:"helped"`
	Text      string    `json:"text"`
}

// RemarksOf lists what was said of articles under some keys, the latest first.
func RemarksOf(db *gorm.DB, keys store.Strings) ([]Remark, error) {
	list := []Remark{}
	err := db.Raw(`SELECT f.at, `+library.ReferenceSQL+` AS reference, f.helped, f.text FROM feedback f
			JOIN editions e ON e.id = f.edition_id JOIN articles a ON a.id = e.article_id
			WHERE f.asker = ANY(@keys) AND f.text <> '' AND NOT EXISTS (SELECT FROM votes o
				WHERE o.revision_id = f.revision_id AND o.asker = f.asker AND o.comment = f.text)
		UNION ALL SELECT v.at, `+library.ReferenceSQL+`, v.helped, v.comment FROM votes v
			JOIN revisions r ON r.id = v.revision_id JOIN editions e ON e.id = r.edition_id
			JOIN articles a ON a.id = e.article_id WHERE v.asker = ANY(@keys)
		ORDER BY at DESC`, map[string]any{"keys": keys}).Scan(&list).Error
	if err != nil {
		return nil, fmt.Errorf("reading what somebody said of articles: %w", err)
	}
	return list, nil
}

// Forget takes away what was said of articles under some keys, and puts another in their place: votes stay, one for
// each revision.
func Forget(tx *gorm.DB, customer int64, keys store.Strings, key string) error {
	named := map[string]any{"keys": keys, "key": key, "customer": customer}
	var failures []error
	for _, sql := range []string{
		`DELETE FROM votes v WHERE asker = ANY(@keys) AND EXISTS (SELECT FROM votes o WHERE o.revision_id = v.revision_id
			AND o.asker = ANY(@keys) AND (o.at, o.asker) > (v.at, v.asker))`,
		`UPDATE votes SET asker = @key, comment = '' WHERE asker = ANY(@keys)`,
		`DELETE FROM news n USING feedback f WHERE f.asker = ANY(@keys) AND f.text <> '' AND strpos(n.text, f.text) > 0`,
		`DELETE FROM feedback WHERE answer = '' AND asker = ANY(@keys)`,
		`UPDATE feedback SET asker = @key, text = '', anchor = NULL WHERE asker = ANY(@keys)`,
		`UPDATE feedback SET customer_id = NULL WHERE customer_id = @customer`,
	} {
		failures = append(failures, tx.Exec(sql, named).Error)
	}
	if err := errors.Join(failures...); err != nil {
		return fmt.Errorf("forgetting what somebody said of articles: %w", err)
	}
	return nil
}
