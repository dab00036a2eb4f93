package writing

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"

	"gorm.io/gorm"

	"hermeneus/app/library"
	"hermeneus/app/notify"
	"hermeneus/app/problem"
	"hermeneus/app/staff"
	"hermeneus/core/article"
	"hermeneus/core/flow"
	"hermeneus/core/review"
	"hermeneus/store"
)

// AskBulk begins a bulk change and gives its job.
func (a *Writing) AskBulk(ctx context.Context, by staff.Staff, b Bulk) (int64, error) {
	if err := b.check(a.base.DB.WithContext(ctx), by); err != nil {
		return 0, err
	}
	numbers, err := a.Numbers(ctx, b)
	if err != nil {
		return 0, err
	}
	db := a.base.DB.WithContext(ctx)
	if b.CategoryID != 0 {
		if err := db.First(&store.Category{}, b.CategoryID).Error; err != nil {
			return 0, problem.From(err, "category")
		}
	}
	if b.OwnerID != 0 {
		if err := db.First(&store.Staff{}, b.OwnerID).Error; err != nil {
			return 0, problem.From(err, "member of staff")
		}
	}
	b.Filter, b.References = nil, nil
	return a.jobs.Ask(ctx, by, jobBulk, bulkInput{b, numbers}, nil, len(numbers))
}

type bulkInput struct {
	Bulk    Bulk  `json:"bulk"`
	Numbers []int `json:"numbers"`
}

// BulkResult is what came of a bulk change.
type BulkResult struct {
	Changed int           `json:"changed"`
	Refused []BulkRefusal `json:"refused"`
}

// bulkChunk is how many articles are changed in one transaction.
const bulkChunk = 100

func (a *Writing) runBulk(ctx context.Context, by staff.Staff, row store.Job, _ func(done, total int)) (any, error) {
	var in bulkInput
	if err := json.Unmarshal(row.Input, &in); err != nil {
		return nil, err
	}
	out := BulkResult{}
	for from := row.Done; from < len(in.Numbers); from += bulkChunk {
		chunk := in.Numbers[from:min(from+bulkChunk, len(in.Numbers))]
		err := a.base.Transaction(ctx, func(tx *gorm.DB) error {
			rows, editions, err := sources(tx, chunk, true)
			if err != nil {
				return err
			}
			uses, err := library.FlowUses(tx)
			if err != nil {
				return err
			}
			for _, r := range rows {
				if err := a.bulkOne(tx, by, row.ID, in.Bulk, uses, r, editions[r.ID], &out); err != nil {
					return err
				}
			}
			// With the chunk itself, so that whoever goes on does no part twice.
			return tx.Exec(`UPDATE jobs SET state = 'running', done = ? WHERE id = ?`, from+len(chunk), row.ID).Error
		})
		if err != nil {
			return out, err
		}
	}
	err := a.base.DB.WithContext(ctx).
		Raw(`SELECT count(*) FROM job_changes WHERE job_id = ?`, row.ID).
		Scan(&out.Changed).
		Error
	return out, err
}

