package store

import (
	"encoding/json"
	"time"
)

// Category is a node of the tree.
type Category struct {
	ID          int64
	ParentID    *int64
	Name        string
	Description string
	Audience    string
	Position    int
	Picture     *string
	PathID      *int64
	StewardID   *int64
}

// Article is one answer, in any number of editions.
type Article struct {
	ID             int64
	Number         int
	CategoryID     int64
	OwnerID        int64
	Kind           string
	Audience       string
	Position       int
	LastRevision   int
	CreatedAt      time.Time
	Key            string          `gorm:"default:gen_random_uuid()"`
	Sections       json.RawMessage `gorm:"type:jsonb;default:'[]'"`
	RecheckDays    int             `gorm:"default:180"`
	RecheckOn      time.Time       `gorm:"type:date"`
	InterimUntil   *time.Time      `gorm:"type:date"`
	KnownProblemID *int64

	WithdrawnAt     *time.Time
	WithdrawnTo     *int64
	WithdrawnNotice string
	CheckedOn       *time.Time `gorm:"type:date"`
	RecheckByRule   bool
	RecheckFixed    bool
	BeforeCheck     json.RawMessage `gorm:"type:jsonb"`
	ConversationID  *int64          // of whose reply it was made
}

// Edition is an article in one language, with its working copy.
type Edition struct {
	ID                int64
	ArticleID         int64
	Language          string
	Title             string
	Body              string
	Keywords          Strings `gorm:"type:text[]"`
	SearchTitle       string
	SearchDescription string
	State             string
	Version           int
	WriterID          int64
	WrittenAt         time.Time
	SubmitterID       *int64
	SubmittedAt       *time.Time
	SubmittedRevision *int
	DecisionNote      string
	LiveRevisionID    *int64
	LiveSince         *time.Time
	Named             string
	Text              string
	SourceRevisionID  *int64
	BatchID           *int64
}

// Revision is an immutable snapshot of an edition.
type Revision struct {
	ID                int64
	EditionID         int64
	Number            int
	Title             string
	Body              string
	Keywords          Strings `gorm:"type:text[]"`
	SearchTitle       string
	SearchDescription string
	Words             int
	MadeBy            int64
	MadeAt            time.Time
	Note              string
	Authors           Numbers `gorm:"type:bigint[];default:'{}'"`
}

// File is a picture, kept once by its content.
type File struct {
	Hash      string `gorm:"primaryKey"`
	MediaType string
	Width     int
	Height    int
	Bytes     []byte
	AddedBy   int64
	AddedAt   time.Time
}

// FileWidth is a picture in a smaller width.
type FileWidth struct {
	FileHash string `gorm:"primaryKey"`
	Width    int    `gorm:"primaryKey;autoIncrement:false"`
	Bytes    []byte
}

// RevisionFile says that a revision shows a file.
type RevisionFile struct {
	RevisionID int64  `gorm:"primaryKey"`
	FileHash   string `gorm:"primaryKey"`
}

// Template is what articles begin from.
type Template struct {
	ID        int64
	Name      string
	Kind      string
	Purpose   string
	Sections  json.RawMessage `gorm:"type:jsonb"`
	RetiredAt *time.Time
}

// KnownProblem is one cause that interim articles wait for the end of.
type KnownProblem struct {
	ID       int64
	Name     string
	OpenedAt time.Time
	SolvedAt *time.Time

	Notice    string
	Audience  string
	ArticleID *int64
}

// Link says that a working copy points to an article.
type Link struct {
	EditionID int64 `gorm:"primaryKey"`
	Number    int   `gorm:"primaryKey;autoIncrement:false"`
}

// Dismissal is a check that a writer set aside.
type Dismissal struct {
	EditionID int64  `gorm:"primaryKey"`
	Key       string `gorm:"primaryKey"`
	Reason    string
	StaffID   int64
	At        time.Time
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

// SiteCategory says that a site shows a category and all below it.
type SiteCategory struct {
	SiteID     int64 `gorm:"primaryKey"`
	CategoryID int64 `gorm:"primaryKey"`
}
