package conversations

import (
	"fmt"
	"strings"

	"gorm.io/gorm"

	"hermeneus/app/helpcentre"
	"hermeneus/app/staff"
	"hermeneus/core/article"
	"hermeneus/core/exchange"
	"hermeneus/core/flow"
	"hermeneus/store"
)

// inMailShown is how much of an article a mail carries, in characters; the rest is read on
// its page.
const inMailShown = 3000

// mailReply sends an agent's reply to who sent a request: the words, the text of every
// article that was shown with it and where it is read, and the names of its files.
func (a *Conversations) mailReply(
	tx *gorm.DB,
	by staff.Staff,
	c store.Conversation,
	m store.Message,
	shown []flow.Card,
) error {
	if c.Address == "" || c.Kind != store.Request {
		return nil
	}
	customer, err := visitorOf(tx, c)
	if err != nil {
		return err
	}
	key, err := a.Signed(tx, c)
	if err != nil {
		return err
	}
	parts := []string{by.Name + " answered your request “" + c.Subject + "”:"}
	if m.Text != "" {
		parts = append(parts, m.Text)
	}
	for _, card := range shown {
		page, err := a.helpCentre.BrowseRevision(tx, customer, card.Reference, 0)
		if err != nil {
			return fmt.Errorf("reading %s for a mail: %w", card.Reference, err)
		}
		parts = append(parts, a.articleInMail(page, key))
	}
	files, err := FilesOf(tx, c.ID)
	if err != nil {
		return err
	}
	for _, f := range files {
		if f.MessageID == m.ID {
			parts = append(parts, "With it: "+f.Name+", on the page of your request.")
		}
	}
	return a.mailCustomer(tx, c, "An answer to your request "+*c.Reference, strings.Join(parts, "\n\n"))
}

// articleInMail is an article as a mail says it: as CommonMark, which reads as plain text. What is opened through its
// link belongs to the contact that the key opens.
func (a *Conversations) articleInMail(p helpcentre.Page, key string) string {
	body := article.Adapt(p.Body, func(address string, _ bool) (string, bool) {
		if strings.HasPrefix(address, "/") {
			address = a.base.Address + address
		}
		return address, a.base.Address != "" || !strings.HasPrefix(address, "/")
	})
	text := strings.TrimSpace(exchange.ToMarkdown(body))
	if cut := []rune(text); len(cut) > inMailShown {
		text = string(cut[:inMailShown])
		if end := strings.LastIndex(text, "\n\n"); end > 0 {
			text = text[:end]
		}
		text += "\n\n(It goes on there.)"
	}
	out := p.Title + "\n" + strings.Repeat("-", min(70, len([]rune(p.Title)))) + "\n\n" + text
	if a.base.Address != "" {
		out += "\n\nRead it at " + a.base.Address + article.LinkPath + p.Reference + "?of=" + key
	}
	return out
}
