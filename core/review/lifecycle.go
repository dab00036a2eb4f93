// Package review is the life of a working copy: states, gates, who may do what, and when to look again.
// It promises that every way from draft to live passes the gates of its path, in their order.
// It may not know what the text says.
package review

import (
	"fmt"
	"slices"
	"strings"

	"hermeneus/core/role"
)

// State is where a working copy stands on its way to the customers.
type State string

// The states of a working copy.
const (
	Drafting  State = "drafting"  // being written; differs from what is live, if anything is
	InReview  State = "in_review" // before a gate of its path
	SentBack  State = "sent_back" // somebody at a gate asked for changes
	Approved  State = "approved"  // past every gate, and not live yet
	Scheduled State = "scheduled" // goes live by itself at a set time
	Published State = "published" // the same text is live
)

// States lists them in the order of the way.
var States = []State{Drafting, InReview, SentBack, Approved, Scheduled, Published}

// Action is something done to a working copy.
type Action string

// The actions.
const (
	Edit       Action = "edit"
	Submit     Action = "submit"
	Recall     Action = "recall"  // take it back out of review
	Approve    Action = "approve" // let it pass the gate it stands before
	SendBack   Action = "send_back"
	Publish    Action = "publish"
	Schedule   Action = "schedule"
	Unschedule Action = "unschedule"
	Withdraw   Action = "withdraw" // take the live revision away from customers
)

var actions = []Action{Edit, Submit, Recall, Approve, SendBack, Publish, Schedule, Unschedule, Withdraw}

// Actor is who acts.
type Actor struct {
	ID      int64
	Roles   role.Set
	Team    string
	Program bool // nobody: the program itself, at a time that somebody set
}

// Copy is what the rules need to know of a working copy.
type Copy struct {
	State   State
	Live    bool // some revision is live
	Empty   bool // no title or no text
	Unseen  int  // pictures that nothing says in words what they show
	Authors []int64
	Path    Path    // the one it entered when it was sent to review, or would enter now
	Passed  []int64 // who let it pass its gates, in order, since its text last changed
	Steward int64   // of its category, 0 for nobody
	Batch   string  // the batch it is to go live with, "" for none
}

// Refusal says why an action was not allowed. Forbidden tells a lack of rights
// from a wrong moment.
type Refusal struct {
	Action    Action
	State     State
	Forbidden bool
	Reason    string
}

func (r *Refusal) Error() string { return r.Reason }

// Gate is the gate that the copy stands before; false when it is past all of them.
func (c Copy) Gate() (Gate, bool) {
	if len(c.Passed) < len(c.Path.Gates) {
		return c.Path.Gates[len(c.Passed)], true
	}
	return Gate{}, false
}

// MayPass reports why somebody may not pass the gate that the copy stands before;
// "" when they may.
func (c Copy) MayPass(by Actor) string {
	gate, ok := c.Gate()
	switch {
	case !ok:
		return "Every gate is passed already."
	case !gate.Entitles(by, c.Steward):
		return fmt.Sprintf("The gate “%s” is not yours to pass.", gate.Name)
	case !gate.Own && slices.Contains(c.Authors, by.ID):
		return fmt.Sprintf(
			"You wrote or submitted this text; at the gate “%s” somebody else must look at it.",
			gate.Name,
		)
	case gate.Other && slices.Contains(c.Passed, by.ID):
		return fmt.Sprintf("You passed an earlier gate; “%s” needs another pair of eyes.", gate.Name)
	}
	return ""
}

// Stale says why a decision comes too late: somebody decided since it was looked at.
// seen is the state in which it was looked at, and gate the gate it then stood before.
// Where seen is "" it is the state in which people decide so first: what stands before a
// gate is approved or sent back, what is not yet set to go live is published or given a
// time. So of two who decide at the same instant the first is right, and the second hears
// that it was decided; to send back what is approved, or publish what has its time, one
// has to have seen it so. It is "" when the decision is in time.
func (c Copy) Stale(action Action, seen State, gate string) string {
	if now, at := c.Gate(); gate != "" && c.State == InReview && at && now.Name != gate {
		return fmt.Sprintf(
			"Somebody decided at the gate “%s” before you did; it now stands before “%s”. Load it again.",
			gate,
			now.Name,
		)
	}
	states := []State{seen}
	if seen == "" {
		states = firstSeen[action]
	}
	if len(states) == 0 || slices.Contains(states, c.State) ||
		seen == "" && !slices.Contains(rules[action].from, c.State) {
		return ""
	}
	return fmt.Sprintf(
		"Somebody decided before you did: it is %s by now. Load it again and look at it.",
		c.State.Words(),
	)
}

// firstSeen is in which states people decide so, when they do not say what they saw.
var firstSeen = map[Action][]State{
	Approve: {InReview}, SendBack: {InReview},
	Publish: {InReview, Approved}, Schedule: {InReview, Approved},
}

// mayPublish reports whether somebody may make the copy live: a publisher, or
// whoever the last gate belongs to.
func (c Copy) mayPublish(by Actor) bool {
	if by.Roles.Has(role.Publisher) {
		return true
	}
	n := len(c.Path.Gates)
	return n > 0 && c.Path.Gates[n-1].Entitles(by, c.Steward)
}

