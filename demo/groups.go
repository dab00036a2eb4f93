package demo

import (
	"context"
	"fmt"
	"time"
)

// The groups of customers, with who is in each by their place among the customers.
var groups = []struct {
	name    string
	members []int
}{
	{"Members", []int{0, 1, 2, 3, 4, 5, 6}},
	{"Business members", []int{3, 5}},
	{"Solar exporters", []int{0, 2, 6}},
}

// grouping makes the groups of customers, and publishes what is for one of them.
func (w *world) grouping(ctx context.Context) error {
	w.ago(6 * 24 * time.Hour)
	for _, g := range groups {
		made, err := w.app.Customers.AddGroup(ctx, w.by("maren"), g.name)
		if err != nil {
			return fmt.Errorf("adding the group %s: %w", g.name, err)
		}
		for _, i := range g.members {
			if err := w.app.Customers.AddMember(ctx, w.by("maren"), made.Key, customers[i].email); err != nil {
				return fmt.Errorf("adding to the group %s: %w", g.name, err)
			}
		}
	}
	page, err := readPage("groups/exporters-meeting.md")
	if err != nil {
		return err
	}
	return w.write(ctx, page, 0)
}
