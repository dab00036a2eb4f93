package accounts

import (
	"context"
	"errors"
	"fmt"
	"strings"

	"gorm.io/gorm"

	"hermeneus/app/problem"
	"hermeneus/app/staff"
	"hermeneus/core/role"
	"hermeneus/store"
)

// NewStaff is somebody to be added to the staff.
type NewStaff struct {
	Name     string   `json:"name"`
	Email    string   `json:"email"`
	Password string   `json:"password"`
	Roles    role.Set `json:"roles"`
	Team     string   `json:"team"` // "" for none; made if it is not there yet
}

// AddFirstStaff adds staff from the command line, where no one is signed in.
func (a *People) AddFirstStaff(ctx context.Context, n NewStaff) (staff.Staff, error) {
	return a.addStaff(ctx, n)
}

// AddStaff adds somebody to the staff.
func (a *People) AddStaff(ctx context.Context, by staff.Staff, n NewStaff) (staff.Staff, error) {
	if err := by.May("Adding staff", role.Administrator); err != nil {
		return staff.Staff{}, err
	}
	return a.addStaff(ctx, n)
}

func (a *People) addStaff(ctx context.Context, n NewStaff) (staff.Staff, error) {
	hash, err := a.checkPerson(ctx, n.Name, n.Email, n.Password)
	if err != nil {
		return staff.Staff{}, err
	}
	if err := checkRoles(n.Roles); err != nil {
		return staff.Staff{}, err
	}
	row := store.Staff{
		Email:        n.Email,
		Name:         n.Name,
		PasswordHash: hash,
		Roles:        staff.RoleNames(n.Roles),
		CreatedAt:    a.base.Now(),
	}
	err = a.base.Transaction(ctx, func(tx *gorm.DB) error {
		if n.Team != "" {
			team := store.Team{Name: n.Team}
			if err := tx.Where("name = ?", n.Team).FirstOrCreate(&team).Error; err != nil {
				return err
			}
			row.TeamID = &team.ID
		}
		return tx.Create(&row).Error
	})
	if errors.Is(err, gorm.ErrDuplicatedKey) {
		return staff.Staff{}, &problem.Problem{
			Kind:   problem.Invalid,
			Detail: "This mail address is taken.",
			Fields: []problem.Field{{Name: "email", Message: "Somebody has this mail address already."}},
		}
	}
	if err != nil {
		return staff.Staff{}, fmt.Errorf("adding staff: %w", err)
	}
	return staff.Staff{ID: row.ID, Name: row.Name, Email: row.Email, Roles: n.Roles, Team: n.Team}, nil
}

// AddCustomer adds somebody who can sign in to the help centre.
func (a *People) AddCustomer(ctx context.Context, name, email, password string) (int64, error) {
	hash, err := a.checkPerson(ctx, name, email, password)
	if err != nil {
		return 0, err
	}
	row := store.Customer{Email: email, Name: name, PasswordHash: hash, CreatedAt: a.base.Now()}
	if err := a.base.DB.WithContext(ctx).Create(&row).Error; err != nil {
		return 0, fmt.Errorf("adding a customer: %w", err)
	}
	return row.ID, nil
}

func (a *People) checkPerson(ctx context.Context, name, email, password string) (hash string, err error) {
	var f problem.Fields
	f.Text("name", name, 100)
	f.Address("email", email)
	checkPassword(&f, "password", password)
	if err := f.Err(); err != nil {
		return "", err
	}
	return a.accounts.hashOf(ctx, password)
}

func checkRoles(set role.Set) error {
	var f problem.Fields
	f.Require(len(set) > 0, "roles", "Give at least one role.")
	for _, r := range set {
		f.Require(r.Valid(), "roles", fmt.Sprintf("%q is not a role.", r))
	}
	return f.Err()
}

// Person is a member of staff as the others see them.
type Person struct {
	ID       int64    `json:"id"`
	Name     string   `json:"name"`
	Email    string   `json:"email"`
	Roles    role.Set `json:"roles"`
	Team     string   `json:"team"`
	Disabled bool     `json:"disabled"`
}

// ListStaff lists everybody, by name.
func (a *People) ListStaff(ctx context.Context) ([]Person, error) {
	var rows []struct {
		store.Staff
		Team string
	}
	err := a.base.DB.WithContext(ctx).Raw(`SELECT staff.*, coalesce(teams.name, '') AS team FROM staff
		LEFT JOIN teams ON teams.id = staff.team_id ORDER BY staff.name, staff.id`).Scan(&rows).Error
	if err != nil {
		return nil, fmt.Errorf("listing staff: %w", err)
	}
	people := make([]Person, len(rows))
	for i, r := range rows {
		people[i] = Person{r.ID, r.Name, r.Email, staff.RolesOf(r.Roles), r.Team, r.DisabledAt != nil}
	}
	return people, nil
}

// ChangeStaff sets somebody's roles, and whether they can sign in. Nobody can
// take their own administration away, so that one administrator always remains.
func (a *People) ChangeStaff(ctx context.Context, by staff.Staff, id int64, set role.Set, disabled bool) error {
	if err := by.May("Changing staff", role.Administrator); err != nil {
		return err
	}
	if err := checkRoles(set); err != nil {
		return err
	}
	if id == by.ID && (disabled || !set.Has(role.Administrator)) {
		return problem.New(problem.NotNow, "You cannot take away your own administration; another administrator can.")
	}
	return a.base.Transaction(ctx, func(tx *gorm.DB) error {
		if err := a.SetStaff(tx, by, id, set, disabled); err != nil {
			return err
		}
		for _, follows := range a.changed {
			if err := follows(tx); err != nil {
				return err
			}
		}
		return nil
	})
}

// SetStaff gives somebody other roles, or disables them and ends their sessions.
func (a *People) SetStaff(tx *gorm.DB, by staff.Staff, id int64, set role.Set, disabled bool) error {
	var row store.Staff
	if err := tx.First(&row, id).Error; err != nil {
		return problem.From(err, "member of staff")
	}
	row.Roles, row.DisabledAt = staff.RoleNames(set), nil
	if disabled {
		now := a.base.Now()
		row.DisabledAt = &now
		if err := tx.Where("staff_id = ?", id).Delete(&store.Session{}).Error; err != nil {
			return err
		}
	}
	if err := tx.Save(&row).Error; err != nil {
		return err
	}
	action := "changed to " + strings.Join(row.Roles, ", ")
	if disabled {
		action = "disabled"
	}
	return a.trail.Note(tx, by, store.Trail{Subject: row.Name, Action: action})
}
