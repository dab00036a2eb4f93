package flows

import (
	"context"
	"fmt"
	"regexp"
	"strings"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"hermeneus/app/problem"
	"hermeneus/app/staff"
	"hermeneus/app/texts"
	"hermeneus/core/flow"
	"hermeneus/core/review"
	"hermeneus/core/role"
	"hermeneus/store"
)

// FlowLine is a flow in the list of them.
type FlowLine struct {
	Slug        string       `json:"slug"`
	Name        string       `json:"name"`
	Language    string       `json:"language"`
	OwnerID     int64        `json:"owner_id"`
	Owner       string       `json:"owner"`
	State       string       `json:"state"`   // draft, live, changed (live, and being changed) or ended
	Version     int          `json:"version"` // that is live; 0 for none
	PublishedAt *time.Time   `json:"published_at"`
	WrittenAt   *time.Time   `json:"written_at"`
	Writer      string       `json:"writer"`
	Faults      int          `json:"faults"` // errors of the live version, found since
	FaultsSince *time.Time   `json:"faults_since"`
	Running     int          `json:"running"` // conversations in it with the bot now
	Entries     []flow.Entry `json:"entries" gorm:"-"`
}

const lineColumns = `SELECT f.slug, f.name, f.language, coalesce(f.owner_id, 0) AS owner_id, coalesce(o.name, '') AS owner,
	CASE WHEN f.ended_at IS NOT NULL THEN 'ended' WHEN f.live_version_id IS NULL THEN 'draft'
		WHEN f.draft <> '' THEN 'changed' ELSE 'live' END AS state,
	coalesce(v.number, 0) AS version, v.published_at, f.written_at, coalesce(w.name, '') AS writer, f.faults, f.faults_since,
	(SELECT count(*) FROM conversations c JOIN flow_versions cv ON cv.id = c.flow_version_id
		WHERE cv.flow_id = f.id AND c.status = 'bot' AND NOT c.rehearsal AND c.began_at > ?) AS running
	FROM flows f LEFT JOIN flow_versions v ON v.id = f.live_version_id LEFT JOIN staff o ON o.id = f.owner_id
	LEFT JOIN staff w ON w.id = f.writer_id`

// List lists the flows by name, those that ended last. Every member of staff may read them.
func (a *Flows) List(ctx context.Context) ([]FlowLine, error) {
	db := a.base.DB.WithContext(ctx)
	lines := []FlowLine{}
	err := db.Raw(lineColumns+` ORDER BY f.ended_at IS NOT NULL, lower(f.name), f.id`, a.lately()).Scan(&lines).Error
	if err != nil {
		return nil, fmt.Errorf("listing flows: %w", err)
	}
	entries, err := allEntries(db)
	if err != nil {
		return nil, err
	}
	for i := range lines {
		lines[i].Entries = of(entries, lines[i].Slug)
	}
	return lines, nil
}

// lately is since when a conversation is counted as going on.
func (a *Flows) lately() time.Time { return a.base.Now().Add(-time.Hour) }

// FlowView is a flow with its text.
type FlowView struct {
	FlowLine
	Source   string         `json:"source"`       // as it is being written
	Copy     int            `json:"copy_version"` // of the working copy: what a save is made from
	Changed  bool           `json:"changed"`      // it is not what is live
	Holder   *texts.Holder  `json:"holder"`
	Overlaps []flow.Overlap `json:"overlaps"`
	MayWrite bool           `json:"may_write"`
	MayLive  bool           `json:"may_publish"`
	Way      FlowWay        `json:"way"`
}

// writers are who may write flows.
var writers = []role.Role{role.Author, role.Publisher}

