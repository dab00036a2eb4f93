package flows

import (
	"context"
	"slices"
	"time"

	"gorm.io/gorm"

	"hermeneus/app/customers"
	"hermeneus/app/evidence"
	"hermeneus/app/problem"
	"hermeneus/app/staff"
	"hermeneus/core/flow"
	"hermeneus/core/role"
)

// FlowTrial is a conversation with a script that is not live: from its beginning or a turn, in a world that is made up.
type FlowTrial struct {
	Source string             `json:"source"`
	Slug   string             `json:"slug" doc:"of the flow; its own live version is not gone to"`
	From   string             `json:"from" doc:"the turn to begin at; nothing for the beginning"`
	World  flow.ExampleWorld  `json:"world"`
	Inputs []flow.ExampleStep `json:"inputs" doc:"what the customer did, in order"`
}

// TrialState is how a trial stands.
type TrialState struct {
	Lines   []flow.TrialLine  `json:"lines"`
	Waiting flow.Waiting      `json:"waiting"`
	Turn    string            `json:"turn"` // at which the conversation stands
	Line    int               `json:"line"` // of the text, at which that begins
	Facts   map[string]string `json:"facts"`
	Taken   int               `json:"taken"` // inputs that were taken; the first after them was refused
	Refused string            `json:"refused,omitempty"`
}

// MostInputs is how many things a customer does in a trial at most.
const MostInputs = 200

// Try plays a trial from its beginning. It keeps nothing, and counts nothing.
func (a *Rehearsals) Try(ctx context.Context, by staff.Staff, t FlowTrial) (TrialState, error) {
	out := TrialState{Lines: []flow.TrialLine{}, Facts: map[string]string{}}
	if err := by.May(
		"Trying a flow",
		append(slices.Clone(writers), role.Reviewer, role.Agent, role.Analyst, role.Administrator)...); err != nil {
		return out, err
	}
	if t.World.Customer != "" {
		if err := by.May("Trying a flow as a customer", role.Administrator); err != nil {
			return out, err
		}
	}
	r, err := readTrial(t.Source, t.Inputs)
	if err != nil {
		return out, err
	}
	trial, err := a.play(a.base.DB.WithContext(ctx), flow.Compile(r.Script), t)
	if err != nil {
		return out, err
	}
	out.Lines, out.Taken = trial.Lines, trial.Taken
	if trial.Refused != nil {
		out.Refused = problem.From(trial.Refused, "").Error()
	}
	out.Waiting, out.Turn = trial.State.Waiting, trial.State.Turn
	if trial.State.Flow == "" {
		out.Line = r.Line(trial.State.Turn, "")
	}
	for name, value := range trial.State.Facts {
		out.Facts[name] = value
	}
	return out, nil
}

// readTrial reads the script of a trial, unless the trial is too long.
func readTrial(source string, inputs []flow.ExampleStep) (flow.Reading, error) {
	if len(inputs) > MostInputs {
		return flow.Reading{}, problem.New(problem.TooMany, "A trial has at most %d steps. Begin it again.", MostInputs)
	}
	r, err := flow.ReadAny(source)
	if err != nil {
		return r, problem.New(problem.Invalid, "The script cannot be read: %s.", err)
	}
	return r, nil
}

// play has the conversation of a trial in the world as it is made up.
func (a *Rehearsals) play(db *gorm.DB, program *flow.Program, t FlowTrial) (flow.Trial, error) {
	world, visitor, err := a.trialWorld(db, program, t)
	if err != nil {
		return flow.Trial{}, err
	}
	return flow.Play(program, world, t.From, t.Inputs, a.finder(db, visitor))
}

// finder looks words up for a visitor.
func (a *Rehearsals) finder(db *gorm.DB, v evidence.Visitor) flow.Finder {
	return func(words string, limit int) (flow.Input, error) {
		looked, err := a.flows.search.LookUp(db, v, words, limit)
		return Found(looked), err
	}
}

// trialWorld makes up the world of a trial: who comes and when is made up; articles, flows and forms are those that
// are live.
func (a *Rehearsals) trialWorld(db *gorm.DB, program *flow.Program, t FlowTrial) (flow.World, evidence.Visitor, error) {
	v := evidence.Visitor{Language: t.World.Language, Page: t.World.Page, Site: t.World.Site}
	if t.World.SignedIn {
		v.Customer = &evidence.Customer{Name: "Ada Wren", Email: "ada@post.example", Groups: t.World.Groups}
	}
	if t.World.Customer != "" {
		customer, err := customerOf(db, t.World.Customer)
		if err != nil {
			return flow.World{}, v, err
		}
		v.Customer = &customer
	}
	at, err := a.moment(t.World.At)
	if err != nil {
		return flow.World{}, v, err
	}
	others, err := a.flows.Others(db, program)
	if err != nil {
		return flow.World{}, v, err
	}
	programs := Programs(others)
	articles := flow.ArticlesOf(program, programs)
	w, err := a.flows.World(db, v, program, programs, articles, program.Language(t.World.Language), at)
	if err != nil {
		return w, v, err
	}
	if t.World.Channel != "" {
		w.Channel = t.World.Channel
	}
	w.Open = w.Open && !t.World.Closed
	for name, team := range w.Teams {
		switch state := t.World.Teams[name]; state {
		case "closed":
			team.Open = false
		case string(flow.Free), string(flow.Busy), string(flow.Away):
			team.Open, team.Presence = true, flow.Presence(state)
		}
		w.Teams[name] = team
	}
	return w, v, nil
}

// customerOf finds the customer who has an address.
func customerOf(db *gorm.DB, address string) (evidence.Customer, error) {
	row, err := customers.ByAddress(db, address)
	if err != nil {
		return evidence.Customer{}, err
	}
	if row.ID == 0 {
		return evidence.Customer{}, problem.OfField("world.customer", "No customer has this address.")
	}
	groups, err := customers.GroupsOf(db, row.ID)
	return evidence.Customer{ID: row.ID, Name: row.Name, Email: row.Email, Groups: groups}, err
}

// moment reads a time of the house's clocks, such as 2026-11-26T20:15; nothing is now.
func (a *Rehearsals) moment(wall string) (time.Time, error) {
	if wall == "" {
		return time.Time{}, nil
	}
	at, err := time.ParseInLocation("2006-01-02T15:04", wall, a.base.Zone)
	if err != nil {
		return at, problem.OfField("world.at", "Write the moment as 2026-11-26T20:15.")
	}
	return at, nil
}
