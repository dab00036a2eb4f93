package store

import "time"

// EvidenceMark says that an asker's evidence was added to since it was folded last.
type EvidenceMark struct {
	ID    int64
	Asker string
	Items Numbers `gorm:"type:bigint[]"`
	Since time.Time
}

// Asker is somebody of whom there is evidence, under all keys that are linked.
type Asker struct {
	ID       int64
	Name     string
	Named    bool
	Looked   bool
	Reached  bool
	TracedAt *time.Time
	FinalTo  *time.Time // until when the questions are final, where that is later than the horizon
}

// AskerKey is a key of an asker.
type AskerKey struct {
	Key     string `gorm:"primaryKey"`
	AskerID int64
}

// Question is a question as it was folded.
type Question struct {
	Generation  int   `gorm:"primaryKey;autoIncrement:false"`
	FirstItem   int64 `gorm:"primaryKey;autoIncrement:false"`
	AskerID     int64
	SittingAt   time.Time
	BeganAt     time.Time
	LastAt      time.Time
	ClosedAt    time.Time
	Outcome     string
	AskedAgain  bool
	NotFollowed bool
	ReturnedBy  int64
	ReturnedIn  int64
	ReturnedAt  *time.Time
	Contacts    Strings `gorm:"type:text[]"`
	Refs        Strings `gorm:"type:text[]"`
	Traced      bool
	Repeats     bool
	AnsweredAt  *time.Time
	Items       Numbers `gorm:"type:bigint[]"`
	Answers     Numbers `gorm:"type:bigint[]"`
	LabelItem   int64
	TypedItem   int64
	Channels    Strings `gorm:"type:text[]"`
	Site        string
	Language    string
	Groups      Strings `gorm:"type:text[]"`
	Flow        string
	Category    string
	Team        string
	Article     int
	HelpedBy    int
	Opened      Numbers `gorm:"type:integer[]"`
}

// QuestionDay counts the questions of a kind that closed on a day.
type QuestionDay struct {
	Generation  int       `gorm:"primaryKey;autoIncrement:false"`
	Day         time.Time `gorm:"primaryKey;type:date"`
	Outcome     string    `gorm:"primaryKey"`
	Site        string    `gorm:"primaryKey"`
	Channels    string    `gorm:"primaryKey"` // apart by commas
	Category    string    `gorm:"primaryKey"`
	Flow        string    `gorm:"primaryKey"`
	Language    string    `gorm:"primaryKey"`
	Questions   int
	AskedAgain  int
	Traced      int
	NotFollowed int
}

// ArticleDay counts the questions that ended with an article, by the day on which they closed.
type ArticleDay struct {
	Generation int       `gorm:"primaryKey;autoIncrement:false"`
	Article    int       `gorm:"primaryKey;autoIncrement:false"`
	Day        time.Time `gorm:"primaryKey;type:date"`
	Outcome    string    `gorm:"primaryKey"`
	Questions  int
}

// ArticleOutcome counts all questions that ended with an article.
type ArticleOutcome struct {
	Generation int    `gorm:"primaryKey;autoIncrement:false"`
	Article    int    `gorm:"primaryKey;autoIncrement:false"`
	Outcome    string `gorm:"primaryKey"`
	Questions  int
}

// ArticleUse counts how often an article was opened and read on a day.
type ArticleUse struct {
	Article int       `gorm:"primaryKey;autoIncrement:false"`
	Day     time.Time `gorm:"primaryKey;type:date"`
	Opened  int
	Read    int
}

// QuestionCount is a generation of the questions: what stands, or what is being counted.
type QuestionCount struct {
	Generation  int `gorm:"primaryKey;autoIncrement:false"`
	WindowHours int
	Zone        string
	Live        bool
	DoneTo      int64 // the last asker that is counted in it
	BegunAt     time.Time
}
