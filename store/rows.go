package store

import (
	"encoding/json"
	"time"

	"github.com/lib/pq"
)

// Team is a group of agents that takes conversations.
type Team struct {
	ID   int64
	Name string
}

// Staff is a person who works here.
type Staff struct {
	ID           int64
	Email        string
	Name         string
	PasswordHash string
	Roles        pq.StringArray `gorm:"type:text[]"`
	TeamID       *int64
	DisabledAt   *time.Time
	CreatedAt    time.Time
}

// TableName keeps the glossary's word.
func (Staff) TableName() string { return "staff" }

// Customer is somebody who can sign in to the help centre.
type Customer struct {
	ID           int64
	Email        string
	Name         string
	PasswordHash string
	CreatedAt    time.Time
	DisabledAt   *time.Time
}

// Session is somebody signed in: staff or customer, never both.
type Session struct {
	TokenHash  []byte `gorm:"primaryKey"`
	StaffID    *int64
	CustomerID *int64
	CreatedAt  time.Time
	ExpiresAt  time.Time
}

// SignInFailure is an attempt to sign in that was not right, or is being looked at.
type SignInFailure struct {
	ID      int64
	Account string // staff: or customer:, and the mail address in small letters
	Network string
	Browser []byte // the hash of what it is known by, nil for none
	At      time.Time
}

// KnownBrowser is a browser that signed in to an account before.
type KnownBrowser struct {
	TokenHash []byte `gorm:"primaryKey"`
	Account   string `gorm:"primaryKey"`
	SeenAt    time.Time
}

// Made says that something was made under a key that its client made, and what came of it.
type Made struct {
	Key    []byte `gorm:"primaryKey"`
	At     time.Time
	Result json.RawMessage `gorm:"type:jsonb"`
}

// TableName is short.
func (Made) TableName() string { return "made" }

// PasswordLink lets whoever holds it set a new password, once.
type PasswordLink struct {
	TokenHash  []byte `gorm:"primaryKey"`
	StaffID    *int64
	CustomerID *int64
	MadeAt     time.Time
	ExpiresAt  time.Time
}

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
	Keywords          pq.StringArray `gorm:"type:text[]"`
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
	Keywords          pq.StringArray `gorm:"type:text[]"`
	SearchTitle       string
	SearchDescription string
	Words             int
	MadeBy            int64
	MadeAt            time.Time
	Note              string
	Authors           pq.Int64Array `gorm:"type:bigint[];default:'{}'"`
}

// Writer says that somebody wrote of an edition's text since it was last published.
type Writer struct {
	EditionID int64 `gorm:"primaryKey;autoIncrement:false"`
	StaffID   int64 `gorm:"primaryKey;autoIncrement:false"`
	Since     time.Time
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

// RevisionFile says that a revision shows a file.
type RevisionFile struct {
	RevisionID int64  `gorm:"primaryKey"`
	FileHash   string `gorm:"primaryKey"`
}

// Trail is one line of who did what.
type Trail struct {
	ID         int64
	At         time.Time
	StaffID    *int64 // nobody: the program
	ArticleID  *int64
	CategoryID *int64
	Subject    string
	Action     string
	FromState  string
	ToState    string
	Note       string
	Private    bool // only administrators read the note: it names customers
}

// TableName keeps the glossary's word.
func (Trail) TableName() string { return "trail" }

// Flow is a bot conversation in all its versions.
type Flow struct {
	ID            int64
	Slug          string
	LiveVersionID *int64
}

// FlowVersion is a published script.
type FlowVersion struct {
	ID          int64
	FlowID      int64
	Number      int
	Script      json.RawMessage `gorm:"type:jsonb"`
	PublishedBy int64
	PublishedAt time.Time
}

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
	Choices        pq.StringArray  `gorm:"type:text[]"`
}

// Evidence is one append-only fact.
type Evidence struct {
	ID      int64 `gorm:"primaryKey"`
	At      time.Time
	Asker   string
	Channel string
	Kind    string
	Text    string
	Ref     string
	Refs    pq.StringArray `gorm:"type:text[]"`
	Source  string
}

// TableName keeps the glossary's word.
func (Evidence) TableName() string { return "evidence" }

