package outcomes

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"gorm.io/gorm/clause"

	"hermeneus/app/instance"
	"hermeneus/app/library"
	"hermeneus/app/problem"
	"hermeneus/app/staff"
	"hermeneus/core/article"
	"hermeneus/core/hours"
	"hermeneus/core/outcome"
	"hermeneus/core/role"
	"hermeneus/store"
)

// readers of the figures.
var FigureRoles = []role.Role{role.Analyst, role.Publisher, role.Administrator}

const windowSetting = "return_window_hours"

// ReturnWindow is the setting: how long after closing a contact makes an answered
// question a Returned one.
func (a *Outcomes) ReturnWindow(ctx context.Context) (time.Duration, error) {
	var s store.Setting
	if err := a.base.DB.WithContext(ctx).Where("name = ?", windowSetting).Limit(1).Find(&s).Error; err != nil {
		return 0, err
	}
	if s.Name == "" {
		return outcome.DefaultWindow, nil
	}
	var hours int
	err := json.Unmarshal(s.Value, &hours)
	return time.Duration(hours) * time.Hour, err
}

// SetReturnWindow changes the setting, in whole hours.
func (a *Outcomes) SetReturnWindow(ctx context.Context, by staff.Staff, window time.Duration) error {
	if err := by.May("Changing the return window", role.Administrator); err != nil {
		return err
	}
	var f problem.Fields
	f.Require(
		window >= outcome.MinWindow && window <= outcome.MaxWindow && window%time.Hour == 0,
		"hours",
		"Between 1 hour and 30 days (720 hours).",
	)
	if err := f.Err(); err != nil {
		return err
	}
	row := store.Setting{Name: windowSetting, Value: json.RawMessage(strconv.Itoa(int(window.Hours())))}
	db := a.base.DB.WithContext(ctx)
	if err := db.Clauses(clause.OnConflict{UpdateAll: true}).Create(&row).Error; err != nil {
		return err
	}
	return a.trail.Note(db, by, store.Trail{Subject: "return window", Action: "set", Note: window.String()})
}

// Questions folds all evidence as of now.
func (a *Outcomes) Questions(ctx context.Context) ([]outcome.Question, error) {
	items, err := a.ledger.load(ctx)
	if err != nil {
		return nil, err
	}
	window, err := a.ReturnWindow(ctx)
	if err != nil {
		return nil, err
	}
	return outcome.Fold(items, a.base.Now(), window), nil
}

// OutcomesByArticle folds all evidence for lists that show every article's bar. What
// it gives is at most five seconds old, and must not be changed.
func (a *Outcomes) OutcomesByArticle(ctx context.Context) (map[string]outcome.Counts, error) {
	const fresh = 5 * time.Second
	a.ledger.lately.Lock()
	defer a.ledger.lately.Unlock()
	if _, err := a.ledger.load(ctx); err != nil {
		return nil, err
	}
	window, err := a.ReturnWindow(ctx)
	if err != nil {
		return nil, err
	}
	now := foldedAs{a.ledger.seen(), window, a.base.Now()}
	if age := now.at.Sub(
		a.ledger.folded.at,
	); a.ledger.byArticle != nil && now.mark == a.ledger.folded.mark && window == a.ledger.folded.window && age >= 0 &&
		age < fresh {
		return a.ledger.byArticle, nil
	}
	questions, err := a.Questions(ctx)
	if err != nil {
		return nil, err
	}
	a.ledger.byArticle, a.ledger.folded = outcome.ByArticle(questions), now
	return a.ledger.byArticle, nil
}

// LedgerFilter chooses questions. Zero values choose all.
type LedgerFilter struct {
	Period   outcome.Period
	Outcome  outcome.Outcome
	Settling bool // only questions that may still return
	Settled  bool // only settled ones
	Channel  outcome.Channel
	Article  string // that it ended with, as A-0042
	Words    string // in what was asked
	Page     int    // from 1
}

func (f LedgerFilter) fits(q outcome.Question) bool {
	return (f.Outcome == "" || q.Outcome == f.Outcome) &&
		(!f.Settling || q.Settling()) && (!f.Settled || q.InRates()) &&
		(f.Channel == "" || slices.ContainsFunc(q.Evidence, func(e *outcome.Evidence) bool { return e.Channel == f.Channel })) &&
		(f.Article == "" || q.LastArticle() == f.Article) &&
		(f.Words == "" || slices.ContainsFunc(q.Evidence, func(e *outcome.Evidence) bool {
			return strings.Contains(strings.ToLower(e.Text), strings.ToLower(f.Words))
		}))
}

