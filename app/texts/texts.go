package texts

import (
	"context"
	"strconv"
	"strings"
	"time"

	"gorm.io/gorm"

	"hermeneus/app/problem"
	"hermeneus/app/staff"
	"hermeneus/store"
)

// Holder is who is writing a text. Any number of tabs of one person are one
// holder.
type Holder struct {
	ID    int64     `json:"id"`
	Name  string    `json:"name"`
	Since time.Time `json:"since"`
}

// Holder gives who is writing, or nil.
func (a *Texts) Holder(db *gorm.DB, text int64) (*Holder, error) {
	var h Holder
	err := db.Raw(`SELECT s.id, s.name, min(h.since) AS since
		FROM holds h JOIN staff s ON s.id = h.staff_id WHERE h.text_id = ? AND h.seen_at > ?
		GROUP BY s.id, s.name ORDER BY since LIMIT 1`, text, a.base.Now().Add(-HoldFor)).Scan(&h).Error
	if err != nil || h.ID == 0 {
		return nil, err
	}
	return &h, nil
}

// Hold makes or renews the hold of a tab, unless somebody else is writing. The
// text must be locked, so that of two people only one gets it. Without a tab
// it only looks.
func (a *Texts) Hold(tx *gorm.DB, by staff.Staff, text int64, tab string) error {
	held, err := a.Holder(tx, text)
	if err != nil {
		return err
	}
	if held != nil && held.ID != by.ID {
		return problem.New(
			problem.Held,
			"%s has been writing this since %s. You can read along; your text stays here.",
			held.Name,
			held.Since.In(a.base.Zone).Format("15:04"),
		)
	}
	if tab == "" {
		return nil
	}
	now := a.base.Now()
	err = tx.Exec(
		`INSERT INTO holds
			VALUES (?, ?, ?, ?, ?) ON CONFLICT (text_id, tab)
			DO UPDATE SET seen_at = excluded.seen_at, staff_id = excluded.staff_id, since = CASE
				WHEN holds.seen_at > ? AND holds.staff_id = excluded.staff_id THEN holds.since
				ELSE excluded.since END`,
		text,
		tab,
		by.ID,
		now,
		now,
		now.Add(-HoldFor),
	).Error
	if err != nil || held != nil {
		return err
	}
	return store.Announce(tx, store.CopyChanged, text)
}

// LetGo ends the hold of a tab.
func (a *Texts) LetGo(tx *gorm.DB, by staff.Staff, text int64, tab string) error {
	gone := tx.Exec(`DELETE FROM holds WHERE text_id = ? AND staff_id = ? AND tab = ?`, text, by.ID, tab)
	if gone.Error != nil || gone.RowsAffected == 0 {
		return gone.Error
	}
	return store.Announce(tx, store.CopyChanged, text)
}

// EndOthers ends everybody else's hold.
func (a *Texts) EndOthers(tx *gorm.DB, by staff.Staff, text int64) error {
	return tx.Exec(`DELETE FROM holds WHERE text_id = ? AND staff_id <> ?`, text, by.ID).Error
}

// HoldFor is after how much silence a hold ends.
const HoldFor = 2 * time.Minute

// EndHolds lets go of the holds that nobody has had for a day.
func (a *Texts) EndHolds(ctx context.Context) error {
	return a.base.DB.WithContext(ctx).Exec(`DELETE FROM holds WHERE seen_at < ?`, a.base.Now().Add(-24*time.Hour)).Error
}

// TheLive names the live revision of a text; an empty text where nothing is live.
const TheLive = "live"

// AutosaveID tells the name of an autosave ("autosave-12") from that of a revision.
func AutosaveID(which string) (int64, bool) {
	id, ok := strings.CutPrefix(which, "autosave-")
	return RevisionNumber(id), ok
}

// RevisionNumber reads the number of a revision, -1 for none.
func RevisionNumber(s string) int64 {
	n, err := strconv.ParseInt(s, 10, 32)
	if err != nil {
		return -1
	}
	return n
}