// Do gives the copy after an action, or a *Refusal with the reason. Publishing and
// scheduling also pass the last gate, where that alone is left and is the actor's.
func (c Copy) Do(action Action, by Actor, note string) (Copy, error) {
	rule, ok := rules[action]
	if !ok {
		return c.refuse(action, false, "There is no such action as %q.", action)
	}
	if by.Program && !(action == Publish && c.State == Scheduled || action == Withdraw) {
		return c.refuse(action, true, "%s is for people to do.", rule.doing)
	}
	if !by.Program && len(rule.roles) > 0 && !by.Roles.Has(rule.roles...) {
		return c.refuse(action, true, "%s needs the role %s.", rule.doing, joinRoles(rule.roles))
	}
	if action == Withdraw && !c.Live {
		return c.refuse(action, false, "Nothing of this article is live, so there is nothing to withdraw.")
	}
	atLast := (action == Publish || action == Schedule) && c.State == InReview && len(c.Passed) == len(c.Path.Gates)-1
	if atLast {
		passed, err := c.Do(Approve, by, note)
		if err != nil {
			err.(*Refusal).Action = action
			return c, err
		}
		return passed.Do(action, by, note)
	}
	if !slices.Contains(rule.from, c.State) {
		return c.refuse(action, false, "%s is not possible while the working copy is %s.", rule.doing, c.State.Words())
	}
	return c.carry(action, rule, by, note)
}

// carry does an action whose moment is right.
func (c Copy) carry(action Action, rule rule, by Actor, note string) (Copy, error) {
	next := c
	next.State = rule.to
	switch action {
	case Edit:
		return c.edited(by), nil
	case Submit:
		next.Passed = nil
		switch {
		case c.Empty:
			return c.refuse(action, false, "Give the article a title and a text before sending it to review.")
		case c.Unseen > 0:
			return c.refuse(
				action,
				false,
				"Say in words what each picture shows before sending it to review: %d of them have none.",
				c.Unseen,
			)
		case len(c.Path.Gates) == 0:
			return c.refuse(
				action,
				false,
				"The review path of this category has no gates; ask an administrator to mend it.",
			)
		}
	case Recall:
		next.Passed = nil
	case Approve:
		if reason := c.MayPass(by); reason != "" {
			return c.refuse(action, true, "%s", reason)
		}
		if gate, _ := c.Gate(); gate.Note && strings.TrimSpace(note) == "" {
			return c.refuse(action, false, "The gate “%s” wants a decision note: say what you checked.", gate.Name)
		}
		next.Passed = append(slices.Clone(c.Passed), by.ID)
		if len(next.Passed) < len(c.Path.Gates) {
			next.State = InReview
		}
	case SendBack:
		gate, before := c.Gate()
		switch {
		case before && !gate.Entitles(by, c.Steward) && !by.Roles.Has(role.Publisher), !before && !c.mayPublish(by):
			return c.refuse(action, true, "The gate it stands before is not yours, so you cannot send it back.")
		case strings.TrimSpace(note) == "":
			return c.refuse(action, false, "Say in the decision note what should change.")
		}
		next.Passed = nil
	case Publish, Schedule, Unschedule:
		if !by.Program && !c.mayPublish(by) {
			return c.refuse(
				action,
				true,
				"%s needs the role publisher, or being entitled to the last gate of its path.",
				rule.doing,
			)
		}
		if c.Batch != "" && !by.Program {
			return c.refuse(
				action,
				false,
				"It goes live with the batch “%s”. Do this to the batch, or take it out of the batch first.",
				c.Batch,
			)
		}
		if action == Publish {
			next.Live = true
		}
	case Withdraw:
		next.Live, next.State = false, c.State
		if c.State == Published {
			next.State = Approved // it was checked, so it can go live again
		}
	}
	return next, nil
}

// edited is the copy after a change to its text: whoever let an earlier text pass
// has not seen this one.
func (c Copy) edited(by Actor) Copy {
	next := c
	next.Passed = nil
	if !slices.Contains(c.Authors, by.ID) {
		next.Authors = append(slices.Clone(c.Authors), by.ID)
	}
	if c.State != SentBack && c.State != InReview { // there the note, and the review, stay
		next.State = Drafting
	}
	return next
}

func (c Copy) refuse(action Action, forbidden bool, format string, args ...any) (Copy, error) {
	return c, &Refusal{action, c.State, forbidden, fmt.Sprintf(format, args...)}
}

// Allowed lists what the actor may do now, so that the interface offers just that.
func (c Copy) Allowed(by Actor) []Action {
	var allowed []Action
	for _, a := range actions {
		if _, err := c.Do(a, by, "note"); err == nil {
			allowed = append(allowed, a)
		}
	}
	return allowed
}

type rule struct {
	doing string
	roles []role.Role // needed for it; none where the path says who
	from  []State
	to    State
}

var rules = map[Action]rule{
	Edit: {
		"Editing",
		[]role.Role{role.Author},
		[]State{Drafting, InReview, SentBack, Approved, Published},
		Drafting,
	},
	Submit:     {"Sending to review", []role.Role{role.Author}, []State{Drafting, SentBack}, InReview},
	Recall:     {"Taking it back", []role.Role{role.Author}, []State{InReview, Approved}, Drafting},
	Approve:    {"Approving", nil, []State{InReview}, Approved},
	SendBack:   {"Sending back", nil, []State{InReview, Approved}, SentBack},
	Publish:    {"Publishing", nil, []State{Approved, Scheduled}, Published},
	Schedule:   {"Setting a time to publish", nil, []State{Approved}, Scheduled},
	Unschedule: {"Taking it off the schedule", nil, []State{Scheduled}, Approved},
	Withdraw:   {"Withdrawing", []role.Role{role.Publisher}, States, Approved},
}

// Words is the state as it reads within a sentence.
func (s State) Words() string {
	switch s {
	case Drafting:
		return "being written"
	case InReview:
		return "in review"
	case SentBack:
		return "sent back"
	}
	return string(s)
}

func joinRoles(roles []role.Role) string {
	names := make([]string, len(roles))
	for i, r := range roles {
		names[i] = string(r)
	}
	return strings.Join(names, " or ")
}
