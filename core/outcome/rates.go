package outcome

import (
	"slices"
	"time"

	"hermeneus/core/hours"
)

// Counts holds numbers of questions: the five outcomes among settled questions,
// and beside them those that stand outside every rate.
type Counts struct {
	Confirmed  int `json:"confirmed"`
	Presumed   int `json:"presumed"`
	Unanswered int `json:"unanswered"`
	Returned   int `json:"returned"`
	Person     int `json:"person"`
	Open       int `json:"open"`
	Settling   int `json:"settling"`
	Browsing   int `json:"browsing"`
	Unseen     int `json:"unseen"`
	Unlikely   int `json:"unlikely"`
	AskedAgain int `json:"asked_again"` // settled, and counted as presumed too
}

// Settled is the number of settled questions, the denominator of the rates.
func (c Counts) Settled() int {
	return c.Confirmed + c.Presumed + c.Unanswered + c.Returned + c.Person
}

func (c *Counts) add(q Question) {
	switch {
	case q.Outcome == Open:
		c.Open++
	case q.Outcome == Browsing:
		c.Browsing++
	case q.Outcome == Unseen:
		c.Unseen++
	case q.Outcome == Unlikely:
		c.Unlikely++
	case !q.Settled:
		c.Settling++
	default:
		c.addOutcome(q.Outcome)
		if q.AskedAgain {
			c.AskedAgain++
		}
	}
}

func (c *Counts) addOutcome(o Outcome) { c.addSettled(o, 1) }

func (c *Counts) addSettled(o Outcome, n int) {
	switch o {
	case Confirmed:
		c.Confirmed += n
	case Presumed:
		c.Presumed += n
	case Unanswered:
		c.Unanswered += n
	case Returned:
		c.Returned += n
	case Person:
		c.Person += n
	}
}

// AddMany counts n questions of one kind, so many of which asked again; open and settled say how far they are.
func (c *Counts) AddMany(o Outcome, open, settled bool, n, askedAgain int) {
	switch {
	case o == Browsing:
		c.Browsing += n
	case o == Unseen:
		c.Unseen += n
	case o == Unlikely:
		c.Unlikely += n
	case open:
		c.Open += n
	case !settled:
		c.Settling += n
	default:
		c.addSettled(o, n)
		if o == Presumed {
			c.AskedAgain += askedAgain
		}
	}
}

// Rates are the three readings of "answered without a person", from the
// strictest to the one usually quoted.
type Rates struct {
	Proven     Proportion `json:"proven"`     // Confirmed / settled
	Deflection Proportion `json:"deflection"` // (Confirmed + Presumed) / settled: the headline
	Claimed    Proportion `json:"claimed"`    // (Confirmed + Presumed + Unanswered) / settled
}

// Rates computes the three rates from counts of settled questions, and of how their askers repeat.
func (c Counts) Rates(r Repeats) Rates {
	q := c.Settled()
	return Rates{
		Proven:     Clustered(c.Confirmed, q, r.Askers, r.Squares, r.Proven),
		Deflection: Clustered(c.Confirmed+c.Presumed, q, r.Askers, r.Squares, r.Deflection),
		Claimed:    Clustered(c.Confirmed+c.Presumed+c.Unanswered, q, r.Askers, r.Squares, r.Claimed),
	}
}

// RatesLike computes the three rates, where askers repeat as they do in others: of the same questions at another time.
func (c Counts) RatesLike(others Rates) Rates {
	q := c.Settled()
	return Rates{
		Proven:     others.Proven.spread(c.Confirmed, q),
		Deflection: others.Deflection.spread(c.Confirmed+c.Presumed, q),
		Claimed:    others.Claimed.spread(c.Confirmed+c.Presumed+c.Unanswered, q),
	}
}

// Repeats says how the askers of settled questions repeat: of m askers with nᵢ questions each.
type Repeats struct {
	Askers                      int     // m
	Squares                     float64 // Σnᵢ²
	Proven, Deflection, Claimed Spread

	Questions int // Σnᵢ
}

// Spread is how the questions of one kind fall on askers, of whose nᵢ questions xᵢ are of it.
type Spread struct {
	Squares  float64 // Σxᵢ²
	Products float64 // Σxᵢnᵢ

	Questions int // Σxᵢ
}

// add counts one asker with n questions, of which so many are of the kind.
func (s *Spread) add(x, n int) {
	s.Squares += float64(x * x)
	s.Products += float64(x * n)
	s.Questions += x
}

// Add counts one asker by the outcomes of their settled questions.
func (r *Repeats) Add(c Counts) {
	n := c.Settled()
	if n == 0 {
		return
	}
	r.Askers++
	r.Questions += n
	r.Squares += float64(n * n)
	r.Proven.add(c.Confirmed, n)
	r.Deflection.add(c.Confirmed+c.Presumed, n)
	r.Claimed.add(c.Confirmed+c.Presumed+c.Unanswered, n)
}

