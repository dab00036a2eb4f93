package review

import (
	"errors"
	"fmt"
	"math/rand/v2"
	"slices"
	"testing"

	"hermeneus/core/role"
)

var (
	ada    = Actor{ID: 1, Roles: role.Set{role.Author}}
	rex    = Actor{ID: 2, Roles: role.Set{role.Reviewer}}
	pia    = Actor{ID: 3, Roles: role.Set{role.Publisher}}
	all    = Actor{ID: 4, Roles: role.All}
	nobody = Actor{ID: 5}
	fia    = Actor{ID: 6, Roles: role.Set{role.Reviewer}, Team: "Field"}
	clock  = Actor{Program: true}
)

func TestLifecycleAllowsAndRefuses(t *testing.T) {
	shipped := ShippedPaths("Field")
	one, two, safety := shipped[0], shipped[1], shipped[2]
	own := Path{"Own", []Gate{{Name: "Own", Roles: []role.Role{role.Author}, Own: true}}}
	named := Path{"Named", []Gate{{Name: "Named", People: []int64{1}, Steward: true}}}
	for _, c := range []struct {
		name      string
		copy      Copy
		action    Action
		by        Actor
		note      string
		want      State
		forbidden bool
	}{
		{"an author submits", Copy{State: Drafting, Path: one}, Submit, ada, "", InReview, false},
		{"an empty text is not submitted", Copy{State: Drafting, Empty: true, Path: one}, Submit, ada, "", "", false},
		{"nor one whose pictures say nothing", Copy{State: Drafting, Unseen: 1, Path: one}, Submit, ada, "", "", false},
		{"nor one on a path without gates", Copy{State: Drafting}, Submit, ada, "", "", false},
		{"a reviewer does not submit", Copy{State: Drafting, Path: one}, Submit, rex, "", "", true},
		{"a reviewer approves", Copy{State: InReview, Authors: []int64{1}, Path: one}, Approve, rex, "", Approved, false},
		{"an author's role does not pass a reviewer's gate", Copy{State: InReview, Path: one}, Approve, ada, "", "", true},
		{"nobody approves what they wrote", Copy{State: InReview, Authors: []int64{4}, Path: one}, Approve, all, "", "", true},
		{"unless the gate says they may", Copy{State: InReview, Authors: []int64{1}, Path: own}, Approve, ada, "", Approved, false},
		{"people are entitled by name", Copy{State: InReview, Path: named}, Approve, ada, "", Approved, false},
		{"and as steward", Copy{State: InReview, Path: named, Steward: 5}, Approve, nobody, "", Approved, false},
		{"and not otherwise", Copy{State: InReview, Path: named, Steward: 1}, Approve, rex, "", "", true},
		{"the first of two gates leaves it in review", Copy{State: InReview, Path: two}, Approve, rex, "", InReview, false},
		{"the team narrows the role", Copy{State: InReview, Path: safety}, Approve, rex, "seen", "", true},
		{"a gate asks for a note", Copy{State: InReview, Path: safety}, Approve, fia, " ", "", false},
		{"and takes it", Copy{State: InReview, Path: safety}, Approve, fia, "seen", InReview, false},
		{"one person is not two pairs of eyes", Copy{State: InReview, Path: safety, Passed: []int64{6}}, Approve, fia, "seen", "", true},
		{"another is", Copy{State: InReview, Path: safety, Passed: []int64{6}}, Approve, rex, "", Approved, false},
		{"a reviewer sends back with a note", Copy{State: InReview, Path: one}, SendBack, rex, "say which meter", SentBack, false},
		{"and not without", Copy{State: InReview, Path: one}, SendBack, rex, "  ", "", false},
		{"who is not at the gate does not send back", Copy{State: InReview, Path: safety}, SendBack, rex, "no", "", true},
		{"a publisher sends back what was approved", Copy{State: Approved, Path: one}, SendBack, pia, "wrong price", SentBack, false},
		{"a draft is not published", Copy{State: Drafting, Path: one}, Publish, pia, "", "", false},
		{"a text before its gates is not published", Copy{State: InReview, Path: two}, Publish, pia, "", "", false},
		{"who may pass the last gate publishes in one step", Copy{State: InReview, Path: two, Passed: []int64{2}}, Publish, pia, "", Published, false},
		{"who may not does not", Copy{State: InReview, Path: two, Passed: []int64{2}}, Publish, rex, "", "", true},
		{"a publisher publishes what was approved", Copy{State: Approved, Path: one}, Publish, pia, "", Published, false},
		{"so does whom the last gate belongs to", Copy{State: Approved, Path: one}, Publish, rex, "", Published, false},
		{"an author does not publish", Copy{State: Approved, Path: one}, Publish, ada, "", "", true},
		{"what is in a batch goes live with it", Copy{State: Approved, Path: one, Batch: "Prices"}, Publish, pia, "", "", false},
		{"a time is set", Copy{State: Approved, Path: one}, Schedule, pia, "", Scheduled, false},
		{"and taken off", Copy{State: Scheduled, Path: one}, Unschedule, pia, "", Approved, false},
		{"at its time the program publishes", Copy{State: Scheduled, Path: one}, Publish, clock, "", Published, false},
		{"the program publishes nothing else", Copy{State: Approved, Path: one}, Publish, clock, "", "", true},
		{"the program approves nothing", Copy{State: InReview, Path: one}, Approve, clock, "", "", true},
		{"what is scheduled is not edited", Copy{State: Scheduled, Path: one}, Edit, ada, "", "", false},
		{"editing in review keeps it there", Copy{State: InReview, Path: two, Passed: []int64{2}}, Edit, ada, "", InReview, false},
		{"what is in review can be taken back", Copy{State: InReview, Path: one}, Recall, ada, "", Drafting, false},
		{"editing what was approved makes it a draft", Copy{State: Approved, Path: one}, Edit, ada, "", Drafting, false},
		{"editing keeps the mark of what was sent back", Copy{State: SentBack}, Edit, ada, "", SentBack, false},
		{"what was sent back is submitted again", Copy{State: SentBack, Path: one}, Submit, ada, "", InReview, false},
		{"what is not live is not withdrawn", Copy{State: Approved}, Withdraw, pia, "", "", false},
		{"what is live is withdrawn and stays approved", Copy{State: Published, Live: true}, Withdraw, pia, "", Approved, false},
		{"withdrawing leaves a newer working copy alone", Copy{State: InReview, Live: true}, Withdraw, pia, "", InReview, false},
		{"an unknown action is refused", Copy{State: Drafting}, "dance", all, "", "", false},
	} {
		t.Run(c.name, func(t *testing.T) {
			got, err := c.copy.Do(c.action, c.by, c.note)
			var refusal *Refusal
			switch {
			case c.want != "" && (err != nil || got.State != c.want):
				t.Errorf("got %s, %v", got.State, err)
			case c.want == "" && (!errors.As(err, &refusal) || refusal.Forbidden != c.forbidden || refusal.Reason == "" || got.State != c.copy.State):
				t.Errorf("got %s, %v, want a refusal", got.State, err)
			}
		})
	}
	if got := (Copy{State: InReview, Live: true, Path: one}).Allowed(nobody); len(got) != 0 {
		t.Errorf("nobody may %v", got)
	}
	edited, _ := Copy{State: InReview, Path: two, Passed: []int64{2}}.Do(Edit, ada, "")
	if len(edited.Passed) != 0 || !slices.Contains(edited.Authors, ada.ID) {
		t.Error("a change to the text does not clear what was passed before it, or its author is forgotten")
	}
}

