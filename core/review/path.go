package review

import (
	"fmt"
	"slices"
	"strings"

	"hermeneus/core/role"
)

// Gate is one thing that must happen before a text can go live: somebody entitled
// looks at it and lets it pass. Whoever meets one of its three ways is entitled.
type Gate struct {
	Name    string      `json:"name"`
	Roles   []role.Role `json:"roles"`         // any of these…
	Team    string      `json:"team"`          // …within this team, if one is named
	People  []int64     `json:"people"`        // or one of these
	Steward bool        `json:"steward"`       // or the steward of the article's category
	Own     bool        `json:"own"`           // authors may pass their own text
	Other   bool        `json:"other"`         // not by somebody who passed a gate before it
	Note    bool        `json:"note"`          // a decision note is required
	Overdue int         `json:"overdue_hours"` // after how many hours it is overdue, 0 for never
}

// Path is the ordered gates that a working copy passes before it can go live.
type Path struct {
	Name  string `json:"name"`
	Gates []Gate `json:"gates"`
}

// MaxGates is how many gates a path can have.
const MaxGates = 8

// ShippedPaths are the paths that a new library has. The first is that of every
// category that names none. The team of the safety path is the caller's.
func ShippedPaths(team string) []Path {
	return []Path{
		{Name: "One reviewer", Gates: []Gate{
			{Name: "Review", Roles: []role.Role{role.Reviewer}, Overdue: 48},
		}},
		{Name: "Reviewer, then publisher", Gates: []Gate{
			{Name: "Review", Roles: []role.Role{role.Reviewer}, Overdue: 48},
			{Name: "Release", Roles: []role.Role{role.Publisher}, Overdue: 24},
		}},
		{Name: "Safety", Gates: []Gate{
			{Name: "Safety review", Roles: []role.Role{role.Reviewer}, Team: team, Note: true, Overdue: 24},
			{Name: "Second review", Roles: []role.Role{role.Reviewer}, Other: true, Overdue: 24},
		}},
	}
}

// Fault is what is wrong with a gate, by its place and field; Gate is -1 for the
// path as a whole.
type Fault struct {
	Gate    int
	Field   string
	Message string
}

// Check lists what is wrong with a path.
func (p Path) Check() []Fault {
	var faults []Fault
	add := func(bad bool, gate int, field, format string, args ...any) {
		if bad {
			faults = append(faults, Fault{gate, field, fmt.Sprintf(format, args...)})
		}
	}
	name := strings.TrimSpace(p.Name)
	add(name == "", -1, "name", "This is missing.")
	add(len([]rune(name)) > 80, -1, "name", "At most 80 characters.")
	add(len(p.Gates) == 0, -1, "gates", "Nothing goes live unseen: a path needs at least one gate.")
	add(len(p.Gates) > MaxGates, -1, "gates", "At most %d gates.", MaxGates)
	for i, g := range p.Gates {
		gateName := strings.TrimSpace(g.Name)
		add(gateName == "", i, "name", "This is missing.")
		add(len([]rune(gateName)) > 60, i, "name", "At most 60 characters.")
		add(
			slices.ContainsFunc(
				p.Gates[:i],
				func(o Gate) bool { return strings.EqualFold(strings.TrimSpace(o.Name), gateName) },
			),
			i,
			"name",
			"Two gates of a path cannot have one name.",
		)
		add(
			len(g.Roles) == 0 && len(g.People) == 0 && !g.Steward,
			i,
			"roles",
			"Say who may pass it: a role, people by name, or the steward of the category.",
		)
		add(g.Team != "" && len(g.Roles) == 0, i, "team", "A team narrows a role: choose the role too.")
		for _, r := range g.Roles {
			add(!r.Valid(), i, "roles", "%q is not a role.", r)
		}
		add(g.Overdue < 0 || g.Overdue > 24*365, i, "overdue_hours", "Between 0 and 8760 hours.")
	}
	return faults
}

// Entitles reports whether the gate is somebody's to pass, whatever text stands
// before it.
func (g Gate) Entitles(by Actor, steward int64) bool {
	return slices.Contains(g.People, by.ID) || g.Steward && steward != 0 && by.ID == steward ||
		len(g.Roles) > 0 && by.Roles.Has(g.Roles...) && (g.Team == "" || g.Team == by.Team)
}

// Who says in words whose the gate is; people are named by name.
func (g Gate) Who(name func(int64) string) string {
	var ways []string
	if len(g.Roles) > 0 {
		way := joinRoles(g.Roles)
		if g.Team != "" {
			way += " in the team " + g.Team
		}
		ways = append(ways, way)
	}
	for _, id := range g.People {
		ways = append(ways, name(id))
	}
	if g.Steward {
		ways = append(ways, "the category’s steward")
	}
	return strings.Join(ways, ", or ")
}
