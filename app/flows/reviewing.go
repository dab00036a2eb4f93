package flows

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"time"

	"gorm.io/gorm"

	"hermeneus/app/problem"
	reviews "hermeneus/app/review"
	"hermeneus/app/staff"
	"hermeneus/app/texts"
	"hermeneus/core/review"
	"hermeneus/core/role"
	"hermeneus/store"
)

// FlowWay is where a flow's text stands on its way to live, if it goes through a review path.
type FlowWay struct {
	PathID    int64           `json:"path_id"` // 0 for none: publishers publish it
	Path      string          `json:"path"`
	State     review.State    `json:"state"`
	Gate      string          `json:"gate"` // that it stands before
	Who       string          `json:"who"`  // may let it pass
	Since     *time.Time      `json:"since"`
	Allowed   []review.Action `json:"allowed"` // to the reader
	Refused   string          `json:"refused"` // why the reader may not let it pass the gate
	Decisions []FlowDecision  `json:"decisions"`
}

// FlowDecision is what somebody decided about a flow's text, the latest first.
type FlowDecision struct {
	Gate    string    `json:"gate"`
	By      string    `json:"by"`
	At      time.Time `json:"at"`
	Action  string    `json:"action"`
	Note    string    `json:"note"`
	Cleared bool      `json:"cleared"` // the text changed since
}

// FlowStep is something that a person does to a flow on its way to live.
type FlowStep struct {
	Action review.Action `json:"action" enum:"submit,recall,approve,send_back"`
	Copy   int           `json:"copy" doc:"the version of the working copy that was looked at"`
	Gate   string        `json:"gate" doc:"that it stood before when it was looked at; nothing where it does not matter"`
	Note   string        `json:"note"`
}

// steps are what people do to a flow on its way, besides writing and publishing it.
var steps = []review.Action{review.Submit, review.Recall, review.Approve, review.SendBack}

// stands gives what the rules of review need to know of a flow, and the round it is in or was in last. A flow without
// a path has the zero Copy.
func stands(db *gorm.DB, row store.Flow) (review.Copy, *store.Review, error) {
	c := review.Copy{State: review.State(row.State), Live: row.LiveVersionID != nil}
	if row.PathID == nil || row.TextID == nil {
		return review.Copy{}, nil, nil
	}
	if c.State == review.InReview || c.State == review.Approved {
		round, err := reviews.RoundOf(db, *row.TextID)
		if err != nil || round == nil {
			return c, nil, err
		}
		return reviews.InRound(c, *round), round, nil
	}
	var path store.Path
	if err := db.Where("id = ?", *row.PathID).Take(&path).Error; err != nil {
		return c, nil, fmt.Errorf("reading the review path of %s: %w", row.Slug, err)
	}
	c.Path.Name = path.Name
	return c, nil, json.Unmarshal(path.Gates, &c.Path.Gates)
}

// standing says how a flow in review stands, by the number of its text.
func standing(tx *gorm.DB, text int64) (review.Copy, reviews.About, error) {
	var row store.Flow
	if err := tx.Where("text_id = ?", text).Take(&row).Error; err != nil {
		return review.Copy{}, reviews.About{}, err
	}
	c, _, err := stands(tx, row)
	return c, about(row), err
}

// about is what a round of review of a flow is of.
func about(row store.Flow) reviews.About {
	return reviews.About{Title: row.Name, Decided: "/flows/" + row.Slug, Written: "/flows/" + row.Slug}
}

// way tells how a flow stands on its way.
func (a *Reviews) way(db *gorm.DB, by staff.Staff, row store.Flow) (FlowWay, error) {
	out := FlowWay{State: review.State(row.State), Allowed: []review.Action{}, Decisions: []FlowDecision{}}
	if row.PathID == nil {
		return out, nil
	}
	c, round, err := stands(db, row)
	if err != nil {
		return out, err
	}
	out.PathID, out.Path = *row.PathID, c.Path.Name
	for _, action := range c.Allowed(by.Actor()) {
		if slices.Contains(steps, action) || action == review.Publish && c.State == review.Approved {
			out.Allowed = append(out.Allowed, action)
		}
	}
	if gate, ok := c.Gate(); ok && c.State == review.InReview && round != nil {
		roster, err := staff.ReadRoster(db)
		if err != nil {
			return out, err
		}
		out.Gate, out.Who, out.Since = gate.Name, gate.Who(roster.Name), &round.GateSince
		out.Refused = c.MayPass(by.Actor())
	}
	err = db.Raw(`SELECT d.gate, s.name AS by, d.at, d.action, d.note, d.cleared_at IS NOT NULL AS cleared
		FROM decisions d JOIN reviews r ON r.id = d.review_id JOIN staff s ON s.id = d.staff_id
		WHERE r.text_id = ? ORDER BY d.at DESC, d.id DESC LIMIT 20`, row.TextID).Scan(&out.Decisions).Error
	return out, err
}

