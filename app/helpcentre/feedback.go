package helpcentre

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"hermeneus/app/evidence"
	"hermeneus/app/library"
	"hermeneus/app/notify"
	"hermeneus/app/problem"
	"hermeneus/app/review"
	"hermeneus/app/staff"
	"hermeneus/core/article"
	"hermeneus/core/compare"
	"hermeneus/core/markup"
	"hermeneus/core/redact"
	"hermeneus/core/role"
	"hermeneus/store"
)

// The answers to what a reader said.
const (
	AnswerMended   = "mended"
	AnswerNoFault  = "no_fault"
	AnswerPassedOn = "passed_on"
)

// Feedback is what a reader said of a live text.
type Feedback struct {
	ID         int64         `json:"id"`
	Reference  string        `json:"reference"`
	Title      string        `json:"title"`
	At         time.Time     `json:"at"`
	Revision   int           `json:"revision"` // that was read
	Helped     bool          `json:"helped"`
	Text       string        `json:"text"`
	Quote      string        `json:"quote"`     // the passage the reader marked
	Place      *compare.Spot `json:"place"`     // where that is in the working copy
	SignedIn   bool          `json:"signed_in"` // the reader can be told what came of it
	Answer     string        `json:"answer"`
	AnswerNote string        `json:"answer_note"`
	MendedIn   int           `json:"mended_in"`
	For        string        `json:"for"` // whose it is, once it was passed on
	AnsweredBy string        `json:"answered_by"`
	AnsweredAt *time.Time    `json:"answered_at"`
	Mine       bool          `json:"mine"` // the reader of this list is to answer it
}

// keepFeedback keeps a reader's comment, until it is answered as one that can change.
func (a *HelpCentre) keepFeedback(tx *gorm.DB, v evidence.Visitor, page Page, said, quote string, line int) error {
	said, quote = redact.Text(strings.TrimSpace(said)), strings.TrimSpace(quote)
	if said == "" {
		return nil
	}
	var r store.Revision
	if err := tx.First(&r, page.revisionID).Error; err != nil {
		return err
	}
	row := store.Feedback{
		RevisionID: r.ID,
		EditionID:  r.EditionID,
		Asker:      v.Asker(),
		At:         a.base.Now(),
		Helped:     page.Voted != nil && *page.Voted,
		Text:       said,
	}
	if v.Customer != nil {
		row.CustomerID = &v.Customer.ID
	}
	if quote != "" {
		if anchor, err := compare.MakeAnchor(markup.Canonical(r.Body), line, quote, 0); err == nil {
			raw, err := json.Marshal(anchor)
			if err != nil {
				return err
			}
			where := json.RawMessage(raw)
			row.Anchor = &where
		}
	}
	var before store.Feedback
	if err := tx.Where("revision_id = ? AND asker = ? AND answer = ''", r.ID, v.Asker()).
		Limit(1).
		Find(&before).
		Error; err != nil {
		return err
	}
	if before.ID != 0 { // said again before anybody answered: the same comment, changed
		before.Text, before.Helped, before.At, before.CustomerID = row.Text, row.Helped, row.At, row.CustomerID
		if row.Anchor != nil {
			before.Anchor = row.Anchor
		}
		return tx.Save(&before).Error
	}
	if err := tx.Create(&row).Error; err != nil {
		return err
	}
	return a.tellFeedback(tx, r, row.Text)
}

func (a *HelpCentre) tellFeedback(tx *gorm.DB, r store.Revision, said string) error {
	var at struct {
		ID, OwnerID int64
		Number      int
		Language    string
		Title       string
	}
	err := tx.Raw(`SELECT a.id, a.owner_id, a.number, e.language, e.title
		FROM editions e JOIN articles a ON a.id = e.article_id WHERE e.id = ?`, r.EditionID).
		Scan(&at).
		Error
	if err != nil {
		return err
	}
	path := "/library/" + article.EditionReference(at.Number, at.Language)
	text := fmt.Sprintf("A reader of “%s” said: %s", at.Title, said)
	if err := a.notify.Tell(tx, notify.NewsFeedback, []int64{at.OwnerID}, text, path); err != nil {
		return err
	}
	if err := a.notify.TellFollowers(tx, at.ID, at.OwnerID, notify.NewsFeedback, text, path); err != nil {
		return err
	}
	return store.Announce(tx, store.CopyChanged, r.EditionID)
}

const feedbackColumns = `SELECT f.*, a.number, e.language, e.title AS title, e.body, a.owner_id,
		r.number AS revision, coalesce(w.name, '') AS for_name, coalesce(s.name, '') AS answerer
	FROM feedback f JOIN editions e ON e.id = f.edition_id JOIN articles a ON a.id = e.article_id
	JOIN revisions r ON r.id = f.revision_id LEFT JOIN staff w ON w.id = f.for_id
	LEFT JOIN staff s ON s.id = f.answered_by `