// Every action from every state either leads where the rules say or is refused
// with a reason: none is silently ignored.
func TestEveryTransitionIsAllowedOrRefusedWithAReason(t *testing.T) {
	path := ShippedPaths("")[0]
	for _, s := range States {
		for _, a := range actions {
			c := Copy{State: s, Live: true, Path: path, Authors: []int64{1}}
			if s == Approved || s == Scheduled || s == Published {
				c.Passed = []int64{2}
			}
			next, err := c.Do(a, all, "note")
			var refusal *Refusal
			if err != nil && (!errors.As(err, &refusal) || refusal.Reason == "" || next.State != s) {
				t.Errorf("%s from %s: %v", a, s, err)
			}
		}
	}
}

// seen is a gate passed in the trial below.
type seen struct {
	by   Actor
	gate Gate
}

// mayIndeed says once more, apart from the code under test, whether somebody is
// entitled to a gate.
func (s seen) mayIndeed(authors map[int64]bool, steward int64, before []seen) error {
	g, entitled := s.gate, false
	for _, id := range g.People {
		entitled = entitled || id == s.by.ID
	}
	for _, r := range g.Roles {
		for _, has := range s.by.Roles {
			entitled = entitled || r == has && (g.Team == "" || g.Team == s.by.Team)
		}
	}
	entitled = entitled || g.Steward && s.by.ID == steward
	switch {
	case !entitled:
		return fmt.Errorf("%d passed the gate %+v and is not entitled", s.by.ID, g)
	case !g.Own && authors[s.by.ID]:
		return fmt.Errorf("%d passed their own text at the gate %+v", s.by.ID, g)
	}
	for _, b := range before {
		if g.Other && b.by.ID == s.by.ID {
			return fmt.Errorf("%d passed two gates, where another pair of eyes is asked for", s.by.ID)
		}
	}
	return nil
}

