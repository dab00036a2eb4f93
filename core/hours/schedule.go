package hours

import (
	"fmt"
	"slices"
	"time"
)

// Stretch is a time of opening within a day, in minutes from midnight: From is within the day, To may be as late as
// 24 hours after From, that is, on the next day.
type Stretch struct {
	From int `json:"from"`
	To   int `json:"to"`
}

// day is a calendar day's length on a clock, in minutes.
const day = 24 * 60

// Week is when it is open, by weekday, Monday first. A day may have several spans.
type Week [7][]Stretch

// MaxSpans is how many spans a weekday has at most.
const MaxSpans = 8

// Check says what is wrong with a week, "" for nothing.
func (w Week) Check() string {
	for _, spans := range w {
		if len(spans) > MaxSpans {
			return fmt.Sprintf("A day has at most %d spans.", MaxSpans)
		}
		sorted := slices.Clone(spans)
		slices.SortFunc(sorted, func(a, b Stretch) int { return a.From - b.From })
		for i, s := range sorted {
			switch {
			case s.From < 0 || s.From >= day || s.To <= s.From || s.To > s.From+day:
				return "A span begins within the day and ends after it begins, within 24 hours."
			case i > 0 && s.From < sorted[i-1].To:
				return "Two spans of a day overlap."
			}
		}
	}
	return ""
}

// Never reports whether the week has no span.
func (w Week) Never() bool {
	return !slices.ContainsFunc(w[:], func(spans []Stretch) bool { return len(spans) > 0 })
}

// Schedule is when a team or a site is open.
type Schedule struct {
	Zone   *time.Location
	Always bool // day and night; Week is not read
	Week   Week
	Days   []Exception // on which it is otherwise
	Away   time.Time   // it is closed until then, whatever the week says; zero for not
}

// interval is a time from a beginning to an end, which does not belong to it.
type interval struct{ from, to time.Time }

// searched is how far ahead an opening is looked for, in days.
const searched = 400

// OpenAt reports whether it is open at an instant. A span begins at its first minute and has ended at its last.
func (s Schedule) OpenAt(t time.Time) bool {
	if t.Before(s.Away) {
		return false
	}
	for _, i := range s.open(t, 1) {
		if !t.Before(i.from) && t.Before(i.to) {
			return true
		}
	}
	return false
}

// Next gives when it opens next, at an instant at which it is closed; false if that is not within 400 days. At an
// instant at which it is open it gives that instant.
func (s Schedule) Next(t time.Time) (time.Time, bool) {
	if s.OpenAt(t) {
		return t, true
	}
	if t.Before(s.Away) {
		if t = s.Away; s.OpenAt(t) {
			return t, true
		}
	}
	for ahead := 2; ahead <= searched; ahead *= 3 {
		for _, i := range s.open(t, ahead) {
			if i.from.After(t) {
				return i.from, true
			}
		}
	}
	return time.Time{}, false
}

// Closes gives when it closes next, at an instant at which it is open; false if that is not within 400 days.
func (s Schedule) Closes(t time.Time) (time.Time, bool) {
	for ahead := 2; ahead <= searched; ahead *= 3 {
		for _, i := range s.open(t, ahead) {
			if !t.Before(i.from) && t.Before(i.to) && i.to.Before(s.dayAfter(t, ahead)) {
				return i.to, true
			}
		}
	}
	return time.Time{}, false
}

func (s Schedule) dayAfter(t time.Time, days int) time.Time {
	y, m, d := t.In(s.Zone).Date()
	return DayBegins(y, m, d+days, s.Zone)
}

// open lists when it is open, from two days before the day of t to so many days after it: apart from each other and
// in order.
func (s Schedule) open(t time.Time, ahead int) []interval {
	first, last := s.dayAfter(t, -2), s.dayAfter(t, ahead)
	var list []interval
	if s.Always {
		list = []interval{{first, last}}
	} else {
		y, m, d := t.In(s.Zone).Date()
		for at := -2; at < ahead; at++ {
			weekday := (int(time.Date(y, m, d+at, 0, 0, 0, 0, time.UTC).Weekday()) + 6) % 7
			for _, span := range s.Week[weekday] {
				list = append(list, interval{s.clock(y, m, d+at, span.From, false), s.clock(y, m, d+at, span.To, true)})
			}
		}
	}
	list = joined(list)
	var opens []interval
	for _, e := range s.Days {
		for _, i := range e.within(first, last, s.Zone) {
			if e.Open {
				opens = append(opens, i)
			} else {
				list = without(list, i)
			}
		}
	}
	return joined(append(list, opens...))
}

// clock is the instant at which clocks show so many minutes after midnight of a day. A time that they skip is the one
// at which they go on; of a time that they show twice a span takes both.
func (s Schedule) clock(y int, m time.Month, d, minutes int, end bool) time.Time {
	wall := time.Date(y, m, d, 0, minutes, 0, 0, time.UTC).Format(Wall)
	at, err := At(wall, s.Zone)
	if skipped, ok := err.(*Skipped); ok {
		return skipped.Next
	}
	if err != nil {
		return time.Date(y, m, d, 0, minutes, 0, 0, s.Zone)
	}
	if end && at.Twice {
		return at.Second
	}
	return at.At
}

// joined sorts intervals and joins those that touch.
func joined(list []interval) []interval {
	slices.SortFunc(list, func(a, b interval) int { return a.from.Compare(b.from) })
	var out []interval
	for _, i := range list {
		if !i.from.Before(i.to) {
			continue
		}
		if n := len(out); n > 0 && !i.from.After(out[n-1].to) {
			if i.to.After(out[n-1].to) {
				out[n-1].to = i.to
			}
			continue
		}
		out = append(out, i)
	}
	return out
}

// without takes a time out of intervals.
func without(list []interval, gap interval) []interval {
	var out []interval
	for _, i := range list {
		if before := (interval{i.from, earlier(i.to, gap.from)}); before.from.Before(before.to) {
			out = append(out, before)
		}
		if after := (interval{later(i.from, gap.to), i.to}); after.from.Before(after.to) {
			out = append(out, after)
		}
	}
	return out
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
