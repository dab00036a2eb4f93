package library

import (
	"context"
	"fmt"
	"strings"
	"time"

	"gorm.io/gorm"

	"hermeneus/app/instance"
	"hermeneus/app/problem"
	"hermeneus/app/staff"
	"hermeneus/core/article"
	"hermeneus/core/audience"
	"hermeneus/core/role"
	"hermeneus/store"
)

// DefaultRecheck is after how many days a new article must be looked at again.
const DefaultRecheck = 180

// Properties are what an article is besides its text.
type Properties struct {
	CategoryID     int64             `json:"category_id"`
	OwnerID        int64             `json:"owner_id"`
	Kind           string            `json:"kind"`
	Audience       audience.Audience `json:"audience"`
	RecheckDays    int               `json:"recheck_days,omitempty"`    // 0 leaves it as it is
	RecheckByRule  bool              `json:"recheck_by_rule,omitempty"` // by kind and use
	InterimUntil   string            `json:"interim_until,omitempty"`   // a day such as 2026-03-02; "" for standing
	KnownProblemID int64             `json:"known_problem_id,omitempty"`
}

func (p Properties) into(row *store.Article, today time.Time) error {
	row.CategoryID, row.OwnerID, row.Kind, row.Audience = p.CategoryID, p.OwnerID, p.Kind, string(p.Audience)
	switch {
	case p.RecheckByRule:
		row.RecheckByRule = true
	case p.RecheckDays != 0 && (p.RecheckDays != row.RecheckDays || row.RecheckByRule):
		row.RecheckByRule = false
		if p.RecheckDays != row.RecheckDays {
			row.RecheckDays, row.RecheckOn = p.RecheckDays, today.AddDate(0, 0, p.RecheckDays)
		}
	}
	row.InterimUntil, row.KnownProblemID = nil, nil
	if p.InterimUntil != "" {
		day, err := time.Parse(time.DateOnly, p.InterimUntil)
		if err != nil {
			return problem.OfField("interim_until", "A day is written as 2026-03-02.")
		}
		row.InterimUntil = &day
	}
	if p.KnownProblemID != 0 {
		row.KnownProblemID = &p.KnownProblemID
	}
	return nil
}

// SetProperties changes them. Widening the audience of what is live shows it to
// more people at once, so it needs a publisher.
func (a *Library) SetProperties(ctx context.Context, by staff.Staff, reference string, p Properties) error {
	if err := by.May("Changing an article", role.Author, role.Publisher); err != nil {
		return err
	}
	return a.base.Transaction(ctx, func(tx *gorm.DB) error {
		row, _, err := FindEdition(tx, reference, true)
		if err != nil {
			return err
		}
		before := row
		if err := p.into(&row, a.base.Today()); err != nil {
			return err
		}
		return a.KeepProperties(tx, by, before, row)
	})
}

// KeepProperties checks and keeps changed properties of an article.
func (a *Library) KeepProperties(tx *gorm.DB, by staff.Staff, before, row store.Article) error {
	if err := CheckProperties(tx, row); err != nil {
		return err
	}
	note := ChangedProperties(before, row)
	if note == "" {
		return nil
	}
	if row.Audience != before.Audience {
		if err := a.liveAudience(tx, by, before, row); err != nil {
			return err
		}
	}
	if before.CategoryID != row.CategoryID {
		if err := tx.First(&store.Category{}, row.CategoryID).Error; err != nil {
			return problem.From(err, "category")
		}
		err := tx.Raw(`SELECT coalesce(max(position), 0) + 1 FROM articles WHERE category_id = ?`, row.CategoryID).
			Scan(&row.Position).
			Error
		if err != nil {
			return err
		}
	}
	if before.OwnerID != row.OwnerID {
		if err := tx.First(&store.Staff{}, row.OwnerID).Error; err != nil {
			return problem.From(err, "member of staff")
		}
	}
	if err := tx.Save(&row).Error; err != nil {
		return err
	}
	if err := a.trail.Note(
		tx,
		by,
		store.Trail{ArticleID: &row.ID, Subject: article.Reference(row.Number), Action: "properties", Note: note},
	); err != nil {
		return err
	}
	return store.Announce(tx, store.ArticleChanged, row.ID)
}

