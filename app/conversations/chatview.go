package conversations

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"time"

	"gorm.io/gorm"

	"hermeneus/app/evidence"
	"hermeneus/app/search"
	"hermeneus/core/flow"
	"hermeneus/store"
)

// ChatMessage is one thing said in a conversation.
type ChatMessage struct {
	ID      int64        `json:"id"`
	At      time.Time    `json:"at"`
	Speaker string       `json:"speaker"`
	Name    string       `json:"name"` // of the agent
	Text    string       `json:"text"`
	Cards   []flow.Card  `json:"cards"`
	Choices []string     `json:"choices"`
	Link    *flow.Linked `json:"link"`
	Told    *ToldAnswer  `json:"told"` // an answer, word for word
	Files   []KeptFile   `json:"files"`
}

// ChatView is a conversation as the customer sees it.
type ChatView struct {
	Status    string        `json:"status"`
	Reference string        `json:"reference"`
	Agent     string        `json:"agent"`
	Waiting   flow.Waiting  `json:"waiting"`
	MayAsk    bool          `json:"may_ask"` // a person can be asked for
	Rehearsal bool          `json:"rehearsal"`
	Messages  []ChatMessage `json:"messages"`
}

// ReadChat gives a conversation as its customer sees it, with the messages after
// the given one (0 for all).
func (a *Conversations) ReadChat(ctx context.Context, v evidence.Visitor, token string, after int64) (ChatView, error) {
	db := a.base.DB.WithContext(ctx)
	c, err := a.ByToken(db, token)
	if err != nil {
		return ChatView{}, err
	}
	return a.View(db, v, c, after)
}

// View gives a conversation to who holds it, without what the articles shown in it say
// that the visitor may not see, or see any more.
func (a *Conversations) View(db *gorm.DB, v evidence.Visitor, c store.Conversation, after int64) (ChatView, error) {
	view := ChatView{Status: c.Status, Rehearsal: c.Rehearsal}
	if c.Reference != nil {
		view.Reference = *c.Reference
	}
	if len(c.State) > 0 {
		var state flow.State
		if err := json.Unmarshal(c.State, &state); err != nil {
			return view, err
		}
		version, err := a.versionOf(db, &c)
		if err != nil {
			return view, err
		}
		view.Waiting = state.Waiting
		asks := version.Program.AsksForPerson()
		if id := state.Versions[state.Flow]; id != 0 && !asks { // of the flow that it came to
			other, err := a.flows.Version(db, id)
			if err != nil {
				return view, err
			}
			asks = other.Program.AsksForPerson()
		}
		view.MayAsk = asks && c.Status == store.WithBot
	}
	if c.AgentID != nil {
		if err := db.Raw(`SELECT name FROM staff WHERE id = ?`, c.AgentID).Scan(&view.Agent).Error; err != nil {
			return view, err
		}
	}
	var err error
	if view.Messages, err = messages(db, c.ID, after); err != nil {
		return view, err
	}
	return view, hideShown(db, v, view.Messages)
}

// hideShown empties the cards, and takes out the passages, of articles that the visitor may not see, or that are not
// live any more, whatever they said when they were shown.
func hideShown(db *gorm.DB, v evidence.Visitor, messages []ChatMessage) error {
	var references []string
	for _, m := range messages {
		for _, card := range m.Cards {
			references = append(references, card.Reference)
		}
		if m.Told != nil {
			for _, p := range m.Told.Passages {
				references = append(references, p.Reference)
			}
		}
	}
	v.Site = 0 // an agent shows what another help centre has, too
	seen, err := search.LiveRevisions(db, v, references)
	if err != nil {
		return err
	}
	for _, m := range messages {
		for i, card := range m.Cards {
			if _, ok := seen[card.Reference]; !ok {
				m.Cards[i] = flow.Card{}
			}
		}
		if m.Told != nil {
			m.Told.Passages = slices.DeleteFunc(m.Told.Passages, func(p flow.Passage) bool {
				_, open := seen[p.Reference]
				return !open
			})
		}
	}
	return nil
}

func messages(db *gorm.DB, conversation, after int64) ([]ChatMessage, error) {
	var rows []struct {
		store.Message
		Name string
	}
	err := db.Raw(`SELECT m.*, coalesce(s.name, '') AS name FROM messages m LEFT JOIN staff s ON s.id = m.staff_id
		WHERE conversation_id = ? AND m.id > ? ORDER BY m.id`, conversation, after).Scan(&rows).Error
	if err != nil {
		return nil, fmt.Errorf("reading messages: %w", err)
	}
	files, err := FilesOf(db, conversation)
	if err != nil {
		return nil, err
	}
	list := make([]ChatMessage, len(rows))
	for i, r := range rows {
		list[i] = ChatMessage{
			ID:      r.ID,
			At:      r.At,
			Speaker: r.Speaker,
			Name:    r.Name,
			Text:    r.Text,
			Choices: r.Choices,
			Files:   []KeptFile{},
		}
		for _, f := range files {
			if f.MessageID == r.ID {
				list[i].Files = append(list[i].Files, f)
			}
		}
		if list[i].Told, err = toldIn(r.Message); err != nil {
			return nil, err
		}
		if len(r.Link) > 0 {
			if err := json.Unmarshal(r.Link, &list[i].Link); err != nil {
				return nil, fmt.Errorf("reading message %d: %w", r.ID, err)
			}
		}
		if len(r.Cards) > 0 {
			if err := json.Unmarshal(r.Cards, &list[i].Cards); err != nil {
				return nil, fmt.Errorf("reading message %d: %w", r.ID, err)
			}
		}
	}
	return list, nil
}

// WatchChat rings after every change to the conversation, until stop.
func (a *Conversations) WatchChat(ctx context.Context, token string) (bell <-chan struct{}, stop func(), err error) {
	c, err := a.ByToken(a.base.DB.WithContext(ctx), token)
	if err != nil {
		return nil, nil, err
	}
	bell, stop = a.base.Watch(func(change store.Change) bool {
		return change.About == store.ConversationChanged && change.ID == c.ID
	})
	return bell, stop, nil
}
