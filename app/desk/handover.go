package desk

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"

	"gorm.io/gorm"

	"hermeneus/app/accounts"
	"hermeneus/app/instance"
	"hermeneus/app/notify"
	"hermeneus/app/problem"
	"hermeneus/app/staff"
	"hermeneus/core/article"
	"hermeneus/core/review"
	"hermeneus/store"
)

// HandOver says to whom somebody's work goes.
type HandOver struct {
	Owner      int64           `json:"owner" doc:"Of their articles, where no other is named"`
	Owners     []CategoryOwner `json:"owners,omitempty" doc:"For single categories"`
	Reviewer   int64           `json:"reviewer" doc:"For reviews handed to them and gates that name them"`
	Steward    int64           `json:"steward" doc:"Of their categories"`
	DisableNow bool            `json:"disable" doc:"They cannot sign in any more"`
}

// CategoryOwner is the new owner of the articles in a category.
type CategoryOwner struct {
	CategoryID int64 `json:"category_id"`
	OwnerID    int64 `json:"owner_id"`
}

// HandedOver says what went to whom.
type HandedOver struct {
	Articles   int      `json:"articles"`
	Reviews    int      `json:"reviews"`
	Gates      int      `json:"gates"`
	Categories int      `json:"categories"`
	Left       []string `json:"left"` // what could not be handed over, and why
}

// HandOverAll gives everything that is somebody's to others, in one transaction.
func (a *Desk) HandOverAll(ctx context.Context, by staff.Staff, id int64, h HandOver) (HandedOver, error) {
	has, err := a.ReadBelongings(ctx, by, id)
	if err != nil {
		return HandedOver{}, err
	}
	if id == by.ID && h.DisableNow {
		return HandedOver{}, problem.New(
			problem.NotNow,
			"You cannot take away your own administration; another administrator can.",
		)
	}
	var out HandedOver
	err = a.base.Transaction(ctx, func(tx *gorm.DB) error {
		out = HandedOver{}
		roster, err := staff.ReadRoster(tx)
		if err != nil {
			return err
		}
		if err := h.check(roster, id, has); err != nil {
			return err
		}
		t := handover{area: a, tx: tx, by: by, from: has.Person, to: h, roster: roster, out: &out}
		if err := errors.Join(t.articles(has), t.gates(), t.reviews(), t.stewardships()); err != nil {
			return err
		}
		if h.Owner != 0 {
			if err := tx.Exec(
				`UPDATE feedback SET for_id = ? WHERE for_id = ? AND answer = 'passed_on'`,
				h.Owner,
				id,
			).Error; err != nil {
				return err
			}
		}
		line := store.Trail{
			Subject: has.Person.Name,
			Action:  "handed over",
			Note: fmt.Sprintf(
				"%d articles, %d reviews, %d gates, %d categories",
				out.Articles,
				out.Reviews,
				out.Gates,
				out.Categories,
			),
		}
		if err := a.trail.Note(tx, by, line); err != nil {
			return err
		}
		if h.DisableNow && !has.Person.Disabled {
			if err := a.accounts.People.SetStaff(tx, by, id, has.Person.Roles, true); err != nil {
				return err
			}
		}
		return a.review.TellStuck(tx)
	})
	return out, err
}

func (h HandOver) check(roster staff.Roster, id int64, has Belongings) error {
	var f problem.Fields
	there := func(to int64, name string) {
		_, ok := roster.By[to]
		f.Require(to == 0 || ok && to != id, name, "Choose somebody else who can sign in.")
	}
	there(h.Owner, "owner")
	there(h.Reviewer, "reviewer")
	there(h.Steward, "steward")
	for _, o := range h.Owners {
		there(o.OwnerID, "owners")
	}
	if h.DisableNow {
		f.Require(
			len(has.Articles) == 0 || h.Owner != 0 || len(h.Owners) >= len(has.Articles),
			"owner",
			"Somebody must own their articles once they are gone.",
		)
		f.Require(
			len(has.Categories) == 0 || h.Steward != 0,
			"steward",
			"Somebody must be steward of their categories once they are gone.",
		)
		f.Require(
			len(has.Gates)+len(has.Reviews) == 0 || h.Reviewer != 0,
			"reviewer",
			"Somebody must review in their place once they are gone.",
		)
	}
	return f.Err()
}

// handover is everything of one person being handed over.
type handover struct {
	area   *Desk
	tx     *gorm.DB
	by     staff.Staff
	from   accounts.Person
	to     HandOver
	roster staff.Roster
	out    *HandedOver
}

