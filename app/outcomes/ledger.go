package outcomes

import (
	"context"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"gorm.io/gorm"

	"hermeneus/app/evidence"
	"hermeneus/app/instance"
	"hermeneus/app/library"
	"hermeneus/app/problem"
	"hermeneus/app/staff"
	"hermeneus/core/article"
	"hermeneus/core/outcome"
	"hermeneus/store"
)

// LedgerFilter chooses questions. Zero values choose all.
type LedgerFilter struct {
	Split
	Period   outcome.Period
	Outcome  outcome.Outcome
	Settling bool   // only questions that may still return
	Settled  bool   // only settled ones
	Again    bool   // only those whose asker asked again
	Followed string // "no": only of people who declined to be followed; "yes": only of others
	Traced   string // of contacts: "yes" with a trace of self-service before, "no" without one
	Article  string // that it ended with, as A-0042
	Group    string // of customers
	Team     string
	Words    string // in what was asked
	Page     int    // from 1
}

// where gives the condition over questions q, but for the period.
func (f LedgerFilter) where(g *generation, asOf time.Time) (string, []any) {
	sql, args := f.Split.where(false)
	parts := []string{"q.generation = ?", sql}
	args = append([]any{g.number}, args...)
	add := func(use bool, condition string, values ...any) {
		if use {
			parts, args = append(parts, condition), append(args, values...)
		}
	}
	settled := asOf.Add(-g.window)
	const open = "(q.closed_at > ? AND NOT (q.outcome = ANY(?)))"
	add(f.Outcome == outcome.Open, open, asOf, setAside)
	add(f.Outcome.SetAside(), "q.outcome = ?", string(f.Outcome))
	add(f.Outcome != "" && f.Outcome != outcome.Open && !f.Outcome.SetAside(),
		"q.outcome = ? AND q.closed_at <= ?", string(f.Outcome), asOf)
	add(f.Settling, "q.closed_at <= ? AND q.closed_at > ? AND NOT (q.outcome = ANY(?))", asOf, settled, setAside)
	add(f.Settled, "q.closed_at <= ? AND NOT (q.outcome = ANY(?))", settled, setAside)
	add(f.Again, "q.asked_again")
	add(f.Followed == "yes", "NOT q.not_followed")
	add(f.Followed == "no", "q.not_followed")
	add(f.Traced == "yes", "q.outcome = 'person' AND q.traced")
	add(f.Traced == "no", "q.outcome = 'person' AND NOT q.traced")
	number, _, _ := article.ParseReference(f.Article)
	add(f.Article != "", "q.article = ? AND q.article <> 0", number)
	add(f.Group != "", "? = ANY(q.groups)", f.Group)
	add(f.Team != "", "q.team = ?", f.Team)
	add(f.Words != "", `EXISTS (SELECT FROM evidence_words w WHERE w.evidence_id = ANY(q.items)
		AND strpos(lower(w.text), lower(?)) > 0)`, f.Words)
	return strings.Join(parts, " AND "), args
}

// within gives SQL over the questions that fit and belong to the period, each by its name and its place: those that
// have closed, of which no more than so many are wanted (0 for all), and the few that have not. They are told apart, so
// that the many are found by an index alone.
func (f LedgerFilter) within(g *generation, asOf time.Time, most int) (string, []any) {
	where, args := f.where(g, asOf)
	from, to := f.Period.From, f.Period.To
	if to.IsZero() {
		to = outcome.Ever
	}
	const named = `SELECT q.generation, q.first_item, q.closed_at FROM questions q WHERE `
	closed := named + where + ` AND q.closed_at >= ? AND q.closed_at < ? AND q.closed_at <= ?`
	all := slices.Concat(args, []any{from, to, asOf})
	if most > 0 {
		closed += ` ORDER BY q.closed_at DESC, q.first_item DESC LIMIT ?`
		all = append(all, most)
	}
	// What has not closed belongs to where it began; what is in no rate, to where it will close.
	later := named + where + ` AND q.closed_at > ?
		AND CASE WHEN q.outcome = ANY(?) THEN q.closed_at ELSE q.began_at END >= ?
		AND CASE WHEN q.outcome = ANY(?) THEN q.closed_at ELSE q.began_at END < ?`
	all = slices.Concat(all, args, []any{asOf, setAside, from, setAside, to})
	return "(" + closed + ") UNION ALL (" + later + ")", all
}

// LedgerLine is a question in the Ledger.
type LedgerLine struct {
	Key         string            `json:"key"` // names it in an address
	Asker       string            `json:"asker"`
	Began       time.Time         `json:"began"`
	Closed      *time.Time        `json:"closed"`
	Outcome     outcome.Outcome   `json:"outcome"`
	Settling    bool              `json:"settling"`
	AskedAgain  bool              `json:"asked_again"`
	NotFollowed bool              `json:"not_followed"`
	Asked       string            `json:"asked"`
	Channels    []outcome.Channel `json:"channels"`
	Article     string            `json:"article"`
	Items       int               `json:"items"`
}

