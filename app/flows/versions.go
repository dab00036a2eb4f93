package flows

import (
	"context"
	"errors"
	"fmt"
	"math"
	"time"

	"gorm.io/gorm"

	"hermeneus/app/problem"
	"hermeneus/core/compare"
	"hermeneus/core/flow"
	"hermeneus/store"
)

// Version is a published script, ready to run.
type Version struct {
	ID      int64
	Slug    string
	Number  int
	Program *flow.Program
}

// Name is how evidence knows the version: front-door@3.
func (v *Version) Name() string { return fmt.Sprintf("%s@%d", v.Slug, v.Number) }

// mostVersions is how many versions an instance keeps ready to run.
const mostVersions = 200

// Version gives a published script by its id. What is published never changes, so that it is read once.
func (a *Flows) Version(db *gorm.DB, id int64) (*Version, error) {
	a.mu.Lock()
	known := a.versions[id]
	a.mu.Unlock()
	if known != nil {
		return known, nil
	}
	var row struct {
		store.FlowVersion
		Slug string
	}
	err := db.Raw(`SELECT v.*, f.slug FROM flow_versions v JOIN flows f ON f.id = v.flow_id WHERE v.id = ?`, id).
		Take(&row).
		Error
	if err != nil {
		return nil, problem.From(err, "version of a flow")
	}
	script, err := flow.Parse(row.Script)
	if err != nil {
		return nil, fmt.Errorf("reading version %d of flow %s: %w", row.Number, row.Slug, err)
	}
	v := &Version{ID: id, Slug: row.Slug, Number: row.Number, Program: flow.Compile(script)}
	a.mu.Lock()
	defer a.mu.Unlock()
	if len(a.versions) >= mostVersions {
		clear(a.versions)
	}
	a.versions[id] = v
	return v, nil
}

// liveFlows are the flows that are live, and where they meet customers.
type liveFlows struct {
	version map[string]int64 // by the flow's name in addresses
	entries []flow.Entry
}

func (a *Flows) liveFlows(db *gorm.DB) (*liveFlows, error) {
	return a.live.Get(a.base.Now(), func() (*liveFlows, error) {
		var rows []store.Flow
		err := db.Raw(`SELECT slug, live_version_id FROM flows WHERE live_version_id IS NOT NULL AND ended_at IS NULL`).
			Scan(&rows).Error
		if err != nil {
			return nil, fmt.Errorf("reading live flows: %w", err)
		}
		out := &liveFlows{version: map[string]int64{}}
		for _, row := range rows {
			out.version[row.Slug] = *row.LiveVersionID
		}
		out.entries, err = liveEntries(db)
		return out, err
	})
}

// Others gives the live programs of the flows that a script goes to, and of those that these go to.
func (a *Flows) Others(db *gorm.DB, program *flow.Program) (map[string]*Version, error) {
	out := map[string]*Version{}
	live, err := a.liveFlows(db)
	if err != nil {
		return nil, err
	}
	for queue := program.Script().Flows(); len(queue) > 0; queue = queue[1:] {
		slug := queue[0]
		if _, known := out[slug]; known || live.version[slug] == 0 {
			continue
		}
		if out[slug], err = a.Version(db, live.version[slug]); err != nil {
			return nil, err
		}
		queue = append(queue, out[slug].Program.Script().Flows()...)
	}
	return out, nil
}

// Met gives the version that meets somebody; nil if no flow does.
func (a *Flows) Met(db *gorm.DB, arrival flow.Arrival) (*Version, error) {
	live, err := a.liveFlows(db)
	if err != nil {
		return nil, err
	}
	entry, ok := flow.Pick(live.entries, arrival)
	if !ok || live.version[entry.Flow] == 0 {
		return nil, nil
	}
	return a.Version(db, live.version[entry.Flow])
}

// VersionLine is a published version in the list of them.
type VersionLine struct {
	Number      int       `json:"number"`
	PublishedBy string    `json:"published_by"`
	PublishedAt time.Time `json:"published_at"`
	Note        string    `json:"note"`
	Live        bool      `json:"live"`
	Running     int       `json:"running"` // conversations with the bot that go on in it
}

// ListVersions lists the versions of a flow, the latest first.
func (a *Flows) ListVersions(ctx context.Context, slug string) ([]VersionLine, error) {
	lines := []VersionLine{}
	err := a.base.DB.WithContext(ctx).Raw(`SELECT v.number, s.name AS published_by, v.published_at, v.note,
			v.id = f.live_version_id AS live,
			(SELECT count(*) FROM conversations c WHERE c.flow_version_id = v.id AND c.status = 'bot') AS running
		FROM flow_versions v JOIN flows f ON f.id = v.flow_id JOIN staff s ON s.id = v.published_by
		WHERE f.slug = ? ORDER BY v.number DESC LIMIT 500`, slug).Scan(&lines).Error
	if err != nil {
		return nil, fmt.Errorf("listing versions: %w", err)
	}
	return lines, nil
}

// sourceOf gives a version as it is typed. Number 0 is the working copy.
func sourceOf(db *gorm.DB, row store.Flow, number int) (string, error) {
	if number == 0 {
		return draftOf(db, row)
	}
	if number < 0 || number > math.MaxInt32 {
		return "", problem.New(problem.NotFound, "There is no such version.")
	}
	var v store.FlowVersion
	if err := db.Where("flow_id = ? AND number = ?", row.ID, number).Take(&v).Error; err != nil {
		return "", problem.From(err, "version")
	}
	return typed(v)
}

// typed gives a published script as it was typed, or as it would be.
func typed(v store.FlowVersion) (string, error) {
	if v.Source != "" {
		return v.Source, nil
	}
	script, err := flow.Parse(v.Script)
	if err != nil {
		return "", fmt.Errorf("reading version %d: %w", v.Number, err)
	}
	return flow.Write(script), nil
}

// ScriptLine is one line of a comparison of two versions.
type ScriptLine struct {
	Change string `json:"change"` // "", "added" or "removed"
	Before int    `json:"before"` // its line there, 0 for none
	After  int    `json:"after"`
	Text   string `json:"text"`
}

// Pair says which two texts of a flow are compared.
type Pair struct {
	Before int   `json:"before"`
	After  int   `json:"after"` // 0 for the working copy
	State  int64 `json:"state"` // an earlier state in the place of Before, 0 for none
}

// Compared are two versions of a flow, line by line.
type Compared struct {
	Pair
	Lines []ScriptLine `json:"lines"`
}

// Compare lays two texts of a flow over each other.
func (a *Flows) Compare(ctx context.Context, slug string, pair Pair) (Compared, error) {
	db := a.base.DB.WithContext(ctx)
	out := Compared{Pair: pair, Lines: []ScriptLine{}}
	row, err := find(db, slug)
	if err != nil {
		return out, err
	}
	one, err := a.Drafts.ReadState(ctx, slug, pair.State)
	if pair.State == 0 {
		one, err = sourceOf(db, row, pair.Before)
	}
	two, err2 := sourceOf(db, row, pair.After)
	if err := errors.Join(err, err2); err != nil {
		return out, err
	}
	b, n := 0, 0
	for _, l := range compare.CompareLines(one, two) {
		line := ScriptLine{Text: l.Text}
		switch l.Mark {
		case compare.Removed:
			b++
			line.Change, line.Before = "removed", b
		case compare.Added:
			n++
			line.Change, line.After = "added", n
		default:
			b++
			n++
			line.Before, line.After = b, n
		}
		out.Lines = append(out.Lines, line)
	}
	return out, nil
}
