package exchange

import (
	"context"
	"strings"

	"gorm.io/gorm"

	"hermeneus/app/library"
	"hermeneus/app/problem"
	"hermeneus/app/staff"
	"hermeneus/core/article"
	"hermeneus/core/exchange"
	"hermeneus/core/role"
	"hermeneus/store"
)

// FromMail is a working copy made of a mail or a reply.
type FromMail struct {
	Reference string   `json:"reference"`
	Left      []string `json:"left"`     // what was left out
	Personal  []string `json:"personal"` // lines that hold personal data
}

// ArticleFromMail begins an article with the answer in a mail (RFC 5322).
func (a *Exchange) ArticleFromMail(ctx context.Context, by staff.Staff, category int64, raw []byte) (FromMail, error) {
	if err := by.May("Making an article of a mail", role.Author); err != nil {
		return FromMail{}, err
	}
	letter, err := exchange.FromMail(raw)
	if err != nil {
		return FromMail{}, problem.New(
			problem.BadFile,
			"This is not a mail that can be read. Save it as .eml and try again.",
		)
	}
	return a.FromAnswer(ctx, by, category, letter, 0, nil)
}

// FromAnswer begins an article of what somebody on the staff wrote, 0 for nobody; then does what
// goes with it, nil for nothing.
func (a *Exchange) FromAnswer(
	ctx context.Context,
	by staff.Staff,
	category int64,
	l exchange.Answer,
	writer int64,
	then func(*gorm.DB, *store.Article) error,
) (FromMail, error) {
	title := []rune(strings.TrimSpace(l.Title))
	text := library.WorkingCopy{Title: string(title[:min(len(title), article.MaxTitle)]), Body: l.Body}
	out := FromMail{Left: l.Left, Personal: l.Personal}
	err := a.base.Transaction(ctx, func(tx *gorm.DB) error {
		row, err := a.library.Create(
			tx,
			by,
			library.NewArticle{CategoryID: category, Copy: text, Authors: []int64{writer}},
		)
		if err != nil {
			return err
		}
		out.Reference = article.Reference(row.Number)
		if then != nil {
			return then(tx, &row)
		}
		return nil
	})
	return out, err
}