type feedbackRow struct {
	store.Feedback
	Number            int
	Language          string
	Title             string
	Body              string
	OwnerID           int64
	Revision          int
	ForName, Answerer string
}

func (r feedbackRow) out(by staff.Staff) (Feedback, error) {
	anchor, err := review.AnchorOf(r.Anchor)
	if err != nil {
		return Feedback{}, err
	}
	f := Feedback{
		ID:         r.ID,
		Reference:  article.EditionReference(r.Number, r.Language),
		Title:      r.Title,
		At:         r.At,
		Revision:   r.Revision,
		Helped:     r.Helped,
		Text:       r.Text,
		SignedIn:   r.CustomerID != nil,
		Answer:     r.Answer,
		AnswerNote: r.AnswerNote,
		For:        r.ForName,
		AnsweredBy: r.Answerer,
		AnsweredAt: r.AnsweredAt,
	}
	if r.MendedIn != nil {
		f.MendedIn = *r.MendedIn
	}
	if r.Anchor != nil {
		f.Quote = review.QuoteOf(anchor)
		if p, err := compare.Locate(markup.Canonical(r.Body), anchor); err == nil {
			f.Place = &p
		}
	}
	open := r.Answer == "" || r.Answer == AnswerPassedOn
	f.Mine = open && (r.ForID == nil && r.OwnerID == by.ID || r.ForID != nil && *r.ForID == by.ID)
	return f, nil
}

// ArticleFeedback lists what readers said of an edition: what waits for an answer
// first, then the latest.
func (a *HelpCentre) ArticleFeedback(ctx context.Context, by staff.Staff, reference string) ([]Feedback, error) {
	db := a.base.DB.WithContext(ctx)
	_, e, err := library.FindEdition(db, reference, false)
	if err != nil {
		return nil, err
	}
	return feedbackList(
		db,
		by,
		`WHERE f.edition_id = ? ORDER BY f.answer NOT IN ('', 'passed_on'), f.id DESC LIMIT 100`,
		e.ID,
	)
}

// OpenFeedback lists what waits for somebody's answer, the oldest first.
func (a *HelpCentre) OpenFeedback(ctx context.Context, by staff.Staff) ([]Feedback, error) {
	return feedbackList(
		a.base.DB.WithContext(ctx),
		by,
		`WHERE f.answer IN ('', 'passed_on') AND coalesce(f.for_id, a.owner_id) = ? ORDER BY f.id LIMIT 50`,
		by.ID,
	)
}

func feedbackList(db *gorm.DB, by staff.Staff, where string, args ...any) ([]Feedback, error) {
	var rows []feedbackRow
	if err := db.Raw(feedbackColumns+where, args...).Scan(&rows).Error; err != nil {
		return nil, fmt.Errorf("reading feedback: %w", err)
	}
	list := make([]Feedback, len(rows))
	for i, r := range rows {
		var err error
		if list[i], err = r.out(by); err != nil {
			return nil, err
		}
	}
	return list, nil
}

// FeedbackAnswer is what is done about what a reader said.
type FeedbackAnswer struct {
	Answer   string `json:"answer" enum:"mended,no_fault,passed_on"`
	Note     string `json:"note,omitempty" doc:"What a signed-in reader is told, or whoever it is passed on to"`
	Revision int    `json:"revision,omitempty" doc:"In which it was mended; 0 for the live one"`
	For      int64  `json:"for,omitempty" doc:"Whose it is, when it is passed on"`
}

