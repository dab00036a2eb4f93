package helpcentre

import (
	"context"
	"fmt"
	"time"

	"hermeneus/app/evidence"
	"hermeneus/app/instance"
	"hermeneus/app/library"
	"hermeneus/app/problem"
	"hermeneus/core/article"
	"hermeneus/core/audience"
)

// FeedEntry is one article in a category's feed.
type FeedEntry struct {
	Reference string
	Title     string
	Updated   time.Time
	Published time.Time
	Summary   string // what changed, or how it begins
}

// Feed is a category with the articles that changed last in it and below it.
type Feed struct {
	Category instance.Name
	Entries  []FeedEntry
}

// feedSize is how many articles a feed carries.
const feedSize = 30

// ReadFeed gives a category's feed. A feed is read by programs that nobody signed
// in, so it carries only what is for everyone.
func (a *HelpCentre) ReadFeed(ctx context.Context, v evidence.Visitor, category int64) (Feed, error) {
	listings, err := a.library.CategoryListings(ctx, evidence.Visitor{Site: v.Site}, category)
	if err != nil {
		return Feed{}, err
	}
	if len(listings) == 0 || listings[0].ID != category {
		return Feed{}, problem.New(problem.NotFound, "There is no such category.")
	}
	feed := Feed{Category: instance.Name{ID: category, Name: listings[0].Name}}
	ids := make([]int64, len(listings))
	for i, s := range listings {
		ids[i] = s.ID
	}
	var rows []struct {
		Number                         int
		Title, Note, Description, Body string
		At, First                      time.Time
	}
	err = a.base.DB.WithContext(ctx).
		Raw(`SELECT a.number, r.title, c.note, r.search_description AS description, left(r.body, 4000) AS body,
				c.at, (SELECT min(at) FROM changes x WHERE x.edition_id = e.id) AS first
			FROM articles a JOIN editions e ON e.article_id = a.id AND e.language = ?
			JOIN revisions r ON r.id = e.live_revision_id
			JOIN LATERAL
				(SELECT * FROM changes c WHERE c.edition_id = e.id AND c.revision_id = r.id ORDER BY c.id DESC
				LIMIT 1) c ON true
			WHERE a.category_id IN ? AND a.audience = ? AND `+library.FilterOf(v)+` ORDER BY c.at DESC, a.id LIMIT ?`,
			article.SourceLanguage, ids, string(audience.Everyone), feedSize).
		Scan(&rows).
		Error
	if err != nil {
		return feed, fmt.Errorf("reading the feed of category %d: %w", category, err)
	}
	for _, r := range rows {
		text := r.Note
		if text == "" {
			text = article.Summary(r.Description, article.Read(r.Body))
		}
		feed.Entries = append(feed.Entries, FeedEntry{article.Reference(r.Number), r.Title, r.At, r.First, text})
	}
	return feed, nil
}
