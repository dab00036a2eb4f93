package flows

import (
	"context"
	"fmt"
	"slices"
	"time"

	"gorm.io/gorm"

	"hermeneus/app/evidence"
	"hermeneus/app/problem"
	"hermeneus/app/search"
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

// TrialLine is one thing said in a trial.
type TrialLine struct {
	Speaker string      `json:"speaker"` // bot, customer or notice
	Text    string      `json:"text"`
	Turn    string      `json:"turn,omitempty"`
	Why     string      `json:"why,omitempty"` // how the conversation came to the turn
	Cards   []flow.Card `json:"cards"`
	Choices []string    `json:"choices"`
	Link    string      `json:"link,omitempty"`

	Told []flow.Passage `json:"told"` // word for word
}

// TrialState is how a trial stands.
type TrialState struct {
	Lines   []TrialLine       `json:"lines"`
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
func (a *Flows) Try(ctx context.Context, by staff.Staff, t FlowTrial) (TrialState, error) {
	out := TrialState{Lines: []TrialLine{}, Facts: map[string]string{}}
	if err := by.May(
		"Trying a flow",
		append(slices.Clone(writers), role.Reviewer, role.Agent, role.Analyst, role.Administrator)...); err != nil {
		return out, err
	}
	if len(t.Inputs) > MostInputs {
		return out, problem.New(problem.TooMany, "A trial has at most %d steps. Begin it again.", MostInputs)
	}
	r, err := flow.ReadAny(t.Source)
	if err != nil {
		return out, problem.New(problem.Invalid, "The script cannot be read: %s.", err)
	}
	db := a.base.DB.WithContext(ctx)
	program := flow.Compile(r.Script)
	world, visitor, err := a.trialWorld(db, program, t)
	if err != nil {
		return out, err
	}
	p := &player{area: a, db: db, program: program, world: world, visitor: visitor, out: &out}
	if err := p.play(t); err != nil {
		return out, err
	}
	out.Waiting, out.Turn = p.state.Waiting, p.state.Turn
	if p.state.Flow == "" {
		out.Line = r.Line(p.state.Turn, "")
	}
	for name, value := range p.state.Facts {
		out.Facts[name] = value
	}
	return out, nil
}

// trialWorld makes up the world of a trial: who comes and when is made up; articles, flows and forms are those that
// are live.
func (a *Flows) trialWorld(db *gorm.DB, program *flow.Program, t FlowTrial) (flow.World, evidence.Visitor, error) {
	v := evidence.Visitor{Language: t.World.Language, Page: t.World.Page, Site: t.World.Site}
	if t.World.SignedIn {
		v.Customer = &evidence.Customer{Name: "Ada Wren", Email: "ada@post.example", Groups: t.World.Groups}
	}
	at, err := a.moment(t.World.At)
	if err != nil {
		return flow.World{}, v, err
	}
	others, err := a.Others(db, program)
	if err != nil {
		return flow.World{}, v, err
	}
	programs, articles := Programs(others), program.Script().Articles()
	for _, other := range programs {
		articles = append(articles, other.Script().Articles()...)
	}
	w, err := a.World(db, v, program, programs, articles, program.Language(t.World.Language), at)
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

// moment reads a time of the house's clocks, such as 2026-11-26T20:15; nothing is now.
func (a *Flows) moment(wall string) (time.Time, error) {
	if wall == "" {
		return time.Time{}, nil
	}
	at, err := time.ParseInLocation("2006-01-02T15:04", wall, a.base.Zone)
	if err != nil {
		return at, problem.OfField("world.at", "Write the moment as 2026-11-26T20:15.")
	}
	return at, nil
}

// player plays a trial.
type player struct {
	area    *Flows
	db      *gorm.DB
	program *flow.Program
	world   flow.World
	visitor evidence.Visitor
	state   flow.State
	out     *TrialState
}

func (p *player) play(t FlowTrial) error {
	begin := flow.Input{Kind: flow.Begin}
	if t.From != "" {
		begin.Text = t.From
	}
	if err := p.step(begin); err != nil {
		return err
	}
	for i, in := range t.Inputs {
		said := in.Text
		if in.Kind == flow.Verdict {
			said = flow.In(p.program.Language(t.World.Language)).No
			if in.Helped {
				said = flow.In(p.program.Language(t.World.Language)).Yes
			}
		}
		if p.state.Waiting == flow.ForWords && in.Kind == flow.Verdict {
			p.notice("Suppose that something was looked up, and found.")
			p.say("customer", "…")
			if err := p.suppose(); err != nil {
				return err
			}
		}
		p.say("customer", said)
		if err := p.step(flow.Input{Kind: in.Kind, Text: in.Text, Helped: in.Helped}); err != nil {
			p.out.Lines = p.out.Lines[:len(p.out.Lines)-1]
			p.out.Refused = problem.From(err, "").Error()
			return nil
		}
		p.out.Taken = i + 1
	}
	return nil
}

// suppose goes on as if an article had been found.
func (p *player) suppose() error {
	return p.run(flow.Input{Kind: flow.Words, Text: "something"}, func(string, int) (search.Looked, error) {
		fits := flow.Card{Reference: "A-0000", Revision: "A-0000@1", Title: "An article that fits"}
		return search.Looked{Results: []search.Result{{Card: fits}}}, nil
	})
}

func (p *player) say(speaker, text string) {
	p.out.Lines = append(
		p.out.Lines,
		TrialLine{Speaker: speaker, Text: text, Cards: []flow.Card{}, Choices: []string{}, Told: []flow.Passage{}},
	)
}

func (p *player) notice(text string) { p.say("notice", text) }

func (p *player) step(in flow.Input) error {
	return p.run(in, func(words string, limit int) (search.Looked, error) {
		return p.area.search.LookUp(p.db, p.visitor, words, limit)
	})
}

// run takes one input and all that comes of it.
func (p *player) run(in flow.Input, find func(words string, limit int) (search.Looked, error)) error {
	for pending := []flow.Input{in}; len(pending) > 0; pending = pending[1:] {
		result, err := flow.Run(p.program, p.state, pending[0], p.world)
		if err != nil {
			return err
		}
		p.state = result.State
		for _, m := range result.Messages {
			line := TrialLine{
				Speaker: "bot", Text: m.Text, Turn: m.Turn, Why: m.Why, Cards: append([]flow.Card{}, m.Cards...),
				Choices: append([]string{}, m.Choices...), Told: append([]flow.Passage{}, m.Told...),
			}
			if m.Link != nil {
				line.Link = m.Link.URL + m.Link.Form
			}
			p.out.Lines = append(p.out.Lines, line)
		}
		for _, n := range result.Needs {
			switch n.Kind {
			case flow.NeedSearch:
				looked, err := find(n.Text, n.Limit)
				if err != nil {
					return err
				}
				pending = append(pending, Found(looked))
			case flow.NeedHandOver:
				p.notice(fmt.Sprintf("A person of the team %s has it now.%s", n.Team, briefly(n.Brief)))
			case flow.NeedRequest:
				p.notice(fmt.Sprintf("A request for the team %s is filed.%s", n.Team, briefly(n.Brief)))
			case flow.NeedClose:
				p.notice("The conversation is closed.")
			}
		}
	}
	return nil
}

func briefly(brief string) string {
	if brief == "" {
		return ""
	}
	return " They read: “" + brief + "”."
}
