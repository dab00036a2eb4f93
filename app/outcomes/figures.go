package outcomes

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"gorm.io/gorm"

	"hermeneus/app/instance"
	"hermeneus/app/problem"
	"hermeneus/app/staff"
	"hermeneus/core/hours"
	"hermeneus/core/outcome"
	"hermeneus/core/role"
	"hermeneus/store"
)

// FigureRoles are the readers of the figures.
var FigureRoles = []role.Role{role.Analyst, role.Publisher, role.Administrator}

// Figures are the headline and its parts for a period.
type Figures struct {
	Period     outcome.Period      `json:"period"`
	Window     int                 `json:"window_hours"` // the return window
	AsOf       time.Time           `json:"as_of"`
	State      string              `json:"state"` // of the database that they are of: what is asked for next can ask for no older one
	Counts     outcome.Counts      `json:"counts"`
	Rates      outcome.Rates       `json:"rates"`
	Beside     BesideHeadline      `json:"beside"`
	Days       []outcome.Day       `json:"days"`
	Before     outcome.Rates       `json:"before"` // of the period of the same length before
	Moved      *outcome.Difference `json:"moved"`  // of deflection since then; nil when either is not defined
	Channels   []ChannelFigures    `json:"channels"`
	Counting   Counting            `json:"counting"`
	OlderRules *time.Time          `json:"older_rules"` // until when it was counted by older rules, if that reaches into it
}

// BesideHeadline are the figures that stand beside the headline, so that it is not taken for more than it is.
type BesideHeadline struct {
	AskedAgain  outcome.Proportion `json:"asked_again"` // deflection without those who asked again
	Needs       outcome.Proportion `json:"needs"`       // answered, of needs: a return and its contact are one
	NeedPerson  outcome.Proportion `json:"need_person"` // needs that reached a person
	Lowest      outcome.Proportion `json:"lowest"`      // what deflection is at the least
	Linkable    outcome.Proportion `json:"linkable"`    // contacts before which something was looked for
	Unseen      outcome.Proportion `json:"unseen"`
	Unlikely    outcome.Proportion `json:"unlikely"`
	NotFollowed outcome.Proportion `json:"not_followed"` // questions of people who declined to be followed
	Followed    outcome.Proportion `json:"followed"`     // deflection without those
	WordsLost   int                `json:"words_lost"`   // questions whose words have ended or were forgotten
}

// ChannelFigures are the counts of the questions that touched a channel.
type ChannelFigures struct {
	Channel outcome.Channel `json:"channel"`
	Counts  outcome.Counts  `json:"counts"`
	Rates   outcome.Rates   `json:"rates"`
}

// maxDays bounds the period of the figures.
const maxDays = 366

// Split chooses the questions that figures are of. Zero values choose all.
type Split struct {
	Since    string // the state of the database that is the oldest to read; "" for any
	Site     string
	Channel  outcome.Channel
	Category string
	Flow     string
	Language string
}

// where gives the condition over a table that has what figures are split by; channels are a list, or a text.
func (s Split) where(asText bool) (sql string, args []any) {
	var parts []string
	for _, one := range []struct{ column, value string }{
		{"site", s.Site}, {"category", s.Category}, {"flow", s.Flow}, {"language", s.Language},
	} {
		if one.value != "" {
			parts, args = append(parts, one.column+" = ?"), append(args, one.value)
		}
	}
	if s.Channel != "" {
		if asText {
			parts = append(parts, "? = ANY(string_to_array(channels, ','))")
		} else {
			parts = append(parts, "? = ANY(channels)")
		}
		args = append(args, string(s.Channel))
	}
	if len(parts) == 0 {
		return "true", nil
	}
	return strings.Join(parts, " AND "), args
}

// Outcomes computes the figures of a period in whole days of the site's zone,
// from the first day to the last, both included.
func (a *Outcomes) Outcomes(ctx context.Context, by staff.Staff, first, last time.Time, split Split) (Figures, error) {
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
	var out Figures
	err := a.base.Snapshot(ctx, split.Since, func(tx *gorm.DB, state instance.State) error {
		out = Figures{Period: p, AsOf: a.base.Now(), State: state.At} // it may be begun again
		g, err := a.standing(tx)
		if err != nil {
			return err
		}
		if out.Counting, err = a.counting(tx); err != nil {
			return err
		}
		out.Counting.Behind = max(out.Counting.Behind, state.Behind)
		out.Window = int(g.window.Hours())
		is := &reading{db: tx, g: g, asOf: out.AsOf, zone: a.base.Zone, split: split}
		return is.fill(&out)
	})
	return out, err
}

