package search

import (
	"fmt"

	"hermeneus/store"

	"gorm.io/gorm"

	"hermeneus/app/evidence"
	"hermeneus/app/library"
	"hermeneus/core/article"
	"hermeneus/core/flow"
	"hermeneus/core/search"
)

// Confirm asks the database about what the index gave, so that an index a moment behind
// shows nobody what is no longer for them, or is no longer live. What it says of the live
// revision is taken from it; only what it is behind with is read from the database.
func (a *Search) Confirm(db *gorm.DB, v evidence.Visitor, hits []search.Hit) ([]Result, error) {
	references := make([]string, len(hits))
	for i, h := range hits {
		references[i] = h.Reference
	}
	known, err := LiveRevisions(db, v, references)
	if err != nil {
		return nil, err
	}
	var late []string
	for _, h := range hits {
		if r, ok := known[h.Reference]; ok && r.Revision != h.Revision {
			late = append(late, h.Reference)
		}
	}
	read, err := LiveEditions(db, v, late)
	if err != nil {
		return nil, err
	}
	var results []Result
	for _, h := range hits {
		now, ok := known[h.Reference]
		r := read[h.Reference]
		if ok && now.Revision == h.Revision {
			number, language, _ := article.ParseEdition(h.Reference)
			r = Result{Category: now.Category, Language: language, Card: flow.Card{Reference: h.Reference,
				Revision: article.RevisionReference(number, h.Revision), Title: h.Title, Summary: h.Summary}}
		}
		if r.Reference == "" {
			continue
		}
		r.Passage, r.hit = h.Passage, h
		results = append(results, r)
	}
	return results, nil
}

// lookUp reads columns of those of the editions that are live and that the visitor may
// see: of the article a, the edition e, its live revision r and the category c.
func lookUp(db *gorm.DB, v evidence.Visitor, columns string, references []string, into any) error {
	var numbers store.Numbers
	var languages store.Strings
	for _, ref := range references {
		if n, language, ok := article.ParseEdition(ref); ok {
			numbers, languages = append(numbers, int64(n)), append(languages, language)
		}
	}
	if len(numbers) == 0 {
		return nil
	}
	err := db.Raw(`SELECT a.number, e.language, `+columns+`
		FROM unnest(?::integer[], ?::text[]) AS w(number, language) JOIN articles a ON a.number = w.number
		JOIN editions e ON e.article_id = a.id AND e.language = w.language
		JOIN revisions r ON r.id = e.live_revision_id JOIN categories c ON c.id = a.category_id
		WHERE a.audience IN ? AND `+library.FilterOf(v), numbers, languages, v.Viewer().Sees()).Scan(into).Error
	if err != nil {
		return fmt.Errorf("looking up live articles: %w", err)
	}
	return nil
}

// stands is where an edition is found, and which of its revisions is live.
type stands struct {
	Number, Revision   int
	Language, Category string
}

// LiveRevisions gives those of the editions that are live and that the visitor may see.
func LiveRevisions(db *gorm.DB, v evidence.Visitor, references []string) (map[string]stands, error) {
	var rows []stands
	if err := lookUp(db, v, `r.number AS revision, c.name AS category`, references, &rows); err != nil {
		return nil, err
	}
	known := make(map[string]stands, len(rows))
	for _, r := range rows {
		known[article.EditionReference(r.Number, r.Language)] = r
	}
	return known, nil
}

// LiveEditions gives the live editions of the references that the visitor may see.
func LiveEditions(db *gorm.DB, v evidence.Visitor, references []string) (map[string]Result, error) {
	var rows []struct {
		Number, Revision                                   int
		CategoryID                                         int64
		Language, Title, Body, SearchDescription, Category string
	}
	err := lookUp(
		db,
		v,
		`r.number AS revision, r.title, CASE WHEN r.search_description = '' THEN left(r.body, 1200) ELSE '' END AS body,
		r.search_description, c.name AS category, c.id AS category_id`,
		references,
		&rows,
	)
	if err != nil {
		return nil, err
	}
	found := make(map[string]Result, len(rows))
	for _, r := range rows {
		ref := article.EditionReference(r.Number, r.Language)
		found[ref] = Result{
			Category:   r.Category,
			CategoryID: r.CategoryID,
			Language:   r.Language,
			Card: flow.Card{Reference: ref, Revision: article.RevisionReference(r.Number, r.Revision),
				Title: r.Title, Summary: article.Summary(r.SearchDescription, article.Read(r.Body))},
		}
	}
	return found, nil
}

// bodiesOf reads the live texts of results, by reference.
func bodiesOf(db *gorm.DB, v evidence.Visitor, results []Result) (map[string]string, error) {
	references := make([]string, len(results))
	for i, r := range results {
		references[i] = r.Reference
	}
	var rows []struct {
		Number         int
		Language, Body string
	}
	if err := lookUp(db, v, `r.body`, references, &rows); err != nil {
		return nil, err
	}
	bodies := make(map[string]string, len(rows))
	for _, r := range rows {
		bodies[article.EditionReference(r.Number, r.Language)] = r.Body
	}
	return bodies, nil
}
