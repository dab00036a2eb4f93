package review

import (
	"encoding/json"
	"fmt"
	"strings"
	"time"

	"gorm.io/gorm"

	"hermeneus/app/notify"
	"hermeneus/app/staff"
	"hermeneus/app/texts"
	"hermeneus/core/review"
	"hermeneus/core/role"
	"hermeneus/store"
)

// About is what a round of review is of, as people are told of it: an edition of an article, or a flow.
type About struct {
	Title   string
	Decided string // the address at which it is decided about
	Written string // and at which it is written
}

// RoundOf gives the round of review that a text is in, or was in last; nil if it was in none.
func RoundOf(db *gorm.DB, text int64) (*store.Review, error) {
	var round store.Review
	if err := db.Where("text_id = ?", text).Order("id DESC").Limit(1).Find(&round).Error; err != nil {
		return nil, fmt.Errorf("reading the review of text %d: %w", text, err)
	}
	if round.ID == 0 {
		return nil, nil
	}
	return &round, nil
}

// InRound is a copy with what its round of review says.
func InRound(c review.Copy, round store.Review) review.Copy {
	if err := json.Unmarshal(round.Path, &c.Path); err != nil {
		c.Path = review.Path{}
	}
	c.Passed, c.Authors = round.Passed, round.Authors
	return c
}

// BeginRound lets a text enter a path as it is now. It does not stand before a gate yet.
func (a *Rounds) BeginRound(
	tx *gorm.DB,
	by staff.Staff,
	text, pathID int64,
	path review.Path,
) (*store.Review, error) {
	raw, err := json.Marshal(path)
	if err != nil {
		return nil, err
	}
	authors, err := texts.Authors(tx, text)
	if err != nil {
		return nil, err
	}
	return &store.Review{
		TextID:  text,
		PathID:  &pathID,
		Path:    raw,
		Authors: texts.Union(authors, by.ID), // who sends a text answers for it
		BeganBy: by.ID,
		BeganAt: a.base.Now(),
	}, nil
}

// StandBefore puts a round before the gate that is next, and tells whose it is.
func (a *Rounds) StandBefore(tx *gorm.DB, by staff.Staff, round *store.Review, c review.Copy, about About) error {
	now := a.base.Now()
	gate, ok := c.Gate()
	round.Passed, round.Gate, round.GateSince = c.Passed, gate.Name, now
	round.OverdueAt, round.AssigneeID, round.StuckTold = nil, nil, false
	if ok && gate.Overdue > 0 {
		due := now.Add(time.Duration(gate.Overdue) * time.Hour)
		round.OverdueAt = &due
	}
	if round.Passed == nil {
		round.Passed = []int64{}
	}
	if err := tx.Save(round).Error; err != nil {
		return err
	}
	if !ok {
		return nil
	}
	roster, err := staff.ReadRoster(tx)
	if err != nil {
		return err
	}
	var ids []int64
	for _, s := range roster.Entitled(c) {
		ids = append(ids, s.ID)
	}
	if len(ids) == 0 {
		return a.tellStuck(tx, roster, round, about)
	}
	text := fmt.Sprintf("“%s” waits at the gate “%s”.", about.Title, gate.Name)
	return a.notify.Tell(tx, notify.NewsReviewAsked, staff.Except(ids, by.ID), text, about.Decided)
}

// Decide keeps what somebody decided at a gate about a numbered state of the text.
func (a *Rounds) Decide(
	tx *gorm.DB,
	by staff.Staff,
	round *store.Review,
	gate, action string,
	number int,
	note string,
) error {
	return tx.Create(&store.Decision{
		ReviewID: round.ID,
		Gate:     gate,
		StaffID:  by.ID,
		At:       a.base.Now(),
		Action:   action,
		Revision: number,
		Note:     strings.TrimSpace(note),
	}).Error
}

// TellDecided tells the authors of a text what somebody decided about it.
func (a *Rounds) TellDecided(tx *gorm.DB, by staff.Staff, round *store.Review, about About, what string) error {
	authors := staff.Except(round.Authors, by.ID)
	return a.notify.Tell(tx, notify.NewsDecided, authors, by.Name+" "+what, about.Written)
}

// EndRound ends a round, if one goes on.
func (a *Rounds) EndRound(tx *gorm.DB, round *store.Review) error {
	if round == nil || round.EndedAt != nil {
		return nil
	}
	now := a.base.Now()
	round.EndedAt = &now
	return tx.Save(round).Error
}

// ClearRound is for a text that changed: whoever let the one before pass has not seen this one. was is the state
// before the change; the line is kept in the trail if somebody had let it pass.
func (a *Rounds) ClearRound(
	tx *gorm.DB,
	by staff.Staff,
	round *store.Review,
	c review.Copy,
	was review.State,
	about About,
	line store.Trail,
) error {
	cleared := len(round.Passed)
	if err := tx.Exec(
		`UPDATE decisions SET cleared_at = ? WHERE review_id = ? AND action = 'approve' AND cleared_at IS NULL`,
		a.base.Now(),
		round.ID,
	).Error; err != nil {
		return err
	}
	if cleared > 0 {
		text := fmt.Sprintf("%s changed “%s” after you let it pass; it must be looked at again.", by.Name, about.Title)
		passed := staff.Except(round.Passed, by.ID)
		if err := a.notify.Tell(tx, notify.NewsDecided, passed, text, about.Decided); err != nil {
			return err
		}
		if err := a.trail.Note(tx, by, line); err != nil {
			return err
		}
	}
	if was == review.Approved {
		return a.EndRound(tx, round)
	}
	authors, err := texts.Authors(tx, round.TextID)
	if err != nil {
		return err
	}
	round.Authors = texts.Union(round.Authors, authors...)
	if cleared == 0 {
		return tx.Save(round).Error
	}
	after := InRound(c, *round)
	after.Passed = nil
	return a.StandBefore(tx, by, round, after, about)
}

// SettleAsked marks as read what asked people to look at a text that was decided about: nobody is to come for
// nothing. The address is that at which it is decided.
func (a *Rounds) SettleAsked(tx *gorm.DB, address string) error {
	return tx.Exec(`UPDATE news SET read_at = ? WHERE kind = ? AND path = ? AND read_at IS NULL`,
		a.base.Now(), notify.NewsReviewAsked, address).Error
}

func (a *Rounds) tellStuck(tx *gorm.DB, roster staff.Roster, round *store.Review, about About) error {
	round.StuckTold = true
	if err := tx.Save(round).Error; err != nil {
		return err
	}
	text := fmt.Sprintf(
		"“%s” is stuck: nobody can pass the gate “%s”. Entitle somebody, or let its author take it back and send "+
			"it again.",
		about.Title,
		round.Gate,
	)
	return a.notify.Tell(tx, notify.NewsStuck, roster.With(role.Administrator), text, about.Decided)
}
