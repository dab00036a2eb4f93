package evidence

import (
	"fmt"
	"strings"
	"time"

	"gorm.io/gorm"

	"hermeneus/core/article"
	"hermeneus/core/outcome"
)

// CountUses counts how often articles were opened and read by items, each of which must be given once.
func CountUses(tx *gorm.DB, zone *time.Location, items []outcome.Evidence) error {
	type use struct {
		article int
		day     string
	}
	opened, read := map[use]int{}, map[use]int{}
	for _, e := range items {
		number, _, ok := article.ParseReference(e.Ref)
		if !ok || !strings.Contains(e.Ref, "@") {
			continue
		}
		at := use{number, e.At.In(zone).Format(time.DateOnly)}
		switch e.Kind {
		case outcome.Opened:
			opened[at]++
		case outcome.Read:
			read[at]++
		}
	}
	uses := map[use]bool{}
	for at := range opened {
		uses[at] = true
	}
	for at := range read {
		uses[at] = true
	}
	for at := range uses {
		err := tx.Exec(`INSERT INTO article_uses AS u VALUES (?, ?, ?, ?) ON CONFLICT (article, day)
			DO UPDATE SET opened = u.opened + excluded.opened, read = u.read + excluded.read`,
			at.article, at.day, opened[at], read[at]).Error
		if err != nil {
			return fmt.Errorf("counting what was read: %w", err)
		}
	}
	return nil
}