func (a *Writing) bulkOne(
	tx *gorm.DB,
	by staff.Staff,
	job int64,
	b Bulk,
	uses flow.Uses,
	row store.Article,
	e store.Edition,
	out *BulkResult,
) error {
	before, after, err := b.apply(by, &row, &e, uses)
	keywords := !slices.Equal(before.Keywords, after.Keywords)
	if err == nil && keywords {
		err = a.texts.Hold(tx, by, e.ID, "") // not under the hands of somebody who is writing
	}
	var p *problem.Problem
	if errors.As(err, &p) {
		if len(out.Refused) < 100 {
			out.Refused = append(out.Refused, BulkRefusal{article.Reference(row.Number), e.Title, p.Detail})
		}
		return nil
	}
	if err != nil || before.same(after) {
		return err
	}
	if before.LiveID != nil && after.LiveID == nil {
		err := tx.Raw(`SELECT id
			FROM schedules
			WHERE edition_id = ? AND kind = ? AND state = ?`, e.ID, store.ScheduleWithdraw, store.ScheduleWaiting).
			Scan(&before.EndID).
			Error
		if err != nil {
			return err
		}
	}
	if before.CategoryID != after.CategoryID {
		if err := tx.Raw(`SELECT coalesce(max(position), 0) + 1 FROM articles WHERE category_id = ?`, row.CategoryID).
			Scan(&row.Position).
			Error; err != nil {
			return err
		}
		after.Position = row.Position
	}
	if keywords {
		after.Version++
	}
	was, err := json.Marshal(before)
	if err != nil {
		return err
	}
	is, err := json.Marshal(after)
	if err != nil {
		return err
	}
	if err := tx.Create(&store.JobChange{JobID: job, ArticleID: row.ID, Before: was, After: is}).Error; err != nil {
		return err
	}
	if err := a.keepState(tx, row.ID, after, keywords, by); err != nil {
		return err
	}
	line := store.Trail{
		ArticleID: &row.ID,
		Subject:   article.Reference(row.Number),
		Action:    "properties",
		FromState: before.State,
		ToState:   after.State,
		Note:      strings.Join(b.What(), "; ") + ", among many",
	}
	return a.trail.Note(tx, by, line)
}

// bulkLife does what goes with an article of many being withdrawn, or with that being
// undone: its end date goes with it and comes back, and who follows it is told.
func (a *Writing) bulkLife(tx *gorm.DB, by staff.Staff, e store.Edition, s bulkState) error {
	at := a.base.Now()
	gone, did := &at, "was withdrawn, with others"
	err := a.review.DropSchedules(tx, e.ID, store.ScheduleWithdraw)
	if s.LiveID != nil {
		gone, did = nil, "is live again"
		err = tx.Exec(
			`UPDATE schedules SET state = ?, ended_at = NULL WHERE id = ? AND state = ?`,
			store.ScheduleWaiting,
			s.EndID,
			store.ScheduleDropped,
		).Error
	}
	if err != nil {
		return err
	}
	if err := tx.Exec(
		`UPDATE articles SET withdrawn_at = ?, withdrawn_to = NULL, withdrawn_notice = '' WHERE id = ?`,
		gone,
		e.ArticleID,
	).Error; err != nil {
		return err
	}
	var number int
	if err := tx.Raw(`SELECT number FROM articles WHERE id = ?`, e.ArticleID).Scan(&number).Error; err != nil {
		return err
	}
	return a.notify.TellFollowers(
		tx,
		e.ArticleID,
		by.ID,
		notify.NewsChanged,
		fmt.Sprintf("“%s” %s.", e.Title, did),
		"/library/"+article.Reference(number),
	)
}

// keepState writes what bulk changes can change.
func (a *Writing) keepState(tx *gorm.DB, id int64, s bulkState, keywords bool, by staff.Staff) error {
	err := tx.Exec(
		`UPDATE articles
			SET category_id = ?, position = ?, owner_id = ?, audience = ?, recheck_fixed = recheck_fixed
				OR recheck_on <> ?::date, recheck_on = ?
			WHERE id = ?`,
		s.CategoryID,
		s.Position,
		s.OwnerID,
		s.Audience,
		s.RecheckOn,
		s.RecheckOn,
		id,
	).Error
	if err != nil {
		return err
	}
	var e store.Edition
	if err := tx.Where("article_id = ? AND language = ?", id, article.SourceLanguage).First(&e).Error; err != nil {
		return err
	}
	was, lives := review.State(e.State), e.LiveRevisionID != nil
	e.State = s.State
	if e.LiveRevisionID = s.LiveID; lives != (s.LiveID != nil) {
		if err := a.bulkLife(tx, by, e, s); err != nil {
			return err
		}
	}
	if s.LiveID == nil {
		e.LiveSince = nil
	} else if e.LiveSince == nil {
		now := a.base.Now()
		e.LiveSince = &now
	}
	if keywords {
		text := library.WorkingCopyOf(e)
		text.Keywords = s.Keywords
		err = a.Write(tx, by, &e, text, was, "")
	} else {
		err = tx.Save(&e).Error
	}
	if err != nil {
		return err
	}
	return store.Announce(tx, store.ArticleChanged, id)
}
