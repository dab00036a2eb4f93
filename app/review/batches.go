package review

import (
	"context"
	"slices"
	"strings"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"hermeneus/app/library"
	"hermeneus/app/problem"
	"hermeneus/app/staff"
	"hermeneus/core/article"
	"hermeneus/core/review"
	"hermeneus/core/role"
	"hermeneus/store"
)

// MaxBatch is how many working copies can go live together.
const MaxBatch = 200

// Batch is working copies that are reviewed, scheduled, published and undone as one.
type Batch struct {
	ID        int64         `json:"id"`
	Name      string        `json:"name"`
	Note      string        `json:"note"` // for the change log of each
	State     string        `json:"state"`
	MadeBy    string        `json:"made_by"`
	MadeAt    time.Time     `json:"made_at"`
	EndedBy   string        `json:"ended_by"`
	EndedAt   *time.Time    `json:"ended_at"`
	Due       *Due          `json:"due"` // when it goes live by itself
	Members   []BatchMember `json:"members"`
	Ready     int           `json:"ready"` // members past every gate
	Conflicts []string      `json:"conflicts"`
	May       []string      `json:"may"` // what the reader may do with it: submit, approve, send_back, publish, schedule, unschedule, undo, give_up, change
	Zone      string        `json:"zone"`
	Stand     string        `json:"stand"` // to be sent with a step, so that it is refused if something changed
}

// Due is when something happens by itself.
type Due struct {
	At   time.Time `json:"at"`
	Wall string    `json:"wall"`
	Zone string    `json:"zone"`
	Who  string    `json:"who"` // set it
}

// BatchMember is a working copy in a batch.
type BatchMember struct {
	Reference string       `json:"reference"`
	Title     string       `json:"title"`
	State     review.State `json:"state"`
	Gate      string       `json:"gate"` // that it stands before
	Mine      bool         `json:"mine"` // and the reader may pass it
	Live      bool         `json:"live"`
	Version   int          `json:"version"`
	Note      string       `json:"decision_note"`
	Comments  int          `json:"comments"` // open ones
}

// BatchLine is a batch in a list.
type BatchLine struct {
	ID      int64      `json:"id"`
	Name    string     `json:"name"`
	State   string     `json:"state"`
	MadeBy  string     `json:"made_by"`
	MadeAt  time.Time  `json:"made_at"`
	EndedAt *time.Time `json:"ended_at"`
	Members int        `json:"members"`
	Ready   int        `json:"ready"`
	DueAt   *time.Time `json:"due_at"`
}

// List lists the open and scheduled ones, and the last that ended.
func (a *Batches) List(ctx context.Context) ([]BatchLine, error) {
	var list []BatchLine
	err := a.base.DB.WithContext(ctx).Raw(`SELECT b.id, b.name, b.state, b.made_at, b.ended_at, s.name AS made_by,
			(SELECT count(*) FROM batch_members m WHERE m.batch_id = b.id) AS members,
			(SELECT count(*) FROM editions e
			WHERE e.batch_id = b.id AND e.state IN ('approved', 'scheduled')) AS ready,
			(SELECT due_at FROM schedules d WHERE d.batch_id = b.id AND d.state = 'waiting') AS due_at
		FROM batches b JOIN staff s ON s.id = b.made_by ORDER BY b.state NOT IN ('open', 'scheduled'), b.id DESC
		LIMIT 50`).Scan(&list).Error
	return list, err
}

// MakeBatch puts working copies together. Each can be in one batch only.
func (a *Batches) MakeBatch(
	ctx context.Context,
	by staff.Staff,
	name, note string,
	references []string,
) (int64, error) {
	if err := by.May("Making a batch", role.Author, role.Publisher); err != nil {
		return 0, err
	}
	if err := checkBatch(name, note); err != nil {
		return 0, err
	}
	row := store.Batch{
		Name:   strings.TrimSpace(name),
		Note:   strings.TrimSpace(note),
		MadeBy: by.ID,
		MadeAt: a.base.Now(),
		State:  store.BatchOpen,
	}
	err := a.base.Transaction(ctx, func(tx *gorm.DB) error {
		if err := tx.Create(&row).Error; err != nil {
			return err
		}
		if err := a.trail.Note(tx, by, store.Trail{Subject: "batch " + row.Name, Action: "made batch"}); err != nil {
			return err
		}
		return a.addMembers(tx, by, &row, references)
	})
	return row.ID, err
}

func checkBatch(name, note string) error {
	var f problem.Fields
	f.Text("name", name, 120)
	f.AtMost("note", note, 500)
	return f.Err()
}

