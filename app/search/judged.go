package search

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"hermeneus/app/outcomes"
	"hermeneus/app/problem"
	"hermeneus/app/staff"
	"hermeneus/core/article"
	"hermeneus/core/search"
	"hermeneus/store"
)

// JudgedQuestion is a question of which it is known what answers it.
type JudgedQuestion struct {
	ID       int64     `json:"id"`
	Question string    `json:"question"`
	Right    []string  `json:"right"`  // references of articles
	Source   string    `json:"source"` // ledger, confirmed or by_hand
	MadeBy   string    `json:"made_by"`
	MadeAt   time.Time `json:"made_at"`
	Place    int       `json:"place"`  // of the first right one now, 0 when it is not among ten
	Before   *int      `json:"before"` // before the last thing that went live; nil when it was not measured
}

// maxJudged bounds a site's judged questions, and rightShown the answers of each.
const (
	maxJudged  = 2000
	rightShown = 5
)

// Judge says that an article answers a question: by hand, or out of the Ledger. An
// article that answers the same question too is added to it.
func (a *Quality) Judge(ctx context.Context, by staff.Staff, site int64, question, reference, source string) error {
	if err := by.May("Judging what answers a question", outcomes.FigureRoles...); err != nil {
		return err
	}
	var f problem.Fields
	question = tidyQuestion(question)
	f.Text("question", question, 300)
	f.Require(source == "ledger" || source == "by_hand", "source", "Say where it comes from.")
	number, _, ok := article.ParseReference(reference)
	f.Require(ok, "reference", "An article is named as A-0042.")
	if err := f.Err(); err != nil {
		return err
	}
	return a.base.Transaction(ctx, func(tx *gorm.DB) error {
		var there, n int
		if err := tx.Raw(`SELECT count(*) FROM articles WHERE number = ?`, number).Scan(&there).Error; err != nil {
			return err
		}
		if err := tx.Raw(`SELECT count(*) FROM judged WHERE site_id = ? AND NOT dropped`, site).
			Scan(&n).
			Error; err != nil {
			return err
		}
		f.Require(there == 1, "reference", "There is no such article.")
		f.Require(
			n < maxJudged,
			"question",
			fmt.Sprintf("A help centre has at most %d judged questions; take some away.", maxJudged),
		)
		if err := f.Err(); err != nil {
			return err
		}
		if err := judge(tx, site, question, number, source, &by.ID, a.base.Now()); err != nil {
			return problem.From(err, "help centre")
		}
		return a.trail.Note(
			tx,
			by,
			store.Trail{Subject: reference, Action: "judged to answer a question", Note: question},
		)
	})
}

func tidyQuestion(text string) string { return strings.Join(strings.Fields(text), " ") }

// judge keeps a judgement. What somebody dropped comes back only by hand.
func judge(tx *gorm.DB, site int64, question string, number int, source string, by *int64, at time.Time) error {
	var row store.Judged
	err := tx.Clauses(clause.Locking{Strength: "UPDATE"}).
		Where("site_id = ? AND lower(question) = lower(?)", site, question).
		Limit(1).
		Find(&row).
		Error
	if err != nil {
		return err
	}
	if row.ID == 0 {
		row = store.Judged{SiteID: site, Question: question, RightArticles: store.Numbers{}}
	} else if row.Dropped {
		if source == "confirmed" {
			return nil
		}
		row.RightArticles, row.Dropped = store.Numbers{}, false
	}
	if slices.Contains(row.RightArticles, int64(number)) || len(row.RightArticles) >= rightShown {
		return nil
	}
	row.RightArticles = append(row.RightArticles, int64(number))
	row.Source, row.MadeBy, row.MadeAt = source, by, at
	return tx.Save(&row).Error
}

// JudgeFromLedger says that an article answered the question of the Ledger's line.
func (a *Quality) JudgeFromLedger(ctx context.Context, by staff.Staff, key, reference string) error {
	q, err := a.outcomes.ReadQuestion(ctx, by, key)
	if err != nil {
		return err
	}
	if q.LastAsked == "" {
		return problem.New(problem.NotNow, "Nobody put this question in words, so the search cannot be judged by it.")
	}
	all, err := a.sites.ReadSettings(a.base.DB.WithContext(ctx))
	if err != nil {
		return err
	}
	if all.Main == nil {
		return problem.New(problem.NotNow, "There is no help centre.")
	}
	return a.Judge(ctx, by, all.Main.ID, q.LastAsked, reference, "ledger")
}

