package writing

import (
	"context"
	"errors"

	"gorm.io/gorm"

	"hermeneus/app/library"
	"hermeneus/app/problem"
	"hermeneus/app/staff"
	"hermeneus/app/texts"
	"hermeneus/core/review"
	"hermeneus/store"
)

// Saved says how the working copy stands after a save.
type Saved struct {
	Version int             `json:"version"`
	State   review.State    `json:"state"`
	Allowed []review.Action `json:"allowed"`
}

// Save is a text to be saved, as its writer's browser sends it.
type Save struct {
	Text    library.WorkingCopy
	Version int    // the one that the writer started from
	Tab     string // the browser tab that writes; "" holds nothing
	Key     string // made by whoever saves: the same again is the same save. "" is never the same

	authors []int64 // of the text, besides whoever saves it
}

// SaveArticle saves the working copy. If somebody has saved since its writer started,
// nothing is changed and a StaleSave problem says who; while somebody else writes, a
// Held problem says who. A save whose key is known was made before: its answer is given
// again, with the version that it made.
func (a *Writing) SaveArticle(ctx context.Context, by staff.Staff, reference string, s Save) (Saved, error) {
	if err := by.MayEdit(); err != nil {
		return Saved{}, err
	}
	text, err := s.Text.Clean()
	if err != nil {
		return Saved{}, err
	}
	s.Text = text
	var saved Saved
	err = a.base.Transaction(ctx, func(tx *gorm.DB) error {
		row, e, err := library.FindEdition(tx, reference, true)
		if err != nil {
			return err
		}
		saved, err = a.save(tx, by, row, &e, s)
		return err
	})
	return saved, err
}

// save saves the clean text of an edition that is locked.
func (a *Writing) save(tx *gorm.DB, by staff.Staff, row store.Article, e *store.Edition, s Save) (Saved, error) {
	made, err := madeBefore(tx, by, e.ID, s.Key)
	if err != nil {
		return Saved{}, err
	}
	if made == 0 {
		if made, err = a.saveOnce(tx, by, e, s); err != nil {
			return Saved{}, err
		}
	}
	c, _, err := a.review.Situation(tx, row, *e)
	return Saved{made, c.State, c.Allowed(by.Actor())}, err
}

// madeBefore gives the version that the save with this key made, 0 for none.
func madeBefore(tx *gorm.DB, by staff.Staff, edition int64, key string) (version int, err error) {
	if key == "" {
		return 0, nil
	}
	err = tx.Raw(`SELECT version
		FROM autosaves
		WHERE text_id = ? AND staff_id = ? AND save_key = ?`, edition, by.ID, key).
		Scan(&version).
		Error
	return version, err
}

// saveOnce writes a text, unless it is the one that is there, and gives the version
// that the edition then has.
func (a *Writing) saveOnce(tx *gorm.DB, by staff.Staff, e *store.Edition, s Save) (int, error) {
	if e.Version != s.Version {
		var who string
		if err := tx.Raw(`SELECT name FROM staff WHERE id = ?`, e.WriterID).Scan(&who).Error; err != nil {
			return 0, err
		}
		return 0, problem.New(
			problem.StaleSave,
			"%s saved this article at %s, after you opened it. Both texts are kept: yours is here, the other can "+
				"be laid beside it.",
			who,
			e.WrittenAt.Format("15:04:05 MST"),
		)
	}
	next, err := library.CopyOf(*e).Do(review.Edit, by.Actor(), "")
	if err != nil {
		return 0, problem.From(err, "")
	}
	if s.Text.Same(*e) {
		return e.Version, a.texts.Hold(tx, by, e.ID, "") // nothing is written
	}
	if err := a.texts.Hold(tx, by, e.ID, s.Tab); err != nil {
		return 0, err
	}
	was := review.State(e.State)
	e.State = string(next.State)
	err = a.Write(tx, by, e, s.Text, was, s.Key, s.authors...)
	return e.Version, err
}

// Write puts a text into an edition, and keeps it among its autosaves under the key of
// the save ("" for none). Was is the state before the change; others are those whose words
// it brings, besides whoever saves it.
func (a *Writing) Write(
	tx *gorm.DB,
	by staff.Staff,
	e *store.Edition,
	text library.WorkingCopy,
	was review.State,
	key string,
	others ...int64,
) error {
	text.Into(e)
	e.Version, e.WriterID, e.WrittenAt = e.Version+1, by.ID, a.base.Now()
	if err := tx.Save(e).Error; err != nil {
		return err
	}
	if err := errors.Join(
		library.KeepLinks(tx, *e),
		library.KeepOutside(tx, *e),
		a.texts.NoteAuthors(tx, e.ID, texts.Union(others, by.ID)...),
	); err != nil {
		return err
	}
	if err := a.keepAutosave(tx, *e, key); err != nil {
		return err
	}
	if err := a.review.TextChanged(tx, by, *e, was); err != nil {
		return err
	}
	return store.Announce(tx, store.CopyChanged, e.ID)
}
