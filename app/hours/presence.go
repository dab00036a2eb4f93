package hours

import (
	"context"
	"fmt"

	"gorm.io/gorm"

	"hermeneus/app/problem"
	"hermeneus/app/staff"
	"hermeneus/core/role"
	"hermeneus/store"
)

// mostChats is how many chats somebody can be said to hold at most.
const mostChats = 50

// Presence is whether somebody takes conversations now.
type Presence struct {
	Here  bool `json:"here"`
	Chats int  `json:"chats" doc:"how many at once; 0 for as many as come"`
}

// ReadPresence gives one's own presence.
func (a *Hours) ReadPresence(ctx context.Context, by staff.Staff) (Presence, error) {
	var p Presence
	err := a.base.DB.WithContext(ctx).Raw(`SELECT here, chats FROM staff WHERE id = ?`, by.ID).Scan(&p).Error
	return p, err
}

// SetPresence says whether somebody takes conversations. Agents say it of themselves; of others an administrator does.
func (a *Hours) SetPresence(ctx context.Context, by staff.Staff, id int64, p Presence) error {
	roles := []role.Role{role.Administrator}
	if id == by.ID {
		roles = append(roles, role.Agent)
	}
	if err := by.May("Saying who is here", roles...); err != nil {
		return err
	}
	var f problem.Fields
	f.Require(p.Chats >= 0 && p.Chats <= mostChats, "chats", fmt.Sprintf("Between 0 and %d.", mostChats))
	if err := f.Err(); err != nil {
		return err
	}
	return a.base.Change(ctx, store.HoursChanged, func(tx *gorm.DB) error {
		var was struct {
			Name  string
			Here  bool
			Chats int
		}
		if err := tx.Raw(`SELECT name, here, chats FROM staff WHERE id = ? FOR UPDATE`, id).
			Scan(&was).
			Error; err != nil {
			return err
		}
		switch {
		case was.Name == "":
			return problem.New(problem.NotFound, "There is no such member of staff.")
		case was.Here == p.Here && was.Chats == p.Chats:
			return nil
		}
		if err := tx.Exec(`UPDATE staff SET here = ?, chats = ? WHERE id = ?`, p.Here, p.Chats, id).Error; err != nil {
			return err
		}
		action := "is away"
		if p.Here {
			action = "is here"
		}
		if id != by.ID {
			action = "said that " + was.Name + " " + action
		}
		return a.changed(tx, by, "presence", action)
	})
}
