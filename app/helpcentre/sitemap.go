package helpcentre

import (
	"context"
	"fmt"
	"time"

	"hermeneus/app/evidence"
	"hermeneus/app/library"
	"hermeneus/core/article"
	"hermeneus/core/audience"
)

// MappedPage is an article, in one language, in the map of a site.
type MappedPage struct {
	Reference string // of the edition
	Title     string
	Changed   time.Time
}

// SiteMap lists what everybody may read on a site: whoever reads the map is signed in
// to nothing.
func (a *HelpCentre) SiteMap(ctx context.Context, v evidence.Visitor) ([]MappedPage, error) {
	var rows []struct {
		Number    int
		Language  string
		Title     string
		LiveSince time.Time
	}
	err := a.base.DB.WithContext(ctx).
		Raw(`SELECT a.number, e.language, r.title, e.live_since
			FROM articles a JOIN editions e ON e.article_id = a.id JOIN revisions r ON r.id = e.live_revision_id
			WHERE a.audience = ? AND `+library.FilterOf(v)+` ORDER BY a.number, e.language <> ?, e.language`, string(audience.Everyone), article.SourceLanguage).
		Scan(&rows).
		Error
	if err != nil {
		return nil, fmt.Errorf("reading the map of a site: %w", err)
	}
	pages := make([]MappedPage, len(rows))
	for i, r := range rows {
		pages[i] = MappedPage{article.EditionReference(r.Number, r.Language), r.Title, r.LiveSince}
	}
	return pages, nil
}