// Vote is what one asker last said of one revision.
type Vote struct {
	RevisionID int64  `gorm:"primaryKey"`
	Asker      string `gorm:"primaryKey"`
	Helped     bool
	Comment    string
	At         time.Time
}

// Setting is one named setting.
type Setting struct {
	Name  string          `gorm:"primaryKey"`
	Value json.RawMessage `gorm:"type:jsonb"`
}

// Site is a help centre over parts of the library.
type Site struct {
	ID           int64
	Name         string
	Main         bool
	Hosts        pq.StringArray `gorm:"type:text[]"`
	BrandColour  string
	AccentColour string
	Logo         *string
	Languages    pq.StringArray `gorm:"type:text[]"`
	AvoidedWords pq.StringArray `gorm:"type:text[]"`
	Zone         string
	Weights      pq.Float32Array `gorm:"type:real[]"`
	ReopenDays   int
	LinkDays     int `gorm:"default:30"`
}

// SiteCategory says that a site shows a category and all below it.
type SiteCategory struct {
	SiteID     int64 `gorm:"primaryKey"`
	CategoryID int64 `gorm:"primaryKey"`
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

// Autosave is an earlier state of a working copy.
type Autosave struct {
	ID        int64
	EditionID int64
	At        time.Time
	StaffID   int64
	Title     string
	Body      string
	SaveKey   string
	Version   int
	Authors   pq.Int64Array `gorm:"type:bigint[];default:'{}'"`
}

// Hold is one browser tab in which somebody is writing.
type Hold struct {
	EditionID int64  `gorm:"primaryKey"`
	Tab       string `gorm:"primaryKey"`
	StaffID   int64
	Since     time.Time
	SeenAt    time.Time
}

// Dismissal is a check that a writer set aside.
type Dismissal struct {
	EditionID int64  `gorm:"primaryKey"`
	Key       string `gorm:"primaryKey"`
	Reason    string
	StaffID   int64
	At        time.Time
}

// Link says that a working copy points to an article.
type Link struct {
	EditionID int64 `gorm:"primaryKey"`
	Number    int   `gorm:"primaryKey;autoIncrement:false"`
}

// FileWidth is a picture in a smaller width.
type FileWidth struct {
	FileHash string `gorm:"primaryKey"`
	Width    int    `gorm:"primaryKey;autoIncrement:false"`
	Bytes    []byte
}

// The states of a job.
const (
	JobWaiting = "waiting"
	JobRunning = "running"
	JobDone    = "done"
	JobFailed  = "failed"
)

// Job is work on many articles at once.
type Job struct {
	ID      int64
	Kind    string
	StaffID int64
	AskedAt time.Time
	Input   json.RawMessage `gorm:"type:jsonb"`
	File    []byte
	State   string `gorm:"default:waiting"`
	Total   int
	Done    int
	Result  json.RawMessage `gorm:"type:jsonb;default:'{}'"`
	EndedAt *time.Time
}

// JobChange is what a job changed of one article.
type JobChange struct {
	JobID     int64           `gorm:"primaryKey"`
	ArticleID int64           `gorm:"primaryKey"`
	Before    json.RawMessage `gorm:"type:jsonb"`
	After     json.RawMessage `gorm:"type:jsonb"`
	Undone    bool
}

// Rows lists every kind of row, so that a test can hold them against the schema.
func Rows() []any {
	return append(
		append(upkeepRows(), helpRows()...),
		[]any{
			&Team{},
			&Staff{},
			&Customer{},
			&Session{},
			&SignInFailure{},
			&KnownBrowser{},
			&PasswordLink{},
			&Made{},
			&Category{},
			&Article{},
			&Edition{},
			&Revision{},
			&File{},
			&RevisionFile{},
			&Trail{},
			&Flow{},
			&FlowVersion{},
			&Conversation{},
			&Message{},
			&Evidence{},
			&Vote{},
			&Setting{},
			&Site{},
			&SiteCategory{},
			&Template{},
			&KnownProblem{},
			&Autosave{},
			&Writer{},
			&Hold{},
			&Dismissal{},
			&Link{},
			&FileWidth{},
			&Job{},
			&JobChange{},
		}...)
}
