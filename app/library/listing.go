package library

import (
	"context"
	"fmt"
	"slices"

	"hermeneus/app/evidence"
	"hermeneus/core/article"
	"hermeneus/core/flow"
)

// CategoryListings gives the categories that hold something for the visitor, in order.
// With a category, only that one and those below it.
func (a *Library) CategoryListings(ctx context.Context, v evidence.Visitor, below int64) ([]CategoryListing, error) {
	db := a.base.DB.WithContext(ctx)
	tree, err := a.tree(
		db,
		`SELECT a.category_id, count(*) AS n FROM articles a JOIN editions e ON e.article_id = a.id AND e.language = ?
		WHERE e.live_revision_id IS NOT NULL AND a.audience IN ? AND `+FilterOf(v)+` GROUP BY a.category_id`,
		article.SourceLanguage,
		v.Viewer().Sees(),
	)
	if err != nil {
		return nil, err
	}
	var rows []struct {
		CategoryID       int64
		Number, Revision int
		Title            string
	}
	err = db.Raw(`SELECT a.category_id, a.number, r.number AS revision, r.title
		FROM articles a JOIN editions e ON e.article_id = a.id AND e.language = ?
		JOIN revisions r ON r.id = e.live_revision_id WHERE a.audience IN ? AND `+FilterOf(v)+` ORDER BY a.position, a.id`, article.SourceLanguage, v.Viewer().Sees()).Scan(&rows).Error
	if err != nil {
		return nil, fmt.Errorf("reading the listings: %w", err)
	}
	cards := map[int64][]flow.Card{}
	for _, r := range rows {
		cards[r.CategoryID] = append(cards[r.CategoryID], flow.Card{Reference: article.Reference(r.Number),
			Revision: article.RevisionReference(r.Number, r.Revision), Title: r.Title})
	}
	inside := map[int64]bool{below: true}
	var listings []CategoryListing
	for _, c := range tree {
		inside[c.ID] = inside[c.ID] || inside[c.ParentID]
		if inside[c.ID] {
			listings = append(listings, CategoryListing{c, cards[c.ID]})
		}
	}
	return nonEmpty(listings), nil
}

// CategoryListing is a category with the articles that a visitor finds in it.
type CategoryListing struct {
	Category
	Cards []flow.Card
}

// nonEmpty leaves out the categories with nothing in them or below them.
func nonEmpty(listings []CategoryListing) []CategoryListing {
	holds := map[int64]bool{}
	for _, s := range slices.Backward(listings) {
		if len(s.Cards) > 0 || holds[s.ID] {
			holds[s.ID], holds[s.ParentID] = true, true
		}
	}
	return slices.DeleteFunc(listings, func(s CategoryListing) bool { return !holds[s.ID] })
}
