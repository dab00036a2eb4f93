package outcomes

import (
	"context"
	"fmt"
	"slices"
	"time"

	"gorm.io/gorm"

	"hermeneus/core/article"
	"hermeneus/core/outcome"
	"hermeneus/store"
)

// OfArticles counts, for each of some articles by its reference, the questions that ended with it. Settling ones are
// counted by their provisional outcome, since it is a picture of one article's use and not a rate.
func (a *Outcomes) OfArticles(ctx context.Context, references []string) (map[string]outcome.Counts, error) {
	var numbers store.Numbers
	for _, ref := range references {
		if n := numberOf(ref); n != 0 {
			numbers = append(numbers, int64(n))
		}
	}
	db := a.base.DB.WithContext(ctx)
	g, err := a.standing(db)
	if err != nil || len(numbers) == 0 {
		return map[string]outcome.Counts{}, err
	}
	var rows []articleCount
	err = db.Raw(`SELECT article, outcome, questions AS n FROM article_outcomes
		WHERE generation = ? AND article = ANY(?)`, g.number, numbers).Scan(&rows).Error
	return byArticle(rows), err
}

// LatelyByArticle counts the questions that ended with each article and closed on the last so many days.
func (a *Outcomes) LatelyByArticle(ctx context.Context, days int) (map[string]outcome.Counts, error) {
	db := a.base.DB.WithContext(ctx)
	g, err := a.standing(db)
	if err != nil {
		return nil, err
	}
	var rows []articleCount
	err = db.Raw(`SELECT article, outcome, sum(questions) AS n FROM article_days
		WHERE generation = ? AND day > ? GROUP BY article, outcome`, g.number,
		a.Now().AddDate(0, 0, -days).Format(time.DateOnly)).Scan(&rows).Error
	return byArticle(rows), err
}

type articleCount struct {
	Article int
	Outcome outcome.Outcome
	N       int
}

func byArticle(rows []articleCount) map[string]outcome.Counts {
	out := map[string]outcome.Counts{}
	for _, r := range rows {
		ref := article.Reference(r.Article)
		c := out[ref]
		c.AddMany(r.Outcome, false, true, r.N, 0)
		out[ref] = c
	}
	return out
}

// Uses says how often an article was opened and read since a day.
func (a *Outcomes) Uses(ctx context.Context, reference string, since time.Time) (opened, read int, err error) {
	var n struct{ Opened, Read int }
	err = a.base.DB.WithContext(ctx).Raw(`SELECT coalesce(sum(opened), 0) AS opened, coalesce(sum(read), 0) AS read
		FROM article_uses WHERE article = ? AND day > ?`,
		numberOf(reference), since.In(a.base.Zone).Format(time.DateOnly)).Scan(&n).Error
	return n.Opened, n.Read, err
}

// TypedBefore gives what customers typed last in the latest questions that ended with an article, the latest last.
func (a *Outcomes) TypedBefore(ctx context.Context, reference string, most int) ([]string, error) {
	db := a.base.DB.WithContext(ctx)
	g, err := a.standing(db)
	if err != nil {
		return nil, err
	}
	var list []string
	err = db.Raw(`SELECT w.text FROM (SELECT typed_item, closed_at FROM questions
			WHERE generation = ? AND article = ? AND article <> 0
			ORDER BY closed_at DESC LIMIT ?) q
		JOIN evidence_words w ON w.evidence_id = q.typed_item ORDER BY q.closed_at DESC`,
		g.number, numberOf(reference), most).Scan(&list).Error
	slices.Reverse(list)
	return list, err
}

// Answered is a question that was confirmed, in the asker's words, and what answered it.
type Answered struct {
	Text    string
	Article int // its number
}

// ConfirmedSince gives confirmed questions that closed since a time, in the words that were typed, and with the
// article that helped, the earliest first.
func (a *Outcomes) ConfirmedSince(db *gorm.DB, since time.Time, most int) ([]Answered, error) {
	g, err := a.standing(db)
	if err != nil {
		return nil, err
	}
	var list []Answered
	err = db.Raw(`SELECT w.text, q.helped_by AS article FROM questions q JOIN evidence_words w ON w.evidence_id = q.typed_item
		WHERE q.generation = ? AND q.outcome = 'confirmed' AND q.closed_at > ? AND q.closed_at <= ? AND q.helped_by <> 0
		ORDER BY q.closed_at LIMIT ?`, g.number, since, a.base.Now(), most).
		Scan(&list).
		Error
	if err != nil {
		return nil, fmt.Errorf("reading confirmed questions: %w", err)
	}
	return list, nil
}
