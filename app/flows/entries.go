package flows

import (
	"context"
	"fmt"
	"slices"

	"gorm.io/gorm"

	"hermeneus/app/problem"
	"hermeneus/app/staff"
	"hermeneus/core/flow"
	"hermeneus/core/outcome"
	"hermeneus/core/role"
	"hermeneus/store"
)

// MostEntries is how many entries a flow has at most.
const MostEntries = 50

const entryColumns = `SELECT e.id, f.slug AS flow, coalesce(e.site_id, 0) AS site, e.channel, e.page, e.group_key AS "group", e.hours
	FROM flow_entries e JOIN flows f ON f.id = e.flow_id`

// allEntries lists the entries of all flows that have not ended.
func allEntries(db *gorm.DB) ([]flow.Entry, error) {
	entries := []flow.Entry{}
	err := db.Raw(entryColumns + ` WHERE f.ended_at IS NULL ORDER BY e.id`).Scan(&entries).Error
	if err != nil {
		return nil, fmt.Errorf("reading the entries: %w", err)
	}
	return entries, nil
}

// liveEntries lists those of flows that are live.
func liveEntries(db *gorm.DB) ([]flow.Entry, error) {
	entries := []flow.Entry{}
	err := db.Raw(entryColumns + ` WHERE f.ended_at IS NULL AND f.live_version_id IS NOT NULL ORDER BY e.id`).
		Scan(&entries).
		Error
	if err != nil {
		return nil, fmt.Errorf("reading the entries: %w", err)
	}
	return entries, nil
}

func of(entries []flow.Entry, slug string) []flow.Entry {
	return append(
		[]flow.Entry{},
		slices.DeleteFunc(slices.Clone(entries), func(e flow.Entry) bool { return e.Flow != slug })...)
}

// channels are those in which a bot can meet customers.
var channels = []string{string(outcome.Chat)}

// SetEntries says where a flow meets customers.
func (a *Flows) SetEntries(ctx context.Context, by staff.Staff, slug string, entries []flow.Entry) error {
	if err := by.May("Saying where a flow meets customers", role.Publisher); err != nil {
		return err
	}
	var f problem.Fields
	f.Require(len(entries) <= MostEntries, "entries", fmt.Sprintf("At most %d entries.", MostEntries))
	for i, e := range entries {
		if field, fault := e.Check(channels); fault != "" {
			f.Require(false, fmt.Sprintf("entries[%d].%s", i, field), fault)
		}
	}
	if err := f.Err(); err != nil {
		return err
	}
	return a.base.Change(ctx, store.FlowChanged, func(tx *gorm.DB) error {
		row, err := locked(tx, slug)
		if err != nil {
			return err
		}
		if err := tx.Exec(`DELETE FROM flow_entries WHERE flow_id = ?`, row.ID).Error; err != nil {
			return err
		}
		for i, e := range entries {
			entry := store.FlowEntry{
				FlowID:   row.ID,
				Channel:  e.Channel,
				Page:     e.Page,
				GroupKey: e.Group,
				Hours:    e.Hours,
			}
			if e.Site != 0 {
				entry.SiteID = &e.Site
			}
			if err := a.known(tx, i, e); err != nil {
				return err
			}
			if err := tx.Create(&entry).Error; err != nil {
				return err
			}
		}
		return a.trail.Note(tx, by, store.Trail{
			Subject: "flow " + slug,
			Action:  "changed where it meets customers",
			Note:    fmt.Sprintf("%d entries", len(entries)),
		})
	})
}

// known refuses sites and groups that are not there.
func (a *Flows) known(tx *gorm.DB, at int, e flow.Entry) error {
	var f problem.Fields
	for _, one := range []struct {
		given      bool
		sql, field string
		value      any
	}{
		{e.Site != 0, `SELECT count(*) FROM sites WHERE id = ?`, "site", e.Site},
		{e.Group != "", `SELECT count(*) FROM customer_groups WHERE key = ?`, "group", e.Group},
	} {
		if !one.given {
			continue
		}
		n := 0
		if err := tx.Raw(one.sql, one.value).Scan(&n).Error; err != nil {
			return err
		}
		f.Require(n > 0, fmt.Sprintf("entries[%d].%s", at, one.field), "There is no such "+one.field+".")
	}
	return f.Err()
}
