package flows

import (
	"context"
	"fmt"
	"time"

	"gorm.io/gorm"

	"hermeneus/app/keeping"
	"hermeneus/core/flow"
	"hermeneus/core/hours"
	"hermeneus/store"
)

// KeepMoves keeps the moves of a conversation. versions gives the version by which a flow runs that is not the one in
// which the conversation began.
func (a *Flows) KeepMoves(
	tx *gorm.DB,
	conversation, began int64,
	versions map[string]*Version,
	moves []flow.Move,
) error {
	if len(moves) == 0 {
		return nil
	}
	now := a.base.Now()
	rows := make([]store.FlowMove, len(moves))
	for i, m := range moves {
		version := began
		if other := versions[m.Flow]; m.Flow != "" && other != nil {
			version = other.ID
		}
		rows[i] = store.FlowMove{
			ConversationID: conversation, FlowVersionID: version, FromTurn: m.From, ToTurn: m.To, Why: m.Why, At: now,
		}
	}
	return tx.Create(&rows).Error
}

// counted is how many days back moves are counted again: none comes late, but a day ends at different times.
const counted = 2

// CountMoves counts the moves of the last days by day, those of the day that runs included.
func (a *Flows) CountMoves(ctx context.Context) error {
	zone := a.base.Zone
	y, m, d := a.base.Now().In(zone).Date()
	return a.base.Transaction(ctx, func(tx *gorm.DB) error {
		for at := -counted; at <= 0; at++ {
			from, to := hours.DayBegins(y, m, d+at, zone), hours.DayBegins(y, m, d+at+1, zone)
			day := time.Date(y, m, d+at, 0, 0, 0, 0, time.UTC).Format(time.DateOnly)
			err := tx.Exec(`INSERT INTO flow_move_days (flow_version_id, day, from_turn, to_turn, why, moves)
				SELECT flow_version_id, ?, from_turn, to_turn, why, count(*) FROM flow_moves WHERE at >= ? AND at < ?
				GROUP BY 1, 3, 4, 5
				ON CONFLICT (flow_version_id, day, from_turn, to_turn, why) DO UPDATE SET moves = greatest(flow_move_days.moves, excluded.moves)`,
				day, from, to).Error
			if err != nil {
				return fmt.Errorf("counting the moves of %s: %w", day, err)
			}
		}
		return nil
	})
}

// EndMoves ends the moves that are older than the words of customers; what is counted of them stays.
func (a *Flows) EndMoves(ctx context.Context) error {
	db := a.base.DB.WithContext(ctx)
	kept, err := keeping.Read(db)
	if err != nil {
		return err
	}
	return db.Exec(`DELETE FROM flow_moves WHERE at < ?`, a.base.Now().AddDate(0, 0, -kept.Words)).Error
}