// AnswerFeedback answers what a reader said: mended in a live revision, not a fault,
// or somebody else's. A reader who was signed in is told by mail.
func (a *HelpCentre) AnswerFeedback(ctx context.Context, by staff.Staff, id int64, in FeedbackAnswer) error {
	if err := by.May("Answering readers", role.Author, role.Reviewer, role.Publisher); err != nil {
		return err
	}
	var f problem.Fields
	in.Note = strings.TrimSpace(in.Note)
	f.Require(
		slices.Contains([]string{AnswerMended, AnswerNoFault, AnswerPassedOn}, in.Answer),
		"answer",
		"Say whether it was mended, is not a fault, or is somebody else’s.",
	)
	f.AtMost("note", in.Note, 2000)
	f.Require(in.Answer != AnswerNoFault || in.Note != "", "note", "Say why it is not a fault.")
	if err := f.Err(); err != nil {
		return err
	}
	return a.base.Transaction(ctx, func(tx *gorm.DB) error {
		var row store.Feedback
		if err := tx.Clauses(clause.Locking{Strength: "UPDATE"}).First(&row, id).Error; err != nil {
			return problem.From(err, "comment of a reader")
		}
		if row.Answer == AnswerMended || row.Answer == AnswerNoFault {
			return problem.New(problem.NotNow, "Somebody answered it already.")
		}
		now := a.base.Now()
		row.Answer, row.AnswerNote, row.AnsweredBy, row.AnsweredAt = in.Answer, in.Note, &by.ID, &now
		var at struct {
			Number   int
			Language string
			Title    string
			ID       int64
			Live     int
		}
		err := tx.Raw(`SELECT a.number, a.id, e.language, e.title, coalesce(r.number, 0) AS live
			FROM editions e JOIN articles a ON a.id = e.article_id
			LEFT JOIN revisions r ON r.id = e.live_revision_id WHERE e.id = ?`, row.EditionID).
			Scan(&at).
			Error
		if err != nil {
			return err
		}
		ref := article.EditionReference(at.Number, at.Language)
		switch in.Answer {
		case AnswerMended:
			if err := a.mended(tx, &row, in, at.Live); err != nil {
				return err
			}
		case AnswerPassedOn:
			if err := tx.Where("disabled_at IS NULL").
				First(&store.Staff{}, in.For).
				Error; err != nil ||
				in.For == by.ID {
				return problem.OfField("for", "Choose somebody else on the staff.")
			}
			row.ForID = &in.For
			text := fmt.Sprintf("%s passed on what a reader of “%s” said: %s %s", by.Name, at.Title, row.Text, in.Note)
			if err := a.notify.Tell(
				tx,
				notify.NewsFeedback,
				[]int64{in.For},
				strings.TrimSpace(text),
				"/library/"+ref,
			); err != nil {
				return err
			}
		}
		if err := tx.Save(&row).Error; err != nil {
			return err
		}
		if err := a.tellReader(tx, row, at.Title, ref); err != nil {
			return err
		}
		line := store.Trail{
			ArticleID: &at.ID,
			Subject:   ref,
			Action:    "answered a reader",
			Note:      strings.ReplaceAll(in.Answer, "_", " "),
		}
		if err := a.trail.Note(tx, by, line); err != nil {
			return err
		}
		return store.Announce(tx, store.CopyChanged, row.EditionID)
	})
}

// mended checks that the revision named came after the one that was read, and is or
// was live.
func (a *HelpCentre) mended(tx *gorm.DB, row *store.Feedback, in FeedbackAnswer, live int) error {
	revision := in.Revision
	if revision == 0 {
		revision = live
	}
	var read, went int
	if err := tx.Raw(`SELECT number FROM revisions WHERE id = ?`, row.RevisionID).Scan(&read).Error; err != nil {
		return err
	}
	if err := tx.Raw(`SELECT count(*)
		FROM changes c JOIN revisions r ON r.id = c.revision_id WHERE c.edition_id = ? AND r.number = ?`, row.EditionID, revision).
		Scan(&went).
		Error; err != nil {
		return err
	}
	switch {
	case revision <= read:
		return problem.OfField(
			"revision",
			fmt.Sprintf(
				"The reader read revision %d, and nothing newer is live yet. Mend the text and publish it first.",
				read,
			),
		)
	case went == 0:
		return problem.OfField("revision", fmt.Sprintf("Revision %d never went live.", revision))
	}
	row.MendedIn = &revision
	return nil
}

// tellReader mails a reader who was signed in what came of what they said.
func (a *HelpCentre) tellReader(tx *gorm.DB, row store.Feedback, title, ref string) error {
	if row.CustomerID == nil || row.Answer == AnswerPassedOn {
		return nil
	}
	var who struct{ Name, Email string }
	if err := tx.Raw(`SELECT name, email FROM customers WHERE id = ?`, *row.CustomerID).
		Scan(&who).
		Error; err != nil ||
		who.Email == "" {
		return err
	}
	said := map[string]string{AnswerMended: "Thank you: we mended the article.", AnswerNoFault: "Thank you. We looked at it and left the article as it is."}[row.Answer]
	body := fmt.Sprintf(
		"Hello %s,\n\nyou told us about “%s”:\n\n> %s\n\n%s\n",
		who.Name,
		title,
		strings.ReplaceAll(row.Text, "\n", "\n> "),
		said,
	)
	if row.AnswerNote != "" {
		body += "\n" + row.AnswerNote + "\n"
	}
	if a.base.Address != "" {
		body += "\n" + a.base.Address + article.LinkPath + ref + "\n"
	}
	return a.notify.SendMail(tx, who.Email, "About “"+title+"”", body)
}
