package hours

import (
	"bytes"
	"errors"
	"fmt"
	"strings"
	"time"

	ics "github.com/arran4/golang-ical"
)

// MaxCalendar is the largest calendar that is read, in bytes.
const MaxCalendar = 2 << 20

// ReadCalendar reads the entries of an iCalendar file (RFC 5545) as exceptions, by the clocks of a zone: entries
// that are marked as transparent (3.8.2.7) open, all others close. It is read whole or not at all.
func ReadCalendar(raw []byte, zone *time.Location) ([]Exception, error) {
	if len(raw) > MaxCalendar {
		return nil, fmt.Errorf("the calendar is larger than %d bytes", MaxCalendar)
	}
	calendar, err := ics.ParseCalendar(bytes.NewReader(raw))
	if err != nil {
		return nil, fmt.Errorf("not an iCalendar file: %w", err)
	}
	events := calendar.Events()
	if len(events) == 0 {
		return nil, errors.New("the calendar has no entries (VEVENT)")
	}
	if len(events) > MaxExceptions {
		return nil, fmt.Errorf("the calendar has %d entries; at most %d are read", len(events), MaxExceptions)
	}
	list := make([]Exception, len(events))
	for i, e := range events {
		if list[i], err = readEvent(e, zone); err != nil {
			return nil, fmt.Errorf("entry %d (%s): %w", i+1, list[i].Name, err)
		}
	}
	return list, nil
}

func readEvent(e *ics.VEvent, zone *time.Location) (Exception, error) {
	out := Exception{UID: e.Id(), Name: property(e, ics.ComponentPropertySummary)}
	if out.Name == "" {
		out.Name = "Without a name"
	}
	start := e.GetProperty(ics.ComponentPropertyDtStart)
	if start == nil {
		return out, errors.New("it has no beginning (DTSTART)")
	}
	begins, whole, err := clockOf(start, start.Value, zone)
	if err != nil {
		return out, err
	}
	ends := begins.Add(24 * time.Hour)
	switch end := e.GetProperty(ics.ComponentPropertyDtEnd); {
	case end != nil:
		if ends, _, err = clockOf(end, end.Value, zone); err != nil {
			return out, err
		}
	case e.HasProperty(ics.ComponentPropertyDuration):
		length, err := duration(property(e, ics.ComponentPropertyDuration))
		if err != nil {
			return out, err
		}
		ends = begins.Add(length)
	case !whole:
		return out, errors.New("it has neither an end (DTEND) nor a length (DURATION)")
	}
	shape := Wall
	if whole {
		shape = time.DateOnly
	}
	out.Begins, out.Ends = begins.Format(shape), ends.Format(shape)
	out.Open = strings.EqualFold(property(e, ics.ComponentPropertyTransp), "TRANSPARENT")
	if rules := e.GetProperties(ics.ComponentPropertyRrule); len(rules) > 1 {
		return out, errors.New("it has more than one rule (RRULE)")
	}
	out.Rule = property(e, ics.ComponentPropertyRrule)
	for _, p := range []struct {
		name ics.ComponentProperty
		into *[]string
	}{{ics.ComponentPropertyExdate, &out.Except}, {ics.ComponentPropertyRdate, &out.Also}} {
		for _, dates := range e.GetProperties(p.name) {
			for _, one := range strings.Split(dates.Value, ",") {
				at, _, err := clockOf(dates, one, zone)
				if err != nil {
					return out, err
				}
				*p.into = append(*p.into, at.Format(shape))
			}
		}
	}
	return out, out.Check()
}

func property(e *ics.VEvent, name ics.ComponentProperty) string {
	if p := e.GetProperty(name); p != nil {
		return strings.TrimSpace(p.Value)
	}
	return ""
}

// clockOf reads a date or a time as the clocks of a zone show it: in UTC, in a zone that it names, or floating.
func clockOf(p *ics.IANAProperty, value string, zone *time.Location) (at time.Time, whole bool, err error) {
	value = strings.TrimSpace(value)
	if at, err = time.Parse("20060102", value); err == nil {
		return at, true, nil
	}
	if at, err = time.Parse("20060102T150405Z", value); err == nil {
		return asWall(at.In(zone)), false, nil
	}
	if at, err = time.Parse("20060102T150405", value); err != nil {
		return at, false, fmt.Errorf("“%s” is not a date or a time", value)
	}
	if names := p.ICalParameters["TZID"]; len(names) == 1 {
		other, err := time.LoadLocation(names[0])
		if err != nil {
			return at, false, fmt.Errorf("the time zone “%s” is not known", names[0])
		}
		return asWall(instant(at, other).In(zone)), false, nil
	}
	return at, false, nil
}

// duration reads a length of weeks, days, hours, minutes and seconds (RFC 5545, 3.3.6).
func duration(text string) (time.Duration, error) {
	rest, ok := strings.CutPrefix(strings.TrimPrefix(text, "+"), "P")
	if !ok || rest == "" {
		return 0, fmt.Errorf("“%s” is not a length", text)
	}
	units := map[byte]time.Duration{
		'W': 7 * 24 * time.Hour,
		'D': 24 * time.Hour,
		'H': time.Hour,
		'M': time.Minute,
		'S': time.Second,
	}
	var total time.Duration
	number := -1
	for _, c := range []byte(rest) {
		switch {
		case c >= '0' && c <= '9':
			number = max(number, 0)*10 + int(c-'0')
			if number > 1_000_000 {
				return 0, fmt.Errorf("“%s” is too long", text)
			}
		case c == 'T' && number < 0:
		case units[c] > 0 && number >= 0:
			total += time.Duration(number) * units[c]
			number = -1
		default:
			return 0, fmt.Errorf("“%s” is not a length", text)
		}
	}
	if number >= 0 || total == 0 {
		return 0, fmt.Errorf("“%s” is not a length", text)
	}
	return total, nil
}

// WriteCalendar writes exceptions as an iCalendar file. Times float: they are those of the clocks of the place.
func WriteCalendar(name string, list []Exception, at time.Time) string {
	calendar := ics.NewCalendar()
	calendar.SetProductId("-//Hermeneus//Opening hours//EN")
	calendar.SetName(name)
	for _, e := range list {
		event := calendar.AddEvent(e.UID)
		event.SetDtStampTime(at)
		event.SetSummary(e.Name)
		writeClock(event, ics.ComponentPropertyDtStart, e.Begins)
		writeClock(event, ics.ComponentPropertyDtEnd, e.Ends)
		if e.Open {
			event.SetTimeTransparency(ics.TransparencyTransparent)
		}
		if e.Rule != "" {
			event.AddRrule(e.Rule)
		}
		for _, one := range e.Except {
			writeClock(event, ics.ComponentPropertyExdate, one)
		}
		for _, one := range e.Also {
			writeClock(event, ics.ComponentPropertyRdate, one)
		}
	}
	return calendar.Serialize(ics.WithNewLineWindows)
}

func writeClock(event *ics.VEvent, name ics.ComponentProperty, value string) {
	if at, err := time.Parse(time.DateOnly, value); err == nil {
		event.AddProperty(name, at.Format("20060102"), ics.WithValue(string(ics.ValueDataTypeDate)))
	} else if at, err := time.Parse(Wall, value); err == nil {
		event.AddProperty(name, at.Format("20060102T150405"))
	}
}