// Read gives a flow.
func (a *Flows) Read(ctx context.Context, by staff.Staff, slug string) (FlowView, error) {
	db := a.base.DB.WithContext(ctx)
	row, err := find(db, slug)
	if err != nil {
		return FlowView{}, err
	}
	out := FlowView{Copy: row.Version, Changed: row.Draft != ""}
	if err := db.Raw(lineColumns+` WHERE f.id = ?`, a.lately(), row.ID).Scan(&out.FlowLine).Error; err != nil {
		return out, fmt.Errorf("reading flow %s: %w", slug, err)
	}
	if out.Source, err = draftOf(db, row); err != nil {
		return out, err
	}
	if row.TextID != nil {
		if out.Holder, err = a.texts.Holder(db, *row.TextID); err != nil {
			return out, err
		}
	}
	entries, err := allEntries(db)
	if err != nil {
		return out, err
	}
	out.Entries = of(entries, slug)
	out.Overlaps = append([]flow.Overlap{}, flow.Overlaps(entries, slug)...)
	out.MayWrite = by.May("", writers...) == nil && row.EndedAt == nil
	if out.Way, err = a.Reviews.way(db, by, row); err != nil {
		return out, err
	}
	out.MayLive = row.EndedAt == nil && by.May("", role.Publisher) == nil
	if row.PathID != nil {
		out.MayLive = row.EndedAt == nil && out.Way.may(review.Publish)
	}
	return out, nil
}

// find finds a flow by its name in addresses.
func find(db *gorm.DB, slug string) (store.Flow, error) {
	var row store.Flow
	return row, problem.From(db.Where("slug = ?", slug).Take(&row).Error, "flow")
}

// locked finds a flow and keeps others from changing it meanwhile.
func locked(tx *gorm.DB, slug string) (store.Flow, error) {
	row, err := find(tx.Clauses(clause.Locking{Strength: "UPDATE"}), slug)
	if err != nil || row.TextID != nil {
		return row, err
	}
	text := store.Text{Kind: "flow"}
	if err := tx.Create(&text).Error; err != nil {
		return row, err
	}
	row.TextID = &text.ID
	return row, tx.Model(&row).Update("text_id", text.ID).Error
}

// draftOf gives the text as it is being written: the working copy, else the live version.
func draftOf(db *gorm.DB, row store.Flow) (string, error) {
	if row.Draft != "" || row.LiveVersionID == nil {
		return row.Draft, nil
	}
	var v store.FlowVersion
	if err := db.Where("id = ?", *row.LiveVersionID).Take(&v).Error; err != nil {
		return "", fmt.Errorf("reading the live version of %s: %w", row.Slug, err)
	}
	return typed(v)
}

// Beginning is a flow to be made.
type Beginning struct {
	Name     string
	Language string // "" for that of the sources
	From     string // the key of a starter, or "" for an empty script
}

var notInSlugs = regexp.MustCompile(`[^a-z0-9]+`)

// Create begins a flow. It gives its name in addresses.
func (a *Flows) Create(ctx context.Context, by staff.Staff, in Beginning) (string, error) {
	if err := by.May("Writing a flow", writers...); err != nil {
		return "", err
	}
	in.Name = strings.Join(strings.Fields(in.Name), " ")
	if in.Language == "" {
		in.Language = "en"
	}
	starter, ok := flow.Starter(in.From)
	var f problem.Fields
	f.Text("name", in.Name, 80)
	f.Require(len(in.Language) <= 5, "language", "Languages are written as en or de.")
	f.Require(ok, "from", "There is no such beginning.")
	if err := f.Err(); err != nil {
		return "", err
	}
	slug := ""
	err := a.base.Transaction(ctx, func(tx *gorm.DB) error {
		var err error
		if slug, err = freeSlug(tx, in.Name); err != nil {
			return err
		}
		team, err := likelyTeam(tx)
		if err != nil {
			return err
		}
		source := starter.Text(in.Name, in.Language, team)
		if _, err := a.make(tx, by, slug, in.Name, in.Language, source); err != nil {
			return err
		}
		return a.trail.Note(tx, by, store.Trail{Subject: "flow " + slug, Action: "began", Note: in.Name})
	})
	return slug, err
}

// likelyTeam is the team that a beginning speaks of: the one with most agents.
func likelyTeam(tx *gorm.DB) (string, error) {
	name := "Support"
	err := tx.Raw(`SELECT t.name FROM teams t JOIN staff s ON s.team_id = t.id AND s.disabled_at IS NULL
		GROUP BY t.id ORDER BY count(*) DESC, t.name LIMIT 1`).Scan(&name).Error
	return name, err
}

