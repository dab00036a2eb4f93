package article

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
	InReview  State = "in_review" // waiting for a reviewer
	SentBack  State = "sent_back" // a reviewer asked for changes
	Approved  State = "approved"  // waiting for a publisher
	Published State = "published" // the same text is live
)

// States lists them in the order of the way.
var States = []State{Drafting, InReview, SentBack, Approved, Published}

// Action is something a person does to a working copy.
type Action string

// The actions.
const (
	Edit     Action = "edit"
	Submit   Action = "submit"
	Recall   Action = "recall" // take it back out of review
	Approve  Action = "approve"
	SendBack Action = "send_back"
	Publish  Action = "publish"
	Withdraw Action = "withdraw" // take the live revision away from customers
)

var actions = []Action{Edit, Submit, Recall, Approve, SendBack, Publish, Withdraw}

// Actor is who acts.
type Actor struct {
	ID    int64
	Roles role.Set
}

// Copy is what the rules need to know of a working copy.
type Copy struct {
	State     State
	Live      bool // some revision is live
	Empty     bool // no title or no text
	Unseen    int  // pictures that nothing says in words what they show
	Writer    int64
	Submitter int64
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

// Next gives the state after the action, or a *Refusal with the reason.
// Whoever wrote or submitted the text may not approve it.
func (c Copy) Next(action Action, by Actor, note string) (State, error) {
	refuse := func(forbidden bool, format string, args ...any) (State, error) {
		return c.State, &Refusal{action, c.State, forbidden, fmt.Sprintf(format, args...)}
	}
	rule, ok := rules[action]
	switch {
	case !ok:
		return refuse(false, "There is no such action as %q.", action)
	case !by.Roles.Has(rule.roles...):
		return refuse(true, "%s needs the role %s.", rule.doing, joinRoles(rule.roles))
	case action == Withdraw && !c.Live:
		return refuse(false, "Nothing of this article is live, so there is nothing to withdraw.")
	case !slices.Contains(rule.from, c.State):
		return refuse(false, "%s is not possible while the working copy is %s.", rule.doing, c.State.Words())
	case action == Submit && c.Empty:
		return refuse(false, "Give the article a title and a text before sending it to review.")
	case action == Submit && c.Unseen > 0:
		return refuse(false, "Say in words what each picture shows before sending it to review: %d of them have none.", c.Unseen)
	case action == Approve && (by.ID == c.Writer || by.ID == c.Submitter):
		return refuse(true, "You wrote or submitted this text; somebody else must review it.")
	case action == SendBack && strings.TrimSpace(note) == "":
		return refuse(false, "Say in the decision note what should change.")
	}
	switch {
	case action == Edit && c.State == SentBack:
		return SentBack, nil // the note stays in sight while it is being mended
	case action == Withdraw && c.State == Published:
		return Approved, nil // it was checked, so it can go live again
	case action == Withdraw:
		return c.State, nil
	}
	return rule.to, nil
}

// Allowed lists what the actor may do now, so that the interface offers just that.
func (c Copy) Allowed(by Actor) []Action {
	var allowed []Action
	for _, a := range actions {
		if _, err := c.Next(a, by, "note"); err == nil {
			allowed = append(allowed, a)
		}
	}
	return allowed
}

type rule struct {
	doing string
	roles []role.Role
	from  []State
	to    State
}

var rules = map[Action]rule{
	Edit:     {"Editing", []role.Role{role.Author}, []State{Drafting, SentBack, Approved, Published}, Drafting},
	Submit:   {"Sending to review", []role.Role{role.Author}, []State{Drafting, SentBack}, InReview},
	Recall:   {"Taking it back", []role.Role{role.Author}, []State{InReview, Approved}, Drafting},
	Approve:  {"Approving", []role.Role{role.Reviewer}, []State{InReview}, Approved},
	SendBack: {"Sending back", []role.Role{role.Reviewer, role.Publisher}, []State{InReview, Approved}, SentBack},
	Publish:  {"Publishing", []role.Role{role.Publisher}, []State{Approved}, Published},
	Withdraw: {"Withdrawing", []role.Role{role.Publisher}, States, Approved},
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
