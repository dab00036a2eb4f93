package conversations

import (
	"errors"
	"fmt"
	"time"

	"gorm.io/gorm"

	"hermeneus/app/accounts"
	"hermeneus/app/evidence"
	"hermeneus/store"
)

// Had is a conversation that somebody had, as they are shown what is kept of them.
type Had struct {
	Reference string    `json:"reference"` // "" for a chat in which nobody was asked for
	Kind      string    `json:"kind"`
	Subject   string    `json:"subject"`
	Address   string    `json:"address"` // that was given in it
	Status    string    `json:"status"`
	Began     time.Time `json:"began"`
	Said      []Said    `json:"said"`
	Files     []string  `json:"files"` // their names
}

// Said is one thing that was said in a conversation.
type Said struct {
	At   time.Time `json:"at"`
	By   string    `json:"by"`
	Text string    `json:"text"`
}

// ofPerson is the condition over the conversations of a customer, an address, or browsers that are proved to be theirs.
const ofPerson = `(customer_id = @customer OR (address <> '' AND lower(address) = lower(@address))
	OR (flow_version_id IS NOT NULL AND asker = ANY(@keys))) AND NOT rehearsal`

func person(p evidence.Person, keys store.Strings) map[string]any {
	return map[string]any{"customer": p.Customer, "address": p.Address, "keys": keys}
}

// Of lists the conversations of a person, the latest first, with what was said in them.
func Of(db *gorm.DB, p evidence.Person, keys store.Strings) ([]Had, error) {
	var rows []store.Conversation
	err := db.Raw(`SELECT * FROM conversations WHERE `+ofPerson+` ORDER BY began_at DESC, id DESC`, person(p, keys)).
		Scan(&rows).Error
	if err != nil {
		return nil, fmt.Errorf("reading somebody's conversations: %w", err)
	}
	ids := make(store.Numbers, len(rows))
	for i, c := range rows {
		ids[i] = c.ID
	}
	var messages []store.Message
	if err := db.Where("conversation_id = ANY(?)", ids).Order("id").Find(&messages).Error; err != nil {
		return nil, fmt.Errorf("reading what was said: %w", err)
	}
	var files []store.RequestFile
	err = db.Omit("bytes").
		Where("conversation_id = ANY(?) AND message_id IS NOT NULL", ids).
		Order("id").
		Find(&files).
		Error
	if err != nil {
		return nil, fmt.Errorf("reading files: %w", err)
	}
	list := make([]Had, len(rows))
	at := map[int64]*Had{}
	for i, c := range rows {
		list[i] = Had{
			Kind: c.Kind, Subject: c.Subject, Address: c.Address, Status: c.Status, Began: c.BeganAt, Said: []Said{},
			Files: []string{},
		}
		if c.Reference != nil {
			list[i].Reference = *c.Reference
		}
		at[c.ID] = &list[i]
	}
	for _, m := range messages {
		had := at[m.ConversationID]
		had.Said = append(had.Said, Said{m.At, m.Speaker, m.Text})
	}
	for _, f := range files {
		had := at[f.ConversationID]
		had.Files = append(had.Files, f.Name)
	}
	return list, nil
}

// forgotten is said in a conversation whose words were taken away.
const forgotten = "What was said here was deleted, as its customer asked."

// Forget empties and ends the conversations of a person: what was said, files, subject and address go, and nothing
// opens them any more. It gives their askers, and what evidence knows them by.
func (a *Conversations) Forget(
	tx *gorm.DB,
	p evidence.Person,
	keys store.Strings,
) (askers, contacts store.Strings, err error) {
	var rows []store.Conversation
	err = tx.Raw(`SELECT * FROM conversations WHERE `+ofPerson+` ORDER BY id FOR UPDATE`, person(p, keys)).
		Scan(&rows).
		Error
	if err != nil {
		return nil, nil, fmt.Errorf("reading somebody's conversations: %w", err)
	}
	now := a.base.Now()
	for _, c := range rows {
		askers = append(askers, c.Asker)
		contacts = append(contacts, fmt.Sprintf("conversation:%d", c.ID))
		for again := 0; c.Reference != nil && again <= c.Reopened; again++ {
			c := c
			c.Reopened = again
			contacts = append(contacts, ContactOf(c))
		}
		_, nothing := accounts.NewToken() // the hash of what nobody has
		failure := errors.Join(
			tx.Exec(`DELETE FROM request_files WHERE conversation_id = ?`, c.ID).Error,
			tx.Exec(`DELETE FROM messages WHERE conversation_id = ?`, c.ID).Error,
			tx.Create(&store.Message{ConversationID: c.ID, At: now, Speaker: store.ByNotice, Text: forgotten}).Error,
			tx.Exec(
				`UPDATE conversations SET subject = '', address = '', brief = '', answers = '[]', state = NULL, customer_id = NULL,
				token_hash = ?, status = 'closed', closed_at = coalesce(closed_at, ?) WHERE id = ?`,
				nothing,
				now,
				c.ID,
			).Error,
			store.Announce(tx, store.ConversationChanged, c.ID),
		)
		if failure != nil {
			return nil, nil, fmt.Errorf("emptying conversation %d: %w", c.ID, failure)
		}
	}
	return askers, contacts, nil
}

// Rename puts a key in the place of some askers of conversations.
func Rename(tx *gorm.DB, keys store.Strings, key string) error {
	return tx.Exec(`UPDATE conversations SET asker = ? WHERE asker = ANY(?)`, key, keys).Error
}
