package staff

import (
	"context"

	"gorm.io/gorm"

	"hermeneus/app/problem"
	"hermeneus/core/review"
	"hermeneus/core/role"
	"hermeneus/store"
)

// Roster is everybody on the staff who can sign in.
type Roster struct {
	list  []Staff
	By    map[int64]Staff
	names map[int64]string // of those who left, too
}

// ReadRoster reads who works here now.
func ReadRoster(db *gorm.DB) (Roster, error) {
	var rows []struct {
		store.Staff
		Team string
	}
	err := db.Raw(`SELECT staff.*, coalesce(teams.name, '') AS team
		FROM staff LEFT JOIN teams ON teams.id = staff.team_id ORDER BY staff.name, staff.id`).
		Scan(&rows).
		Error
	c := Roster{By: map[int64]Staff{}, names: map[int64]string{}}
	for _, r := range rows {
		c.names[r.ID] = r.Name
		if r.DisabledAt != nil {
			continue
		}
		s := Staff{ID: r.ID, Name: r.Name, Email: r.Email, Roles: RolesOf(r.Roles), Team: r.Team}
		c.list, c.By[r.ID] = append(c.list, s), s
	}
	return c, err
}

// Name is what somebody is called.
func (c Roster) Name(id int64) string { return c.names[id] }

// HasTeam reports whether there is such a team.
func (c Roster) HasTeam(db *gorm.DB, name string) bool {
	var n int
	return db.Raw(`SELECT count(*) FROM teams WHERE name = ?`, name).Scan(&n).Error == nil && n > 0
}

// Entitled lists who may pass the gate that a copy stands before.
func (c Roster) Entitled(text review.Copy) []Staff {
	var list []Staff
	for _, s := range c.list {
		if text.MayPass(s.Actor()) == "" {
			list = append(list, s)
		}
	}
	return list
}

// With lists who has any of the roles.
func (c Roster) With(wanted ...role.Role) []int64 {
	var list []int64
	for _, s := range c.list {
		if s.Roles.Has(wanted...) {
			list = append(list, s.ID)
		}
	}
	return list
}

// StaffByID gives somebody with the roles they have now.
func (a *Directory) StaffByID(ctx context.Context, id int64) (Staff, error) {
	roster, err := ReadRoster(a.base.DB.WithContext(ctx))
	if err != nil {
		return Staff{}, err
	}
	who, there := roster.By[id]
	if !there {
		return Staff{}, problem.New(problem.NotFound, "There is no such member of staff.")
	}
	return who, nil
}

// StaffByEmail gives who signs in with a mail address, for the commands that act in
// somebody's name. Without an address it is the first who may write.
func (a *Directory) StaffByEmail(ctx context.Context, email string) (Staff, error) {
	var id int64
	err := a.base.DB.WithContext(ctx).
		Raw(`SELECT id
			FROM staff
			WHERE disabled_at IS NULL AND (lower(email) = lower(?) OR ? = '' AND 'author' = ANY(roles))
			ORDER BY id LIMIT 1`, email, email).
		Scan(&id).
		Error
	if err != nil {
		return Staff{}, err
	}
	return a.StaffByID(ctx, id)
}

// RolesOf reads roles by their names.
func RolesOf(names []string) role.Set {
	var set role.Set
	for _, n := range names {
		set = append(set, role.Role(n))
	}
	return set
}

// RoleNames writes roles by their names.
func RoleNames(set role.Set) []string {
	names := make([]string, len(set))
	for i, r := range set {
		names[i] = string(r)
	}
	return names
}
