package desk

import (
	"bytes"
	"context"
	"encoding/csv"
	"fmt"
	"io"
	"strings"
	"time"

	"hermeneus/app/instance"
	"hermeneus/app/problem"
	"hermeneus/app/staff"
	"hermeneus/core/article"
)

// TrailFilter chooses lines of the trail. Zero values choose all.
type TrailFilter struct {
	Article    string // A-0042
	CategoryID int64  // its own lines and those of the articles in it now, with everything below
	StaffID    int64
	Action     string
	Words      string // in the note or the subject
	From, To   time.Time
	Page       int
}

// TrailRow is one line of the whole trail.
type TrailRow struct {
	ID      int64     `json:"id"`
	At      time.Time `json:"at"`
	Who     string    `json:"who"`
	Subject string    `json:"subject"`
	Action  string    `json:"action"`
	From    string    `json:"from"`
	To      string    `json:"to"`
	Note    string    `json:"note"`
}

// trailRows reads the trail; who is the program where nobody acted.
const trailRows = `SELECT t.id, t.at, coalesce(s.name, 'Hermeneus') AS who, t.subject, t.action,
		t.from_state AS "from", t.to_state AS "to", t.note
	FROM ` + trailFor + ` t LEFT JOIN staff s ON s.id = t.staff_id WHERE `

// trailFor is the trail as somebody may read it, as SQL with one argument: whether they
// read what names customers.
const trailFor = `(SELECT id, at, staff_id, article_id, category_id, subject, action, from_state, to_state,
	CASE WHEN private AND NOT ? THEN '' ELSE note END AS note FROM trail)`

func (f TrailFilter) where() (string, []any, error) {
	where, args := []string{"true"}, []any{}
	add := func(use bool, sql string, values ...any) {
		if use {
			where, args = append(where, sql), append(args, values...)
		}
	}
	if f.Article != "" {
		n, _, ok := article.ParseEdition(f.Article)
		if !ok {
			return "", nil, problem.OfField("article", fmt.Sprintf("%q is no reference such as A-0042.", f.Article))
		}
		add(true, "t.article_id = (SELECT id FROM articles WHERE number = ?)", n)
	}
	below := `(WITH RECURSIVE below AS
			(SELECT ?::bigint AS id UNION ALL SELECT c.id FROM categories c
			JOIN below ON c.parent_id = below.id) SELECT id FROM below)`
	add(
		f.CategoryID != 0,
		`(t.category_id IN `+below+` OR t.article_id IN (SELECT id FROM articles WHERE category_id IN `+below+`))`,
		f.CategoryID,
		f.CategoryID,
	)
	add(f.StaffID > 0, "t.staff_id = ?", f.StaffID)
	add(f.StaffID < 0, "t.staff_id IS NULL")
	add(f.Action != "", "t.action = ?", f.Action)
	add(!f.From.IsZero(), "t.at >= ?", f.From)
	add(!f.To.IsZero(), "t.at < ?", f.To)
	if words := strings.TrimSpace(f.Words); words != "" {
		like := "%" + instance.EscapeLike(words) + "%"
		add(true, "(t.note ILIKE ? OR t.subject ILIKE ?)", like, like)
	}
	return strings.Join(where, " AND "), args, nil
}

// Trail lists who did what, the latest first, and counts what the filter chooses.
func (a *Desk) Trail(ctx context.Context, by staff.Staff, f TrailFilter) ([]TrailRow, int, error) {
	where, args, err := f.where()
	if err != nil {
		return nil, 0, err
	}
	db := a.base.DB.WithContext(ctx)
	args = append([]any{by.ReadsAll()}, args...)
	var total int
	if err := db.Raw(`SELECT count(*) FROM `+trailFor+` t WHERE `+where, args...).Scan(&total).Error; err != nil {
		return nil, 0, fmt.Errorf("counting the trail: %w", err)
	}
	list := []TrailRow{}
	err = db.Raw(trailRows+where+` ORDER BY t.at DESC, t.id DESC
		LIMIT ? OFFSET ?`, append(args, instance.PageSize, instance.Offset(f.Page))...).
		Scan(&list).
		Error
	return list, total, err
}

// TrailActions lists the actions that the trail knows.
func (a *Desk) TrailActions(ctx context.Context) ([]string, error) {
	var list []string
	err := a.base.DB.WithContext(ctx).Raw(`SELECT DISTINCT action FROM trail ORDER BY 1`).Scan(&list).Error
	return list, err
}

// TrailFile gives what the filter chooses as WriteTrail writes it.
func (a *Desk) TrailFile(ctx context.Context, by staff.Staff, f TrailFilter) ([]byte, error) {
	var out bytes.Buffer
	err := a.WriteTrail(ctx, by, f, &out)
	return out.Bytes(), err
}

// WriteTrail writes what the filter chooses as CSV (RFC 4180), the latest first.
// Times are in UTC. A cell that a spreadsheet would take for a formula begins with
// an apostrophe.
func (a *Desk) WriteTrail(ctx context.Context, by staff.Staff, f TrailFilter, out io.Writer) error {
	where, args, err := f.where()
	if err != nil {
		return err
	}
	rows, err := a.base.DB.WithContext(ctx).
		Raw(trailRows+where+` ORDER BY t.at DESC, t.id DESC`, append([]any{by.ReadsAll()}, args...)...).
		Rows()
	if err != nil {
		return err
	}
	defer func() { _ = rows.Close() }()
	w := csv.NewWriter(out)
	w.UseCRLF = true
	if err := w.Write([]string{"at", "who", "subject", "action", "from", "to", "note"}); err != nil {
		return err
	}
	for rows.Next() {
		var r TrailRow
		if err := rows.Scan(&r.ID, &r.At, &r.Who, &r.Subject, &r.Action, &r.From, &r.To, &r.Note); err != nil {
			return err
		}
		line := []string{r.At.UTC().Format(time.RFC3339), r.Who, r.Subject, r.Action, r.From, r.To, r.Note}
		for i, cell := range line {
			if cell != "" && strings.ContainsRune("=+-@\t\r", rune(cell[0])) {
				line[i] = "'" + cell
			}
		}
		if err := w.Write(line); err != nil {
			return err
		}
	}
	w.Flush()
	if err := rows.Err(); err != nil {
		return err
	}
	return w.Error()
}
