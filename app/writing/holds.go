package writing

import (
	"context"
	"fmt"
	"strings"

	"gorm.io/gorm"

	"hermeneus/app/library"
	"hermeneus/app/notify"
	"hermeneus/app/problem"
	"hermeneus/app/staff"
	"hermeneus/app/texts"
	"hermeneus/core/article"
	"hermeneus/core/review"
	"hermeneus/core/role"
	"hermeneus/store"
)

// Hold says that somebody is writing an edition in a tab. It gives who holds it.
func (a *Writing) Hold(ctx context.Context, by staff.Staff, reference, tab string) (*texts.Holder, error) {
	var f problem.Fields
	f.Text("tab", tab, 60)
	if err := f.Err(); err != nil {
		return nil, err
	}
	var held *texts.Holder
	err := a.base.Transaction(ctx, func(tx *gorm.DB) error {
		_, e, err := library.FindEdition(tx, reference, true)
		if err != nil {
			return err
		}
		if _, err := library.CopyOf(e).Do(review.Edit, by.Actor(), ""); err != nil {
			return problem.From(err, "")
		}
		if err := a.texts.Hold(tx, by, e.ID, tab); err != nil {
			return err
		}
		held, err = a.texts.Holder(tx, e.ID)
		return err
	})
	return held, err
}

// LetGo ends the hold of a tab.
func (a *Writing) LetGo(ctx context.Context, by staff.Staff, reference, tab string) error {
	return a.base.Transaction(ctx, func(tx *gorm.DB) error {
		_, e, err := library.FindEdition(tx, reference, true)
		if err != nil {
			return err
		}
		return a.texts.LetGo(tx, by, e.ID, tab)
	})
}

// TakeOver ends everybody else's hold and begins one's own. It needs a publisher
// who also writes.
func (a *Writing) TakeOver(ctx context.Context, by staff.Staff, reference, tab string) error {
	if err := by.May("Taking over from somebody who is writing", role.Publisher); err != nil {
		return err
	}
	return a.base.Transaction(ctx, func(tx *gorm.DB) error {
		row, e, err := library.FindEdition(tx, reference, true)
		if err != nil {
			return err
		}
		if _, err := library.CopyOf(e).Do(review.Edit, by.Actor(), ""); err != nil {
			return problem.From(err, "")
		}
		held, err := a.texts.Holder(tx, e.ID)
		if err != nil {
			return err
		}
		if err := a.texts.EndOthers(tx, by, e.ID); err != nil {
			return err
		}
		if held != nil && held.ID != by.ID {
			text := fmt.Sprintf(
				"%s took over “%s”, which you were writing. What had not arrived is kept as a revision.",
				by.Name,
				e.Title,
			)
			if err := a.notify.Tell(
				tx,
				notify.NewsTakenOver,
				[]int64{held.ID},
				text,
				"/library/"+article.EditionReference(row.Number, e.Language),
			); err != nil {
				return err
			}
			line := store.Trail{
				ArticleID: &row.ID,
				Subject:   article.Reference(row.Number),
				Action:    "took over",
				Note:      "from " + held.Name,
			}
			if err := a.trail.Note(tx, by, line); err != nil {
				return err
			}
		}
		if err := a.texts.Hold(tx, by, e.ID, tab); err != nil {
			return err
		}
		return store.Announce(tx, store.CopyChanged, e.ID)
	})
}

// KeepUnsaved makes a numbered revision of a text that could not be saved, so that
// nothing is lost when somebody else took over. It gives its number.
func (a *Writing) KeepUnsaved(
	ctx context.Context,
	by staff.Staff,
	reference string,
	text library.WorkingCopy,
) (int, error) {
	if err := by.May("Keeping a text", role.Author); err != nil {
		return 0, err
	}
	text, err := text.Clean()
	if err != nil {
		return 0, err
	}
	var number int
	err = a.base.Transaction(ctx, func(tx *gorm.DB) error {
		row, e, err := library.FindEdition(tx, reference, true)
		if err != nil {
			return err
		}
		if text.Same(e) {
			return nil // it arrived after all
		}
		text.Into(&e)
		number, err = a.review.Snapshot(tx, by, &row, &e, "unsaved text of "+by.Name)
		if err != nil {
			return err
		}
		line := store.Trail{
			ArticleID: &row.ID,
			Subject:   article.Reference(row.Number),
			Action:    "kept unsaved text",
			Note: "as revision " + strings.TrimPrefix(
				article.RevisionReference(row.Number, number),
				article.Reference(row.Number)+"@",
			),
		}
		return a.trail.Note(tx, by, line)
	})
	return number, err
}

// WatchCopy rings when an edition's working copy, its state or its holder changes,
// until stop.
func (a *Writing) WatchCopy(ctx context.Context, reference string) (bell <-chan struct{}, stop func(), err error) {
	_, e, err := library.FindEdition(a.base.DB.WithContext(ctx), reference, false)
	if err != nil {
		return nil, nil, err
	}
	bell, stop = a.base.Watch(func(c store.Change) bool { return c.About == store.CopyChanged && c.ID == e.ID })
	return bell, stop, nil
}