// ledgerRow is a question with the words it is called by.
type ledgerRow struct {
	store.Question
	Name  string
	Label string
}

// ledgerSQL reads questions with the words they are called by.
const ledgerSQL = `SELECT q.*, a.name, coalesce(w.text, '') AS label FROM questions q
	JOIN askers a ON a.id = q.asker_id LEFT JOIN evidence_words w ON w.evidence_id = q.label_item`

// Ledger gives one page of the questions that fit, the latest first, and how
// many fit in all.
func (a *Outcomes) Ledger(ctx context.Context, by staff.Staff, f LedgerFilter) ([]LedgerLine, int, error) {
	if err := by.May("Reading the Ledger", FigureRoles...); err != nil {
		return nil, 0, err
	}
	lines := []LedgerLine{}
	total := 0
	err := a.base.Snapshot(ctx, f.Since, func(tx *gorm.DB, _ instance.State) error {
		lines = []LedgerLine{} // it may be begun again
		g, err := a.standing(tx)
		if err != nil {
			return err
		}
		asOf := a.base.Now()
		sql, args := f.within(g, asOf, 0)
		if err := tx.Raw(`SELECT count(*) FROM (`+sql+`) q`, args...).Scan(&total).Error; err != nil {
			return fmt.Errorf("counting questions: %w", err)
		}
		before := instance.Offset(f.Page)
		sql, args = f.within(g, asOf, before+instance.PageSize)
		var rows []ledgerRow
		err = tx.Raw(`SELECT q.*, a.name, coalesce(w.text, '') AS label FROM (
				SELECT * FROM (`+sql+`) q ORDER BY closed_at DESC, first_item DESC LIMIT ? OFFSET ?) p
			JOIN questions q ON q.generation = p.generation AND q.first_item = p.first_item AND q.closed_at = p.closed_at
			JOIN askers a ON a.id = q.asker_id LEFT JOIN evidence_words w ON w.evidence_id = q.label_item
			ORDER BY q.closed_at DESC, q.first_item DESC`,
			append(args, instance.PageSize, before)...).Scan(&rows).Error
		if err != nil {
			return fmt.Errorf("reading questions: %w", err)
		}
		for _, r := range rows {
			lines = append(lines, ledgerLine(r, g, asOf))
		}
		return nil
	})
	return lines, total, err
}

func ledgerLine(r ledgerRow, g *generation, asOf time.Time) LedgerLine {
	line := LedgerLine{
		Key:         questionKey(r.FirstItem),
		Asker:       r.Name,
		Began:       r.BeganAt,
		Outcome:     outcome.Outcome(r.Outcome),
		AskedAgain:  r.AskedAgain,
		NotFollowed: r.NotFollowed,
		Asked:       r.Label,
		Items:       len(r.Items) + len(r.Answers),
	}
	if r.Article != 0 {
		line.Article = article.Reference(r.Article)
	}
	for _, c := range outcome.Channels {
		if slices.Contains(r.Channels, string(c)) {
			line.Channels = append(line.Channels, c)
		}
	}
	if !line.Outcome.SetAside() {
		if r.ClosedAt.After(asOf) {
			line.Outcome, line.AskedAgain = outcome.Open, false
			return line
		}
		line.Settling = r.ClosedAt.Add(g.window).After(asOf)
	}
	if !r.ClosedAt.After(asOf) { // what is set aside holds at once, and closes as any other
		line.Closed = &r.ClosedAt
	}
	return line
}

// questionKey names a question by one of its items: any of them leads to it.
func questionKey(item int64) string { return strconv.FormatInt(item, 10) }

// LedgerQuestion is one question opened to its evidence.
type LedgerQuestion struct {
	LedgerLine
	Settles    time.Time          `json:"settles"`
	Evidence   []outcome.Evidence `json:"evidence"`
	ReturnedIn string             `json:"returned_in"` // the key of the question it returned in
	Earlier    []LedgerLine       `json:"earlier"`     // the asker's questions that this one returned
	Titles     map[string]string  `json:"titles"`      // of the articles named, by reference without revision
	LastAsked  string             `json:"last_asked"`  // what was put in words last
	Answers    []string           `json:"answers"`     // articles that may have answered it, the likeliest first
	WordsLost  bool               `json:"words_lost"`  // its words have ended or were forgotten
	PutAside   bool               `json:"put_aside"`   // its evidence is not at hand any more; how it was counted is final
}

