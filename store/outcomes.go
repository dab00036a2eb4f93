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
	Generation  int        `gorm:"primaryKey;autoIncrement:false" json:"generation"`
	FirstItem   int64      `gorm:"primaryKey;autoIncrement:false" json:"first_item"`
	AskerID     int64      `json:"asker_id"`
	SittingAt   time.Time  `json:"sitting_at"`
	BeganAt     time.Time  `json:"began_at"`
	LastAt      time.Time  `json:"last_at"`
	ClosedAt    time.Time  `json:"closed_at"`
	Outcome     string     `json:"outcome"`
	AskedAgain  bool       `json:"asked_again"`
	NotFollowed bool       `json:"not_followed"`
	ReturnedBy  int64      `json:"returned_by"`
	ReturnedIn  int64      `json:"returned_in"`
	ReturnedAt  *time.Time `json:"returned_at"`
	Contacts    Strings    `gorm:"type:text[]" json:"contacts"`
	Refs        Strings    `gorm:"type:text[]" json:"refs"`
	Traced      bool       `json:"traced"`
	Repeats     bool       `json:"repeats"`
	AnsweredAt  *time.Time `json:"answered_at"`
	Items       Numbers    `gorm:"type:bigint[]" json:"items"`
	Answers     Numbers    `gorm:"type:bigint[]" json:"answers"`
	LabelItem   int64      `json:"label_item"`
	TypedItem   int64      `json:"typed_item"`
	Channels    Strings    `gorm:"type:text[]" json:"channels"`
	Site        string     `json:"site"`
	Language    string     `json:"language"`
	Groups      Strings    `gorm:"type:text[]" json:"groups"`
	Flow        string     `json:"flow"`
	Category    string     `json:"category"`
	Team        string     `json:"team"`
	Article     int        `json:"article"`
	HelpedBy    int        `json:"helped_by"`
	Opened      Numbers    `gorm:"type:integer[]" json:"opened"`
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
