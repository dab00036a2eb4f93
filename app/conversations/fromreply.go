package conversations

import (
	"context"
	"fmt"

	"gorm.io/gorm"

	"hermeneus/app/exchange"
	"hermeneus/app/notify"
	"hermeneus/app/problem"
	"hermeneus/app/review"
	"hermeneus/app/staff"
	"hermeneus/core/article"
	coreexchange "hermeneus/core/exchange"
	"hermeneus/core/role"
	"hermeneus/store"
)

// ArticleFromReply begins an article with an agent's latest reply in a conversation,
// under the customer's subject. It belongs to whom the category names, who is told; it
// leads back to the conversation, and its agents can read it and comment on it.
func (a *Conversations) ArticleFromReply(
	ctx context.Context,
	by staff.Staff,
	category int64,
	conversation string,
) (exchange.FromMail, error) {
	if err := by.May("Making an article of a reply", role.Agent); err != nil {
		return exchange.FromMail{}, err
	}
	var said struct {
		ID, StaffID   int64
		Subject, Text string
	}
	err := a.base.DB.WithContext(ctx).
		Raw(`SELECT c.id, c.subject, m.text, coalesce(m.staff_id, 0) AS staff_id
			FROM conversations c JOIN messages m ON m.conversation_id = c.id
			WHERE c.reference = ? AND m.speaker = ? AND m.text <> '' ORDER BY m.id DESC LIMIT 1`, conversation, store.ByAgent).
		Scan(&said).
		Error
	if err != nil {
		return exchange.FromMail{}, err
	}
	if said.Text == "" {
		return exchange.FromMail{}, problem.New(problem.NotNow, "Nobody has replied in %s yet.", conversation)
	}
	letter := coreexchange.FromReply(said.Text)
	letter.Title = said.Subject
	return a.exchange.FromAnswer(ctx, by, category, letter, said.StaffID, func(tx *gorm.DB, row *store.Article) error {
		return a.fromConversation(tx, by, row, said.ID)
	})
}

// fromConversation gives an article that was made of a reply to whom its category names,
// and says so to them.
func (a *Conversations) fromConversation(tx *gorm.DB, by staff.Staff, row *store.Article, conversation int64) error {
	owner, err := ownerOf(tx, by, row.CategoryID)
	if err != nil {
		return err
	}
	row.OwnerID, row.ConversationID = owner, &conversation
	if err := tx.Save(row).Error; err != nil {
		return err
	}
	text := fmt.Sprintf("%s made a draft of a reply to a customer. It is yours to look at.", by.Name)
	return a.notify.Tell(
		tx,
		notify.NewsHandedOver,
		staff.Except([]int64{owner}, by.ID),
		text,
		"/library/"+article.Reference(row.Number),
	)
}

// ownerOf is whom a category names for what nobody who writes begins: its steward, else who
// owns most of its articles; where there is neither, whoever makes it.
func ownerOf(tx *gorm.DB, by staff.Staff, category int64) (int64, error) {
	reviewing, err := review.ReviewingOf(tx, category)
	if err != nil {
		return 0, err
	}
	if reviewing.StewardID != 0 {
		return reviewing.StewardID, nil
	}
	owner := by.ID
	err = tx.Raw(`SELECT a.owner_id
		FROM articles a JOIN staff s ON s.id = a.owner_id
		WHERE a.category_id = ? AND s.disabled_at IS NULL AND s.roles && ARRAY['author', 'publisher']
		GROUP BY a.owner_id ORDER BY count(*) DESC, a.owner_id LIMIT 1`, category).
		Scan(&owner).
		Error
	return owner, err
}
