package outcomes

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"hermeneus/store"

	"gorm.io/gorm"

	"hermeneus/core/flow"
	"hermeneus/core/outcome"
	"hermeneus/core/redact"
)

// chosen tells the options of a flow that customers took from the words that they typed: both
// are asked, but only words say how customers call a thing. An option is one of the version
// of the flow that was running then.
type chosen struct {
	running map[string][]running           // of each asker, the earliest first
	options map[int64]map[takenOption]bool // of each version
}

// running is a conversation with the bot, from when it began.
type running struct {
	Asker   string
	BeganAt time.Time
	Version int64
}

// takenOption is an option as evidence names it.
type takenOption struct{ Ref, Label string }

// optionOf is the option that an item of evidence would be.
func optionOf(ref, label string) takenOption { return takenOption{ref, strings.ToLower(label)} }

// ChosenBy reads what the askers could choose, and when.
func ChosenBy(db *gorm.DB, askers []string) (chosen, error) {
	c := chosen{map[string][]running{}, nil}
	askers = slices.Compact(slices.Sorted(slices.Values(askers)))
	var rows []running
	err := db.Raw(`SELECT asker, began_at, flow_version_id AS version
		FROM conversations WHERE asker = ANY(?) AND flow_version_id IS NOT NULL ORDER BY asker, began_at`,
		store.Strings(askers)).
		Scan(&rows).
		Error
	if err != nil {
		return c, fmt.Errorf("reading which flows ran: %w", err)
	}
	var versions []int64
	for _, r := range rows {
		c.running[r.Asker] = append(c.running[r.Asker], r)
		if !slices.Contains(versions, r.Version) {
			versions = append(versions, r.Version)
		}
	}
	c.options, err = OptionsOf(db, versions)
	return c, err
}

// OptionsOf reads the options of versions of flows, redacted as evidence is.
func OptionsOf(db *gorm.DB, versions []int64) (map[int64]map[takenOption]bool, error) {
	var rows []struct {
		ID     int64
		Script []byte
	}
	if err := db.Raw(`SELECT id, script FROM flow_versions WHERE id = ANY(?)`, store.Numbers(versions)).
		Scan(&rows).
		Error; err != nil {
		return nil, fmt.Errorf("reading flows: %w", err)
	}
	all := map[int64]map[takenOption]bool{}
	for _, r := range rows {
		script, err := flow.Parse(r.Script)
		if err != nil {
			return nil, fmt.Errorf("reading version %d of a flow: %w", r.ID, err)
		}
		all[r.ID] = map[takenOption]bool{}
		for _, t := range script.Turns {
			for _, o := range t.Options {
				all[r.ID][optionOf("turn:"+t.ID, redact.Text(o.Label))] = true
			}
		}
	}
	return all, nil
}

// Is reports whether an item is an option that was taken.
func (c chosen) Is(e outcome.Evidence) bool {
	if e.Channel != outcome.Chat || !strings.HasPrefix(e.Ref, "turn:") {
		return false
	}
	var version int64
	for _, r := range c.running[e.Asker] {
		if !r.BeganAt.After(e.At) {
			version = r.Version
		}
	}
	return c.options[version][optionOf(e.Ref, e.Text)]
}

// LastTyped is what an asker put in words last, "" for nothing.
func (c chosen) LastTyped(q outcome.Question) string { return q.LastAsked(c.Is) }