// ChangeBatch renames an open batch, changes its note, and puts working copies in
// or takes them out.
func (a *Batches) ChangeBatch(
	ctx context.Context,
	by staff.Staff,
	id int64,
	name, note string,
	add, remove []string,
) error {
	if err := by.May("Changing a batch", role.Author, role.Publisher); err != nil {
		return err
	}
	if err := checkBatch(name, note); err != nil {
		return err
	}
	return a.base.Transaction(ctx, func(tx *gorm.DB) error {
		row, err := lockBatch(tx, id)
		if err != nil {
			return err
		}
		if row.State != store.BatchOpen {
			return problem.New(
				problem.NotNow,
				"This batch is %s, so it is not changed any more.",
				strings.ReplaceAll(row.State, "_", " "),
			)
		}
		row.Name, row.Note = strings.TrimSpace(name), strings.TrimSpace(note)
		if err := tx.Save(&row).Error; err != nil {
			return err
		}
		for _, ref := range remove {
			_, e, err := library.FindEdition(tx, ref, true)
			if err != nil {
				return err
			}
			if err := tx.Exec(
				`DELETE FROM batch_members WHERE batch_id = ? AND edition_id = ?`,
				id,
				e.ID,
			).Error; err != nil {
				return err
			}
			if err := tx.Exec(
				`UPDATE editions SET batch_id = NULL WHERE id = ? AND batch_id = ?`,
				e.ID,
				id,
			).Error; err != nil {
				return err
			}
		}
		return a.addMembers(tx, by, &row, add)
	})
}

func lockBatch(tx *gorm.DB, id int64) (store.Batch, error) {
	var row store.Batch
	err := tx.Clauses(clause.Locking{Strength: "UPDATE"}).First(&row, id).Error
	return row, problem.From(err, "batch")
}

// ReadBatch gives a batch with its members and what the reader may do with it.
func (a *Batches) ReadBatch(ctx context.Context, by staff.Staff, id int64) (Batch, error) {
	db := a.base.DB.WithContext(ctx)
	var row struct {
		store.Batch
		Maker, Ender string
	}
	err := db.Raw(`SELECT b.*, s.name AS maker, coalesce(x.name, '') AS ender
		FROM batches b JOIN staff s ON s.id = b.made_by LEFT JOIN staff x ON x.id = b.ended_by WHERE b.id = ?`, id).
		Take(&row).
		Error
	if err != nil {
		return Batch{}, problem.From(err, "batch")
	}
	stand, err := batchStand(db, id)
	if err != nil {
		return Batch{}, err
	}
	out := Batch{
		Stand:   stand,
		ID:      row.ID,
		Name:    row.Name,
		Note:    row.Note,
		State:   row.State,
		MadeBy:  row.Maker,
		MadeAt:  row.MadeAt,
		EndedBy: row.Ender,
		EndedAt: row.EndedAt,
	}
	list, err := members(db, id, false)
	if err != nil {
		return out, err
	}
	uses, err := library.FlowUses(db)
	if err != nil {
		return out, err
	}
	copies := make([]review.Copy, len(list))
	zone := a.base.Zone
	for i, m := range list {
		if copies[i], _, err = a.review.Situation(db, m.row, m.e); err != nil {
			return out, err
		}
		copies[i].Batch = ""
		line := BatchMember{
			Reference: article.EditionReference(m.row.Number, m.e.Language),
			Title:     m.e.Title,
			State:     review.State(m.e.State),
			Live:      m.e.LiveRevisionID != nil,
			Version:   m.e.Version,
			Note:      m.e.DecisionNote,
		}
		if line.State == review.InReview {
			gate, _ := copies[i].Gate()
			line.Gate, line.Mine = gate.Name, copies[i].MayPass(by.Actor()) == ""
		}
		if line.Comments, err = openComments(db, m.e.ID); err != nil {
			return out, err
		}
		if line.State == review.Approved || line.State == review.Scheduled {
			out.Ready++
		}
		out.Conflicts = append(out.Conflicts, library.Conflicts(m.row, uses)...)
		out.Members = append(out.Members, line)
		if i == 0 {
			if zone, err = a.review.zoneOf(db, m.row.CategoryID); err != nil {
				return out, err
			}
		}
	}
	out.Zone = zone.String()
	out.May = mayBatch(by, out.State, copies)
	var due Due
	err = db.Raw(`SELECT d.due_at AS at, d.wall, d.zone, s.name AS who
		FROM schedules d JOIN staff s ON s.id = d.staff_id WHERE d.batch_id = ? AND d.state = 'waiting'`, id).
		Scan(&due).
		Error
	if due.Wall != "" {
		out.Due = &due
	}
	return out, err
}

// mayBatch lists what somebody may do with a batch in a state.
func mayBatch(by staff.Staff, state string, copies []review.Copy) []string {
	var may []string
	any := func(action review.Action) bool {
		return slices.ContainsFunc(
			copies,
			func(c review.Copy) bool { _, err := c.Do(action, by.Actor(), "note"); return err == nil },
		)
	}
	every := func(action review.Action) bool {
		return len(copies) > 0 &&
			!slices.ContainsFunc(
				copies,
				func(c review.Copy) bool { _, err := c.Do(action, by.Actor(), "note"); return err != nil },
			)
	}
	add := func(ok bool, what string) {
		if ok {
			may = append(may, what)
		}
	}
	writes := by.Roles.Has(role.Author, role.Publisher)
	switch state {
	case store.BatchOpen:
		add(writes, "change")
		add(any(review.Submit), "submit")
		add(any(review.Approve), "approve")
		add(any(review.SendBack), "send_back")
		add(every(review.Publish), "publish")
		add(every(review.Schedule), "schedule")
		add(writes, "give_up")
	case store.BatchScheduled:
		add(every(review.Unschedule), "unschedule")
		add(every(review.Publish), "publish")
	case store.BatchPublished:
		add(by.Roles.Has(role.Publisher), "undo")
	}
	return may
}
