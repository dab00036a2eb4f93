package hours

import (
	"context"
	"fmt"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"hermeneus/app/accounts"
	"hermeneus/app/problem"
	"hermeneus/app/staff"
	corehours "hermeneus/core/hours"
	"hermeneus/core/role"
	"hermeneus/store"
)

// Of says whose days are meant: those of a team or a site, or with no kind those that hold for all.
type Of struct {
	Kind string
	ID   int64
}

// hoursID finds the hours that days belong to, and makes them if nobody has set any; nil for all.
func (o Of) hoursID(tx *gorm.DB) (*int64, string, error) {
	if o.Kind == "" {
		return nil, "holidays", nil
	}
	row, name, err := rowOf(tx, o.Kind, o.ID)
	if err != nil {
		return nil, "", err
	}
	if row.ID == 0 {
		row.Version = 1
		row.Week, row.AwayWords = []byte(`[[],[],[],[],[],[],[]]`), []byte(`{}`)
		row.BusyWords, row.ClosedWords = row.AwayWords, row.AwayWords
		if err := tx.Create(&row).Error; err != nil {
			return nil, "", err
		}
	}
	return &row.ID, "holidays of " + name, nil
}

// AddDay adds a time on which it is otherwise than the week says.
func (a *Hours) AddDay(ctx context.Context, by staff.Staff, of Of, e corehours.Exception) (int64, error) {
	if err := by.May("Setting holidays", role.Administrator, role.Publisher); err != nil {
		return 0, err
	}
	var f problem.Fields
	f.Text("name", e.Name, 200)
	if err := e.Check(); err != nil {
		f.Require(false, "begins", err.Error()+".")
	}
	if err := f.Err(); err != nil {
		return 0, err
	}
	if e.UID == "" {
		token, _ := accounts.NewToken()
		e.UID = token[:20] + "@hermeneus"
	}
	var id int64
	err := a.base.Change(ctx, store.HoursChanged, func(tx *gorm.DB) error {
		hours, subject, err := of.hoursID(tx)
		if err != nil {
			return err
		}
		if err := roomFor(tx, hours, 1); err != nil {
			return err
		}
		row := dayRow(hours, e)
		if err := tx.Create(&row).Error; err != nil {
			return problem.From(err, "day")
		}
		id = row.ID
		return a.changed(tx, by, subject, "added “"+e.Name+"”")
	})
	return id, err
}

func dayRow(hours *int64, e corehours.Exception) store.OpeningDay {
	return store.OpeningDay{
		HoursID: hours, UID: e.UID, Name: e.Name, Begins: e.Begins, Ends: e.Ends, Rule: e.Rule,
		ExceptDays: append(store.Strings{}, e.Except...), AlsoDays: append(store.Strings{}, e.Also...), Opens: e.Open,
	}
}

// roomFor refuses more days than are looked at.
func roomFor(tx *gorm.DB, hours *int64, more int) error {
	var n int64
	if err := tx.Model(&store.OpeningDay{}).
		Where("hours_id IS NOT DISTINCT FROM ?", hours).
		Count(&n).
		Error; err != nil {
		return err
	}
	if int(n)+more > corehours.MaxExceptions {
		return problem.New(problem.TooMany, "At most %d days are kept; there are %d already. Take old ones out first.",
			corehours.MaxExceptions, n)
	}
	return nil
}

// DropDay takes a day out.
func (a *Hours) DropDay(ctx context.Context, by staff.Staff, id int64) error {
	if err := by.May("Setting holidays", role.Administrator, role.Publisher); err != nil {
		return err
	}
	return a.base.Change(ctx, store.HoursChanged, func(tx *gorm.DB) error {
		var row store.OpeningDay
		if err := tx.Where("id = ?", id).Take(&row).Error; err != nil {
			return problem.From(err, "day")
		}
		if err := tx.Delete(&row).Error; err != nil {
			return err
		}
		return a.changed(tx, by, "holidays", "took out “"+row.Name+"”")
	})
}

// Brought says what came of a calendar.
type Brought struct {
	Added   int `json:"added"`
	Changed int `json:"changed"`
}

// BringCalendar takes the entries of an iCalendar file in: all of them, or none if one cannot be read. An entry whose
// UID is known is changed.
func (a *Hours) BringCalendar(ctx context.Context, by staff.Staff, of Of, raw []byte) (Brought, error) {
	var out Brought
	if err := by.May("Setting holidays", role.Administrator, role.Publisher); err != nil {
		return out, err
	}
	list, err := corehours.ReadCalendar(raw, a.base.Zone)
	if err != nil {
		return out, problem.New(problem.BadFile, "The calendar was not read: %s.", err)
	}
	err = a.base.Change(ctx, store.HoursChanged, func(tx *gorm.DB) error {
		hours, subject, err := of.hoursID(tx)
		if err != nil {
			return err
		}
		var known []string
		if err := tx.Model(&store.OpeningDay{}).
			Where("hours_id IS NOT DISTINCT FROM ?", hours).
			Pluck("uid", &known).
			Error; err != nil {
			return err
		}
		has := map[string]bool{}
		for _, uid := range known {
			has[uid] = true
		}
		rows := map[string]store.OpeningDay{}
		for _, e := range list {
			if _, twice := rows[e.UID]; twice {
				return problem.New(problem.BadFile, "The calendar has two entries with the UID “%s”.", e.UID)
			}
			if has[e.UID] {
				out.Changed++
			} else {
				out.Added++
			}
			rows[e.UID] = dayRow(hours, e)
		}
		if err := roomFor(tx, hours, out.Added); err != nil {
			return err
		}
		for _, row := range rows {
			err := tx.Clauses(clause.OnConflict{
				Columns: []clause.Column{{Name: "coalesce(hours_id, 0)", Raw: true}, {Name: "uid"}},
				DoUpdates: clause.AssignmentColumns(
					[]string{"name", "begins", "ends", "rule", "except_days", "also_days", "opens"},
				),
			}).Create(&row).Error
			if err != nil {
				return err
			}
		}
		return a.changed(
			tx,
			by,
			subject,
			fmt.Sprintf("brought in a calendar: %d added, %d changed", out.Added, out.Changed),
		)
	})
	return out, err
}

// GiveCalendar gives the days as an iCalendar file.
func (a *Hours) GiveCalendar(ctx context.Context, of Of) (string, error) {
	openings, err := a.ReadOpenings(ctx)
	if err != nil {
		return "", err
	}
	days, name := openings.Days, "Holidays"
	if of.Kind != "" {
		days = nil
		for _, o := range openings.List {
			if o.Kind == of.Kind && o.ID == of.ID {
				days, name = o.Days, o.Name
			}
		}
	}
	list := make([]corehours.Exception, len(days))
	for i, d := range days {
		list[i] = d.Exception
	}
	return corehours.WriteCalendar(name, list, a.base.Now()), nil
}
