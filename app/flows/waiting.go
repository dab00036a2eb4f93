package flows

import (
	"context"
	"fmt"
	"time"

	"hermeneus/app/staff"
	"hermeneus/core/review"
	"hermeneus/store"
)

// FlowWaits is a flow on its way through review.
type FlowWaits struct {
	Slug   string       `json:"slug"`
	Name   string       `json:"name"`
	State  review.State `json:"state"`
	Path   string       `json:"path"`
	Gate   string       `json:"gate"`
	Who    string       `json:"who"`
	Since  *time.Time   `json:"since"`
	Writer string       `json:"writer"`
	Mine   bool         `json:"mine"` // the reader can do something
}

// InReview lists the flows on their way through review, those first with which the reader can do something.
func (a *Reviews) InReview(ctx context.Context, by staff.Staff) ([]FlowWaits, error) {
	db := a.base.DB.WithContext(ctx)
	var rows []store.Flow
	err := db.Where("path_id IS NOT NULL AND ended_at IS NULL AND state IN ?",
		[]review.State{review.InReview, review.Approved, review.SentBack}).Order("id").Find(&rows).Error
	if err != nil {
		return nil, fmt.Errorf("reading flows in review: %w", err)
	}
	mine, others := []FlowWaits{}, []FlowWaits{}
	roster, err := staff.ReadRoster(db)
	if err != nil {
		return nil, err
	}
	for _, row := range rows {
		w, err := a.way(db, by, row)
		if err != nil {
			return nil, err
		}
		one := FlowWaits{
			Slug: row.Slug, Name: row.Name, State: w.State, Path: w.Path, Gate: w.Gate, Who: w.Who, Since: w.Since,
		}
		if row.WriterID != nil {
			one.Writer = roster.Name(*row.WriterID)
		}
		switch w.State {
		case review.InReview:
			one.Mine = w.Refused == ""
		case review.Approved:
			one.Mine = w.may(review.Publish)
		case review.SentBack:
			one.Mine = row.WriterID != nil && *row.WriterID == by.ID
		}
		if one.Mine {
			mine = append(mine, one)
		} else {
			others = append(others, one)
		}
	}
	return append(mine, others...), nil
}