// Times is what a sample of one asker in n says of all: n times as many of each kind.
func (r Repeats) Times(n int) Repeats {
	r.Askers *= n
	r.Questions *= n
	r.Squares *= float64(n)
	for _, spread := range []*Spread{&r.Proven, &r.Deflection, &r.Claimed} {
		spread.Squares *= float64(n)
		spread.Products *= float64(n)
		spread.Questions *= n
	}
	return r
}

// With adds, to how askers with several questions repeat, all others of the counts: each is an asker's only one.
// Counts are those of all settled questions; r is of those whose askers have several.
func (r Repeats) With(c Counts) Repeats {
	single := func(of, repeated int) float64 { return float64(of - repeated) }
	n := c.Settled() - r.Questions
	r.Askers += n
	r.Squares += float64(n)
	for _, kind := range []struct {
		spread *Spread
		all    int
	}{
		{&r.Proven, c.Confirmed},
		{&r.Deflection, c.Confirmed + c.Presumed},
		{&r.Claimed, c.Confirmed + c.Presumed + c.Unanswered},
	} {
		rest := single(kind.all, kind.spread.Questions)
		kind.spread.Squares += rest
		kind.spread.Products += rest
	}
	r.Questions = c.Settled()
	return r
}

// RatesOf computes the three rates of questions.
func RatesOf(questions []Question) Rates {
	byAsker := map[string]Counts{}
	for _, q := range questions {
		c := byAsker[q.Asker]
		c.add(q)
		byAsker[q.Asker] = c
	}
	var r Repeats
	for _, c := range byAsker {
		r.Add(c)
	}
	return Count(questions).Rates(r)
}

// Count counts questions by outcome.
func Count(questions []Question) Counts {
	var c Counts
	for _, q := range questions {
		c.add(q)
	}
	return c
}

// Period is a span of time, From included and To not. A zero bound is unbounded.
type Period struct {
	From time.Time `json:"from"`
	To   time.Time `json:"to"`
}

// Contains reports whether t lies in the period.
func (p Period) Contains(t time.Time) bool {
	return (p.From.IsZero() || !t.Before(p.From)) && (p.To.IsZero() || t.Before(p.To))
}

// Before is the period of as many calendar days that ends where this one begins: a week
// before a week has seven days, also when clocks change in it and it has not 168 hours. The
// zone is the one in which the period's days begin.
func (p Period) Before(zone *time.Location) Period {
	days := int(p.To.Sub(p.From).Hours()/24 + 0.5)
	y, m, d := p.From.In(zone).Date()
	if p.From.Equal(hours.DayBegins(y, m, d, zone)) {
		return Period{From: hours.DayBegins(y, m, d-days, zone), To: p.From}
	}
	return Period{From: p.From.In(zone).AddDate(0, 0, -days), To: p.From}
}

// Within keeps the questions that belong to the period: by closing time, or by
// beginning for those that have not closed.
func Within(questions []Question, p Period) []Question {
	var kept []Question
	for _, q := range questions {
		at := q.Closed
		if q.Outcome == Open {
			at = q.Began
		}
		if p.Contains(at) {
			kept = append(kept, q)
		}
	}
	return kept
}

// Day is the count of one calendar day.
type Day struct {
	Begins   time.Time `json:"begins"`   // midnight in the zone asked for
	Counts   Counts    `json:"counts"`   // settled outcomes, as in the rates
	Settling Counts    `json:"settling"` // provisional outcomes of questions that may still return
}

// DayStarts gives the beginnings of the days of a period in a zone; a day that the zone leaves out is none. The period
// must be bounded.
func DayStarts(p Period, zone *time.Location) []time.Time {
	var starts []time.Time
	y, m, d := p.From.In(zone).Date()
	for i := 0; ; i++ {
		begins, ends := hours.DayBegins(y, m, d+i, zone), hours.DayBegins(y, m, d+i+1, zone)
		if !begins.Before(p.To) {
			return starts
		}
		if begins.Before(ends) {
			starts = append(starts, begins)
		}
	}
}

// ByDay counts questions by the calendar day of their closing in zone, a Day for
// every day of the period, including empty ones. Every question of the period falls into one.
func ByDay(questions []Question, p Period, zone *time.Location) []Day {
	starts := DayStarts(p, zone)
	if len(starts) == 0 {
		return nil
	}
	days := make([]Day, len(starts))
	for i, begins := range starts {
		days[i].Begins = begins
	}
	for _, q := range Within(questions, p) { // an open one that would close later falls into the last day
		after, _ := slices.BinarySearchFunc(days, q.Closed, func(d Day, closed time.Time) int {
			if d.Begins.After(closed) {
				return 1
			}
			return -1
		})
		at := max(after-1, 0)
		days[at].Counts.add(q)
		if q.Settling() {
			days[at].Settling.addOutcome(q.Outcome)
		}
	}
	return days
}