// standing gives the generation that stands; an empty one before there is any.
func (a *Outcomes) standing(db *gorm.DB) (*generation, error) {
	live, _, err := a.generations(db)
	if err != nil || live != nil {
		return live, err
	}
	window, err := returnWindow(db)
	return &generation{window: window, zone: a.base.Zone, horizon: beginning}, err
}

// Days is the period from the first calendar day to the last, both included.
func (a *Outcomes) Days(first, last time.Time) outcome.Period {
	at := func(t time.Time, plus int) time.Time {
		y, m, d := t.Date()
		return hours.DayBegins(y, m, d+plus, a.base.Zone)
	}
	return outcome.Period{From: at(first, 0), To: at(last, 1)}
}

// reading is one look at the figures.
type reading struct {
	db    *gorm.DB
	g     *generation
	asOf  time.Time
	zone  *time.Location
	split Split
}

// cell counts the questions of a kind.
type cell struct {
	Day         int // of the period
	Outcome     outcome.Outcome
	Channels    string
	Open        bool
	Settled     bool
	Count       int
	Again       int
	Traced      int
	NotFollowed int
}

// addTo adds the cell to counts.
func (c cell) addTo(counts *outcome.Counts) {
	counts.AddMany(c.Outcome, c.Open, c.Settled, c.Count, c.Again)
}

func (r *reading) fill(out *Figures) error {
	starts := outcome.DayStarts(out.Period, r.zone)
	cells, err := r.cells(out.Period, starts)
	if err != nil {
		return err
	}
	out.Days = make([]outcome.Day, len(starts))
	for i, at := range starts {
		out.Days[i].Begins = at
	}
	traced := 0
	var notFollowed, setAside outcome.Counts
	for _, c := range cells {
		c.addTo(&out.Counts)
		notFollowed.AddMany(c.Outcome, c.Open, c.Settled, c.NotFollowed, 0)
		if c.Settled && c.Outcome == outcome.Person {
			traced += c.Traced
		}
		if c.Settled && c.Outcome.SetAside() {
			c.addTo(&setAside)
		}
		day := &out.Days[min(max(c.Day, 0), len(starts)-1)]
		c.addTo(&day.Counts)
		if !c.Open && !c.Settled && !c.Outcome.SetAside() {
			day.Settling.AddMany(c.Outcome, false, true, c.Count, 0)
		}
	}
	repeats, err := r.repeats(out.Period, out.Counts.Settled())
	if err != nil {
		return err
	}
	out.Rates = out.Counts.Rates(repeats[""].With(out.Counts))
	if err := r.beside(out, traced, notFollowed, setAside); err != nil {
		return err
	}
	for _, channel := range outcome.Channels {
		f := ChannelFigures{Channel: channel}
		for _, c := range cells {
			if slices.Contains(strings.Split(c.Channels, ","), string(channel)) {
				c.addTo(&f.Counts)
			}
		}
		f.Rates = f.Counts.Rates(repeats[channel].With(f.Counts))
		out.Channels = append(out.Channels, f)
	}
	return r.compare(out)
}

// compare adds what the period before was. How askers repeated then is taken to be how they do now: what that adds to an
// interval changes slowly, and costs as much to read as all else.
func (r *reading) compare(out *Figures) error {
	p := out.Period.Before(r.zone)
	cells, err := r.cells(p, outcome.DayStarts(p, r.zone))
	if err != nil {
		return err
	}
	var counts outcome.Counts
	for _, c := range cells {
		c.addTo(&counts)
	}
	out.Before = counts.RatesLike(out.Rates)
	if out.Rates.Deflection.Defined() && out.Before.Deflection.Defined() {
		moved := outcome.Newcombe(out.Rates.Deflection, out.Before.Deflection)
		out.Moved = &moved
	}
	return nil
}

// span is a time from a beginning to an end, which does not belong to it; empty where it ends before it begins.
type span struct{ from, to time.Time }

func (s span) within(p outcome.Period) span { return span{later(s.from, p.From), earlier(s.to, p.To)} }

func (s span) empty() bool { return !s.from.Before(s.to) }

