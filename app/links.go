package app

import (
	"time"

	"gorm.io/gorm"

	"hermeneus/store"
)

// standardLinkDays is for how many days after the last word a link opens a conversation
// where no site says.
const standardLinkDays = 30

// byToken finds what a token opens, as long as it opens anything.
func (a *App) byToken(db *gorm.DB, token string) (store.Conversation, error) {
	var c store.Conversation
	if err := db.Where("token_hash = ?", tokenHash(token)).Take(&c).Error; err != nil {
		return c, asProblem(err, "conversation")
	}
	return c, a.refuseEndedLink(db, c)
}

// refuseEndedLink refuses what opens a conversation without signing in, once its time is
// over. While a person is waited for it stays open, and as long as a closed request can be
// reopened.
func (a *App) refuseEndedLink(db *gorm.DB, c store.Conversation) error {
	if c.Status == store.Waiting || c.Status == store.WithAgent {
		return nil
	}
	var last struct {
		At   time.Time
		Days int
	}
	// Not on a locked session: the words of a conversation are not its row.
	err := db.Session(&gorm.Session{NewDB: true}).
		Raw(`SELECT greatest(?::timestamptz, (SELECT max(at) FROM messages WHERE conversation_id = ?)) AS at,
		coalesce((SELECT link_days FROM sites WHERE id = ?), ?) AS days`, c.BeganAt, c.ID, c.SiteID, standardLinkDays).
		Scan(&last).
		Error
	if err != nil {
		return err
	}
	ends := last.At.AddDate(0, 0, last.Days)
	if c.ClosedAt != nil {
		reopen, err := reopenDays(db.Session(&gorm.Session{NewDB: true}), c)
		if err != nil {
			return err
		}
		if until := c.ClosedAt.AddDate(0, 0, reopen); until.After(ends) {
			ends = until
		}
	}
	if a.now().Before(ends) {
		return nil
	}
	return problem(
		Ended,
		"This link has ended: nobody wrote here for a long time. Sign in to read your requests, or ask anew.",
	)
}
