package app

import (
	"context"
	"strings"

	"gorm.io/gorm"

	"hermeneus/core/article"
	"hermeneus/core/exchange"
	"hermeneus/core/role"
	"hermeneus/store"
)

// FromLetter is a working copy made of a mail or a reply.
type FromLetter struct {
	Reference string   `json:"reference"`
	Left      []string `json:"left"`     // what was left out
	Personal  []string `json:"personal"` // lines that hold personal data
}

// ArticleFromMail begins an article with the answer in a mail (RFC 5322).
func (a *App) ArticleFromMail(ctx context.Context, by Staff, category int64, raw []byte) (FromLetter, error) {
	if err := by.may("Making an article of a mail", role.Author); err != nil {
		return FromLetter{}, err
	}
	letter, err := exchange.FromMail(raw)
	if err != nil {
		return FromLetter{}, problem(BadFile, "This is not a mail that can be read. Save it as .eml and try again.")
	}
	return a.fromLetter(ctx, by, category, letter)
}

// ArticleFromReply begins an article with an agent's latest reply in a conversation,
// under the customer's subject. Agents who do not write articles can hand one to
// those who do.
func (a *App) ArticleFromReply(ctx context.Context, by Staff, category int64, conversation string) (FromLetter, error) {
	if err := by.may("Making an article of a reply", role.Agent, role.Author); err != nil {
		return FromLetter{}, err
	}
	var said struct{ Subject, Text string }
	err := a.db.WithContext(ctx).Raw(`SELECT c.subject, m.text FROM conversations c JOIN messages m ON m.conversation_id = c.id
		WHERE c.reference = ? AND m.speaker = ? ORDER BY m.id DESC LIMIT 1`, conversation, store.ByAgent).Scan(&said).Error
	if err != nil {
		return FromLetter{}, err
	}
	if said.Text == "" {
		return FromLetter{}, problem(NotNow, "Nobody has replied in %s yet.", conversation)
	}
	letter := exchange.FromReply(said.Text)
	letter.Title = said.Subject
	return a.fromLetter(ctx, by, category, letter)
}

func (a *App) fromLetter(ctx context.Context, by Staff, category int64, l exchange.Letter) (FromLetter, error) {
	title := []rune(strings.TrimSpace(l.Title))
	text := WorkingCopy{Title: string(title[:min(len(title), article.MaxTitle)]), Body: l.Body}
	out := FromLetter{Left: l.Left, Personal: l.Personal}
	err := a.transaction(ctx, func(tx *gorm.DB) error {
		row, err := a.create(tx, by, NewArticle{CategoryID: category, Copy: text})
		out.Reference = article.Reference(row.Number)
		return err
	})
	return out, err
}