// cells counts the questions of a period. Days on which everything has settled, and those on which everything has closed
// and nothing settled, are read from what is counted of them; the day on which some has settled, and today, from
// their questions. Open ones belong to the period in which they began.
func (r *reading) cells(p outcome.Period, starts []time.Time) ([]cell, error) {
	edge := hours.DayOf(r.asOf.Add(-r.g.window), r.g.zone) // on this day some has settled
	y, m, d := edge.In(r.g.zone).Date()
	next := hours.DayBegins(y, m, d+1, r.g.zone)
	today := later(hours.DayOf(r.asOf, r.g.zone), next)
	settled := span{p.From, edge}.within(p)
	closed := span{next, today}.within(p)
	rows := []span{span{edge, next}.within(p), span{today, p.To}.within(p)}
	if r.g.zone.String() != r.zone.String() { // its days are others
		settled, closed, rows = span{}, span{}, []span{{p.From, p.To}, {}}
	}
	var cells []cell
	for _, days := range []struct {
		span
		settled bool
	}{{settled, true}, {closed, false}} {
		if days.empty() {
			continue
		}
		of, err := r.fromDays(days.span, days.settled, starts)
		if err != nil {
			return nil, err
		}
		cells = append(cells, of...)
	}
	of, err := r.fromRows(p, rows, starts)
	return append(cells, of...), err
}

// fromDays counts the questions of whole days.
func (r *reading) fromDays(of span, settled bool, starts []time.Time) ([]cell, error) {
	where, args := r.split.where(true)
	var days []struct {
		Date                              time.Time
		Outcome                           outcome.Outcome
		Channels                          string
		Count, Again, Traced, NotFollowed int
	}
	err := r.db.Raw(`SELECT day AS date, outcome, channels, sum(questions) AS count,
			sum(asked_again) AS again, sum(traced) AS traced, sum(not_followed) AS not_followed
		FROM question_days WHERE generation = ? AND day >= ? AND day < ? AND questions <> 0 AND `+where+`
		GROUP BY day, outcome, channels`,
		append([]any{r.g.number, of.from.In(r.zone).Format(time.DateOnly), of.to.In(r.zone).Format(time.DateOnly)},
			args...)...).Scan(&days).Error
	if err != nil {
		return nil, fmt.Errorf("reading what is counted by day: %w", err)
	}
	cells := make([]cell, len(days))
	for i, d := range days {
		y, m, day := d.Date.Date()
		at, _ := slices.BinarySearchFunc(starts, hours.DayBegins(y, m, day, r.zone), time.Time.Compare)
		cells[i] = cell{
			Day: at, Outcome: d.Outcome, Channels: d.Channels, Settled: settled, Count: d.Count, Again: d.Again,
			Traced: d.Traced, NotFollowed: d.NotFollowed,
		}
	}
	return cells, nil
}

// fromRows counts the questions that closed within two spans of a period, and those of it that have not closed.
func (r *reading) fromRows(p outcome.Period, of []span, starts []time.Time) ([]cell, error) {
	where, args := r.split.where(false)
	var cells []cell
	err := r.db.Raw(`SELECT width_bucket(closed_at, ?::timestamptz[]) - 1 AS day, outcome,
			array_to_string(channels, ',') AS channels, open, settled, count(*) AS count,
			count(*) FILTER (WHERE asked_again) AS again, count(*) FILTER (WHERE traced) AS traced,
			count(*) FILTER (WHERE not_followed) AS not_followed
		FROM (SELECT q.*, NOT (outcome = ANY(?)) AND closed_at > ? AS open, closed_at <= ? AS settled,
				CASE WHEN closed_at > ? AND NOT (outcome = ANY(?)) THEN began_at ELSE closed_at END AS belongs
			FROM questions q
			WHERE generation = ? AND (closed_at >= ? AND closed_at < ? OR closed_at >= ? AND closed_at < ?
				OR closed_at > ?) AND `+where+`) q
		WHERE belongs >= ? AND belongs < ? GROUP BY 1, 2, 3, 4, 5`,
		slices.Concat([]any{timesOf(starts), setAside, r.asOf, r.asOf.Add(-r.g.window), r.asOf, setAside, r.g.number,
			of[0].from, of[0].to, of[1].from, of[1].to, r.asOf}, args, []any{p.From, p.To})...).Scan(&cells).Error
	if err != nil {
		return nil, fmt.Errorf("reading questions of the period: %w", err)
	}
	return cells, nil
}

// setAside are the outcomes that are in no rate.
var setAside = store.Strings{string(outcome.Browsing), string(outcome.Unseen), string(outcome.Unlikely)}

// timesOf is a list of times as the database takes it.
func timesOf(times []time.Time) store.Strings {
	list := make(store.Strings, len(times))
	for i, t := range times {
		list[i] = t.UTC().Format(time.RFC3339Nano)
	}
	return list
}

func earlier(a, b time.Time) time.Time {
	if a.Before(b) {
		return a
	}
	return b
}

func later(a, b time.Time) time.Time {
	if a.After(b) {
		return a
	}
	return b
}
