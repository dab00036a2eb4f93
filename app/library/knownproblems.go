package library

import (
	"context"
	"time"

	"hermeneus/core/audience"
)

// KnownProblem is one cause that interim articles wait for the end of.
type KnownProblem struct {
	ID       int64      `json:"id"`
	Name     string     `json:"name"`
	OpenedAt time.Time  `json:"opened_at"`
	SolvedAt *time.Time `json:"solved_at"`

	Notice    string            `json:"notice"` // what the help centre tells customers while it is open; "" for nothing
	Audience  audience.Audience `json:"audience"`
	Reference string            `json:"reference"` // of an article that says more, "" for none
}

// KnownProblems lists them, the open ones first.
func (a *Library) KnownProblems(ctx context.Context) ([]KnownProblem, error) {
	var list []KnownProblem
	err := a.base.DB.WithContext(ctx).
		Raw(`SELECT k.*, coalesce('A-' || lpad(a.number::text, 4, '0'), '') AS reference
			FROM known_problems k LEFT JOIN articles a ON a.id = k.article_id
			ORDER BY solved_at DESC NULLS FIRST, id DESC LIMIT 200`).
		Scan(&list).
		Error
	return list, err
}