// freeSlug makes a name in addresses that no flow has yet.
func freeSlug(tx *gorm.DB, name string) (string, error) {
	base := strings.Trim(notInSlugs.ReplaceAllString(strings.ToLower(name), "-"), "-")
	if base == "" {
		base = "flow"
	}
	if len(base) > 60 {
		base = strings.Trim(base[:60], "-")
	}
	var taken []string
	if err := tx.Model(&store.Flow{}).
		Where("slug = ? OR slug LIKE ?", base, base+"-%").
		Pluck("slug", &taken).
		Error; err != nil {
		return "", err
	}
	has := map[string]bool{}
	for _, t := range taken {
		has[t] = true
	}
	slug := base
	for n := 2; has[slug]; n++ {
		slug = fmt.Sprintf("%s-%d", base, n)
	}
	return slug, nil
}

// make makes a flow.
func (a *Flows) make(tx *gorm.DB, by staff.Staff, slug, name, language, source string) (store.Flow, error) {
	text := store.Text{Kind: "flow"}
	if err := tx.Create(&text).Error; err != nil {
		return store.Flow{}, err
	}
	now := a.base.Now()
	row := store.Flow{
		Slug: slug, Name: name, Language: language, OwnerID: &by.ID, TextID: &text.ID, Draft: source, Version: 1,
		WriterID: &by.ID, WrittenAt: &now,
	}
	return row, problem.From(tx.Create(&row).Error, "flow")
}

// meetSomebody lets a flow that goes live meet everybody in the chat, if no flow meets anybody yet.
func meetSomebody(tx *gorm.DB, row store.Flow) error {
	var entries int64
	if err := tx.Model(&store.FlowEntry{}).Count(&entries).Error; err != nil || entries > 0 {
		return err
	}
	return tx.Create(&store.FlowEntry{FlowID: row.ID, Channel: "chat"}).Error
}

// FlowProperties are what is said of a flow besides its text.
type FlowProperties struct {
	Name    string `json:"name"`
	OwnerID int64  `json:"owner_id"`
}

// SetProperties changes a flow's name and owner.
func (a *Flows) SetProperties(ctx context.Context, by staff.Staff, slug string, p FlowProperties) error {
	if err := by.May("Changing a flow", writers...); err != nil {
		return err
	}
	p.Name = strings.Join(strings.Fields(p.Name), " ")
	var f problem.Fields
	f.Text("name", p.Name, 80)
	if err := f.Err(); err != nil {
		return err
	}
	return a.base.Transaction(ctx, func(tx *gorm.DB) error {
		row, err := locked(tx, slug)
		if err != nil {
			return err
		}
		roster, err := staff.ReadRoster(tx)
		if err != nil {
			return err
		}
		if _, there := roster.By[p.OwnerID]; !there {
			return &problem.Problem{Kind: problem.Invalid, Detail: "Choose who owns the flow.",
				Fields: []problem.Field{{Name: "owner_id", Message: "There is no such member of staff."}}}
		}
		row.Name, row.OwnerID = p.Name, &p.OwnerID
		if err := tx.Save(&row).Error; err != nil {
			return err
		}
		return a.trail.Note(tx, by, store.Trail{
			Subject: "flow " + slug, Action: "changed", Note: p.Name + ", owned by " + roster.Name(p.OwnerID),
		})
	})
}

// End takes a flow out of service, or back into it. Conversations that are running go on to their end.
func (a *Flows) End(ctx context.Context, by staff.Staff, slug string, ended bool) error {
	if err := by.May("Ending a flow", role.Publisher); err != nil {
		return err
	}
	return a.base.Change(ctx, store.FlowChanged, func(tx *gorm.DB) error {
		row, err := locked(tx, slug)
		if err != nil {
			return err
		}
		if (row.EndedAt != nil) == ended {
			return nil
		}
		row.EndedAt = nil
		action := "took back into service"
		if ended {
			now := a.base.Now()
			row.EndedAt, action = &now, "ended"
		}
		if err := tx.Save(&row).Error; err != nil {
			return err
		}
		return a.trail.Note(tx, by, store.Trail{Subject: "flow " + slug, Action: action})
	})
}
