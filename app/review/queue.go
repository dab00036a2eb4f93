package review

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"time"

	"gorm.io/gorm"

	"hermeneus/app/instance"
	"hermeneus/app/library"
	"hermeneus/app/staff"
	"hermeneus/core/article"
	"hermeneus/core/audience"
	"hermeneus/core/review"
	"hermeneus/store"
)

// Lane is the working copies that stand before gates of one name, or wait for
// something else.
type Lane struct {
	Name  string      `json:"name"`
	Kind  string      `json:"kind"` // gate, ready, scheduled or sent_back
	Mine  int         `json:"mine"` // how many of them the reader can act on
	Items []QueueItem `json:"items"`
}

// QueueItem is a working copy in a lane.
type QueueItem struct {
	Reference string            `json:"reference"`
	Title     string            `json:"title"`
	Category  string            `json:"category"`
	Audience  audience.Audience `json:"audience"`
	Writer    string            `json:"writer"`
	Own       bool              `json:"own"` // the reader wrote or submitted it
	Path      string            `json:"path"`
	Step      int               `json:"step"` // of the gate in its path, from 1
	Steps     int               `json:"steps"`
	Since     time.Time         `json:"since"` // before this gate, or in this state
	OverdueAt *time.Time        `json:"overdue_at"`
	Overdue   bool              `json:"overdue"`
	Assignee  string            `json:"assignee"`
	Mine      bool              `json:"mine"`  // the reader can act on it: it is theirs, or nobody's yet
	Stuck     bool              `json:"stuck"` // nobody can pass its gate
	Who       string            `json:"who"`   // whose the gate is, in words
	Batch     string            `json:"batch"`
	BatchID   int64             `json:"batch_id"`
	DueAt     *time.Time        `json:"due_at"` // when it goes live by itself
	Note      string            `json:"note"`
	Comments  int               `json:"comments"` // open ones
}

type queueRow struct {
	store.Review
	Number              int
	Language            string
	Title               string
	State               string
	Category            string
	CategoryID          int64
	Audience            string
	WriterID            int64
	Writer              string
	Assignee            string
	Batch               string
	BatchID             int64
	DueAt               *time.Time
	DecisionNote        string
	WrittenAt           time.Time
	Comments            int
	HasReview, HasLive  bool
	EditionOf, ReviewOf int64
}

// Queue lists what is on its way, by gate; the lanes in which the reader can do
// something come first, and in each what is theirs, the longest waiting first. One
// query reads it all; no text is looked at.
func (a *Review) Queue(ctx context.Context, by staff.Staff) ([]Lane, error) {
	db := a.base.DB.WithContext(ctx)
	var rows []queueRow
	err := db.Raw(`SELECT r.*, a.number, e.language, e.title, e.state, c.name AS category, a.category_id,
			a.audience, e.writer_id, w.name AS writer, coalesce(s.name, '') AS assignee,
			coalesce(b.name, '') AS batch, coalesce(b.id, 0) AS batch_id, e.decision_note, e.written_at,
			coalesce(d.due_at, bd.due_at) AS due_at, coalesce(m.n, 0) AS comments, e.live_revision_id IS
			NOT NULL AS has_live
		FROM editions e JOIN articles a ON a.id = e.article_id JOIN categories c ON c.id = a.category_id
		JOIN staff w ON w.id = e.writer_id
		LEFT JOIN LATERAL
			(SELECT * FROM reviews r WHERE r.text_id = e.id ORDER BY r.id DESC LIMIT 1) r ON true
		LEFT JOIN staff s ON s.id = r.assignee_id LEFT JOIN batches b ON b.id = e.batch_id
		LEFT JOIN schedules d ON d.edition_id = e.id AND d.state = 'waiting' AND d.kind = 'publish'
		LEFT JOIN schedules bd ON bd.batch_id = e.batch_id AND bd.state = 'waiting'
		LEFT JOIN
			(SELECT text_id, count(*) AS n FROM comments WHERE parent_id IS NULL AND resolved_at IS NULL
			GROUP BY 1) m ON m.text_id = e.id
		WHERE e.state IN ('in_review', 'approved', 'scheduled', 'sent_back') ORDER BY r.gate_since, e.id
		LIMIT 2000`).
		Scan(&rows).
		Error
	if err != nil {
		return nil, fmt.Errorf("reading the lanes: %w", err)
	}
	roster, err := staff.ReadRoster(db)
	if err != nil {
		return nil, err
	}
	stewards := map[int64]int64{}
	lanes := map[string]*Lane{}
	var order []string
	for _, r := range rows {
		steward, known := stewards[r.CategoryID]
		if !known {
			reviewing, err := ReviewingOf(db, r.CategoryID)
			if err != nil {
				return nil, err
			}
			steward = reviewing.StewardID
			stewards[r.CategoryID] = steward
		}
		name, kind, item := a.queueItem(r, by, roster, steward)
		lane, there := lanes[kind+name]
		if !there {
			lane = &Lane{Name: name, Kind: kind}
			lanes[kind+name] = lane
			order = append(order, kind+name)
		}
		if item.Mine {
			lane.Mine++
		}
		lane.Items = append(lane.Items, item)
	}
	return sortLanes(lanes, order), nil
}

