package flows

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strings"

	"gorm.io/gorm"

	"hermeneus/app/problem"
	"hermeneus/app/staff"
	"hermeneus/core/flow"
	"hermeneus/store"
)

// Limits of rehearsals.
const (
	mostRehearsals = 50 // of a flow
	rehearsalName  = 120
)

// RehearsalLine is a kept rehearsal, and how it goes with the script at hand.
type RehearsalLine struct {
	ID int64 `json:"id"`
	flow.Rehearsed
	From   string             `json:"from"`
	Who    flow.ExampleWorld  `json:"who"`
	Inputs []flow.ExampleStep `json:"inputs"`
}

// all has all rehearsals of a flow with a script.
func (a *Rehearsals) all(db *gorm.DB, slug string, r *flow.Reading) ([]RehearsalLine, error) {
	out := []RehearsalLine{}
	if slug == "" {
		return out, nil
	}
	var rows []store.FlowRehearsal
	err := db.Where("flow_id = (SELECT id FROM flows WHERE slug = ?)", slug).Order("name, id").Find(&rows).Error
	if err != nil {
		return nil, fmt.Errorf("reading rehearsals: %w", err)
	}
	if len(rows) == 0 {
		return out, nil
	}
	program := flow.Compile(r.Script)
	others, err := a.flows.Others(db, program)
	if err != nil {
		return nil, err
	}
	programs := Programs(others)
	for _, row := range rows {
		kept, err := rehearsalOf(row)
		if err != nil {
			return nil, err
		}
		out = append(out, RehearsalLine{
			ID: row.ID, Rehearsed: flow.Rehearse(program, kept, programs), From: kept.From, Who: kept.Who,
			Inputs: kept.Inputs,
		})
	}
	return out, nil
}

// faultsOf says of each rehearsal that goes otherwise so, at the turn where it begins to.
func faultsOf(rehearsed []RehearsalLine, r *flow.Reading) []flow.Fault {
	var faults []flow.Fault
	for _, line := range rehearsed {
		if !line.Same {
			faults = append(faults, flow.Fault{
				Turn:  line.Turn,
				Line:  max(1, r.Line(line.Turn, "")),
				Level: flow.Error,
				Message: fmt.Sprintf(
					"The rehearsal “%s” goes otherwise than it is kept. Mend the script, or say that it should "+
						"go so from now on.",
					line.Name,
				),
			})
		}
	}
	return faults
}

func rehearsalOf(row store.FlowRehearsal) (flow.Rehearsal, error) {
	var kept flow.Rehearsal
	if err := json.Unmarshal(row.Rehearsal, &kept); err != nil {
		return kept, fmt.Errorf("reading rehearsal %d: %w", row.ID, err)
	}
	kept.Name = row.Name
	return kept, nil
}

// Keep keeps a trial as a conversation that the flow must go on having.
func (a *Rehearsals) Keep(
	ctx context.Context,
	by staff.Staff,
	slug, name string,
	t FlowTrial,
) (RehearsalLine, error) {
	name = strings.TrimSpace(name)
	var made RehearsalLine
	err := a.change(ctx, by, slug, func(tx *gorm.DB, row store.Flow) error {
		var f problem.Fields
		f.Require(name != "", "name", "Say what the rehearsal is called.")
		f.AtMost("name", name, rehearsalName)
		if err := f.Err(); err != nil {
			return err
		}
		if t.World.Customer != "" {
			return problem.OfField("world.customer",
				"What is kept must not be about somebody real. Choose groups in the place of a customer.")
		}
		var names []string
		if err := tx.Model(&store.FlowRehearsal{}).
			Where("flow_id = ?", row.ID).
			Pluck("name", &names).
			Error; err != nil {
			return err
		}
		if slices.Contains(names, name) {
			return problem.OfField("name", "There is a rehearsal of this name. Choose another.")
		}
		if len(names) >= mostRehearsals {
			return problem.New(problem.TooMany, "A flow has at most %d rehearsals. Remove one first.", mostRehearsals)
		}
		reading, err := readTrial(t.Source, t.Inputs)
		if err != nil {
			return err
		}
		program := flow.Compile(reading.Script)
		world, visitor, err := a.trialWorld(tx, program, t)
		if err != nil {
			return err
		}
		kept, err := flow.Keep(program, flow.Rehearsal{
			Name: name, From: t.From, Who: t.World, World: world, Inputs: t.Inputs,
		}, a.finder(tx, visitor))
		if err != nil {
			return problem.From(err, "")
		}
		raw, err := json.Marshal(kept)
		if err != nil {
			return err
		}
		line := store.FlowRehearsal{
			FlowID: row.ID, Name: name, Rehearsal: raw, KeptBy: by.ID, KeptAt: a.base.Now(),
		}
		if err := tx.Create(&line).Error; err != nil {
			return err
		}
		made = RehearsalLine{ID: line.ID, From: kept.From, Who: kept.Who, Inputs: kept.Inputs}
		made.Name, made.Same, made.Lines = name, true, []flow.ChangedLine{}
		return a.trail.Note(tx, by, store.Trail{
			Subject: "flow " + slug, Action: "kept a rehearsal", Note: name,
		})
	})
	return made, err
}