func (t handover) articles(has Belongings) error {
	got := map[int64]int{}
	for _, c := range has.Articles {
		owner := t.to.Owner
		for _, o := range t.to.Owners {
			if o.CategoryID == c.Category.ID && o.OwnerID != 0 {
				owner = o.OwnerID
			}
		}
		if owner == 0 {
			continue
		}
		var rows []store.Article
		if err := t.tx.Where("owner_id = ? AND category_id = ?", t.from.ID, c.Category.ID).
			Order("id").
			Find(&rows).
			Error; err != nil {
			return err
		}
		if err := t.tx.Exec(
			`UPDATE articles SET owner_id = ? WHERE owner_id = ? AND category_id = ?`,
			owner,
			t.from.ID,
			c.Category.ID,
		).Error; err != nil {
			return err
		}
		for _, row := range rows {
			line := store.Trail{
				ArticleID: &row.ID,
				Subject:   article.Reference(row.Number),
				Action:    "properties",
				Note:      fmt.Sprintf("owner %s → %s", t.from.Name, t.roster.Name(owner)),
			}
			if err := t.area.trail.Note(t.tx, t.by, line); err != nil {
				return err
			}
		}
		got[owner] += len(rows)
		t.out.Articles += len(rows)
	}
	for owner, n := range got {
		text := fmt.Sprintf("%d of the articles of %s are yours now.", n, t.from.Name)
		if err := t.area.notify.Tell(
			t.tx,
			notify.NewsHandedOver,
			staff.Except([]int64{owner}, t.by.ID),
			text,
			fmt.Sprintf("/library?owner=%d", owner),
		); err != nil {
			return err
		}
	}
	return nil
}

func (t handover) reviews() error {
	if t.to.Reviewer == 0 {
		return nil
	}
	var list []store.Review
	if err := t.tx.Where("ended_at IS NULL AND assignee_id = ? AND gate <> ''", t.from.ID).
		Order("id").
		Find(&list).
		Error; err != nil {
		return err
	}
	to := t.roster.By[t.to.Reviewer]
	for _, r := range list {
		var e store.Edition
		var row store.Article
		if err := t.tx.First(&e, r.TextID).Error; err != nil {
			return err
		}
		if err := t.tx.First(&row, e.ArticleID).Error; err != nil {
			return err
		}
		c, _, err := t.area.review.Situation(t.tx, row, e)
		if err != nil {
			return err
		}
		ref := article.EditionReference(row.Number, e.Language)
		assignee := &to.ID
		if reason := c.MayPass(to.Actor()); reason != "" {
			assignee = nil // whoever is entitled takes it
			t.out.Left = append(
				t.out.Left,
				fmt.Sprintf("%s: %s cannot decide there, so it waits for anybody the gate belongs to.", ref, to.Name),
			)
		} else {
			t.out.Reviews++
			text := fmt.Sprintf(
				"“%s” waits for you at the gate “%s”, in the place of %s.",
				e.Title,
				r.Gate,
				t.from.Name,
			)
			if err := t.area.notify.Tell(
				t.tx,
				notify.NewsReviewAsked,
				staff.Except([]int64{to.ID}, t.by.ID),
				text,
				"/review/"+ref,
			); err != nil {
				return err
			}
		}
		if err := t.tx.Exec(`UPDATE reviews SET assignee_id = ? WHERE id = ?`, assignee, r.ID).Error; err != nil {
			return err
		}
	}
	return nil
}

// gates puts the new reviewer in the place of who leaves, in the paths and in the
// rounds that entered them.
func (t handover) gates() error {
	if t.to.Reviewer == 0 {
		return nil
	}
	replace := func(gates []review.Gate) (changed int) {
		for i, g := range gates {
			if at := slices.Index(g.People, t.from.ID); at >= 0 {
				people := slices.Delete(slices.Clone(g.People), at, at+1)
				if !slices.Contains(people, t.to.Reviewer) {
					people = append(people, t.to.Reviewer)
				}
				gates[i].People = people
				changed++
			}
		}
		return changed
	}
	var paths []store.Path
	if err := t.tx.Where("retired_at IS NULL").Find(&paths).Error; err != nil {
		return err
	}
	for _, row := range paths {
		var gates []review.Gate
		if err := json.Unmarshal(row.Gates, &gates); err != nil {
			return err
		}
		n := replace(gates)
		if n == 0 {
			continue
		}
		raw, err := json.Marshal(gates)
		if err != nil {
			return err
		}
		if err := t.tx.Exec(`UPDATE paths SET gates = ? WHERE id = ?`, string(raw), row.ID).Error; err != nil {
			return err
		}
		t.out.Gates += n
	}
	var reviews []store.Review
	if err := t.tx.Where("ended_at IS NULL").Find(&reviews).Error; err != nil {
		return err
	}
	for _, r := range reviews {
		var p review.Path
		if err := json.Unmarshal(r.Path, &p); err != nil {
			return err
		}
		if replace(p.Gates) == 0 {
			continue
		}
		raw, err := json.Marshal(p)
		if err != nil {
			return err
		}
		if err := t.tx.Exec(`UPDATE reviews SET path = ? WHERE id = ?`, string(raw), r.ID).Error; err != nil {
			return err
		}
	}
	return nil
}

func (t handover) stewardships() error {
	if t.to.Steward == 0 {
		return nil
	}
	var list []instance.Name
	if err := t.tx.Raw(`SELECT id, name FROM categories WHERE steward_id = ?`, t.from.ID).
		Scan(&list).
		Error; err != nil {
		return err
	}
	for _, c := range list {
		line := store.Trail{
			CategoryID: &c.ID,
			Subject:    c.Name,
			Action:     "changed reviewing",
			Note:       fmt.Sprintf("steward %s → %s", t.from.Name, t.roster.Name(t.to.Steward)),
		}
		if err := t.area.trail.Note(t.tx, t.by, line); err != nil {
			return err
		}
	}
	t.out.Categories = len(list)
	return t.tx.Exec(`UPDATE categories SET steward_id = ? WHERE steward_id = ?`, t.to.Steward, t.from.ID).Error
}
