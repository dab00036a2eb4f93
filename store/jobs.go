package store

import (
	"encoding/json"
	"time"
)

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