// UnjudgeFromLedger takes back that an article answered the question of the Ledger's line.
func (a *Quality) UnjudgeFromLedger(ctx context.Context, by staff.Staff, key, reference string) error {
	q, err := a.outcomes.ReadQuestion(ctx, by, key)
	if err != nil {
		return err
	}
	number, _, ok := article.ParseReference(reference)
	if !ok {
		return problem.OfField("reference", "An article is named as A-0042.")
	}
	all, err := a.sites.ReadSettings(a.base.DB.WithContext(ctx))
	if err != nil {
		return err
	}
	if all.Main == nil {
		return problem.New(problem.NotNow, "There is no help centre.")
	}
	return a.base.Transaction(ctx, func(tx *gorm.DB) error {
		var row store.Judged
		err := tx.Clauses(clause.Locking{Strength: "UPDATE"}).
			Where("site_id = ? AND lower(question) = lower(?) AND NOT dropped", all.Main.ID, tidyQuestion(q.LastAsked)).
			First(&row).Error
		if err != nil {
			return problem.From(err, "judged question")
		}
		row.RightArticles = slices.DeleteFunc(row.RightArticles, func(n int64) bool { return n == int64(number) })
		if len(row.RightArticles) == 0 {
			err = tx.Delete(&row).Error
		} else {
			err = tx.Save(&row).Error
		}
		if err != nil {
			return err
		}
		return a.trail.Note(
			tx,
			by,
			store.Trail{Subject: reference, Action: "taken back as an answer", Note: row.Question},
		)
	})
}

// DropJudged takes a question out; it is not gathered again.
func (a *Quality) DropJudged(ctx context.Context, by staff.Staff, id int64) error {
	if err := by.May("Judging what answers a question", outcomes.FigureRoles...); err != nil {
		return err
	}
	return a.base.Transaction(ctx, func(tx *gorm.DB) error {
		var row store.Judged
		if err := tx.Where("NOT dropped").First(&row, id).Error; err != nil {
			return problem.From(err, "judged question")
		}
		row.Dropped = true
		if err := tx.Save(&row).Error; err != nil {
			return err
		}
		return a.trail.Note(tx, by, store.Trail{Subject: row.Question, Action: "left out of the judged questions"})
	})
}

// Of confirmed questions those of so long are gathered, and at most so many are looked at.
const (
	gatheredOver = 180 * 24 * time.Hour
	maxGathered  = 20_000
)

// GatherConfirmed adds the questions that customers confirmed to be answered to the
// judged set of the main help centre, with what answered them.
func (a *Quality) GatherConfirmed(ctx context.Context) error {
	all, err := a.sites.ReadSettings(a.base.DB.WithContext(ctx))
	if err != nil || all.Main == nil {
		return err
	}
	return a.base.Transaction(ctx, func(tx *gorm.DB) error {
		var known []string
		if err := tx.Raw(`SELECT lower(question) FROM judged WHERE site_id = ?`, all.Main.ID).
			Scan(&known).
			Error; err != nil {
			return err
		}
		have := map[string]bool{}
		for _, k := range known {
			have[k] = true
		}
		confirmed, err := a.outcomes.ConfirmedSince(tx, a.base.Now().Add(-gatheredOver), maxGathered)
		if err != nil {
			return err
		}
		for _, q := range confirmed {
			text := strings.Join(strings.Fields(q.Text), " ")
			if len(have) >= maxJudged || have[strings.ToLower(text)] || !search.Telling(text) ||
				len([]rune(text)) > 300 {
				continue
			}
			have[strings.ToLower(text)] = true
			if err := judge(tx, all.Main.ID, text, q.Article, "confirmed", nil, a.base.Now()); err != nil {
				return err
			}
		}
		return nil
	})
}

// judgedOf lists the judged questions of a site.
func judgedOf(db *gorm.DB, site int64) ([]store.Judged, error) {
	var rows []store.Judged
	err := db.Where("site_id = ? AND NOT dropped", site).Order("id DESC").Find(&rows).Error
	if err != nil {
		return nil, fmt.Errorf("reading judged questions: %w", err)
	}
	return rows, nil
}

func references(numbers []int64) []string {
	refs := make([]string, len(numbers))
	for i, n := range numbers {
		refs[i] = article.Reference(int(n))
	}
	return refs
}
