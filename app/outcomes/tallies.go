package outcomes

import (
	"cmp"
	"fmt"
	"slices"
	"strings"
	"time"

	"gorm.io/gorm"

	"hermeneus/core/outcome"
	"hermeneus/store"
)

// tallies are the changes to what is counted by day, as questions come and go.
type tallies struct {
	g        *generation
	days     map[store.QuestionDay]tally
	articles map[store.ArticleDay]int
}

type tally struct{ questions, askedAgain, traced, notFollowed int }

func newTallies(g *generation) *tallies {
	return &tallies{g, map[store.QuestionDay]tally{}, map[store.ArticleDay]int{}}
}

// add counts a question, or takes it away with -1.
func (t *tallies) add(row store.Question, n int) {
	y, m, d := row.ClosedAt.In(t.g.zone).Date()
	day := time.Date(y, m, d, 0, 0, 0, 0, time.UTC)
	key := store.QuestionDay{
		Generation: t.g.number,
		Day:        day,
		Outcome:    row.Outcome,
		Site:       row.Site,
		Channels:   strings.Join(row.Channels, ","),
		Category:   row.Category,
		Flow:       row.Flow,
		Language:   row.Language,
	}
	sum := t.days[key]
	sum.questions += n
	if row.AskedAgain {
		sum.askedAgain += n
	}
	if row.Traced {
		sum.traced += n
	}
	if row.NotFollowed {
		sum.notFollowed += n
	}
	t.days[key] = sum
	if row.Article != 0 && !outcome.Outcome(row.Outcome).SetAside() {
		t.articles[store.ArticleDay{
			Generation: t.g.number, Article: row.Article, Day: day, Outcome: row.Outcome,
		}] += n
	}
}

// keep adds the changes to what is counted.
func (t *tallies) keep(tx *gorm.DB) error {
	var days []store.QuestionDay
	for key, sum := range t.days {
		key.Questions, key.AskedAgain, key.Traced = sum.questions, sum.askedAgain, sum.traced
		key.NotFollowed = sum.notFollowed
		if sum != (tally{}) {
			days = append(days, key)
		}
	}
	slices.SortFunc(days, func(a, b store.QuestionDay) int {
		return cmp.Or(a.Day.Compare(b.Day), cmp.Compare(a.Outcome, b.Outcome), cmp.Compare(a.Channels, b.Channels))
	})
	for _, d := range days {
		err := tx.Exec(`INSERT INTO question_days AS d VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)
			ON CONFLICT (generation, day, outcome, site, channels, category, flow, language)
			DO UPDATE SET questions = d.questions + excluded.questions,
				asked_again = d.asked_again + excluded.asked_again, traced = d.traced + excluded.traced,
				not_followed = d.not_followed + excluded.not_followed`,
			d.Generation, d.Day.Format(time.DateOnly), d.Outcome, d.Site, d.Channels, d.Category, d.Flow, d.Language,
			d.Questions, d.AskedAgain, d.Traced, d.NotFollowed).Error
		if err != nil {
			return fmt.Errorf("counting questions by day: %w", err)
		}
	}
	for key, n := range t.articles {
		if n == 0 {
			continue
		}
		err := tx.Exec(`INSERT INTO article_days AS d VALUES (?, ?, ?, ?, ?)
			ON CONFLICT (generation, article, day, outcome) DO UPDATE SET questions = d.questions + excluded.questions`,
			key.Generation, key.Article, key.Day.Format(time.DateOnly), key.Outcome, n).Error
		if err == nil {
			err = tx.Exec(`INSERT INTO article_outcomes AS o VALUES (?, ?, ?, ?)
				ON CONFLICT (generation, article, outcome) DO UPDATE SET questions = o.questions + excluded.questions`,
				key.Generation, key.Article, key.Outcome, n).Error
		}
		if err != nil {
			return fmt.Errorf("counting questions by article: %w", err)
		}
	}
	return nil
}