// liveAudience refuses to change the audience of what is live where that shows it to
// more people without a publisher, or leaves a flow with what not everybody may see.
func (a *Library) liveAudience(tx *gorm.DB, by staff.Staff, before, row store.Article) error {
	var live int
	err := tx.Raw(`SELECT count(*) FROM editions WHERE article_id = ? AND live_revision_id IS NOT NULL`, row.ID).
		Scan(&live).
		Error
	if err != nil || live == 0 {
		return err
	}
	if audience.Audience(row.Audience).WiderThan(audience.Audience(before.Audience)) {
		if err := by.May("Showing a live article to more people", role.Publisher); err != nil {
			return err
		}
	}
	return RefuseConflicts(tx, row)
}

// ChangedProperties says in words what changed, "" for nothing.
func ChangedProperties(before, after store.Article) string {
	var parts []string
	add := func(differs bool, format string, args ...any) {
		if differs {
			parts = append(parts, fmt.Sprintf(format, args...))
		}
	}
	add(before.Audience != after.Audience, "audience %s → %s", before.Audience, after.Audience)
	add(before.Kind != after.Kind, "kind %s → %s", before.Kind, after.Kind)
	add(before.CategoryID != after.CategoryID, "moved to another category")
	add(before.OwnerID != after.OwnerID, "given to another owner")
	add(before.RecheckByRule != after.RecheckByRule && after.RecheckByRule, "rechecked by kind and use")
	add(
		before.RecheckByRule != after.RecheckByRule && !after.RecheckByRule && before.RecheckDays == after.RecheckDays,
		"recheck every %d days",
		after.RecheckDays,
	)
	add(before.RecheckDays != after.RecheckDays, "recheck every %d days", after.RecheckDays)
	add(
		!before.RecheckOn.Equal(after.RecheckOn) && before.RecheckDays == after.RecheckDays,
		"recheck on %s",
		after.RecheckOn.Format(time.DateOnly),
	)
	add(Day(before.InterimUntil) != Day(after.InterimUntil), "interim until %s", orNever(Day(after.InterimUntil)))
	add(
		instance.IDOrZero(before.KnownProblemID) != instance.IDOrZero(after.KnownProblemID),
		"waits for another known problem",
	)
	return strings.Join(parts, "; ")
}

// Day writes a day such as 2026-03-02, "" for none.
func Day(t *time.Time) string {
	if t == nil {
		return ""
	}
	return t.Format(time.DateOnly)
}

func orNever(day string) string {
	if day == "" {
		return "no day"
	}
	return day
}

// AudienceCount says how many belong to an audience, and who.
type AudienceCount struct {
	Audience  audience.Audience `json:"audience"`
	Name      string            `json:"name"`
	Who       string            `json:"who"`
	Customers int               `json:"customers"`
	Staff     int               `json:"staff"`
}

// Audiences says exactly who each audience is.
func (a *Library) Audiences(ctx context.Context) ([]AudienceCount, error) {
	var n struct{ Customers, Staff int }
	err := a.base.DB.WithContext(ctx).
		Raw(`SELECT (SELECT count(*) FROM customers) AS customers,
				(SELECT count(*) FROM staff WHERE disabled_at IS NULL) AS staff`).
		Scan(&n).
		Error
	if err != nil {
		return nil, err
	}
	groups, err := a.customers.Groups(ctx)
	if err != nil {
		return nil, err
	}
	list := []AudienceCount{
		{
			audience.Everyone,
			"Everyone",
			"Anybody who opens the help centre or asks in the chat, search engines too.",
			n.Customers,
			n.Staff,
		},
		{audience.SignedIn, "Signed-in customers", "Customers who have signed in, and staff.", n.Customers, n.Staff},
	}
	for _, g := range groups {
		list = append(
			list,
			AudienceCount{
				g.Audience,
				g.Name,
				"Customers in the group “" + g.Name + "” who have signed in, and staff.",
				g.Members,
				n.Staff,
			},
		)
	}
	return append(
		list,
		AudienceCount{
			audience.Staff,
			"Staff only",
			"Staff only: no customer sees it, in search, chat or by its address.",
			0,
			n.Staff,
		},
	), nil
}
