package hours

import (
	"errors"
	"fmt"
	"strings"
	"time"

	"github.com/teambition/rrule-go"
)

// Exception is a time, once or again and again, at which it is closed though the week says open, or open though it
// says closed.
type Exception struct {
	UID    string   `json:"uid"` // of the calendar's entry
	Name   string   `json:"name"`
	Begins string   `json:"begins"` // 2026-12-25, or 2026-12-24T12:00 by the clocks of the place
	Ends   string   `json:"ends"`   // the first day, or minute, that does not belong to it
	Rule   string   `json:"rule"`   // how it recurs, as iCalendar writes it (RFC 5545, 3.3.10); "" for once
	Except []string `json:"except"` // of what recurs: beginnings that are left out
	Also   []string `json:"also"`   // beginnings besides those of the rule
	Open   bool     `json:"open"`   // it is open then
}

// The limits of exceptions.
const (
	MaxExceptions  = 2000
	mostRecurrence = 3000     // beginnings that one rule may have in what is looked at
	longest        = 366 * 24 // hours
)

// Errors of exceptions.
var (
	errNotADay  = errors.New("a day is written as 2026-12-25, and a time as 2026-12-24T12:00")
	errBackward = errors.New("it ends before it begins")
	errTooLong  = errors.New("it lasts longer than a year")
	errTooFine  = errors.New("it recurs more often than once a day")
)

// Check says what is wrong with an exception.
func (e Exception) Check() error {
	begins, _, err := e.wall(e.Begins)
	if err != nil {
		return err
	}
	ends, _, err := e.wall(e.Ends)
	switch {
	case err != nil:
		return err
	case !begins.Before(ends):
		return errBackward
	case ends.Sub(begins) > longest*time.Hour:
		return errTooLong
	}
	for _, one := range append(append([]string{}, e.Except...), e.Also...) {
		if _, _, err := e.wall(one); err != nil {
			return err
		}
	}
	_, err = e.rule(begins)
	return err
}

// wall reads a day or a time as clocks show it, as if they were those of UTC.
func (e Exception) wall(text string) (at time.Time, wholeDay bool, err error) {
	if at, err = time.Parse(time.DateOnly, text); err == nil {
		return at, true, nil
	}
	if at, err = time.Parse(Wall, text); err == nil {
		return at, false, nil
	}
	return at, false, errNotADay
}

// rule reads how the exception recurs; nil for once.
func (e Exception) rule(begins time.Time) (*rrule.RRule, error) {
	if e.Rule == "" {
		return nil, nil
	}
	if len(e.Rule) > 500 {
		return nil, errors.New("the rule is too long")
	}
	option, err := rrule.StrToROption(e.Rule)
	if err != nil {
		return nil, fmt.Errorf("the rule cannot be read: %w", err)
	}
	if option.Freq > rrule.DAILY || len(option.Byhour)+len(option.Byminute)+len(option.Bysecond) > 0 {
		return nil, errTooFine
	}
	if !option.Until.IsZero() && strings.Contains(e.Rule, "UNTIL=") && !strings.Contains(e.Rule, "Z") {
		option.Until = time.Date(option.Until.Year(), option.Until.Month(), option.Until.Day(), option.Until.Hour(),
			option.Until.Minute(), option.Until.Second(), 0, time.UTC)
	}
	option.Dtstart = begins
	rule, err := rrule.NewRRule(*option)
	if err != nil {
		return nil, fmt.Errorf("the rule cannot be read: %w", err)
	}
	return rule, nil
}

// within lists when the exception holds, as far as that touches a time.
func (e Exception) within(from, to time.Time, zone *time.Location) []interval {
	begins, _, err := e.wall(e.Begins)
	if err != nil {
		return nil
	}
	ends, _, err := e.wall(e.Ends)
	if err != nil {
		return nil
	}
	length := ends.Sub(begins)
	// Recurrence goes by the clocks on the wall, so that noon stays noon when they are put forward.
	low, high := from.In(zone).Add(-length-48*time.Hour), to.In(zone).Add(48*time.Hour)
	var list []interval
	for _, at := range e.beginnings(begins, asWall(low), asWall(high)) {
		i := interval{instant(at, zone), instant(at.Add(length), zone)}
		if i.from.Before(to) && from.Before(i.to) {
			list = append(list, i)
		}
	}
	return list
}

// beginnings lists when the exception begins within a time, all as clocks on the wall show it.
func (e Exception) beginnings(first, low, high time.Time) []time.Time {
	var list []time.Time
	left := map[time.Time]bool{}
	for _, one := range e.Except {
		if at, _, err := e.wall(one); err == nil {
			left[at] = true
		}
	}
	add := func(at time.Time) {
		if !at.Before(low) && at.Before(high) && !left[at] {
			list = append(list, at)
		}
	}
	rule, err := e.rule(first)
	if err != nil {
		return nil
	}
	if rule == nil {
		add(first)
	} else {
		next := rule.Iterator()
		for range mostRecurrence * 20 {
			at, ok := next()
			if !ok || !at.Before(high) || len(list) >= mostRecurrence {
				break
			}
			add(at)
		}
	}
	for _, one := range e.Also {
		if at, _, err := e.wall(one); err == nil {
			add(at)
		}
	}
	return list
}

// asWall is what clocks show at an instant, as if it were UTC.
func asWall(t time.Time) time.Time {
	y, m, d := t.Date()
	return time.Date(y, m, d, t.Hour(), t.Minute(), t.Second(), 0, time.UTC)
}

// instant is when clocks in a zone show a time.
func instant(wall time.Time, zone *time.Location) time.Time {
	at, err := At(wall.Format(Wall), zone)
	var skipped *Skipped
	if errors.As(err, &skipped) {
		return skipped.Next
	}
	if err != nil {
		return wall
	}
	return at.At
}
