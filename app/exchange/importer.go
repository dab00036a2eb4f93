package exchange

import (
	"context"
	"errors"
	"strings"
	"time"

	"gorm.io/gorm"

	"hermeneus/app/library"
	"hermeneus/app/problem"
	"hermeneus/core/article"
	"hermeneus/core/audience"
	"hermeneus/core/exchange"
	"hermeneus/core/markup"
	"hermeneus/core/review"
	"hermeneus/store"
)

// keep makes or changes the article of a page, and says which.
func (r *importer) keep(ctx context.Context, i int, body string) (exchange.Action, string, error) {
	p := r.set.Pages[i]
	text, err := library.WorkingCopy{
		Title:             p.Title,
		Body:              body,
		Keywords:          append([]string{}, p.Keywords...),
		SearchTitle:       p.SearchTitle,
		SearchDescription: p.SearchDescription,
	}.Clean()
	if err != nil {
		return "", "", err
	}
	text.Body = markup.Canonical(text.Body)
	if p.Language != "" && p.Language != article.SourceLanguage {
		return r.keepEdition(ctx, i, text)
	}
	if r.fresh[i] {
		if r.dry {
			return exchange.Create, "", r.checkHead(ctx, p)
		}
		return exchange.Create, "", r.area.base.Transaction(
			ctx,
			func(tx *gorm.DB) error { return r.create(tx, i, text) },
		)
	}
	var what []string
	err = r.area.base.Transaction(ctx, func(tx *gorm.DB) error {
		row, e, err := library.FindEdition(tx, article.Reference(r.numbers[i]), !r.dry)
		if err != nil {
			return err
		}
		before := row
		if err := r.properties(tx, p, &row); err != nil {
			return err
		}
		if note := library.ChangedProperties(before, row); note != "" {
			what = append(what, note)
			if !r.dry {
				if err := r.area.library.KeepProperties(tx, r.by, before, row); err != nil {
					return err
				}
			}
		}
		changedText, err := r.rewrite(tx, &e, text)
		if changedText {
			what = append(what, "another text")
		}
		return err
	})
	if len(what) == 0 {
		return exchange.Skip, "", err
	}
	return exchange.Change, strings.Join(what, "; "), err
}

// rewrite puts a text into an edition if it differs.
func (r *importer) rewrite(tx *gorm.DB, e *store.Edition, text library.WorkingCopy) (bool, error) {
	present := *e
	if present.Body = markup.Canonical(e.Body); text.Same(present) {
		return false, nil
	}
	next, err := library.CopyOf(*e).Do(review.Edit, r.by.Actor(), "")
	if err != nil {
		return true, problem.From(err, "")
	}
	if r.dry {
		return true, nil
	}
	if err := r.area.texts.Hold(tx, r.by, e.ID, ""); err != nil {
		return true, err
	}
	was := review.State(e.State)
	if was == review.InReview {
		return true, problem.ErrInReview
	}
	e.State = string(next.State)
	return true, r.area.writing.Write(tx, r.by, e, text, was, "")
}

func (r *importer) checkHead(ctx context.Context, p exchange.Page) error {
	row := store.Article{
		Kind:        library.Kinds[0],
		Audience:    string(audience.Everyone),
		RecheckDays: library.DefaultRecheck,
	}
	return r.properties(r.area.base.DB.WithContext(ctx), p, &row)
}

func (r *importer) create(tx *gorm.DB, i int, text library.WorkingCopy) error {
	p := r.set.Pages[i]
	category, err := r.category(tx, p.Category)
	if err != nil {
		return err
	}
	row, err := r.area.library.Create(
		tx,
		r.by,
		library.NewArticle{
			CategoryID: category,
			Kind:       p.Kind,
			Copy:       text,
			Audience:   audience.Audience(p.Audience),
			Key:        p.Key,
			Number:     r.numbers[i],
		},
	)
	if err != nil {
		return err
	}
	before := row
	if err := r.properties(tx, p, &row); err != nil {
		return err
	}
	if p.Order > 0 {
		row.Position = p.Order
	}
	if library.ChangedProperties(before, row) == "" && row.Position == before.Position {
		return nil
	}
	if err := library.CheckProperties(tx, row); err != nil {
		return err
	}
	return tx.Save(&row).Error
}