// Random people do random things on random paths. Whatever goes live passed every
// gate of the path it entered, by somebody entitled, after the last change to its
// text; and the program publishes only what somebody scheduled.
func TestNothingGoesLiveWithoutEveryGate(t *testing.T) {
	r := rand.New(rand.NewPCG(7, 8))
	pick := func(p int) bool { return r.IntN(100) < p }
	people := []Actor{clock}
	for id := int64(1); id <= 8; id++ {
		p := Actor{ID: id, Team: []string{"", "Field"}[r.IntN(2)]}
		for _, has := range []role.Role{role.Author, role.Reviewer, role.Publisher} {
			if pick(55) {
				p.Roles = append(p.Roles, has)
			}
		}
		people = append(people, p)
	}
	randomPath := func() Path {
		var p Path
		for i := range 1 + r.IntN(3) {
			g := Gate{Name: fmt.Sprint(i), Own: pick(30), Other: pick(40), Note: pick(30), Steward: pick(30)}
			if pick(70) {
				g.Roles = []role.Role{[]role.Role{role.Author, role.Reviewer, role.Publisher}[r.IntN(3)]}
				g.Team = []string{"", "", "Field"}[r.IntN(3)]
			}
			if pick(40) {
				g.People = []int64{1 + r.Int64N(8)}
			}
			p.Gates = append(p.Gates, g)
		}
		return p
	}
	published, byProgram, longest := 0, 0, 0
	for range 4000 {
		category, steward := randomPath(), 1+r.Int64N(8)
		c := Copy{State: Drafting, Steward: steward}
		authors := map[int64]bool{}
		var entered Path
		var passed []seen
		scheduled := false
		for range 80 {
			if pick(5) {
				category = randomPath() // somebody changes the path of the category
			}
			by, action := people[r.IntN(len(people))], actions[r.IntN(len(actions))]
			if pick(40) {
				action = []Action{Submit, Approve, Publish, Schedule}[r.IntN(4)]
			}
			if action == Submit {
				c.Path = category
			} else if c.State != Drafting && c.State != SentBack {
				c.Path = entered
			}
			note := []string{"", "note"}[r.IntN(2)]
			next, err := c.Do(action, by, note)
			if err != nil {
				continue
			}
			lastGate := (action == Publish || action == Schedule) && c.State == InReview
			if action == Approve || lastGate {
				passed = append(passed, seen{by, entered.Gates[len(passed)]})
				if passed[len(passed)-1].gate.Note && note == "" {
					t.Fatal("a gate that asks for a note was passed without one")
				}
			}
			switch action {
			case Edit:
				authors[by.ID], passed, scheduled = true, nil, false
			case Submit:
				entered, passed = category, nil
				next.Authors = append(next.Authors, by.ID)
				authors[by.ID] = true
			case SendBack, Recall:
				passed, scheduled = nil, false
			case Schedule:
				scheduled = true
			case Unschedule:
				scheduled = false
			}
			if (action == Publish || action == Schedule) && len(passed) != len(entered.Gates) {
				t.Fatalf("%s with %d of %d gates passed", action, len(passed), len(entered.Gates))
			}
			if action == Publish {
				published++
				longest = max(longest, len(passed))
				for i, s := range passed {
					if err := s.mayIndeed(authors, steward, passed[:i]); err != nil {
						t.Fatal(err)
					}
				}
				if by.Program {
					byProgram++
					if !scheduled {
						t.Fatal("the program published what nobody scheduled")
					}
				}
				scheduled, authors = false, map[int64]bool{}
				next.Authors = nil
			}
			c = next
		}
	}
	if published < 1000 || byProgram < 20 || longest < 3 {
		t.Errorf(
			"%d publications, %d by the program, at most %d gates: the test shows too little",
			published,
			byProgram,
			longest,
		)
	}
}

