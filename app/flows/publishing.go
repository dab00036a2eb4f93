package flows

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"strings"

	"gorm.io/gorm"

	"hermeneus/app/problem"
	"hermeneus/app/staff"
	"hermeneus/core/flow"
	"hermeneus/core/role"
	"hermeneus/store"
)

// Publish makes the working copy of a flow its live version, and gives the number of that. Errors refuse it; warnings
// ask for a note. copy is the version of the working copy that was read before; if somebody has saved since, nothing
// changes. Conversations that are running keep the version they began with.
func (a *Flows) Publish(ctx context.Context, by staff.Staff, slug string, copy int, note string) (int, error) {
	number := 0
	err := a.base.Change(ctx, store.FlowChanged, func(tx *gorm.DB) error {
		row, err := locked(tx, slug)
		if err != nil {
			return err
		}
		if err := mayPublish(by, row); err != nil {
			return err
		}
		switch {
		case row.EndedAt != nil:
			return problem.New(problem.NotNow, "The flow has ended. Take it back into service first.")
		case row.Version != copy:
			return problem.New(
				problem.StaleSave,
				"Somebody saved this flow after you read it. Read it again, then publish.",
			)
		case row.Draft == "":
			return problem.New(problem.NotNow, "The script is live as it stands; there is nothing to publish.")
		}
		if err := a.Reviews.reviewed(tx, by, &row); err != nil {
			return err
		}
		number, err = a.publish(tx, by, &row, note, a.checkAll)
		return err
	})
	return number, err
}

// PublishFlow takes a whole script, as it is typed or as JSON, and makes it the live version of a flow, which it makes
// if there is none. base is the version that it was made from; if another is live by now, nothing changes.
func (a *Flows) PublishFlow(ctx context.Context, by staff.Staff, slug, source string, base int) (int, error) {
	if err := by.May("Publishing a flow", role.Publisher); err != nil {
		return 0, err
	}
	r, err := flow.ReadAny(source)
	if err != nil {
		return 0, &problem.Problem{Kind: problem.Invalid, Detail: "The script cannot be read; nothing was published.",
			Fields: []problem.Field{{Name: "source", Message: err.Error()}}}
	}
	number := 0
	err = a.base.Change(ctx, store.FlowChanged, func(tx *gorm.DB) error {
		row, err := locked(tx, slug)
		if missing := (*problem.Problem)(nil); errors.As(err, &missing) && missing.Kind == problem.NotFound {
			row, err = a.make(tx, by, slug, r.Script.Name, r.Script.Language, "")
		}
		if err != nil {
			return err
		}
		if row.PathID != nil {
			return problem.New(
				problem.NotNow,
				"The flow goes through a review path: save its text, and send it to review.",
			)
		}
		live, err := latest(tx, row)
		if err != nil {
			return err
		}
		if live != base {
			return problem.New(
				problem.StaleSave,
				"Version %d was published after you opened version %d. Your script is still "+
					"here: copy it, load the newer one, and bring them together.",
				live,
				base,
			)
		}
		now := a.base.Now()
		if row.Draft = source; strings.HasPrefix(strings.TrimSpace(source), "{") {
			row.Draft = flow.Write(r.Script)
		}
		row.Version, row.WriterID, row.WrittenAt = row.Version+1, &by.ID, &now
		number, err = a.publish(tx, by, &row, "brought in whole", a.checkAll)
		return err
	})
	return number, err
}

// latest is the number of the latest version, 0 for none.
func latest(tx *gorm.DB, row store.Flow) (number int, err error) {
	err = tx.Raw(`SELECT coalesce(max(number), 0) FROM flow_versions WHERE flow_id = ?`, row.ID).Scan(&number).Error
	return number, err
}

// maxNote is how long a note of a version is at most.
const maxNote = 1000

