package writing

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"gorm.io/gorm"

	"hermeneus/app/customers"
	"hermeneus/app/library"
	"hermeneus/app/lists"
	"hermeneus/app/problem"
	"hermeneus/app/staff"
	"hermeneus/core/article"
	"hermeneus/core/audience"
	"hermeneus/core/flow"
	"hermeneus/core/review"
	"hermeneus/core/role"
	"hermeneus/store"
)

const (
	jobBulk = "bulk"
	jobUndo = "undo"
)

// Bulk is a change to many articles at once. What is nil or empty stays.
type Bulk struct {
	References     []string             `json:"references,omitempty"`
	Filter         *lists.ArticleFilter `json:"filter,omitempty"` // in place of references: all that fit
	CategoryID     int64                `json:"category_id,omitempty"`
	OwnerID        int64                `json:"owner_id,omitempty"`
	Audience       audience.Audience    `json:"audience,omitempty"`
	AddKeywords    []string             `json:"add_keywords,omitempty"`
	RemoveKeywords []string             `json:"remove_keywords,omitempty"`
	RecheckOn      string               `json:"recheck_on,omitempty"` // a day such as 2026-03-02
	Withdraw       bool                 `json:"withdraw,omitempty"`
}

// MaxBulk is how many articles can be changed at once.
const MaxBulk = 20_000

// BulkSummary says what a bulk change will do.
type BulkSummary struct {
	Articles  int           `json:"articles"`
	Changes   int           `json:"changes"` // articles that are not so already
	What      []string      `json:"what"`    // in words
	Refused   []BulkRefusal `json:"refused"` // the first of them
	Refusals  int           `json:"refusals"`
	Customers int           `json:"customers"` // live articles that customers will see changed
}

// BulkRefusal is an article that cannot be changed so, and why.
type BulkRefusal struct {
	Reference string `json:"reference"`
	Title     string `json:"title"`
	Reason    string `json:"reason"`
}

// bulkState is what a bulk change can change of an article.
type bulkState struct {
	CategoryID int64    `json:"category_id"`
	Position   int      `json:"position"`
	OwnerID    int64    `json:"owner_id"`
	Audience   string   `json:"audience"`
	RecheckOn  string   `json:"recheck_on"`
	Keywords   []string `json:"keywords"`
	LiveID     *int64   `json:"live_id"`
	State      string   `json:"state"`
	Version    int      `json:"version"`          // of the working copy
	EndID      int64    `json:"end_id,omitempty"` // of the end that was set and went with a withdrawal
}

func stateOf(row store.Article, e store.Edition) bulkState {
	return bulkState{
		CategoryID: row.CategoryID,
		Position:   row.Position,
		OwnerID:    row.OwnerID,
		Audience:   row.Audience,
		RecheckOn:  row.RecheckOn.Format(time.DateOnly),
		Keywords:   append([]string{}, e.Keywords...),
		LiveID:     e.LiveRevisionID,
		State:      e.State,
		Version:    e.Version,
	}
}

// allowed checks who may make such a change, and take it back.
func (b Bulk) allowed(by staff.Staff) error {
	if b.Withdraw {
		return by.May("Withdrawing articles", role.Publisher)
	}
	return by.May("Changing many articles", role.Author, role.Publisher)
}

func (b Bulk) check(db *gorm.DB, by staff.Staff) error {
	if err := b.allowed(by); err != nil {
		return err
	}
	var f problem.Fields
	f.Require(len(b.References) > 0 || b.Filter != nil, "references", "Choose at least one article.")
	f.Require(len(b.References) <= MaxBulk, "references", fmt.Sprintf("At most %d at once.", MaxBulk))
	f.Require(len(b.What()) > 0, "change", "Choose what to change.")
	if b.Audience != "" {
		if err := customers.KnownAudience(db, &f, "audience", b.Audience); err != nil {
			return err
		}
	}
	if b.RecheckOn != "" {
		_, err := time.Parse(time.DateOnly, b.RecheckOn)
		f.Require(err == nil, "recheck_on", "A day is written as 2026-03-02.")
	}
	for _, k := range append(b.AddKeywords, b.RemoveKeywords...) {
		f.AtMost("keywords", k, 80)
	}
	return f.Err()
}

// What says in words what is changed.
func (b Bulk) What() []string {
	var list []string
	add := func(use bool, what string) {
		if use {
			list = append(list, what)
		}
	}
	add(b.CategoryID != 0, "moved to another category")
	add(b.OwnerID != 0, "given to another owner")
	add(b.Audience != "", "shown to another audience")
	add(len(b.AddKeywords) > 0, "given the keywords "+strings.Join(b.AddKeywords, ", "))
	add(len(b.RemoveKeywords) > 0, "rid of the keywords "+strings.Join(b.RemoveKeywords, ", "))
	add(b.RecheckOn != "", "to be looked at again on "+b.RecheckOn)
	add(b.Withdraw, "withdrawn from customers")
	return list
}

// Numbers gives the numbers of the articles that are meant, in order.
func (a *Writing) Numbers(ctx context.Context, b Bulk) ([]int, error) {
	if b.Filter != nil {
		sql, args := a.lists.Where(*b.Filter)
		var list []int
		err := a.base.DB.WithContext(ctx).
			Raw(`SELECT a.number`+sql+` ORDER BY a.number LIMIT ?`, append(args, MaxBulk)...).
			Scan(&list).
			Error
		return list, err
	}
	var list []int
	for _, ref := range b.References {
		n, _, ok := article.ParseReference(ref)
		if !ok {
			return nil, problem.New(problem.NotFound, "There is no article %q.", ref)
		}
		list = append(list, n)
	}
	slices.Sort(list)
	return slices.Compact(list), nil
}

