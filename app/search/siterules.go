package search

import (
	"fmt"
	"time"

	"gorm.io/gorm"

	"hermeneus/core/article"
	"hermeneus/core/search"
	"hermeneus/store"
)

// rulesOf makes what a site's search goes by. A rule that cannot be read any more is
// passed over: it was checked when it was made.
func rulesOf(db *gorm.DB, site store.Site, today time.Time) (*search.Rules, error) {
	var lines []string
	if err := db.Raw(`SELECT rule FROM synonyms WHERE site_id = ? ORDER BY id`, site.ID).
		Scan(&lines).
		Error; err != nil {
		return nil, fmt.Errorf("reading synonyms: %w", err)
	}
	var pinned []struct {
		Words  string
		Number int
		Bury   bool
	}
	err := db.Raw(`SELECT p.words, a.number, p.bury
		FROM pins p JOIN articles a ON a.id = p.article_id
		WHERE p.site_id = ? AND (p.until IS NULL OR p.until >= ?) ORDER BY p.id`,
		site.ID, today.Format(time.DateOnly)).
		Scan(&pinned).
		Error
	if err != nil {
		return nil, fmt.Errorf("reading pins: %w", err)
	}
	var pins []search.Pin
	for _, p := range pinned {
		pins = append(pins, search.Pin{Words: p.Words, Reference: article.Reference(p.Number), Bury: p.Bury})
	}
	return search.NewRules(weightsOf(site.Weights), readSynonyms(lines), pins), nil
}

func readSynonyms(lines []string) []search.Synonyms {
	var list []search.Synonyms
	for _, l := range lines {
		if s, err := search.ParseSynonyms(l); err == nil {
			list = append(list, s)
		}
	}
	return list
}

// weightsOf gives the weights of fields; none where a site sets none.
func weightsOf(list []float32) search.Weights {
	var w search.Weights
	if len(list) == len(w) {
		copy(w[:], list)
	}
	return w
}