// Figures are the headline and its parts for a period.
type Figures struct {
	Period   outcome.Period      `json:"period"`
	Window   int                 `json:"window_hours"` // the return window
	AsOf     time.Time           `json:"as_of"`
	Counts   outcome.Counts      `json:"counts"`
	Rates    outcome.Rates       `json:"rates"`
	Days     []outcome.Day       `json:"days"`
	Before   outcome.Rates       `json:"before"` // of the period of the same length before
	Moved    *outcome.Difference `json:"moved"`  // of deflection since then; nil when either is not defined
	Channels []ChannelFigures    `json:"channels"`
}

// ChannelFigures are the counts of the questions that touched a channel.
type ChannelFigures struct {
	Channel outcome.Channel `json:"channel"`
	Counts  outcome.Counts  `json:"counts"`
	Rates   outcome.Rates   `json:"rates"`
}

// maxDays bounds the period of the figures.
const maxDays = 366

// Outcomes computes the figures of a period in whole days of the site's zone,
// from the first day to the last, both included.
func (a *Outcomes) Outcomes(ctx context.Context, by staff.Staff, first, last time.Time) (Figures, error) {
	if err := by.May("Reading the figures", FigureRoles...); err != nil {
		return Figures{}, err
	}
	p := a.Days(first, last)
	var f problem.Fields
	f.Require(p.From.Before(p.To), "to", "The last day lies before the first.")
	f.Require(p.To.Sub(p.From) <= maxDays*24*time.Hour, "from", fmt.Sprintf("At most %d days at once.", maxDays))
	if err := f.Err(); err != nil {
		return Figures{}, err
	}
	questions, err := a.Questions(ctx)
	if err != nil {
		return Figures{}, err
	}
	window, err := a.ReturnWindow(ctx)
	if err != nil {
		return Figures{}, err
	}
	inside := outcome.Within(questions, p)
	counts := outcome.Count(inside)
	out := Figures{
		Period: p,
		Window: int(window.Hours()),
		AsOf:   a.base.Now(),
		Counts: counts,
		Rates:  outcome.RatesOf(inside),
		Days:   outcome.ByDay(questions, p, a.base.Zone),
		Before: outcome.RatesOf(outcome.Within(questions, p.Before(a.base.Zone))),
	}
	if out.Rates.Deflection.Defined() && out.Before.Deflection.Defined() {
		moved := outcome.Newcombe(out.Rates.Deflection, out.Before.Deflection)
		out.Moved = &moved
	}
	for _, channel := range outcome.Channels {
		touched := LedgerFilter{Channel: channel}
		those := slices.DeleteFunc(slices.Clone(inside), func(q outcome.Question) bool { return !touched.fits(q) })
		out.Channels = append(out.Channels, ChannelFigures{channel, outcome.Count(those), outcome.RatesOf(those)})
	}
	return out, nil
}

// Days is the period from the first calendar day to the last, both included.
func (a *Outcomes) Days(first, last time.Time) outcome.Period {
	at := func(t time.Time, plus int) time.Time {
		y, m, d := t.Date()
		return hours.DayBegins(y, m, d+plus, a.base.Zone)
	}
	return outcome.Period{From: at(first, 0), To: at(last, 1)}
}

// LedgerLine is a question in the Ledger.
type LedgerLine struct {
	Key      string            `json:"key"` // names it in an address
	Asker    string            `json:"asker"`
	Began    time.Time         `json:"began"`
	Closed   *time.Time        `json:"closed"`
	Outcome  outcome.Outcome   `json:"outcome"`
	Settling bool              `json:"settling"`
	Asked    string            `json:"asked"`
	Channels []outcome.Channel `json:"channels"`
	Article  string            `json:"article"`
	Items    int               `json:"items"`
}

// Ledger gives one page of the questions that fit, the latest first, and how
// many fit in all.
func (a *Outcomes) Ledger(ctx context.Context, by staff.Staff, f LedgerFilter) ([]LedgerLine, int, error) {
	if err := by.May("Reading the Ledger", FigureRoles...); err != nil {
		return nil, 0, err
	}
	questions, err := a.Questions(ctx)
	if err != nil {
		return nil, 0, err
	}
	kept := slices.DeleteFunc(outcome.Within(questions, f.Period), func(q outcome.Question) bool { return !f.fits(q) })
	slices.Reverse(kept)
	from := min(len(kept), instance.Offset(f.Page))
	lines := []LedgerLine{}
	for _, q := range kept[from:min(len(kept), from+instance.PageSize)] {
		lines = append(lines, ledgerLine(q))
	}
	return lines, len(kept), nil
}

