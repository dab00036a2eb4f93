package flows

import (
	"context"
	"time"

	"gorm.io/gorm"

	"hermeneus/app/problem"
	"hermeneus/app/staff"
	"hermeneus/core/flow"
	"hermeneus/store"
)

// autosaveApart is how far apart the kept states of one writer lie while they write.
const autosaveApart = time.Minute

// keepState keeps the text among its earlier states: of one writer within a minute only the last.
func keepState(tx *gorm.DB, row store.Flow, key string, now time.Time) error {
	done := tx.Exec(`UPDATE autosaves SET body = ?, save_key = ?, version = ?
		WHERE id = (SELECT id FROM autosaves WHERE text_id = ? ORDER BY at DESC, id DESC LIMIT 1) AND staff_id = ? AND at > ?`,
		row.Draft, key, row.Version, row.TextID, row.WriterID, now.Add(-autosaveApart))
	if done.Error != nil || done.RowsAffected > 0 {
		return done.Error
	}
	return tx.Create(&store.Autosave{
		TextID:  *row.TextID,
		At:      now,
		StaffID: *row.WriterID,
		Title:   row.Name,
		Body:    row.Draft,
		SaveKey: key,
		Version: row.Version,
		Authors: store.Numbers{*row.WriterID},
	}).Error
}

// FlowState is an earlier state of a flow's text.
type FlowState struct {
	ID     int64     `json:"id"`
	At     time.Time `json:"at"`
	Writer string    `json:"writer"`
	Lines  int       `json:"lines"`
}

// States lists the earlier states that are kept of the text, the latest first.
func (a *Drafts) States(ctx context.Context, slug string) ([]FlowState, error) {
	list := []FlowState{}
	err := a.base.DB.WithContext(ctx).Raw(`SELECT s.id, s.at, st.name AS writer,
			length(s.body) - length(replace(s.body, chr(10), '')) AS lines
		FROM autosaves s JOIN flows f ON f.text_id = s.text_id JOIN staff st ON st.id = s.staff_id
		WHERE f.slug = ? ORDER BY s.at DESC, s.id DESC LIMIT 200`, slug).Scan(&list).Error
	return list, err
}

// ReadState gives an earlier state.
func (a *Drafts) ReadState(ctx context.Context, slug string, id int64) (string, error) {
	var row store.Autosave
	err := a.base.DB.WithContext(ctx).Raw(`SELECT s.* FROM autosaves s JOIN flows f ON f.text_id = s.text_id
		WHERE f.slug = ? AND s.id = ?`, slug, id).Take(&row).Error
	return row.Body, problem.From(err, "earlier state")
}

// keepPresent keeps a text apart from the saves that follow, as its writer's. What nobody saved is not kept.
func (a *Drafts) keepPresent(tx *gorm.DB, row store.Flow, writer int64, source string) error {
	if source == "" {
		return nil
	}
	return tx.Create(&store.Autosave{
		TextID:  *row.TextID,
		At:      a.base.Now().Add(-autosaveApart),
		StaffID: writer,
		Title:   row.Name,
		Body:    source,
		Authors: store.Numbers{writer},
	}).Error
}

// KeepAside keeps a text among the earlier states that was not saved, since somebody else saved meanwhile, and whose
// writer goes on with the other.
func (a *Drafts) KeepAside(ctx context.Context, by staff.Staff, slug, source string) error {
	if err := by.May("Writing a flow", writers...); err != nil {
		return err
	}
	if len(source) > flow.MaxScript {
		return problem.New(problem.TooLarge, "The script is larger than %d bytes.", flow.MaxScript)
	}
	return a.base.Transaction(ctx, func(tx *gorm.DB) error {
		row, err := locked(tx, slug)
		if err != nil {
			return err
		}
		return a.keepPresent(tx, row, by.ID, source)
	})
}

// PutBack makes an earlier state the text again. What stood there becomes an earlier state itself.
func (a *Drafts) PutBack(ctx context.Context, by staff.Staff, slug string, id int64, s Save) (int, error) {
	if err := by.May("Writing a flow", writers...); err != nil {
		return 0, err
	}
	source, err := a.ReadState(ctx, slug, id)
	if err != nil {
		return 0, err
	}
	s.Source = source
	version := 0
	err = a.base.Transaction(ctx, func(tx *gorm.DB) error {
		row, err := locked(tx, slug)
		if err != nil {
			return err
		}
		if row.WriterID != nil {
			if err := a.keepPresent(tx, row, *row.WriterID, row.Draft); err != nil {
				return err
			}
		}
		version, err = a.save(tx, by, &row, s)
		return err
	})
	return version, err
}
