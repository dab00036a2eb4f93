package evidence

import (
	"fmt"
	"time"

	"gorm.io/gorm"

	"hermeneus/core/outcome"
)

// CameBack gives the evidence that somebody came back to results, or to a turn, from which they opened something
// before, to open something further: none when this is the first, or the same again. It is written just before
// that opening.
func (a *Recorder) CameBack(db *gorm.DB, v Visitor, from, opens string) ([]outcome.Evidence, error) {
	if from == "" || !v.Counted() {
		return nil, nil
	}
	now := a.base.Now()
	var before []string
	err := db.Raw(`SELECT ref FROM evidence WHERE asker = ? AND at > ? AND at < ? AND kind = 'opened' AND turn = ?
		ORDER BY at DESC, id DESC LIMIT 1`, v.Asker(), now.Add(-24*time.Hour), now.Add(time.Minute), from).Scan(&before).Error
	if err != nil {
		return nil, fmt.Errorf("reading what was opened: %w", err)
	}
	if len(before) == 0 || outcome.WithoutRevision(before[0]) == outcome.WithoutRevision(opens) {
		return nil, nil
	}
	return []outcome.Evidence{{
		Kind: outcome.CameBack, Ref: from, At: now.Add(-time.Microsecond), Stood: &outcome.Stood{Turn: from},
	}}, nil
}

// SaidAlready reports whether somebody's last verdict on a thing was the same, and no new words came since.
func (a *Recorder) SaidAlready(db *gorm.DB, v Visitor, verdict outcome.Kind, thing string) (bool, error) {
	var same bool
	err := db.Raw(`SELECT l.kind = ? AND NOT EXISTS
			(SELECT FROM evidence e WHERE e.asker = l.asker AND e.at >= l.at AND e.id > l.id
			AND e.kind IN ('asked', 'wanted_person', 'handed_off', 'requested'))
		FROM evidence l WHERE l.asker = ? AND l.kind IN ('helped', 'not_helped') AND l.ref = ?
		ORDER BY l.at DESC, l.id DESC LIMIT 1`, string(verdict), v.Asker(), thing).Scan(&same).Error
	if err != nil {
		return false, fmt.Errorf("reading what was said: %w", err)
	}
	return same, nil
}
