package search

import (
	"context"
	"fmt"
	"time"

	"gorm.io/gorm"

	"hermeneus/app/evidence"
	"hermeneus/app/problem"
	"hermeneus/core/outcome"
	"hermeneus/core/search"
)

// toldWithin is for how long what was told can still be read.
const toldWithin = 24 * time.Hour

// MarkToldRead keeps that a visitor really saw the answer that a submission of theirs was told: it was in view for
// as long as that takes, and it was told that far back.
func (a *Search) MarkToldRead(ctx context.Context, v evidence.Visitor, number string, visible time.Duration) error {
	if !v.Counted() {
		return nil
	}
	results := Asking{Number: number}.Results()
	if results == "" || len(number) > search.MaxQuery {
		return problem.New(problem.NotFound, "There is no such answer.")
	}
	return a.base.Transaction(ctx, func(tx *gorm.DB) error {
		now := a.base.Now()
		told, err := evidence.Items(tx, `e.asker = ? AND e.at > ? AND e.ref = ? AND e.kind IN ('asked', 'told')
			ORDER BY e.at, e.id`, v.Asker(), now.Add(-toldWithin), results)
		if err != nil {
			return err
		}
		var words string
		var last *outcome.Evidence
		for i, e := range told {
			if e.Kind == outcome.Asked {
				words = e.Text
			} else {
				last = &told[i]
			}
		}
		if last == nil {
			return problem.New(problem.NotFound, "There is no such answer.")
		}
		found, err := a.findings(tx, v, words, resultsShown)
		if err != nil {
			return fmt.Errorf("composing what was told: %w", err)
		}
		need := shortestRead
		if found.Answer != nil {
			need = found.Answer.ReadAfter * 9 / 10 // clocks and timers of browsers are coarse
		}
		if visible < need || now.Sub(last.At) < need {
			return problem.New(problem.NotNow, "The answer was not visible for long enough to count as read.")
		}
		return a.recorder.Record(tx, v, outcome.Help,
			outcome.Evidence{Kind: outcome.Read, Ref: results, Refs: last.Refs, Source: last.Source, Stood: last.Stood})
	})
}

// shortestRead is how long anything takes to read, by which an answer is judged that is composed otherwise by now.
const shortestRead = 3 * time.Second * 9 / 10
