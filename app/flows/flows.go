package flows

import (
	"context"
	"encoding/json"
	"fmt"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"hermeneus/app/evidence"
	"hermeneus/app/problem"
	"hermeneus/app/search"
	"hermeneus/app/staff"
	"hermeneus/core/article"
	"hermeneus/core/flow"
	"hermeneus/core/role"
	"hermeneus/store"
)

// FlowView is a flow's live script.
type FlowView struct {
	Slug        string            `json:"slug"`
	Version     int               `json:"version"` // 0 while nothing is live
	PublishedBy string            `json:"published_by"`
	PublishedAt time.Time         `json:"published_at"`
	Script      flow.Script       `json:"script"`
	Source      string            `json:"source"` // the script as JSON
	Titles      map[string]string `json:"titles"` // titles of the articles it shows
	Problems    []flow.Fault      `json:"problems"`
}

// ReadFlow gives the live version of a flow. Every member of staff may read it.
func (a *Flows) ReadFlow(ctx context.Context, slug string) (FlowView, error) {
	db := a.base.DB.WithContext(ctx)
	var row struct {
		store.FlowVersion
		Name string
	}
	err := db.Raw(`SELECT v.*, s.name
		FROM flows f JOIN flow_versions v ON v.id = f.live_version_id JOIN staff s ON s.id = v.published_by
		WHERE f.slug = ?`, slug).
		Take(&row).
		Error
	if err != nil {
		return FlowView{}, problem.From(err, "live flow")
	}
	script, err := flow.Parse(row.Script)
	if err != nil {
		return FlowView{}, fmt.Errorf("reading flow %s: %w", slug, err)
	}
	source, err := json.MarshalIndent(script, "", "  ")
	if err != nil {
		return FlowView{}, err
	}
	titles, problems, err := a.shownBy(db, script)
	return FlowView{slug, row.Number, row.Name, row.PublishedAt, script, string(source), titles, problems}, err
}

// CheckFlow lists what is wrong with a script given as JSON: in itself, and in
// the articles it shows.
func (a *Flows) CheckFlow(ctx context.Context, source string) ([]flow.Fault, error) {
	script, err := flow.Parse([]byte(source))
	if err != nil {
		return []flow.Fault{{Message: err.Error()}}, nil
	}
	_, problems, err := a.shownBy(a.base.DB.WithContext(ctx), script)
	return append(flow.Check(script), problems...), err
}

// shownBy gives the titles of the articles a script shows, and what is wrong
// with them: none is live, or it is not for everyone though the flow is.
func (a *Flows) shownBy(db *gorm.DB, script flow.Script) (map[string]string, []flow.Fault, error) {
	found, err := search.LiveEditions(db, evidence.Visitor{}, script.Articles())
	if err != nil {
		return nil, nil, err
	}
	titles := map[string]string{}
	for ref, r := range found {
		titles[ref] = r.Title
	}
	var problems []flow.Fault
	for _, t := range script.Turns {
		for i, ref := range t.Articles {
			if _, _, ok := article.ParseReference(ref); ok && titles[ref] == "" {
				problems = append(
					problems,
					flow.Fault{
						Turn:    t.ID,
						Field:   fmt.Sprintf("articles[%d]", i),
						Message: ref + " is not live for everyone, so not every customer would see it.",
					},
				)
			}
		}
	}
	return titles, problems, nil
}

// PublishFlow makes a script given as JSON the live version of a flow. base is
// the version it was made from; if another is live by now, nothing changes.
// Conversations that are running keep the version they began with.
func (a *Flows) PublishFlow(ctx context.Context, by staff.Staff, slug, source string, base int) (int, error) {
	if err := by.May("Publishing a flow", role.Publisher); err != nil {
		return 0, err
	}
	problems, err := a.CheckFlow(ctx, source)
	if err != nil {
		return 0, err
	}
	if len(problems) > 0 {
		p := &problem.Problem{Kind: problem.Invalid, Detail: "The script has faults; nothing was published."}
		for _, fault := range problems {
			name := fault.Field
			if fault.Turn != "" {
				name = fault.Turn + "." + fault.Field
			}
			p.Fields = append(p.Fields, problem.Field{Name: name, Message: fault.Message})
		}
		return 0, p
	}
	number := 0
	err = a.base.Transaction(ctx, func(tx *gorm.DB) error {
		row := store.Flow{Slug: slug}
		if err := tx.Clauses(clause.OnConflict{DoNothing: true}).Create(&row).Error; err != nil {
			return err
		}
		if err := tx.Clauses(clause.Locking{Strength: "UPDATE"}).Where("slug = ?", slug).Take(&row).Error; err != nil {
			return err
		}
		if err := tx.Raw(`SELECT coalesce(max(number), 0) FROM flow_versions WHERE flow_id = ?`, row.ID).
			Scan(&number).
			Error; err != nil {
			return err
		}
		if number != base {
			return problem.New(
				problem.StaleSave,
				"Version %d was published after you opened version %d. Your script is still here: copy it, load "+
					"the newer one, and bring them together.",
				number,
				base,
			)
		}
		number++
		version := store.FlowVersion{
			FlowID:      row.ID,
			Number:      number,
			Script:      json.RawMessage(source),
			PublishedBy: by.ID,
			PublishedAt: a.base.Now(),
		}
		if err := tx.Create(&version).Error; err != nil {
			return err
		}
		row.LiveVersionID = &version.ID
		if err := tx.Save(&row).Error; err != nil {
			return err
		}
		return a.trail.Note(
			tx,
			by,
			store.Trail{Subject: "flow " + slug, Action: "published", Note: fmt.Sprintf("version %d", number)},
		)
	})
	return number, err
}
