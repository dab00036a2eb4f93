package store

import (
	"encoding/json"
	"time"
)

// Path is the ordered gates that working copies pass.
type Path struct {
	ID        int64
	Name      string
	Gates     json.RawMessage `gorm:"type:jsonb"`
	Standard  bool
	RetiredAt *time.Time
}

// Review is one round of an edition through the path it entered.
type Review struct {
	ID         int64
	TextID     int64
	PathID     *int64
	Path       json.RawMessage `gorm:"type:jsonb"`
	Passed     Numbers         `gorm:"type:bigint[]"`
	Authors    Numbers         `gorm:"type:bigint[]"`
	Gate       string
	GateSince  time.Time
	OverdueAt  *time.Time
	AssigneeID *int64
	BeganBy    int64
	BeganAt    time.Time
	StuckTold  bool
	EndedAt    *time.Time
}

// Decision is what somebody decided at a gate.
type Decision struct {
	ID        int64
	ReviewID  int64
	Gate      string
	StaffID   int64
	At        time.Time
	Action    string
	Revision  int
	Note      string
	ClearedAt *time.Time
}

// The states of a batch.
const (
	BatchOpen      = "open"
	BatchScheduled = "scheduled"
	BatchPublished = "published"
	BatchUndone    = "undone"
	BatchGivenUp   = "given_up"
)

// Batch is working copies that go live together.
type Batch struct {
	ID      int64
	Name    string
	Note    string
	MadeBy  int64
	MadeAt  time.Time
	State   string `gorm:"default:open"`
	EndedBy *int64
	EndedAt *time.Time
}

// BatchMember is an edition in a batch.
type BatchMember struct {
	BatchID    int64 `gorm:"primaryKey"`
	EditionID  int64 `gorm:"primaryKey"`
	BeforeID   *int64
	BeforeWhen *time.Time
	AfterID    *int64
}

// What a schedule does, and how it stands.
const (
	SchedulePublish  = "publish"
	ScheduleWithdraw = "withdraw"
	ScheduleWaiting  = "waiting"
	ScheduleDone     = "done"
	ScheduleFailed   = "failed"
	ScheduleDropped  = "dropped"
)

// Schedule is what is to happen by itself at a time.
type Schedule struct {
	ID        int64
	Kind      string
	DueAt     time.Time
	Wall      string
	Zone      string
	EditionID *int64
	BatchID   *int64
	Audience  string
	Note      string
	StaffID   int64
	MadeAt    time.Time
	State     string `gorm:"default:waiting"`
	EndedAt   *time.Time
	Fault     string
}

// PublishedChange is what customers are told changed with a revision.
type PublishedChange struct {
	ID         int64
	EditionID  int64
	RevisionID int64
	At         time.Time
	Note       string
}

// TableName is short, since Change is the word for what instances tell each other.
func (PublishedChange) TableName() string { return "changes" }

// Comment is what somebody on the staff said of a passage.
type Comment struct {
	ID         int64
	TextID     int64
	ParentID   *int64
	StaffID    int64
	At         time.Time
	Text       string
	Anchor     *json.RawMessage `gorm:"type:jsonb"`
	Suggestion *string
	AcceptedAt *time.Time
	ResolvedAt *time.Time
	ResolvedBy *int64
}