func (a *Review) queueItem(
	r queueRow,
	by staff.Staff,
	roster staff.Roster,
	steward int64,
) (name, kind string, item QueueItem) {
	item = QueueItem{
		Reference: article.EditionReference(r.Number, r.Language),
		Title:     r.Title,
		Category:  r.Category,
		Audience:  audience.Audience(r.Audience),
		Writer:    r.Writer,
		Since:     r.GateSince,
		Assignee:  r.Assignee,
		Batch:     r.Batch,
		BatchID:   r.BatchID,
		DueAt:     r.DueAt,
		Note:      r.DecisionNote,
		Comments:  r.Comments,
	}
	c := InRound(review.Copy{State: review.State(r.State), Steward: steward, Live: r.HasLive}, r.Review)
	item.Path, item.Steps = c.Path.Name, len(c.Path.Gates)
	item.Own = slices.Contains(c.Authors, by.ID) || r.WriterID == by.ID
	if r.Review.ID == 0 {
		item.Since = r.WrittenAt
	}
	switch c.State {
	case review.InReview:
		gate, _ := c.Gate()
		item.Step, item.Who = len(c.Passed)+1, gate.Who(roster.Name)
		item.OverdueAt, item.Overdue = r.OverdueAt, r.OverdueAt != nil && !r.OverdueAt.After(a.base.Now())
		item.Mine = c.MayPass(by.Actor()) == "" && (r.AssigneeID == nil || *r.AssigneeID == by.ID)
		item.Stuck = len(roster.Entitled(c)) == 0
		return gate.Name, "gate", item
	case review.SentBack:
		item.Mine = item.Own
		if r.EndedAt != nil {
			item.Since = *r.EndedAt
		}
		return "Sent back", "sent_back", item
	case review.Scheduled:
		return "Scheduled", "scheduled", item
	}
	c.Batch = ""
	_, err := c.Do(review.Publish, by.Actor(), "")
	item.Mine = err == nil
	return "Ready to publish", "ready", item
}

// sortLanes puts gates first, those with something of the reader's before others,
// then what waits for a publisher, what is scheduled, and what was sent back.
func sortLanes(lanes map[string]*Lane, order []string) []Lane {
	rank := map[string]int{"gate": 0, "ready": 1, "scheduled": 2, "sent_back": 3}
	out := []Lane{}
	for _, key := range order {
		l := *lanes[key]
		slices.SortStableFunc(l.Items, func(x, y QueueItem) int {
			if x.Mine != y.Mine {
				return map[bool]int{true: -1, false: 1}[x.Mine]
			}
			return x.Since.Compare(y.Since)
		})
		out = append(out, l)
	}
	slices.SortStableFunc(out, func(x, y Lane) int {
		if (x.Mine > 0) != (y.Mine > 0) {
			return map[bool]int{true: -1, false: 1}[x.Mine > 0]
		}
		return rank[x.Kind] - rank[y.Kind]
	})
	return out
}

// ReviewRound is how an edition stands on its path, for the review page.
type ReviewRound struct {
	Path       string          `json:"path"`
	PathNow    string          `json:"path_now"` // of its category today, when that is another
	Gates      []RoundGate     `json:"gates"`
	Decisions  []RoundDecision `json:"decisions"`
	Assignee   instance.Name   `json:"assignee"`
	Candidates []instance.Name `json:"candidates"` // who could pass the gate it stands before
	Stuck      bool            `json:"stuck"`
	Why        string          `json:"why"` // the reader may not pass it; "" when they may
	OverdueAt  *time.Time      `json:"overdue_at"`
	Overdue    bool            `json:"overdue"`
	Steward    string          `json:"steward"`
	Batch      instance.Name   `json:"batch"`
	Due        *Due            `json:"due"`
	Ends       *Due            `json:"ends"` // when what is live is withdrawn
}

