package helpcentre

import (
	"context"
	"fmt"
	"time"

	"hermeneus/app/evidence"
	"hermeneus/app/library"
	"hermeneus/core/article"
)

// Notices gives the notices of open problems that are for a visitor, the newest first.
// An article is named only to who may read it.
func (a *HelpCentre) Notices(ctx context.Context, v evidence.Visitor) ([]Notice, error) {
	var list []Notice
	err := a.base.DB.WithContext(ctx).Raw(`SELECT k.name, k.notice AS text, k.opened_at AS since,
			coalesce((SELECT a.number FROM articles a
			JOIN editions e ON e.article_id = a.id AND e.language = ? AND e.live_revision_id IS NOT NULL
			WHERE a.id = k.article_id AND a.audience IN ? AND `+library.FilterOf(v)+`), 0) AS number
					FROM known_problems k WHERE k.solved_at IS NULL AND k.notice <> '' AND k.audience IN ?
					ORDER BY k.id DESC LIMIT 5`,
		article.SourceLanguage, v.Viewer().Sees(), v.Viewer().Sees()).Scan(&list).Error
	if err != nil {
		return nil, fmt.Errorf("reading notices: %w", err)
	}
	return list, nil
}

// Notice is what customers are told of a known problem.
type Notice struct {
	Name   string
	Text   string
	Since  time.Time
	Number int
}

// Reference is that of the article which says more, "" for none.
func (n Notice) Reference() string {
	if n.Number == 0 {
		return ""
	}
	return article.Reference(n.Number)
}