// SetPath says through which review path a flow goes, 0 for none. What is in review stays on the path it entered.
func (a *Reviews) SetPath(ctx context.Context, by staff.Staff, slug string, path int64) error {
	if err := by.May("Choosing who reviews a flow", role.Administrator); err != nil {
		return err
	}
	return a.base.Transaction(ctx, func(tx *gorm.DB) error {
		row, err := locked(tx, slug)
		if err != nil {
			return err
		}
		if row.State == string(review.InReview) {
			return problem.New(problem.NotNow, "The flow is in review. Take it back first.")
		}
		var chosen store.Path
		if path != 0 {
			if err := tx.Where("id = ? AND retired_at IS NULL", path).Limit(1).Find(&chosen).Error; err != nil {
				return err
			}
			if chosen.ID == 0 {
				return problem.OfField("path", "There is no such review path.")
			}
		}
		_, round, err := stands(tx, row)
		if err != nil {
			return err
		}
		if err := a.rounds.EndRound(tx, round); err != nil {
			return err
		}
		row.PathID, row.State = nil, string(review.Drafting)
		if path != 0 {
			row.PathID = &path
		}
		if err := tx.Save(&row).Error; err != nil {
			return err
		}
		return a.trail.Note(tx, by, store.Trail{
			Subject: "flow " + slug, Action: "chose a review path", Note: chosen.Name,
		})
	})
}

// Move moves a flow along its way: it is sent to review, taken back, let pass a gate or sent back. If its text changed
// since it was looked at, a StaleSave problem says so, and likewise if somebody else decided meanwhile.
func (a *Reviews) Move(ctx context.Context, by staff.Staff, slug string, s FlowStep) error {
	var f problem.Fields
	f.AtMost("note", s.Note, maxNote)
	if err := f.Err(); err != nil {
		return err
	}
	return a.base.Transaction(ctx, func(tx *gorm.DB) error {
		row, err := locked(tx, slug)
		if err != nil {
			return err
		}
		switch {
		case row.EndedAt != nil:
			return problem.New(problem.NotNow, "The flow has ended. Take it back into service first.")
		case row.PathID == nil:
			return problem.New(problem.NotNow, "The flow goes through no review path: a publisher publishes it.")
		case s.Action == review.Submit && row.Draft == "":
			return problem.New(problem.NotNow, "The script is live as it stands; there is nothing to review.")
		case !slices.Contains(steps, s.Action):
			return problem.OfField("action", "A flow is sent to review, taken back, let pass or sent back.")
		case row.Version != s.Copy:
			return problem.New(problem.StaleSave, "The text changed since you opened it. Look at what changed.")
		}
		return a.move(tx, by, &row, s)
	})
}

func (a *Reviews) move(tx *gorm.DB, by staff.Staff, row *store.Flow, s FlowStep) error {
	before, round, err := stands(tx, *row)
	if err != nil {
		return err
	}
	if late := before.Stale(s.Action, "", s.Gate); late != "" {
		return problem.New(problem.StaleSave, "%s", late)
	}
	after, err := before.Do(s.Action, by.Actor(), s.Note)
	if err != nil {
		return problem.From(err, "")
	}
	gate, _ := before.Gate()
	row.State = string(after.State)
	if err := tx.Save(row).Error; err != nil {
		return err
	}
	if s.Action != review.Submit {
		if err := a.rounds.SettleAsked(tx, about(*row).Decided); err != nil {
			return err
		}
	}
	switch s.Action {
	case review.Submit:
		err = a.submit(tx, by, *row, after)
	case review.Recall:
		err = a.rounds.EndRound(tx, round)
	case review.Approve:
		err = a.passed(tx, by, *row, round, after, gate, s.Note)
	case review.SendBack:
		err = a.sentBack(tx, by, *row, round, gate, s.Note)
	}
	if err != nil {
		return err
	}
	line := store.Trail{
		Subject: "flow " + row.Slug, Action: string(s.Action), FromState: string(before.State), ToState: row.State,
		Note: strings.TrimSpace(s.Note),
	}
	if before.State == review.InReview && gate.Name != "" {
		line.Note = strings.TrimSuffix("at the gate “"+gate.Name+"”: "+line.Note, ": ")
	}
	if err := a.trail.Note(tx, by, line); err != nil {
		return err
	}
	return store.Announce(tx, store.CopyChanged, *row.TextID)
}

