package conversations

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"time"

	"gorm.io/gorm"

	"hermeneus/app/evidence"
	"hermeneus/app/problem"
	"hermeneus/core/article"
	"hermeneus/core/flow"
	"hermeneus/core/outcome"
	"hermeneus/store"
)

// ToldAnswer is an answer that the bot told, word for word.
type ToldAnswer struct {
	Turn     string         `json:"turn"` // that told it
	Passages []flow.Passage `json:"passages"`
	Read     float64        `json:"read_seconds"` // for how long it must be in view to count as read
}

// toldIn reads what was told with a message; nil for nothing.
func toldIn(m store.Message) (*ToldAnswer, error) {
	if len(m.Told) == 0 {
		return nil, nil
	}
	var told ToldAnswer
	if err := json.Unmarshal(m.Told, &told); err != nil {
		return nil, fmt.Errorf("reading what message %d told: %w", m.ID, err)
	}
	words := 0
	for _, p := range told.Passages {
		words += article.WordsOf(p.Blocks)
	}
	told.Read = article.ReadAfter(words).Seconds()
	return &told, nil
}

// ToldReadInChat keeps that an answer which the bot told was really seen: it was in view for as long as that takes,
// and was told that far back.
func (a *Conversations) ToldReadInChat(
	ctx context.Context,
	v evidence.Visitor,
	token string,
	message int64,
	visible time.Duration,
) error {
	return a.base.Transaction(ctx, func(tx *gorm.DB) error {
		c, err := a.ByToken(tx, token)
		if err != nil {
			return err
		}
		var row store.Message
		if err := tx.Where("conversation_id = ? AND id = ? AND told IS NOT NULL", c.ID, message).
			Take(&row).Error; err != nil {
			return problem.From(err, "answer")
		}
		told, err := toldIn(row)
		if err != nil {
			return err
		}
		need := time.Duration(told.Read*float64(time.Second)) * 9 / 10 // clocks and timers of browsers are coarse
		if visible < need || a.base.Now().Sub(row.At) < need {
			return problem.New(problem.NotNow, "The answer was not visible for long enough to count as read.")
		}
		var refs []string
		for _, p := range told.Passages {
			if !slices.Contains(refs, p.Revision) {
				refs = append(refs, p.Revision)
			}
		}
		visitor := AsAsker(v, c)
		visitor.Where.Turn = "turn:" + told.Turn
		return a.recorder.Record(tx, visitor, outcome.Chat, outcome.Evidence{
			Kind: outcome.Read, Ref: visitor.Where.Turn, Refs: refs, Source: outcome.FromBot,
		})
	})
}
