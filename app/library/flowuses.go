package library

import (
	"fmt"
	"strings"

	"gorm.io/gorm"

	"hermeneus/app/problem"
	"hermeneus/core/audience"
	"hermeneus/core/flow"
	"hermeneus/store"
)

// FlowUses lists, by article number, the turns of live flows that show it. It reads the
// tables of flows, which stand above the library, since whoever narrows an article must know.
func FlowUses(db *gorm.DB) (flow.Uses, error) {
	var rows []struct {
		Slug   string
		Script []byte
	}
	if err := db.Raw(`SELECT f.slug, v.script
		FROM flows f JOIN flow_versions v ON v.id = f.live_version_id ORDER BY f.slug`).
		Scan(&rows).
		Error; err != nil {
		return nil, fmt.Errorf("reading live flows: %w", err)
	}
	uses := flow.Uses{}
	for _, r := range rows {
		script, err := flow.Parse(r.Script)
		if err != nil {
			return nil, fmt.Errorf("reading flow %s: %w", r.Slug, err)
		}
		uses.Add(r.Slug, script)
	}
	return uses, nil
}

// Conflicts lists what keeps an article from being live for its audience.
func Conflicts(row store.Article, uses flow.Uses) []string {
	return uses.Conflicts(row.Number, audience.Audience(row.Audience))
}

// RefuseConflicts refuses to make an article live against a flow that shows it.
func RefuseConflicts(db *gorm.DB, row store.Article) error {
	if audience.Audience(row.Audience) == audience.Everyone {
		return nil
	}
	uses, err := FlowUses(db)
	if err != nil {
		return err
	}
	list := Conflicts(row, uses)
	if len(list) == 0 {
		return nil
	}
	p := &problem.Problem{Kind: problem.NotNow, Detail: strings.Join(list, " ")}
	for _, c := range list {
		p.Fields = append(p.Fields, problem.Field{Name: "audience", Message: c})
	}
	return p
}