// Accept says that a rehearsal should go as it does with a script: as the checks show it, in the world it is kept in.
func (a *Rehearsals) Accept(ctx context.Context, by staff.Staff, slug string, id int64, source string) error {
	return a.change(ctx, by, slug, func(tx *gorm.DB, flowRow store.Flow) error {
		row, kept, err := readRehearsal(tx, flowRow.ID, id)
		if err != nil {
			return err
		}
		reading, err := readTrial(source, kept.Inputs)
		if err != nil {
			return err
		}
		program := flow.Compile(reading.Script)
		others, err := a.flows.Others(tx, program)
		if err != nil {
			return err
		}
		if kept, err = flow.Accept(program, kept, Programs(others)); err != nil {
			return problem.From(err, "")
		}
		if row.Rehearsal, err = json.Marshal(kept); err != nil {
			return err
		}
		row.KeptBy, row.KeptAt = by.ID, a.base.Now()
		if err := tx.Save(&row).Error; err != nil {
			return err
		}
		return a.trail.Note(tx, by, store.Trail{
			Subject: "flow " + slug, Action: "said how a rehearsal goes from now on", Note: row.Name,
		})
	})
}

// Remove lets a rehearsal go.
func (a *Rehearsals) Remove(ctx context.Context, by staff.Staff, slug string, id int64) error {
	return a.change(ctx, by, slug, func(tx *gorm.DB, flowRow store.Flow) error {
		row, _, err := readRehearsal(tx, flowRow.ID, id)
		if err != nil {
			return err
		}
		if err := tx.Delete(&row).Error; err != nil {
			return err
		}
		return a.trail.Note(tx, by, store.Trail{
			Subject: "flow " + slug, Action: "removed a rehearsal", Note: row.Name,
		})
	})
}

// Read gives a rehearsal as the command takes it.
func (a *Rehearsals) Read(ctx context.Context, slug string, id int64) (flow.Rehearsal, error) {
	db := a.base.DB.WithContext(ctx)
	row, err := find(db, slug)
	if err != nil {
		return flow.Rehearsal{}, err
	}
	_, kept, err := readRehearsal(db, row.ID, id)
	return kept, err
}

func readRehearsal(db *gorm.DB, flowID, id int64) (store.FlowRehearsal, flow.Rehearsal, error) {
	var row store.FlowRehearsal
	if err := db.Where("id = ? AND flow_id = ?", id, flowID).Take(&row).Error; err != nil {
		return row, flow.Rehearsal{}, problem.From(err, "rehearsal")
	}
	kept, err := rehearsalOf(row)
	return row, kept, err
}

// change changes the rehearsals of a flow by somebody who may write it.
func (a *Rehearsals) change(
	ctx context.Context,
	by staff.Staff,
	slug string,
	change func(tx *gorm.DB, row store.Flow) error,
) error {
	if err := by.May("Keeping rehearsals of a flow", writers...); err != nil {
		return err
	}
	return a.base.Transaction(ctx, func(tx *gorm.DB) error {
		row, err := locked(tx, slug)
		if err != nil {
			return err
		}
		return change(tx, row)
	})
}
