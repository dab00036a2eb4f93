package review

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"time"

	"gorm.io/gorm"

	"hermeneus/app/instance"
	"hermeneus/app/library"
	"hermeneus/app/notify"
	"hermeneus/app/problem"
	"hermeneus/app/staff"
	"hermeneus/core/article"
	"hermeneus/core/compare"
	"hermeneus/core/role"
	"hermeneus/store"
)

// Comment is what somebody on the staff said of a passage, with its replies.
type Comment struct {
	ID         int64         `json:"id"`
	Who        instance.Name `json:"who"`
	At         time.Time     `json:"at"`
	Text       string        `json:"text"`
	Quote      string        `json:"quote"` // as it was marked
	Place      *compare.Spot `json:"place"` // where it is now; nil when it is gone from the text
	Suggestion *string       `json:"suggestion"`
	AcceptedAt *time.Time    `json:"accepted_at"`
	ResolvedAt *time.Time    `json:"resolved_at"`
	ResolvedBy string        `json:"resolved_by"`
	Replies    []Reply       `json:"replies"`
}

// Reply is an answer to a comment.
type Reply struct {
	ID   int64         `json:"id"`
	Who  instance.Name `json:"who"`
	At   time.Time     `json:"at"`
	Text string        `json:"text"`
}

// List lists what was said of an edition's text, in the order of the text; what
// stands nowhere any more comes last.
func (a *Comments) List(ctx context.Context, reference string) ([]Comment, error) {
	db := a.base.DB.WithContext(ctx)
	_, e, err := library.FindEdition(db, reference, false)
	if err != nil {
		return nil, err
	}
	var rows []struct {
		store.Comment
		Name, Resolver string
	}
	err = db.Raw(`SELECT c.*, s.name, coalesce(r.name, '') AS resolver FROM comments c JOIN staff s ON s.id = c.staff_id
		LEFT JOIN staff r ON r.id = c.resolved_by WHERE c.text_id = ? ORDER BY c.id`, e.ID).Scan(&rows).Error
	if err != nil {
		return nil, err
	}
	list := []Comment{}
	at := map[int64]int{}
	var anchors []compare.Anchor
	for _, r := range rows {
		if r.ParentID != nil {
			if i, ok := at[*r.ParentID]; ok {
				list[i].Replies = append(
					list[i].Replies,
					Reply{r.ID, instance.Name{ID: r.StaffID, Name: r.Name}, r.At, r.Text},
				)
			}
			continue
		}
		anchor, err := AnchorOf(r.Anchor)
		if err != nil {
			return nil, err
		}
		anchors = append(anchors, anchor)
		at[r.ID] = len(list)
		list = append(
			list,
			Comment{
				ID:         r.ID,
				Who:        instance.Name{ID: r.StaffID, Name: r.Name},
				At:         r.At,
				Text:       r.Text,
				Quote:      QuoteOf(anchor),
				Suggestion: r.Suggestion,
				AcceptedAt: r.AcceptedAt,
				ResolvedAt: r.ResolvedAt,
				ResolvedBy: r.Resolver,
			},
		)
	}
	for i, found := range compare.LocateAll(e.Body, anchors) {
		if p, err := found.Spot(); err == nil {
			list[i].Place = &p
		}
	}
	slices.SortStableFunc(list, func(x, y Comment) int { return placeOrder(x.Place) - placeOrder(y.Place) })
	return list, nil
}

func placeOrder(p *compare.Spot) int {
	if p == nil {
		return 1 << 40
	}
	return p.Line<<20 + min(p.Start, 1<<20-1)
}

// AnchorOf reads where a comment is about, as it is kept.
func AnchorOf(raw *json.RawMessage) (compare.Anchor, error) {
	var anchor compare.Anchor
	if raw == nil {
		return anchor, nil
	}
	if err := json.Unmarshal(*raw, &anchor); err != nil {
		return anchor, fmt.Errorf("reading where a passage is: %w", err)
	}
	return anchor, nil
}

// QuoteOf is the passage that an anchor was made of, as readers know it.
func QuoteOf(a compare.Anchor) string {
	if a.Quote != "" {
		return a.Quote
	}
	if cut := []rune(a.Text); len(cut) > 120 {
		return string(cut[:119]) + "…"
	}
	return a.Text
}

// NewComment is a comment to be made at a passage.
type NewComment struct {
	Line       int     `json:"line"`
	Quote      string  `json:"quote"` // "" for the whole line
	Occurrence int     `json:"occurrence,omitempty" doc:"of the quote within its line, from 0"`
	Text       string  `json:"text"`
	Suggestion *string `json:"suggestion,omitempty" doc:"other words for the passage"`
}

// MayComment lets those who write and review comment, and agents on what was made of a
// reply of theirs.
func MayComment(db *gorm.DB, by staff.Staff, row store.Article) error {
	err := by.May("Commenting", role.Author, role.Reviewer, role.Publisher)
	if err == nil || row.ConversationID == nil {
		return err
	}
	var theirs bool
	if failed := db.Raw(`SELECT EXISTS (SELECT 1 FROM messages WHERE conversation_id = ? AND staff_id = ?)`, *row.ConversationID, by.ID).
		Scan(&theirs).
		Error; failed != nil {
		return failed
	}
	if theirs {
		return nil
	}
	return err
}

