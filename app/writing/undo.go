package writing

import (
	"context"
	"encoding/json"
	"errors"
	"slices"

	"gorm.io/gorm"

	"hermeneus/app/problem"
	"hermeneus/app/staff"
	"hermeneus/core/article"
	"hermeneus/core/role"
	"hermeneus/store"
)

// AskUndo begins to take a bulk change back and gives the job of that.
func (a *Writing) AskUndo(ctx context.Context, by staff.Staff, job int64) (int64, error) {
	if err := by.May("Changing many articles", role.Author, role.Publisher); err != nil {
		return 0, err
	}
	was, err := a.jobs.ReadJob(ctx, by, job)
	if err != nil {
		return 0, err
	}
	if was.Kind != jobBulk || was.State != store.JobDone {
		return 0, problem.New(problem.NotNow, "There is nothing to take back yet.")
	}
	var row store.Job
	if err := a.base.DB.WithContext(ctx).First(&row, job).Error; err != nil {
		return 0, err
	}
	var in bulkInput
	if err := json.Unmarshal(row.Input, &in); err != nil {
		return 0, err
	}
	if err := in.Bulk.allowed(by); err != nil {
		return 0, err
	}
	var n int
	if err := a.base.DB.WithContext(ctx).
		Raw(`SELECT count(*) FROM job_changes WHERE job_id = ? AND NOT undone`, job).
		Scan(&n).
		Error; err != nil {
		return 0, err
	}
	if n == 0 {
		return 0, problem.New(problem.NotNow, "It has been taken back already.")
	}
	return a.jobs.Ask(ctx, by, jobUndo, map[string]int64{"job": job}, nil, n)
}

// runUndo puts articles back as they were before a bulk change. One that somebody
// changed since is left as it is, and named.
func (a *Writing) runUndo(
	ctx context.Context,
	by staff.Staff,
	row store.Job,
	progress func(done, total int),
) (any, error) {
	var in struct{ Job int64 }
	if err := json.Unmarshal(row.Input, &in); err != nil {
		return nil, err
	}
	out := BulkResult{}
	left := map[int64]bool{}
	for {
		var changes []store.JobChange
		err := a.base.DB.WithContext(ctx).
			Where("job_id = ? AND NOT undone", in.Job).
			Order("article_id").
			Limit(bulkChunk + len(left)).
			Find(&changes).
			Error
		if err != nil {
			return out, err
		}
		changes = slices.DeleteFunc(changes, func(c store.JobChange) bool { return left[c.ArticleID] })
		if len(changes) == 0 {
			return out, nil
		}
		err = a.base.Transaction(ctx, func(tx *gorm.DB) error {
			for _, c := range changes {
				if err := a.undoOne(tx, by, c, &out, left); err != nil {
					return err
				}
			}
			return nil
		})
		if err != nil {
			return out, err
		}
		progress(out.Changed+len(left), row.Total)
	}
}

func (a *Writing) undoOne(tx *gorm.DB, by staff.Staff, c store.JobChange, out *BulkResult, left map[int64]bool) error {
	var number int
	if err := tx.Raw(`SELECT number FROM articles WHERE id = ?`, c.ArticleID).Scan(&number).Error; err != nil {
		return err
	}
	rows, editions, err := sources(tx, []int{number}, true)
	if err != nil {
		return err
	}
	row, e := rows[0], editions[c.ArticleID]
	var before, after bulkState
	if err := errors.Join(json.Unmarshal(c.Before, &before), json.Unmarshal(c.After, &after)); err != nil {
		return err
	}
	now := stateOf(row, e)
	keywords := !slices.Equal(before.Keywords, after.Keywords)
	if !keywords && before.State == after.State {
		now.Version = after.Version // the text may have gone on: no part of it is put back
	}
	if !now.same(after) {
		left[c.ArticleID] = true
		out.Refused = append(
			out.Refused,
			BulkRefusal{article.Reference(number), e.Title, "Somebody changed it since; it stays as it is."},
		)
		return nil
	}
	if err := a.keepState(tx, c.ArticleID, before, keywords, by); err != nil {
		return err
	}
	if err := tx.Model(&store.JobChange{}).
		Where("job_id = ? AND article_id = ?", c.JobID, c.ArticleID).
		Update("undone", true).
		Error; err != nil {
		return err
	}
	out.Changed++
	return a.trail.Note(
		tx,
		by,
		store.Trail{
			ArticleID: &row.ID,
			Subject:   article.Reference(number),
			Action:    "properties",
			FromState: after.State,
			ToState:   before.State,
			Note:      "a change to many articles was taken back",
		},
	)
}