// apply changes what the bulk change says of one article, and gives how it was and
// how it is now. It changes nothing in the database.
func (b Bulk) apply(
	by staff.Staff,
	row *store.Article,
	e *store.Edition,
	uses flow.Uses,
) (before, after bulkState, err error) {
	before = stateOf(*row, *e)
	if b.CategoryID != 0 {
		row.CategoryID = b.CategoryID
	}
	if b.OwnerID != 0 {
		row.OwnerID = b.OwnerID
	}
	if b.RecheckOn != "" {
		if row.RecheckOn, err = time.Parse(time.DateOnly, b.RecheckOn); err != nil {
			return before, before, err
		}
	}
	if b.Audience != "" {
		if e.LiveRevisionID != nil && b.Audience.WiderThan(audience.Audience(row.Audience)) &&
			!by.Roles.Has(role.Publisher) {
			return before, before, problem.New(
				problem.Denied,
				"It is live: showing it to more people needs a publisher.",
			)
		}
		row.Audience = string(b.Audience)
		if list := library.Conflicts(
			*row,
			uses,
		); e.LiveRevisionID != nil && before.Audience != row.Audience &&
			len(list) > 0 {
			return before, before, problem.New(problem.NotNow, "%s", list[0])
		}
	}
	if len(b.AddKeywords)+len(b.RemoveKeywords) > 0 {
		if err := b.keywords(by, e); err != nil {
			return before, before, err
		}
	}
	if b.Withdraw && e.LiveRevisionID != nil {
		next, err := library.CopyOf(*e).Do(review.Withdraw, by.Actor(), "")
		if err != nil {
			return before, before, problem.From(err, "")
		}
		e.State, e.LiveRevisionID, e.LiveSince = string(next.State), nil, nil
	}
	return before, stateOf(*row, *e), nil
}

func (b Bulk) keywords(by staff.Staff, e *store.Edition) error {
	list := slices.DeleteFunc(
		slices.Clone([]string(e.Keywords)),
		func(k string) bool { return slices.Contains(b.RemoveKeywords, k) },
	)
	list = problem.TidyList(append(list, b.AddKeywords...))
	if slices.Equal(list, []string(e.Keywords)) {
		return nil
	}
	if _, err := (library.WorkingCopy{Keywords: list}).Clean(); err != nil {
		return err
	}
	next, err := library.CopyOf(*e).Do(review.Edit, by.Actor(), "")
	if err != nil {
		return problem.From(err, "")
	}
	if e.State == string(review.InReview) {
		return problem.ErrInReview
	}
	e.Keywords, e.State = list, string(next.State)
	return nil
}

func (s bulkState) same(o bulkState) bool {
	a, errA := json.Marshal(s)
	b, errB := json.Marshal(o)
	return errA == nil && errB == nil && string(a) == string(b)
}

// SummariseBulk says what a bulk change would do, and changes nothing.
func (a *Writing) SummariseBulk(ctx context.Context, by staff.Staff, b Bulk) (BulkSummary, error) {
	if err := b.check(a.base.DB.WithContext(ctx), by); err != nil {
		return BulkSummary{}, err
	}
	numbers, err := a.Numbers(ctx, b)
	if err != nil {
		return BulkSummary{}, err
	}
	out := BulkSummary{Articles: len(numbers), What: b.What()}
	db := a.base.DB.WithContext(ctx)
	uses, err := library.FlowUses(db)
	if err != nil {
		return out, err
	}
	for chunk := range slices.Chunk(numbers, 500) {
		rows, editions, err := sources(db, chunk, false)
		if err != nil {
			return out, err
		}
		for _, row := range rows {
			e := editions[row.ID]
			live := e.LiveRevisionID != nil
			before, after, err := b.apply(by, &row, &e, uses)
			var p *problem.Problem
			switch {
			case errors.As(err, &p):
				if out.Refusals++; len(out.Refused) < 20 {
					out.Refused = append(out.Refused, BulkRefusal{article.Reference(row.Number), e.Title, p.Detail})
				}
			case err != nil:
				return out, err
			case !before.same(after):
				out.Changes++
				if live &&
					(before.Audience != after.Audience || before.LiveID != after.LiveID || before.CategoryID != after.CategoryID) {
					out.Customers++
				}
			}
		}
	}
	return out, nil
}

// sources gives articles with their source editions, those that are there.
func sources(db *gorm.DB, numbers []int, lock bool) ([]store.Article, map[int64]store.Edition, error) {
	suffix := ""
	if lock {
		suffix = " FOR UPDATE"
	}
	var rows []store.Article
	if err := db.Raw(`SELECT * FROM articles WHERE number IN ? ORDER BY number`+suffix, numbers).
		Scan(&rows).
		Error; err != nil {
		return nil, nil, err
	}
	ids := make([]int64, len(rows))
	for i, r := range rows {
		ids[i] = r.ID
	}
	var editions []store.Edition
	if err := db.Where("article_id IN ? AND language = ?", ids, article.SourceLanguage).
		Find(&editions).
		Error; err != nil {
		return nil, nil, err
	}
	by := map[int64]store.Edition{}
	for _, e := range editions {
		by[e.ArticleID] = e
	}
	return rows, by, nil
}
