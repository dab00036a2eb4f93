package store

import (
	"encoding/json"
	"time"
)

// Synonym is a rule of words that mean the same on a site.
type Synonym struct {
	ID     int64
	SiteID int64
	Rule   string
	MadeBy int64
	MadeAt time.Time
}

// Pin puts an article first for a question, or leaves it out.
type Pin struct {
	ID        int64
	SiteID    int64
	Words     string
	ArticleID int64
	Bury      bool
	Until     *time.Time `gorm:"type:date"`
	MadeBy    int64
	MadeAt    time.Time
}

// Judged is a question of which it is known what answers it.
type Judged struct {
	ID            int64
	SiteID        int64
	Question      string
	RightArticles Numbers `gorm:"type:integer[]"`
	Source        string
	MadeBy        *int64
	MadeAt        time.Time
	Dropped       bool
}

// TableName is the table's.
func (Judged) TableName() string { return "judged" }

// SearchReport says how well the search did on the judged questions at a time.
type SearchReport struct {
	ID      int64
	SiteID  int64
	At      time.Time
	Why     string
	Quality json.RawMessage `gorm:"type:jsonb"`
	Places  json.RawMessage `gorm:"type:jsonb"`
}
