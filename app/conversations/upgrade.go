package conversations

import (
	"encoding/json"
	"fmt"
	"time"

	"gorm.io/gorm"

	"hermeneus/app/evidence"
	"hermeneus/core/outcome"
	"hermeneus/store"
)

// The settings that say until when figures were counted by the older rules, and that the links of that time are made.
const (
	olderRules = "older_rules_until"
	oldLinks   = "old_addresses_linked"
)

// LinkOld makes, once, the links of conversations from before links were kept: whoever gave an address in one is
// known by it.
func LinkOld(tx *gorm.DB) error {
	var settings []store.Setting
	if err := tx.Where("name IN ?", []string{olderRules, oldLinks}).Find(&settings).Error; err != nil {
		return err
	}
	if len(settings) != 1 || settings[0].Name != olderRules {
		return nil // nothing is older, or it was done
	}
	var until time.Time
	if err := json.Unmarshal(settings[0].Value, &until); err != nil {
		return fmt.Errorf("reading until when the older rules held: %w", err)
	}
	var rows []store.Conversation
	err := tx.Raw(`SELECT * FROM conversations WHERE address <> '' AND NOT rehearsal AND asker LIKE 'visitor:%'
		AND began_at <= ? ORDER BY began_at, id`, until).Scan(&rows).Error
	if err != nil {
		return fmt.Errorf("reading who gave an address: %w", err)
	}
	var links []outcome.Evidence
	for _, c := range rows {
		to, err := evidence.AddressAsker(tx, c.Address)
		if err != nil {
			return err
		}
		links = append(links, outcome.Evidence{
			At: c.BeganAt, Asker: c.Asker, Channel: channelOf(c), Kind: outcome.Linked, To: to,
		})
	}
	if err := evidence.AddLinks(tx, links); err != nil {
		return err
	}
	return tx.Create(&store.Setting{Name: oldLinks, Value: json.RawMessage(`true`)}).Error
}

// channelOf is the channel that a conversation runs in.
func channelOf(c store.Conversation) outcome.Channel {
	if c.FlowVersionID == nil {
		return outcome.Form
	}
	return outcome.Chat
}