// ReadQuestion opens one question of the Ledger.
func (a *Outcomes) ReadQuestion(ctx context.Context, by staff.Staff, key string) (LedgerQuestion, error) {
	if err := by.May("Reading the Ledger", FigureRoles...); err != nil {
		return LedgerQuestion{}, err
	}
	db := a.base.DB.WithContext(ctx)
	g, err := a.standing(db)
	if err != nil {
		return LedgerQuestion{}, err
	}
	r, err := questionOf(db, g, key)
	if err != nil {
		return LedgerQuestion{}, err
	}
	asOf := a.base.Now()
	ids := slices.Concat(r.Items, r.Answers)
	items, err := evidence.Items(
		db,
		`e.id = ANY(?) AND e.at >= ? ORDER BY e.at, array_position(?::bigint[], e.id)`,
		ids,
		r.BeganAt,
		ids,
	)
	if err != nil {
		return LedgerQuestion{}, err
	}
	q := outcome.Question{}
	for i := range items {
		q.Evidence = append(q.Evidence, &items[i])
	}
	out := LedgerQuestion{
		LedgerLine: ledgerLine(r, g, asOf),
		Settles:    r.ClosedAt.Add(g.window),
		Evidence:   items,
		LastAsked:  q.LastAsked(),
		Answers:    q.MayHaveAnswered(),
		WordsLost:  r.LabelItem != 0 && r.Label == "",
		PutAside:   r.SittingAt.Before(g.horizon),
	}
	if r.ReturnedIn != 0 {
		out.ReturnedIn = questionKey(r.ReturnedIn)
	}
	var earlier []ledgerRow
	err = db.Raw(ledgerSQL+` WHERE q.generation = ? AND q.returned_in = ? AND q.returned_in <> 0 ORDER BY q.began_at`,
		g.number, r.FirstItem).Scan(&earlier).Error
	if err != nil {
		return out, fmt.Errorf("reading what it returned: %w", err)
	}
	for _, e := range earlier {
		out.Earlier = append(out.Earlier, ledgerLine(e, g, asOf))
	}
	out.Titles, err = a.Titles(ctx, items)
	return out, err
}

// questionOf finds the question that has an item.
func questionOf(db *gorm.DB, g *generation, key string) (ledgerRow, error) {
	none := problem.New(problem.NotFound, "There is no such question. Look for it in the Ledger.")
	// Before a question was named by its items it was by its asker and its beginning.
	asker, began, byBeginning := strings.Cut(key, "~")
	micro, err := strconv.ParseInt(began, 10, 64)
	item, itemErr := strconv.ParseInt(key, 10, 64)
	var rows []ledgerRow
	switch {
	case byBeginning && err == nil:
		at := time.UnixMicro(micro)
		err = db.Raw(ledgerSQL+` JOIN asker_keys k ON k.asker_id = q.asker_id AND k.key = ?
			WHERE q.generation = ? AND q.began_at <= ? AND q.last_at >= ? ORDER BY q.began_at DESC LIMIT 1`,
			asker, g.number, at, at).Scan(&rows).Error
	case itemErr == nil:
		err = db.Raw(ledgerSQL+` WHERE q.generation = ? AND q.first_item = ?`, g.number, item).Scan(&rows).Error
		if err == nil && len(rows) == 0 {
			err = db.Raw(ledgerSQL+` WHERE q.generation = ? AND q.asker_id IN (SELECT k.asker_id FROM evidence e
					JOIN asker_keys k ON k.key = e.asker WHERE e.id = ?) AND ? = ANY(q.items) LIMIT 1`,
				g.number, item, item).Scan(&rows).Error
		}
	default:
		return ledgerRow{}, none
	}
	if err != nil {
		return ledgerRow{}, fmt.Errorf("reading a question: %w", err)
	}
	if len(rows) == 0 {
		return ledgerRow{}, none
	}
	return rows[0], nil
}

// Titles gives the present titles of the articles that evidence refers to.
func (a *Outcomes) Titles(ctx context.Context, items []outcome.Evidence) (map[string]string, error) {
	var refs []string
	for _, e := range items {
		for _, ref := range append([]string{e.Ref}, e.Refs...) {
			if bare, _, ok := strings.Cut(ref, "@"); ok {
				refs = append(refs, bare)
			}
		}
	}
	titles := map[string]string{}
	if len(refs) == 0 {
		return titles, nil
	}
	var rows []struct{ Reference, Title string }
	err := a.base.DB.WithContext(ctx).Raw(`SELECT `+library.ReferenceSQL+` AS reference, e.title
		FROM articles a JOIN editions e ON e.article_id = a.id AND e.language = ?
		WHERE `+library.ReferenceSQL+` IN ?`, article.SourceLanguage, refs).Scan(&rows).Error
	for _, r := range rows {
		titles[r.Reference] = r.Title
	}
	return titles, err
}