// submit lets a flow enter its path. A script with errors would be looked at in vain.
func (a *Reviews) submit(tx *gorm.DB, by staff.Staff, row store.Flow, after review.Copy) error {
	if err := a.flows.passes(tx, row); err != nil {
		return err
	}
	round, err := a.rounds.BeginRound(tx, by, *row.TextID, *row.PathID, after.Path)
	if err != nil {
		return err
	}
	after.Authors = round.Authors
	return a.rounds.StandBefore(tx, by, round, after, about(row))
}

func (a *Reviews) passed(
	tx *gorm.DB,
	by staff.Staff,
	row store.Flow,
	round *store.Review,
	after review.Copy,
	gate review.Gate,
	note string,
) error {
	if err := a.rounds.Decide(tx, by, round, gate.Name, "approve", row.Version, note); err != nil {
		return err
	}
	if err := a.rounds.StandBefore(tx, by, round, after, about(row)); err != nil {
		return err
	}
	said := fmt.Sprintf("let “%s” pass the gate “%s”.", row.Name, gate.Name)
	return a.rounds.TellDecided(tx, by, round, about(row), said)
}

func (a *Reviews) sentBack(
	tx *gorm.DB,
	by staff.Staff,
	row store.Flow,
	round *store.Review,
	gate review.Gate,
	note string,
) error {
	if round == nil {
		return nil
	}
	if err := a.rounds.Decide(tx, by, round, gate.Name, "send_back", row.Version, note); err != nil {
		return err
	}
	said := fmt.Sprintf("sent “%s” back: %s", row.Name, strings.TrimSpace(note))
	if err := a.rounds.TellDecided(tx, by, round, about(row), said); err != nil {
		return err
	}
	return a.rounds.EndRound(tx, round)
}

// textChanged is called when a flow's text changed, before it is saved: whoever let the text before pass has not seen
// this one.
func (a *Reviews) textChanged(tx *gorm.DB, by staff.Staff, row *store.Flow) error {
	if err := a.texts.NoteAuthors(tx, *row.TextID, by.ID); err != nil {
		return err
	}
	before, round, err := stands(tx, *row)
	if err != nil || row.PathID == nil {
		return err
	}
	after, err := before.Do(review.Edit, by.Actor(), "")
	if err != nil { // a publisher who is no author writes flows, too
		after = before
		if before.State != review.InReview && before.State != review.SentBack {
			after.State = review.Drafting
		}
	}
	row.State = string(after.State)
	if round == nil || round.EndedAt != nil {
		return nil
	}
	line := store.Trail{
		Subject: "flow " + row.Slug, Action: "cleared", FromState: string(before.State), ToState: row.State,
		Note: "the text changed after it had passed a gate",
	}
	return a.rounds.ClearRound(tx, by, round, before, before.State, about(*row), line)
}

// mayPublish refuses whoever may not publish a flow: where it goes through no path, all but publishers.
func mayPublish(by staff.Staff, row store.Flow) error {
	if row.PathID != nil {
		return nil // its path says who
	}
	return by.May("Publishing a flow", role.Publisher)
}

// reviewed refuses to publish a flow that has not passed its path, and ends its round where it may go live.
func (a *Reviews) reviewed(tx *gorm.DB, by staff.Staff, row *store.Flow) error {
	c, round, err := stands(tx, *row)
	if err != nil || row.PathID == nil {
		return err
	}
	if c.State != review.Approved {
		return problem.New(problem.NotNow, "The flow goes through the review path “%s”, and is %s: it goes live once "+
			"it has passed every gate.", c.Path.Name, c.State.Words())
	}
	if _, err := c.Do(review.Publish, by.Actor(), ""); err != nil {
		return problem.From(err, "")
	}
	row.State = string(review.Drafting)
	if err := texts.ClearAuthors(tx, *row.TextID); err != nil {
		return err
	}
	return a.rounds.EndRound(tx, round)
}

func (w FlowWay) may(action review.Action) bool { return slices.Contains(w.Allowed, action) }