// RoundGate is one gate of the path, and who passed it.
type RoundGate struct {
	Name   string `json:"name"`
	Who    string `json:"who"`
	Passed string `json:"passed"` // by whom
	Here   bool   `json:"here"`   // it stands before this one
	Note   bool   `json:"note"`   // a decision note is required
}

// RoundDecision is what somebody decided in this round.
type RoundDecision struct {
	Gate     string    `json:"gate"`
	Who      string    `json:"who"`
	At       time.Time `json:"at"`
	Action   string    `json:"action"`
	Revision int       `json:"revision"`
	Note     string    `json:"note"`
	Cleared  bool      `json:"cleared"` // the text changed afterwards
}

// ReadRound says how an edition stands on its path.
func (a *Review) ReadRound(ctx context.Context, by staff.Staff, reference string) (ReviewRound, error) {
	db := a.base.DB.WithContext(ctx)
	row, e, err := library.FindEdition(db, reference, false)
	if err != nil {
		return ReviewRound{}, err
	}
	c, round, err := a.Situation(db, row, e)
	if err != nil {
		return ReviewRound{}, err
	}
	roster, err := staff.ReadRoster(db)
	if err != nil {
		return ReviewRound{}, err
	}
	out := ReviewRound{Path: c.Path.Name, Steward: roster.Name(c.Steward)}
	for i, g := range c.Path.Gates {
		gate := RoundGate{
			Name: g.Name,
			Who:  g.Who(roster.Name),
			Note: g.Note,
			Here: i == len(c.Passed) && c.State == review.InReview,
		}
		if i < len(c.Passed) {
			gate.Passed = roster.Name(c.Passed[i])
		}
		out.Gates = append(out.Gates, gate)
	}
	if c.State == review.InReview {
		out.Why = c.MayPass(by.Actor())
		for _, s := range roster.Entitled(c) {
			out.Candidates = append(out.Candidates, instance.Name{ID: s.ID, Name: s.Name})
		}
		out.Stuck = len(out.Candidates) == 0
	}
	if e.BatchID != nil {
		out.Batch = instance.Name{ID: *e.BatchID, Name: c.Batch}
	}
	if err := a.roundDetails(ctx, row, e, round, roster, &out); err != nil {
		return out, err
	}
	return out, nil
}

func (a *Review) roundDetails(
	ctx context.Context,
	row store.Article,
	e store.Edition,
	round *store.Review,
	roster staff.Roster,
	out *ReviewRound,
) error {
	db := a.base.DB.WithContext(ctx)
	var err error
	if out.Due, out.Ends, err = Dues(db, e); err != nil {
		return err
	}
	if round == nil || round.EndedAt != nil {
		return nil
	}
	out.OverdueAt, out.Overdue = round.OverdueAt, round.OverdueAt != nil && !round.OverdueAt.After(a.base.Now())
	if round.AssigneeID != nil {
		out.Assignee = instance.Name{ID: *round.AssigneeID, Name: roster.Name(*round.AssigneeID)}
	}
	now, err := ReviewingOf(db, row.CategoryID)
	if err != nil {
		return err
	}
	path, err := now.path()
	if err != nil {
		return err
	}
	fresh, err := json.Marshal(path)
	if err != nil {
		return err
	}
	var entered review.Path
	if err := json.Unmarshal(round.Path, &entered); err != nil {
		return err
	}
	if was, err := json.Marshal(entered); err == nil && string(was) != string(fresh) {
		out.PathNow = path.Name + ": " + gateNames(path)
	}
	return db.Raw(`SELECT d.gate, s.name AS who, d.at, d.action, d.revision, d.note, d.cleared_at IS
			NOT NULL AS cleared
		FROM decisions d JOIN staff s ON s.id = d.staff_id WHERE d.review_id = ? ORDER BY d.id`, round.ID).Scan(&out.Decisions).Error
}

// Dues gives when an edition goes live by itself, and when what is live of it ends.
func Dues(db *gorm.DB, e store.Edition) (goes, ends *Due, err error) {
	var rows []struct {
		Due
		Kind string
	}
	err = db.Raw(`SELECT d.kind, d.due_at AS at, d.wall, d.zone, s.name AS who
		FROM schedules d JOIN staff s ON s.id = d.staff_id
		WHERE d.state = 'waiting' AND (d.edition_id = ? OR d.batch_id = ?)`, e.ID, e.BatchID).
		Scan(&rows).
		Error
	for i := range rows {
		if rows[i].Kind == store.SchedulePublish {
			goes = &rows[i].Due
		} else {
			ends = &rows[i].Due
		}
	}
	return goes, ends, err
}
