package conversations

import (
	"crypto/hmac"
	"crypto/sha256"
	"encoding/base64"
	"errors"
	"fmt"
	"regexp"
	"strings"
	"time"

	"gorm.io/gorm"

	"hermeneus/app/accounts"
	"hermeneus/app/instance"
	"hermeneus/app/problem"
	"hermeneus/app/sites"
	"hermeneus/core/form"
	"hermeneus/store"
)

// ByToken finds what a token opens, as long as it opens anything.
func (a *Conversations) ByToken(db *gorm.DB, token string) (store.Conversation, error) {
	var c store.Conversation
	if err := db.Where("token_hash = ?", accounts.TokenHash(token)).Take(&c).Error; err != nil {
		return c, problem.From(err, "conversation")
	}
	return c, a.RefuseEndedLink(db, c)
}

// RefuseEndedLink refuses what opens a conversation without signing in, once its time is
// over. While a person is waited for it stays open, and as long as a closed request can be
// reopened.
func (a *Conversations) RefuseEndedLink(db *gorm.DB, c store.Conversation) error {
	if c.Status == store.Waiting || c.Status == store.WithAgent || a.base.Now().Before(c.BeganAt.AddDate(0, 0, 1)) {
		return nil // a link holds a day at least
	}
	var last struct {
		At   time.Time
		Days int
	}
	// Not on a locked session: the words of a conversation are not its row.
	err := db.Session(&gorm.Session{NewDB: true}).
		Raw(`SELECT greatest(?::timestamptz, (SELECT max(at) FROM messages WHERE conversation_id = ?)) AS at,
		coalesce((SELECT link_days FROM sites WHERE id = ?), ?) AS days`, c.BeganAt, c.ID, c.SiteID, sites.StandardLinkDays).
		Scan(&last).
		Error
	if err != nil {
		return err
	}
	ends := last.At.AddDate(0, 0, last.Days)
	if c.ClosedAt != nil {
		reopen, err := ReopenDays(db.Session(&gorm.Session{NewDB: true}), c)
		if err != nil {
			return err
		}
		if until := c.ClosedAt.AddDate(0, 0, reopen); until.After(ends) {
			ends = until
		}
	}
	if a.base.Now().Before(ends) {
		return nil
	}
	return problem.New(
		problem.Ended,
		"This link has ended: nobody wrote here for a long time. Sign in to read your requests, or ask anew.",
	)
}

// KeptFile is a file of a request, without its content.
type KeptFile struct {
	ID        int64  `json:"id"`
	MessageID int64  `json:"message_id"`
	Name      string `json:"name"`
	Size      int    `json:"size"` // in bytes
}

// FilesOf lists the files of a conversation that were sent.
func FilesOf(db *gorm.DB, conversation int64) ([]KeptFile, error) {
	list := []KeptFile{}
	err := db.Raw(`SELECT id, coalesce(message_id, 0) AS message_id, name, size
		FROM request_files WHERE conversation_id = ? AND message_id IS NOT NULL ORDER BY id`, conversation).
		Scan(&list).
		Error
	if err != nil {
		return nil, fmt.Errorf("reading files: %w", err)
	}
	return list, nil
}

// FileRow is a file as it is kept with a conversation.
func FileRow(conversation int64, file form.Upload, at time.Time) store.RequestFile {
	mediaType, _ := form.CheckFile(file)
	return store.RequestFile{ConversationID: conversation, Name: form.FileName(file.Name, mediaType),
		MediaType: mediaType, Bytes: file.Content, Size: len(file.Content), At: at}
}

// Signed is what opens a request from a mail: its reference with a signature over it
// and the address that it was sent to.
func (a *Conversations) Signed(db *gorm.DB, c store.Conversation) (string, error) {
	secret, err := instance.Secret(db, "links")
	if err != nil || c.Reference == nil {
		return "", err
	}
	mac := hmac.New(sha256.New, secret)
	_, _ = mac.Write([]byte(*c.Reference + "\n" + strings.ToLower(c.Address))) // never fails
	return *c.Reference + "." + base64.RawURLEncoding.EncodeToString(mac.Sum(nil)[:18]), nil
}

// ContactReference gives the next number of a contact, as in H-0012 or R-0012.
func ContactReference(tx *gorm.DB, letter string) (string, error) {
	var n int
	if err := tx.Raw(`SELECT nextval('contact_numbers')`).Scan(&n).Error; err != nil {
		return "", err
	}
	return fmt.Sprintf("%s-%04d", letter, n), nil
}

// mailCustomer writes to who sent a request, with the link that opens it. What was
// sent without an address is only followed on its page.
func (a *Conversations) mailCustomer(tx *gorm.DB, c store.Conversation, subject, text string) error {
	return a.MailCustomerOf(tx, "", c, subject, text)
}

// MailCustomerOf mails the customer of a conversation, in a kind of mail.
func (a *Conversations) MailCustomerOf(tx *gorm.DB, kind string, c store.Conversation, subject, text string) error {
	if c.Address == "" || c.Kind != store.Request || c.Rehearsal {
		return nil
	}
	key, err := a.Signed(tx, c)
	if err != nil {
		return err
	}
	body := text + "\n"
	if a.base.Address != "" {
		body += "\nRead it, add to it or reopen it here:\n" + a.base.Address + "/help/requests/" + key + "\n"
	}
	return a.notify.SendMailOf(tx, kind, c.Address, subject, body)
}

// ContactShape tells the reference of a contact from a link.
var ContactShape = regexp.MustCompile(`^[RH]-\d{4,12}$`)

// RequestFile gives a file of a conversation.
func RequestFile(db *gorm.DB, conversation, id int64) (store.RequestFile, error) {
	var row store.RequestFile
	err := db.Where("conversation_id = ? AND id = ? AND message_id IS NOT NULL", conversation, id).Take(&row).Error
	if errors.Is(err, gorm.ErrRecordNotFound) {
		return row, problem.New(problem.NotFound, "There is no such file.")
	}
	return row, err
}

// ReopenDays is for how many days a closed request can be reopened.
func ReopenDays(db *gorm.DB, c store.Conversation) (int, error) {
	days := standardReopen
	if c.SiteID != nil {
		if err := db.Raw(`SELECT reopen_days FROM sites WHERE id = ?`, *c.SiteID).Scan(&days).Error; err != nil {
			return 0, fmt.Errorf("reading a help centre: %w", err)
		}
	}
	return days, nil
}

// standardReopen is for how many days a request can be reopened where no site says.
const standardReopen = 14