func ledgerLine(q outcome.Question) LedgerLine {
	line := LedgerLine{
		Key:      questionKey(q.Asker, q.Began),
		Asker:    q.Asker,
		Began:    q.Began,
		Outcome:  q.Outcome,
		Settling: q.Settling(),
		Asked:    q.Label(),
		Article:  q.LastArticle(),
		Items:    len(q.Evidence),
	}
	if q.Outcome != outcome.Open {
		line.Closed = &q.Closed
	}
	for _, e := range q.Evidence {
		if !slices.Contains(line.Channels, e.Channel) {
			line.Channels = append(line.Channels, e.Channel)
		}
	}
	return line
}

func questionKey(asker string, began time.Time) string {
	return fmt.Sprintf("%s~%d", asker, began.UnixMicro())
}

// LedgerQuestion is one question opened to its evidence.
type LedgerQuestion struct {
	LedgerLine
	Settles    time.Time           `json:"settles"`
	Evidence   []*outcome.Evidence `json:"evidence"`
	ReturnedIn string              `json:"returned_in"` // the key of the question it returned in
	Earlier    []LedgerLine        `json:"earlier"`     // the asker's questions that this one returned
	Titles     map[string]string   `json:"titles"`      // of the articles named, by reference without revision
	LastAsked  string              `json:"last_asked"`  // what was put in words last
	Answers    []string            `json:"answers"`     // articles that may have answered it, the likeliest first
}

// ReadQuestion opens one question of the Ledger.
func (a *Outcomes) ReadQuestion(ctx context.Context, by staff.Staff, key string) (LedgerQuestion, error) {
	if err := by.May("Reading the Ledger", FigureRoles...); err != nil {
		return LedgerQuestion{}, err
	}
	questions, err := a.Questions(ctx)
	if err != nil {
		return LedgerQuestion{}, err
	}
	i := slices.IndexFunc(questions, func(q outcome.Question) bool { return questionKey(q.Asker, q.Began) == key })
	if i < 0 {
		return LedgerQuestion{}, problem.New(
			problem.NotFound,
			"There is no such question. Late evidence may have joined it to another; look in the Ledger.",
		)
	}
	q := questions[i]
	window, err := a.ReturnWindow(ctx)
	if err != nil {
		return LedgerQuestion{}, err
	}
	out := LedgerQuestion{
		LedgerLine: ledgerLine(q),
		Settles:    q.Closed.Add(window),
		Evidence:   q.Evidence,
		LastAsked:  q.LastAsked(),
		Answers:    q.MayHaveAnswered(),
	}
	for _, other := range questions {
		if q.ReturnedBy != nil && slices.Contains(other.Evidence, q.ReturnedBy) {
			out.ReturnedIn = questionKey(other.Asker, other.Began)
		}
		if other.ReturnedBy != nil && slices.Contains(q.Evidence, other.ReturnedBy) {
			out.Earlier = append(out.Earlier, ledgerLine(other))
		}
	}
	out.Titles, err = a.Titles(ctx, q.Evidence)
	return out, err
}

// TitlesOf gives the present titles of the articles that evidence refers to.
func (a *Outcomes) TitlesOf(ctx context.Context, items []outcome.Evidence) (map[string]string, error) {
	list := make([]*outcome.Evidence, len(items))
	for i := range items {
		list[i] = &items[i]
	}
	return a.Titles(ctx, list)
}

// Titles gives the present titles of the articles that evidence refers to.
func (a *Outcomes) Titles(ctx context.Context, items []*outcome.Evidence) (map[string]string, error) {
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
	err := a.base.DB.WithContext(ctx).
		Raw(`SELECT `+library.ReferenceSQL+` AS reference, e.title
			FROM articles a JOIN editions e ON e.article_id = a.id AND e.language = ? WHERE `+library.ReferenceSQL+` IN ?`, article.SourceLanguage, refs).
		Scan(&rows).
		Error
	for _, r := range rows {
		titles[r.Reference] = r.Title
	}
	return titles, err
}