// publish makes the working copy of a locked flow its live version, if it passes a check.
func (a *Flows) publish(
	tx *gorm.DB,
	by staff.Staff,
	row *store.Flow,
	note string,
	check func(*gorm.DB, string, *flow.Reading) (Checked, error),
) (int, error) {
	note = strings.TrimSpace(note)
	r := flow.Read(row.Draft)
	checked, err := check(tx, row.Slug, &r)
	if err != nil {
		return 0, err
	}
	if checked.Errors > 0 {
		return 0, refused(checked.Faults, "nothing was published")
	}
	var f problem.Fields
	f.AtMost("note", note, maxNote)
	f.Require(note != "" || checked.Warnings == 0, "note",
		fmt.Sprintf("The checks have %d warnings. Say in a note why it goes live all the same.", checked.Warnings))
	if err := f.Err(); err != nil {
		return 0, err
	}
	number, err := latest(tx, *row)
	if err != nil {
		return 0, err
	}
	number++
	script, err := json.Marshal(r.Script)
	if err != nil {
		return 0, err
	}
	version := store.FlowVersion{
		FlowID:      row.ID,
		Number:      number,
		Script:      script,
		Source:      row.Draft,
		Note:        note,
		PublishedBy: by.ID,
		PublishedAt: a.base.Now(),
	}
	if err := tx.Create(&version).Error; err != nil {
		return 0, err
	}
	row.LiveVersionID, row.Draft, row.Faults, row.FaultsSince = &version.ID, "", 0, nil
	row.Name, row.Language = r.Script.Name, r.Script.Language
	row.Version++
	if err := tx.Save(row).Error; err != nil {
		return 0, err
	}
	if err := meetSomebody(tx, *row); err != nil {
		return 0, err
	}
	line := store.Trail{
		Subject: "flow " + row.Slug,
		Action:  "published",
		Note:    strings.TrimSuffix(fmt.Sprintf("version %d: %s", number, note), ": "),
	}
	if err := a.trail.Note(tx, by, line); err != nil {
		return 0, err
	}
	return number, store.Announce(tx, store.CopyChanged, *row.TextID)
}

// passes refuses a working copy whose checks find errors.
func (a *Flows) passes(tx *gorm.DB, row store.Flow) error {
	r := flow.Read(row.Draft)
	checked, err := a.checkAll(tx, row.Slug, &r)
	if err != nil || checked.Errors == 0 {
		return err
	}
	return refused(checked.Faults, "it was not sent to review")
}

// RollBack makes an earlier version live again, as a version of its own. What is being written stays as it is.
func (a *Flows) RollBack(ctx context.Context, by staff.Staff, slug string, number int, note string) (int, error) {
	if err := by.May("Publishing a flow", role.Publisher); err != nil {
		return 0, err
	}
	made := 0
	err := a.base.Change(ctx, store.FlowChanged, func(tx *gorm.DB) error {
		row, err := locked(tx, slug)
		if err != nil {
			return err
		}
		if number <= 0 {
			return problem.New(problem.NotFound, "There is no such version.")
		}
		draft := row.Draft
		if row.Draft, err = sourceOf(tx, row, number); err != nil {
			return err
		}
		if note = strings.TrimSpace(note); note == "" {
			note = fmt.Sprintf("version %d again", number)
		}
		// An earlier version may go otherwise than what was rehearsed since; going back must not wait for that.
		if made, err = a.publish(tx, by, &row, note, a.check); err != nil || draft == "" {
			return err
		}
		row.Draft = draft
		return tx.Save(&row).Error
	})
	return made, err
}

// ReadVersion gives a version as it is typed, and as JSON.
func (a *Flows) ReadVersion(
	ctx context.Context,
	slug string,
	number int,
) (source string, script flow.Script, err error) {
	db := a.base.DB.WithContext(ctx)
	row, err := find(db, slug)
	if err != nil {
		return "", script, err
	}
	if source, err = sourceOf(db, row, number); err != nil {
		return "", script, err
	}
	return source, flow.Read(source).Script, nil
}