func TestPathsAreChecked(t *testing.T) {
	for _, p := range ShippedPaths("Field") {
		if faults := p.Check(); len(faults) > 0 {
			t.Errorf("%s: %v", p.Name, faults)
		}
	}
	reviewer := []role.Role{role.Reviewer}
	for want, p := range map[string]Path{
		"name":          {Gates: []Gate{{Name: "a", Roles: reviewer}}},
		"gates":         {Name: "Empty"},
		"roles":         {Name: "x", Gates: []Gate{{Name: "Nobody's"}}},
		"team":          {Name: "x", Gates: []Gate{{Name: "a", Team: "Field", Steward: true}}},
		"overdue_hours": {Name: "x", Gates: []Gate{{Name: "a", Roles: reviewer, Overdue: -1}}},
	} {
		if faults := p.Check(); len(faults) != 1 || faults[0].Field != want {
			t.Errorf("%s: %v", want, faults)
		}
	}
	doubled := Path{Name: "x", Gates: []Gate{{Name: "Review", Roles: reviewer}, {Name: "review ", Roles: reviewer}}}
	if faults := doubled.Check(); len(faults) != 1 || faults[0].Gate != 1 {
		t.Errorf("two gates of one name: %v", faults)
	}
	gate := Gate{Roles: []role.Role{role.Reviewer, role.Publisher}, Team: "Field", People: []int64{7}, Steward: true}
	if got := gate.Who(
		func(int64) string { return "Gus" },
	); got != "reviewer or publisher in the team Field, or Gus, or the category’s steward" {
		t.Error(got)
	}
}

func TestRecheckFollowsKindAndUse(t *testing.T) {
	uses := Uses(map[string]int{"a": 50, "b": 30, "c": 30, "d": 10, "e": 0})
	for ref, want := range map[string]Use{"a": ReadMuch, "b": ReadMuch, "c": ReadMuch, "d": ReadSome, "e": ReadNever} {
		if uses[ref] != want {
			t.Errorf("%s is read %s, want %s", ref, uses[ref], want)
		}
	}
	for _, c := range []struct {
		kind string
		use  Use
		base map[string]int
		want int
	}{
		{"fix", ReadMuch, nil, 60}, {"fix", ReadSome, nil, 120}, {"fix", ReadNever, nil, 180}, {"policy", ReadMuch, nil, 182},
		{"how-to", ReadSome, map[string]int{"how-to": 30}, 30}, {"how-to", ReadMuch, map[string]int{"how-to": 1}, 1}, {"how-to", ReadSome, map[string]int{"how-to": 0}, 180},
	} {
		if got := RecheckDays(c.kind, c.use, c.base); got != c.want {
			t.Errorf("%+v: %d", c, got)
		}
	}
	if len(Uses(nil)) != 0 {
		t.Error("no articles have no use")
	}
}
