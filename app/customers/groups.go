package customers

import (
	"context"
	"errors"
	"fmt"
	"strings"

	"gorm.io/gorm"

	"hermeneus/app/problem"
	"hermeneus/app/staff"
	"hermeneus/core/audience"
	"hermeneus/core/role"
	"hermeneus/store"
)

// Group is a named group of customers that articles can be for.
type Group struct {
	Key      string            `json:"key"`
	Name     string            `json:"name"`
	Audience audience.Audience `json:"audience"`
	Members  int               `json:"members"`
	Uses     int               `json:"uses"` // articles, categories and notices that are for it
}

// Groups lists the groups of customers, by name.
func (a *Customers) Groups(ctx context.Context) ([]Group, error) {
	groups, err := a.list(a.base.DB.WithContext(ctx), "")
	if err != nil {
		return nil, fmt.Errorf("listing groups: %w", err)
	}
	return groups, nil
}

// list lists one group by its key, or all with "".
func (a *Customers) list(db *gorm.DB, key string) ([]Group, error) {
	groups := []Group{}
	err := db.Raw(`SELECT g.key, g.name, 'group:' || g.key AS audience,
			(SELECT count(*) FROM customer_group_members m WHERE m.group_id = g.id) AS members
		FROM customer_groups g WHERE ? IN ('', g.key) ORDER BY lower(g.name)`, key).Scan(&groups).Error
	if err != nil {
		return nil, err
	}
	for i, g := range groups {
		for _, audiences := range a.uses {
			var n int
			if err := db.Raw(`SELECT count(*) FROM (`+audiences+`) t WHERE audience = ?`, g.Audience).
				Scan(&n).
				Error; err != nil {
				return nil, err
			}
			groups[i].Uses += n
		}
	}
	return groups, nil
}

// AddGroup adds a group without members. Its key is made of the name, and stays when
// the name changes.
func (a *Customers) AddGroup(ctx context.Context, by staff.Staff, name string) (Group, error) {
	if err := by.May("Adding a group of customers", role.Administrator); err != nil {
		return Group{}, err
	}
	row := store.CustomerGroup{Name: strings.TrimSpace(name), Key: audience.KeyOf(name), MadeAt: a.base.Now()}
	var f problem.Fields
	f.Text("name", row.Name, 60)
	f.Require(
		row.Name == "" || audience.GroupKey.MatchString(row.Key),
		"name",
		"Use some letters or digits of the Latin alphabet.",
	)
	if err := f.Err(); err != nil {
		return Group{}, err
	}
	err := a.base.Change(ctx, store.SiteChanged, func(tx *gorm.DB) error {
		if err := tx.Create(&row).Error; err != nil {
			return sameName(err)
		}
		return a.trail.Note(tx, by, store.Trail{Subject: "group " + row.Name, Action: "added"})
	})
	return Group{Key: row.Key, Name: row.Name, Audience: audience.Group(row.Key)}, err
}

func sameName(err error) error {
	if errors.Is(err, gorm.ErrDuplicatedKey) {
		return problem.OfField("name", "There is a group of this name, or nearly, already.")
	}
	return err
}

// changeGroup runs work on a group that is there.
func (a *Customers) changeGroup(
	ctx context.Context,
	by staff.Staff,
	key string,
	work func(tx *gorm.DB, row store.CustomerGroup) error,
) error {
	if err := by.May("Changing groups of customers", role.Administrator); err != nil {
		return err
	}
	return a.base.Change(ctx, store.SiteChanged, func(tx *gorm.DB) error {
		var row store.CustomerGroup
		if err := tx.Where("key = ?", key).Take(&row).Error; err != nil {
			return problem.From(err, "group of customers")
		}
		return work(tx, row)
	})
}

// RenameGroup gives a group another name.
func (a *Customers) RenameGroup(ctx context.Context, by staff.Staff, key, name string) error {
	name = strings.TrimSpace(name)
	var f problem.Fields
	f.Text("name", name, 60)
	if err := f.Err(); err != nil {
		return err
	}
	return a.changeGroup(ctx, by, key, func(tx *gorm.DB, row store.CustomerGroup) error {
		if err := tx.Model(&row).Update("name", name).Error; err != nil {
			return sameName(err)
		}
		return a.trail.Note(tx, by, store.Trail{Subject: "group " + name, Action: "renamed", Note: "was " + row.Name})
	})
}

