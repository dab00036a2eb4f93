package hours

import (
	"errors"
	"time"
)

// DayBegins is the first instant of a calendar day in a zone. Where clocks are put forward over
// midnight (the Azores, Santiago, Havana) that is later than midnight; where they show midnight
// twice, it is the first. A day that a zone leaves out (Apia, 30 December 2011) begins, and ends,
// where the next one begins. Days and months out of range are taken as time.Date takes them.
func DayBegins(year int, month time.Month, day int, zone *time.Location) time.Time {
	midnight := time.Date(year, month, day, 0, 0, 0, 0, time.UTC).Format(Wall)
	instant, err := At(midnight, zone)
	var skipped *Skipped
	switch {
	case errors.As(err, &skipped):
		return skipped.Next
	case err != nil: // a year of more than four digits
		return time.Date(year, month, day, 0, 0, 0, 0, zone)
	}
	return instant.At
}

// DayOf is the first instant of the day in which a time lies in a zone.
func DayOf(t time.Time, zone *time.Location) time.Time {
	y, m, d := t.In(zone).Date()
	return DayBegins(y, m, d, zone)
}
