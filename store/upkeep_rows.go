package store

import (
	"encoding/json"
	"time"

	"github.com/lib/pq"
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
	EditionID  int64
	PathID     *int64
	Path       json.RawMessage `gorm:"type:jsonb"`
	Passed     pq.Int64Array   `gorm:"type:bigint[]"`
	Authors    pq.Int64Array   `gorm:"type:bigint[]"`
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
	EditionID  int64
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

// Feedback is what a reader said of a live text.
type Feedback struct {
	ID         int64
	RevisionID int64
	EditionID  int64
	Asker      string
	CustomerID *int64
	At         time.Time
	Helped     bool
	Text       string
	Anchor     *json.RawMessage `gorm:"type:jsonb"`
	Answer     string
	AnswerNote string
	MendedIn   *int
	ForID      *int64
	AnsweredBy *int64
	AnsweredAt *time.Time
}

// TableName keeps the glossary's word.
func (Feedback) TableName() string { return "feedback" }

// Follower is told of what happens to an article.
type Follower struct {
	ArticleID int64 `gorm:"primaryKey"`
	StaffID   int64 `gorm:"primaryKey"`
}

// OutsideLink is an address outside that texts point to.
type OutsideLink struct {
	Address   string `gorm:"primaryKey"`
	CheckedAt *time.Time
	Status    int
	Fault     string
}

// OutsideUse says that a working copy points to an address.
type OutsideUse struct {
	EditionID int64  `gorm:"primaryKey"`
	Address   string `gorm:"primaryKey"`
}

// News is one thing that somebody on the staff is told.
type News struct {
	ID       int64
	StaffID  int64
	At       time.Time
	Kind     string
	Text     string
	Path     string
	Shown    bool
	ByMail   bool
	ReadAt   *time.Time
	MailedAt *time.Time
}

// TableName keeps the glossary's word.
func (News) TableName() string { return "news" }

// NewsWish is what somebody wants to be told, and how.
type NewsWish struct {
	StaffID int64          `gorm:"primaryKey;autoIncrement:false"`
	Off     pq.StringArray `gorm:"type:text[]"`
	NoMail  pq.StringArray `gorm:"type:text[]"`
	Rhythm  string         `gorm:"default:soon"`
}

// Mail is a mail to be sent.
type Mail struct {
	ID      int64
	MadeAt  time.Time
	Address string
	Subject string
	Body    string
	SentAt  *time.Time
	Tries   int
	NextAt  time.Time
	Fault   string

	Kind     string     // what it is for, as far as that matters for sending it
	FailedAt *time.Time // when it was given up
}

// Chore is when something regular was last done.
type Chore struct {
	Name   string `gorm:"primaryKey"`
	DoneAt time.Time
}

func upkeepRows() []any {
	return []any{
		&Path{},
		&Review{},
		&Decision{},
		&Batch{},
		&BatchMember{},
		&Schedule{},
		&PublishedChange{},
		&Comment{},
		&Feedback{},
		&Follower{},
		&OutsideLink{},
		&OutsideUse{},
		&News{},
		&NewsWish{},
		&Mail{},
		&Chore{},
	}
}
