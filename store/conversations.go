package store

import (
	"encoding/json"
	"time"
)

// The states of a conversation.
const (
	WithBot   = "bot"
	Waiting   = "waiting"
	WithAgent = "with_agent"
	Closed    = "closed"
)

// The kinds of conversations.
const (
	Chat    = "chat"
	Request = "request"
)

// Conversation is a chat with the bot or a request, from its beginning to its end.
type Conversation struct {
	ID            int64
	TokenHash     []byte
	Kind          string
	Asker         string
	CustomerID    *int64
	FlowVersionID *int64
	State         json.RawMessage `gorm:"type:jsonb"`
	Status        string
	Reference     *string
	Subject       string
	Address       string
	Team          string
	BeganAt       time.Time
	WaitingSince  *time.Time
	AgentID       *int64
	AcceptedAt    *time.Time
	AnsweredAt    *time.Time
	ClosedAt      *time.Time
	Rehearsal     bool
	SiteID        *int64
	KindName      string
	Answers       json.RawMessage `gorm:"type:jsonb"`
	Brief         string          // what the script says of it to agents
	Reopened      int             // how often: each time is a contact of its own
}

// The speakers of messages.
const (
	ByCustomer = "customer"
	ByBot      = "bot"
	ByAgent    = "agent"
	ByNotice   = "notice"
)

// Message is one thing said in a conversation.
type Message struct {
	ID             int64
	ConversationID int64
	At             time.Time
	Speaker        string
	StaffID        *int64
	Text           string
	Cards          json.RawMessage `gorm:"type:jsonb"`
	Choices        Strings         `gorm:"type:text[]"`
	Link           json.RawMessage `gorm:"type:jsonb"` // a page that the bot points to
	Told           json.RawMessage `gorm:"type:jsonb"` // passages of articles, word for word
}

// RequestFile is what came with a request or a reply.
type RequestFile struct {
	ID             int64
	ConversationID int64
	MessageID      *int64
	Name           string
	MediaType      string
	Bytes          []byte
	Size           int
	At             time.Time
	StaffID        *int64
}