// AddComment says something of a passage of the working copy.
func (a *Comments) AddComment(ctx context.Context, by staff.Staff, reference string, n NewComment) (int64, error) {
	var f problem.Fields
	n.Text = strings.TrimSpace(n.Text)
	f.Require(n.Text != "" || n.Suggestion != nil, "text", "Say something, or suggest other words.")
	f.AtMost("text", n.Text, 4000)
	f.AtMost("quote", n.Quote, 2000)
	if n.Suggestion != nil {
		f.AtMost("suggestion", *n.Suggestion, 4000)
		f.Require(strings.TrimSpace(n.Quote) != "", "quote", "Mark the words that should read otherwise.")
		f.Require(*n.Suggestion != n.Quote, "suggestion", "These are the same words.")
	}
	if err := f.Err(); err != nil {
		return 0, err
	}
	var id int64
	err := a.base.Transaction(ctx, func(tx *gorm.DB) error {
		row, e, err := library.FindEdition(tx, reference, false)
		if err != nil {
			return err
		}
		if err := MayComment(tx, by, row); err != nil {
			return err
		}
		anchor, err := compare.MakeAnchor(e.Body, n.Line, n.Quote, n.Occurrence)
		if err != nil {
			return problem.OfField(
				"quote",
				"These words are not in the text as it is now. Load it again and mark them once more.",
			)
		}
		raw, err := json.Marshal(anchor)
		if err != nil {
			return err
		}
		where := json.RawMessage(raw)
		c := store.Comment{
			TextID:     e.ID,
			StaffID:    by.ID,
			At:         a.base.Now(),
			Text:       n.Text,
			Anchor:     &where,
			Suggestion: n.Suggestion,
		}
		if err := tx.Create(&c).Error; err != nil {
			return err
		}
		id = c.ID
		text := fmt.Sprintf("%s on “%s”: %s", by.Name, e.Title, n.Text)
		if n.Suggestion != nil {
			text = fmt.Sprintf("%s suggests other words in “%s”. %s", by.Name, e.Title, n.Text)
		}
		if err := a.tellAuthors(
			tx,
			by,
			e,
			text,
			"/library/"+article.EditionReference(row.Number, e.Language),
		); err != nil {
			return err
		}
		return store.Announce(tx, store.CopyChanged, e.ID)
	})
	return id, err
}

// tellAuthors tells who wrote a text of what was said of it.
func (a *Comments) tellAuthors(tx *gorm.DB, by staff.Staff, e store.Edition, text, path string) error {
	ids := []int64{e.WriterID}
	if e.SubmitterID != nil {
		ids = append(ids, *e.SubmitterID)
	}
	return a.notify.Tell(tx, notify.NewsDecided, staff.Except(ids, by.ID), text, path)
}

// Find gives a comment that is not a reply, with its edition, locked.
func (a *Comments) Find(tx *gorm.DB, reference string, id int64) (store.Article, store.Edition, store.Comment, error) {
	var c store.Comment
	row, e, err := library.FindEdition(tx, reference, true)
	if err != nil {
		return row, e, c, err
	}
	err = tx.Where("text_id = ? AND parent_id IS NULL", e.ID).First(&c, id).Error
	return row, e, c, problem.From(err, "comment")
}

// ReplyToComment answers a comment; who made it and who answered before are told.
func (a *Comments) ReplyToComment(ctx context.Context, by staff.Staff, reference string, id int64, text string) error {
	var f problem.Fields
	f.Text("text", text, 4000)
	if err := f.Err(); err != nil {
		return err
	}
	return a.base.Transaction(ctx, func(tx *gorm.DB) error {
		row, e, c, err := a.Find(tx, reference, id)
		if err != nil {
			return err
		}
		if err := MayComment(tx, by, row); err != nil {
			return err
		}
		reply := store.Comment{
			TextID:   e.ID,
			ParentID: &c.ID,
			StaffID:  by.ID,
			At:       a.base.Now(),
			Text:     strings.TrimSpace(text),
		}
		if err := tx.Create(&reply).Error; err != nil {
			return err
		}
		ids := []int64{c.StaffID}
		if err := tx.Raw(`SELECT DISTINCT staff_id FROM comments WHERE parent_id = ? UNION SELECT ?`, c.ID, c.StaffID).
			Scan(&ids).
			Error; err != nil {
			return err
		}
		say := fmt.Sprintf("%s answered on “%s”: %s", by.Name, e.Title, reply.Text)
		if err := a.notify.Tell(
			tx,
			notify.NewsDecided,
			staff.Except(ids, by.ID),
			say,
			"/review/"+article.EditionReference(row.Number, e.Language),
		); err != nil {
			return err
		}
		return store.Announce(tx, store.CopyChanged, e.ID)
	})
}

// ResolveComment closes a comment, or opens it again.
func (a *Comments) ResolveComment(
	ctx context.Context,
	by staff.Staff,
	reference string,
	id int64,
	resolved bool,
) error {
	if err := by.May("Resolving a comment", role.Author, role.Reviewer, role.Publisher); err != nil {
		return err
	}
	return a.base.Transaction(ctx, func(tx *gorm.DB) error {
		_, e, c, err := a.Find(tx, reference, id)
		if err != nil {
			return err
		}
		c.ResolvedAt, c.ResolvedBy = nil, nil
		if !resolved {
			c.AcceptedAt = nil // its words may have been taken out again, and can be taken anew
		}
		if resolved {
			now := a.base.Now()
			c.ResolvedAt, c.ResolvedBy = &now, &by.ID
		}
		if err := tx.Save(&c).Error; err != nil {
			return err
		}
		return store.Announce(tx, store.CopyChanged, e.ID)
	})
}
