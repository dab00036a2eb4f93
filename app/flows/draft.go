package flows

import (
	"context"

	"gorm.io/gorm"

	"hermeneus/app/notify"
	"hermeneus/app/problem"
	"hermeneus/app/staff"
	"hermeneus/app/texts"
	"hermeneus/core/flow"
	"hermeneus/core/role"
	"hermeneus/store"
)

// Save is a text to be saved, as its writer's browser sends it.
type Save struct {
	Source  string
	Version int    // the one that the writer started from
	Tab     string // the browser tab that writes
	Key     string // made by whoever saves: the same again is the same save
}

// Save keeps the text as it is being written, whatever is wrong with it, and gives its version. If somebody saved
// since its writer started nothing changes, and a StaleSave problem says who; while somebody else writes, a Held
// problem says who. A save whose key is known was made before: its version is given again.
func (a *Drafts) Save(ctx context.Context, by staff.Staff, slug string, s Save) (int, error) {
	if err := by.May("Writing a flow", writers...); err != nil {
		return 0, err
	}
	if len(s.Source) > flow.MaxScript {
		return 0, problem.New(problem.TooLarge, "The script is larger than %d bytes.", flow.MaxScript)
	}
	version := 0
	err := a.base.Transaction(ctx, func(tx *gorm.DB) error {
		row, err := locked(tx, slug)
		if err != nil {
			return err
		}
		if s.Key != "" {
			err := tx.Raw(`SELECT version FROM autosaves WHERE text_id = ? AND staff_id = ? AND save_key = ?`,
				row.TextID, by.ID, s.Key).Scan(&version).Error
			if err != nil || version > 0 {
				return err
			}
		}
		version, err = a.save(tx, by, &row, s)
		return err
	})
	return version, err
}

func (a *Drafts) save(tx *gorm.DB, by staff.Staff, row *store.Flow, s Save) (int, error) {
	if row.EndedAt != nil {
		return 0, problem.New(problem.NotNow, "The flow has ended. Take it back into service first.")
	}
	if row.Version != s.Version {
		var who string
		if err := tx.Raw(`SELECT name FROM staff WHERE id = ?`, row.WriterID).Scan(&who).Error; err != nil {
			return 0, err
		}
		return 0, problem.New(problem.StaleSave,
			"%s saved this flow after you opened it. Both texts are kept: yours is here, the other can be loaded.", who)
	}
	if err := a.texts.Hold(tx, by, *row.TextID, s.Tab); err != nil {
		return 0, err
	}
	present, err := draftOf(tx, *row)
	if err != nil || present == s.Source {
		return row.Version, err
	}
	if err := a.reviews.textChanged(tx, by, row); err != nil {
		return 0, err
	}
	now := a.base.Now()
	row.Draft, row.Version, row.WriterID, row.WrittenAt = s.Source, row.Version+1, &by.ID, &now
	if err := tx.Save(row).Error; err != nil {
		return 0, err
	}
	if err := keepState(tx, *row, s.Key, now); err != nil {
		return 0, err
	}
	return row.Version, store.Announce(tx, store.CopyChanged, *row.TextID)
}

// Hold says that somebody is writing a flow in a tab, and gives who holds it.
func (a *Drafts) Hold(ctx context.Context, by staff.Staff, slug, tab string) (*texts.Holder, error) {
	if err := by.May("Writing a flow", writers...); err != nil {
		return nil, err
	}
	var f problem.Fields
	f.Text("tab", tab, 60)
	if err := f.Err(); err != nil {
		return nil, err
	}
	var held *texts.Holder
	err := a.base.Transaction(ctx, func(tx *gorm.DB) error {
		row, err := locked(tx, slug)
		if err != nil {
			return err
		}
		if err := a.texts.Hold(tx, by, *row.TextID, tab); err != nil {
			return err
		}
		held, err = a.texts.Holder(tx, *row.TextID)
		return err
	})
	return held, err
}

// LetGo ends the hold of a tab.
func (a *Drafts) LetGo(ctx context.Context, by staff.Staff, slug, tab string) error {
	return a.base.Transaction(ctx, func(tx *gorm.DB) error {
		row, err := locked(tx, slug)
		if err != nil {
			return err
		}
		return a.texts.LetGo(tx, by, *row.TextID, tab)
	})
}

// TakeOver ends everybody else's hold and begins one's own.
func (a *Drafts) TakeOver(ctx context.Context, by staff.Staff, slug, tab string) error {
	if err := by.May("Taking over from somebody who is writing", role.Publisher); err != nil {
		return err
	}
	return a.base.Transaction(ctx, func(tx *gorm.DB) error {
		row, err := locked(tx, slug)
		if err != nil {
			return err
		}
		held, err := a.texts.Holder(tx, *row.TextID)
		if err != nil {
			return err
		}
		if held != nil && held.ID != by.ID {
			if err := a.texts.EndOthers(tx, by, *row.TextID); err != nil {
				return err
			}
			text := by.Name + " took over the flow “" + row.Name + "”, which you were writing. What you typed is kept in your browser."
			if err := a.notify.Tell(tx, notify.NewsTakenOver, []int64{held.ID}, text, "/flows/"+slug); err != nil {
				return err
			}
			line := store.Trail{Subject: "flow " + slug, Action: "took over", Note: "from " + held.Name}
			if err := a.trail.Note(tx, by, line); err != nil {
				return err
			}
		}
		return a.texts.Hold(tx, by, *row.TextID, tab)
	})
}

// Watch rings when a flow's text or its holder changes, until stop.
func (a *Drafts) Watch(ctx context.Context, slug string) (bell <-chan struct{}, stop func(), err error) {
	row, err := find(a.base.DB.WithContext(ctx), slug)
	if err != nil {
		return nil, nil, err
	}
	bell, stop = a.base.Watch(func(c store.Change) bool {
		return c.About == store.CopyChanged && row.TextID != nil && c.ID == *row.TextID
	})
	return bell, stop, nil
}
