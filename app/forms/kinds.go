package forms

import (
	"context"
	"encoding/json"
	"fmt"
	"strings"

	"gorm.io/gorm"

	"hermeneus/app/problem"
	"hermeneus/app/staff"
	"hermeneus/core/form"
	"hermeneus/core/role"
	"hermeneus/store"
)

// RequestKind is a kind of request that a help centre's form offers.
type RequestKind struct {
	ID          int64        `json:"id"`
	SiteID      int64        `json:"site_id"`
	Name        string       `json:"name"`
	Description string       `json:"description"`
	Team        string       `json:"team"` // whose queue it enters, "" for everybody's
	Fields      []form.Field `json:"fields"`
}

func kindOf(row store.RequestKind) (RequestKind, error) {
	k := RequestKind{ID: row.ID, SiteID: row.SiteID, Name: row.Name, Description: row.Description, Team: row.Team}
	if err := json.Unmarshal(row.Fields, &k.Fields); err != nil {
		return k, fmt.Errorf("reading the fields of %s: %w", row.Name, err)
	}
	return k, nil
}

// Kinds lists the kinds of request of a site, in their order.
func (a *Forms) Kinds(ctx context.Context, site int64) ([]RequestKind, error) {
	return Of(a.base.DB.WithContext(ctx), site)
}

// Of lists the kinds of request of a site, in their order.
func Of(db *gorm.DB, site int64) ([]RequestKind, error) {
	var rows []store.RequestKind
	if err := db.
		Where("site_id = ? AND retired_at IS NULL", site).
		Order("position, id").
		Find(&rows).
		Error; err != nil {
		return nil, fmt.Errorf("reading kinds of requests: %w", err)
	}
	list := make([]RequestKind, 0, len(rows))
	for _, row := range rows {
		k, err := kindOf(row)
		if err != nil {
			return nil, err
		}
		list = append(list, k)
	}
	return list, nil
}

// Keep makes a kind of request at the end of a site's, or changes one (ID
// not 0). Requests that were sent keep what they said.
func (a *Forms) Keep(ctx context.Context, by staff.Staff, k RequestKind) (int64, error) {
	if err := by.May("Changing the request form", role.Administrator); err != nil {
		return 0, err
	}
	var f problem.Fields
	f.Text("name", k.Name, 80)
	f.AtMost("description", k.Description, 300)
	for _, fault := range form.CheckFields(k.Fields) {
		f.Require(false, fault.Key, fault.Message)
	}
	var row store.RequestKind
	err := a.base.Transaction(ctx, func(tx *gorm.DB) error {
		var there struct{ Sites, Teams, Names int }
		err := tx.Raw(`SELECT (SELECT count(*) FROM sites WHERE id = ?) AS sites,
				(SELECT count(*) FROM teams WHERE name = ?) AS teams,
				(SELECT count(*) FROM request_kinds WHERE site_id = ? AND name = ? AND id <> ?) AS names`, k.SiteID, k.Team, k.SiteID, strings.TrimSpace(k.Name), k.ID).
			Scan(&there).
			Error
		if err != nil {
			return err
		}
		f.Require(there.Sites == 1, "site_id", "There is no such help centre.")
		f.Require(k.Team == "" || there.Teams == 1, "team", "There is no such team.")
		f.Require(there.Names == 0, "name", "Another kind of request has, or had, this name.")
		if err := f.Err(); err != nil {
			return err
		}
		if k.ID != 0 {
			if err := tx.Where("site_id = ?", k.SiteID).First(&row, k.ID).Error; err != nil {
				return problem.From(err, "kind of request")
			}
		} else if err := tx.Raw(`SELECT coalesce(max(position), 0) + 1
			FROM request_kinds
			WHERE site_id = ?`, k.SiteID).Scan(&row.Position).Error; err != nil {
			return err
		}
		if k.Fields == nil {
			k.Fields = []form.Field{}
		}
		row.SiteID = k.SiteID
		row.Name = strings.TrimSpace(k.Name)
		row.Description = strings.TrimSpace(k.Description)
		row.Team = k.Team
		if row.Fields, err = json.Marshal(k.Fields); err != nil {
			return err
		}
		if err := tx.Save(&row).Error; err != nil {
			return err
		}
		return a.trail.Note(tx, by, store.Trail{Subject: row.Name, Action: "changed kind of request"})
	})
	return row.ID, err
}

// Retire takes a kind of request from the form.
func (a *Forms) Retire(ctx context.Context, by staff.Staff, id int64) error {
	if err := by.May("Changing the request form", role.Administrator); err != nil {
		return err
	}
	return a.base.Transaction(ctx, func(tx *gorm.DB) error {
		var row store.RequestKind
		if err := tx.Where("retired_at IS NULL").First(&row, id).Error; err != nil {
			return problem.From(err, "kind of request")
		}
		now := a.base.Now()
		row.RetiredAt = &now
		if err := tx.Save(&row).Error; err != nil {
			return err
		}
		return a.trail.Note(tx, by, store.Trail{Subject: row.Name, Action: "retired kind of request"})
	})
}

// Named gives a kind of a site's form; "" gives one without fields of its own.
func Named(tx *gorm.DB, site int64, name string) (RequestKind, error) {
	if name == "" {
		return RequestKind{}, nil
	}
	var row store.RequestKind
	err := tx.Where("site_id = ? AND name = ? AND retired_at IS NULL", site, name).Take(&row).Error
	if err != nil {
		return RequestKind{}, problem.From(err, "kind of request")
	}
	return kindOf(row)
}