// DropGroup takes a group away, unless something is for it: that would be for nobody.
func (a *Customers) DropGroup(ctx context.Context, by staff.Staff, key string) error {
	return a.changeGroup(ctx, by, key, func(tx *gorm.DB, row store.CustomerGroup) error {
		groups, err := a.list(tx, key)
		if err != nil {
			return err
		}
		if len(groups) == 1 && groups[0].Uses > 0 {
			return problem.New(
				problem.NotNow,
				"Something is still for this group (articles, categories or notices: %d). Give it another "+
					"audience first.",
				groups[0].Uses,
			)
		}
		if err := tx.Delete(&row).Error; err != nil {
			return err
		}
		return a.trail.Note(tx, by, store.Trail{Subject: "group " + row.Name, Action: "removed"})
	})
}

// Member is a customer in a group.
type Member struct {
	ID    int64  `json:"id"`
	Name  string `json:"name"`
	Email string `json:"email"`
}

// MembersShown is how many members are listed at once.
const MembersShown = 50

// Members lists the customers in a group, by name, from one on, those whose name or
// address holds the words, and how many there are in all.
func (a *Customers) Members(ctx context.Context, by staff.Staff, key, words string, from int) ([]Member, int, error) {
	if err := by.May("Seeing who is in a group", role.Administrator); err != nil {
		return nil, 0, err
	}
	db := a.base.DB.WithContext(ctx)
	const among = ` FROM customer_group_members m
		JOIN customer_groups g ON g.id = m.group_id JOIN customers c ON c.id = m.customer_id
		WHERE g.key = ? AND (? = '' OR strpos(lower(c.name || ' ' || c.email), lower(?)) > 0)`
	list, total := []Member{}, 0
	if err := db.Raw(`SELECT count(*)`+among, key, words, words).Scan(&total).Error; err != nil {
		return nil, 0, err
	}
	err := db.Raw(`SELECT c.id, c.name, c.email`+among+` ORDER BY lower(c.name), c.id
		LIMIT ? OFFSET ?`, key, words, words, MembersShown, max(0, from)).
		Scan(&list).
		Error
	return list, total, err
}

// AddMember puts the customer with a mail address into a group.
func (a *Customers) AddMember(ctx context.Context, by staff.Staff, key, email string) error {
	return a.changeGroup(ctx, by, key, func(tx *gorm.DB, row store.CustomerGroup) error {
		customer, err := ByAddress(tx, email)
		if err != nil {
			return err
		}
		if customer.ID == 0 {
			return problem.OfField("email", "No customer has this mail address.")
		}
		done := tx.Exec(`INSERT INTO customer_group_members VALUES (?, ?) ON CONFLICT DO NOTHING`, row.ID, customer.ID)
		if done.Error != nil || done.RowsAffected == 0 {
			return done.Error
		}
		return a.trail.Note(
			tx,
			by,
			store.Trail{Subject: "group " + row.Name, Action: "member added", Note: customer.Name, Private: true},
		)
	})
}

// RemoveMember takes a customer out of a group.
func (a *Customers) RemoveMember(ctx context.Context, by staff.Staff, key string, id int64) error {
	return a.changeGroup(ctx, by, key, func(tx *gorm.DB, row store.CustomerGroup) error {
		var name string
		if err := tx.Raw(`SELECT name FROM customers WHERE id = ?`, id).Scan(&name).Error; err != nil {
			return err
		}
		done := tx.Exec(`DELETE FROM customer_group_members WHERE group_id = ? AND customer_id = ?`, row.ID, id)
		if done.Error != nil {
			return done.Error
		}
		if done.RowsAffected == 0 {
			return problem.New(problem.NotFound, "This customer is not in the group.")
		}
		return a.trail.Note(
			tx,
			by,
			store.Trail{Subject: "group " + row.Name, Action: "member removed", Note: name, Private: true},
		)
	})
}

// GroupsOf gives the keys of the groups that a customer is in.
func GroupsOf(db *gorm.DB, customer int64) ([]string, error) {
	var keys store.Strings
	err := db.Raw(`SELECT coalesce(array_agg(g.key ORDER BY g.key), '{}')
		FROM customer_group_members m JOIN customer_groups g ON g.id = m.group_id WHERE m.customer_id = ?`, customer).
		Row().
		Scan(&keys)
	return keys, err
}

// KnownAudience requires an audience that is one of the fixed ones, or a group that is there.
func KnownAudience(db *gorm.DB, f *problem.Fields, field string, to audience.Audience) error {
	f.Require(to.Valid(), field, "Choose who may see it.")
	key, is := to.Group()
	if !is {
		return nil
	}
	var there int
	if err := db.Raw(`SELECT count(*) FROM customer_groups WHERE key = ?`, key).Scan(&there).Error; err != nil {
		return err
	}
	f.Require(there == 1, field, "There is no such group of customers.")
	return nil
}
