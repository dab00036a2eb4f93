package review

import (
	"context"
	"fmt"

	"gorm.io/gorm"

	"hermeneus/app/instance"
	"hermeneus/app/library"
	"hermeneus/app/problem"
	"hermeneus/core/article"
	"hermeneus/core/audience"
	"hermeneus/core/flow"
	"hermeneus/store"
)

// Impact is what publishing or withdrawing an article touches.
type Impact struct {
	Flows     []flow.Use       `json:"flows"`
	LinkedBy  []library.Titled `json:"linked_by"` // live articles that point to it
	Unlive    []library.Titled `json:"unlive"`    // articles it points to that some of its readers cannot open
	Behind    []string         `json:"behind"`    // languages of live editions that would fall behind
	Feeds     []instance.Name  `json:"feeds"`     // categories whose feeds carry it
	Sites     []instance.Name  `json:"sites"`
	Zone      string           `json:"zone"`      // in which a time is set
	Conflicts []string         `json:"conflicts"` // what keeps it from going live
	Changes   string           `json:"changes"`   // of its audience, in words; "" for none
	Comments  int              `json:"comments"`  // that are open on its text
}

// Impact says what an article going live for an audience touches; "" is the
// audience it has.
func (a *Review) Impact(ctx context.Context, reference string, to audience.Audience) (Impact, error) {
	db := a.base.DB.WithContext(ctx)
	row, e, err := library.FindEdition(db, reference, false)
	if err != nil {
		return Impact{}, err
	}
	var out Impact
	if to == "" {
		to = audience.Audience(row.Audience)
	} else if !to.Valid() {
		return out, problem.OfField("audience", "Choose who may see it.")
	}
	if string(to) != row.Audience && e.LiveRevisionID != nil {
		out.Changes = fmt.Sprintf(
			"It is live for %s; after this it is for %s.",
			audience.Audience(row.Audience).Words(),
			to.Words(),
		)
	}
	row.Audience = string(to)
	uses, err := library.FlowUses(db)
	if err != nil {
		return out, err
	}
	if out.Comments, err = openComments(db, e.ID); err != nil {
		return out, err
	}
	out.Flows = uses[row.Number]
	out.Conflicts = library.Conflicts(row, uses)
	if err := a.linksAround(db, row, e, &out); err != nil {
		return out, err
	}
	if e.Language == article.SourceLanguage {
		err := db.Raw(`SELECT language
			FROM editions WHERE article_id = ? AND language <> ? AND live_revision_id IS NOT NULL ORDER BY 1`, row.ID, e.Language).
			Scan(&out.Behind).
			Error
		if err != nil {
			return out, err
		}
		for i, l := range out.Behind {
			out.Behind[i] = article.Languages[l]
		}
	}
	err = db.Raw(`WITH RECURSIVE up AS
			(SELECT id, parent_id, name FROM categories WHERE id = ? UNION ALL SELECT c.id, c.parent_id, c.name
			FROM categories c JOIN up ON c.id = up.parent_id)
		SELECT id, name
		FROM up`, row.CategoryID).Scan(&out.Feeds).Error
	if err != nil {
		return out, err
	}
	if to != audience.Everyone {
		out.Feeds = nil // feeds are for everyone, and carry what is
	}
	if out.Sites, err = a.sites.SitesOf(db, row.CategoryID); err != nil {
		return out, err
	}
	zone, err := a.zoneOf(db, row.CategoryID)
	if err != nil {
		return out, err
	}
	out.Zone = zone.String()
	return out, nil
}

// openComments counts what is said of a text and not settled.
func openComments(db *gorm.DB, edition int64) (n int, err error) {
	err = db.Raw(`SELECT count(*)
		FROM comments
		WHERE text_id = ? AND parent_id IS NULL AND resolved_at IS NULL`, edition).
		Scan(&n).
		Error
	return n, err
}

func (a *Review) linksAround(db *gorm.DB, row store.Article, e store.Edition, out *Impact) error {
	err := db.Raw(`SELECT DISTINCT `+library.ReferenceSQL+` AS reference, x.title
		FROM links l JOIN editions x ON x.id = l.edition_id JOIN articles a ON a.id = x.article_id
		WHERE l.number = ? AND a.id <> ? AND x.live_revision_id IS NOT NULL ORDER BY 1 LIMIT 50`,
		row.Number, row.ID).
		Scan(&out.LinkedBy).
		Error
	if err != nil {
		return err
	}
	var linked []struct {
		Reference, Title, Audience string
		Live                       bool
	}
	err = db.Raw(`SELECT DISTINCT `+library.ReferenceSQL+` AS reference, x.title, a.audience, x.live_revision_id IS
			NOT NULL AS live
		FROM links l JOIN articles a ON a.number = l.number
		JOIN editions x ON x.article_id = a.id AND x.language = ? WHERE l.edition_id = ? AND a.id <> ?
		ORDER BY 1`,
		article.SourceLanguage, e.ID, row.ID).
		Scan(&linked).
		Error
	for _, to := range linked {
		if !to.Live || audience.Audience(row.Audience).WiderThan(audience.Audience(to.Audience)) {
			out.Unlive = append(out.Unlive, library.Titled{Reference: to.Reference, Title: to.Title})
		}
	}
	return err
}
