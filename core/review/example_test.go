package review_test

import (
	"fmt"

	"hermeneus/core/review"
	"hermeneus/core/role"
)

// A text passes two gates, each by somebody it entitles, and then goes live.
func ExampleCopy_Do() {
	path := review.Path{Name: "Two eyes", Gates: []review.Gate{
		{Name: "Content", Roles: []role.Role{role.Reviewer}},
		{Name: "Law", People: []int64{7}},
	}}
	text := review.Copy{State: review.Drafting, Authors: []int64{1}, Path: path}
	for _, step := range []struct {
		action review.Action
		by     review.Actor
	}{
		{review.Submit, review.Actor{ID: 1, Roles: role.Set{role.Author}}},
		{review.Approve, review.Actor{ID: 1, Roles: role.Set{role.Author, role.Reviewer}}}, // their own
		{review.Approve, review.Actor{ID: 2, Roles: role.Set{role.Reviewer}}},
		{review.Approve, review.Actor{ID: 7}},
		{review.Publish, review.Actor{ID: 3, Roles: role.Set{role.Publisher}}},
	} {
		after, err := text.Do(step.action, step.by, "")
		if err != nil {
			fmt.Println(step.action, "refused:", err)
			continue
		}
		text = after
		if gate, waits := text.Gate(); waits {
			fmt.Println(step.action, "→", text.State, "at the gate", gate.Name)
		} else {
			fmt.Println(step.action, "→", text.State)
		}
	}
	// Output:
	// submit → in_review at the gate Content
	// approve refused: You wrote or submitted this text; at the gate “Content” somebody else must look at it.
	// approve → in_review at the gate Law
	// approve → approved
	// publish → published
}