// properties puts what a page says of an article into its row. What it does not say
// stays.
func (r *importer) properties(tx *gorm.DB, p exchange.Page, row *store.Article) error {
	if p.Kind != "" {
		row.Kind = p.Kind
	}
	if p.Audience != "" {
		row.Audience = p.Audience
	}
	if p.RecheckDays != 0 && (p.RecheckDays != row.RecheckDays || row.RecheckByRule) {
		row.RecheckByRule = false
		row.RecheckDays, row.RecheckOn = p.RecheckDays, r.area.base.Today().AddDate(0, 0, p.RecheckDays)
	}
	if p.InterimUntil != "" {
		day, err := time.Parse(time.DateOnly, p.InterimUntil)
		if err != nil {
			return err
		}
		row.InterimUntil = &day
	}
	if p.Owner != "" {
		id, ok := r.owners[p.Owner]
		if !ok {
			if err := tx.Raw(`SELECT coalesce(max(id), 0) FROM staff WHERE lower(email) = lower(?)`, p.Owner).
				Scan(&id).
				Error; err != nil {
				return err
			}
			r.owners[p.Owner] = id
		}
		if id != 0 {
			row.OwnerID = id
		}
	}
	return library.CheckProperties(tx, *row)
}

func (r *importer) keepEdition(ctx context.Context, i int, text library.WorkingCopy) (exchange.Action, string, error) {
	p := r.set.Pages[i]
	ref := article.EditionReference(r.numbers[i], p.Language)
	_, e, err := library.FindEdition(r.area.base.DB.WithContext(ctx), ref, false)
	var missing *problem.Problem
	if errors.As(err, &missing) {
		if r.dry {
			return exchange.Create, "", nil
		}
		if _, err := r.area.writing.AddEdition(ctx, r.by, article.Reference(r.numbers[i]), p.Language); err != nil {
			return "", "", err
		}
		err = r.area.base.Transaction(ctx, func(tx *gorm.DB) error {
			_, e, err := library.FindEdition(tx, ref, true)
			if err != nil {
				return err
			}
			_, err = r.rewrite(tx, &e, text)
			return err
		})
		return exchange.Create, "", err
	}
	if err != nil {
		return "", "", err
	}
	differs := false
	err = r.area.base.Transaction(ctx, func(tx *gorm.DB) error {
		if !r.dry {
			if _, e, err = library.FindEdition(tx, ref, true); err != nil {
				return err
			}
		}
		differs, err = r.rewrite(tx, &e, text)
		return err
	})
	if differs {
		return exchange.Change, "another text", err
	}
	return exchange.Skip, "", err
}

// category finds or makes the category of a path of names.
func (r *importer) category(tx *gorm.DB, names []string) (int64, error) {
	parent := r.options.CategoryID
	if len(names) == 0 && parent == 0 {
		names = []string{"Brought in"}
	}
	for n := range names {
		path := strings.Join(names[:n+1], "/")
		var id int64
		err := tx.Raw(`SELECT coalesce(max(id), 0)
			FROM categories
			WHERE coalesce(parent_id, 0) = ? AND name = ?`, parent, names[n]).
			Scan(&id).
			Error
		if err != nil {
			return 0, err
		}
		if id == 0 {
			file := r.set.Categories[path]
			if id, err = r.area.library.InsertCategory(
				tx,
				r.by,
				library.NewCategory{
					ParentID:    parent,
					Name:        names[n],
					Description: file.Description,
					Audience:    orEveryone(file.Audience),
				},
				file.Order,
			); err != nil {
				return 0, err
			}
		}
		parent = id
	}
	return parent, nil
}

func orEveryone(a string) audience.Audience {
	if a == "" {
		return audience.Everyone
	}
	return audience.Audience(a)
}
