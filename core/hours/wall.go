// Package hours turns what a clock on the wall says into instants, in a time zone whose clocks are put
// forward and back.
// It promises that a time which clocks skip is refused, and one that they show twice is said to be.
// It may not read a clock.
package hours

import (
	"errors"
	"fmt"
	"time"
)

// Wall is how a time is written that a clock on the wall shows.
const Wall = "2006-01-02T15:04"

// ErrNotATime is given for what is no such time.
var ErrNotATime = errors.New("a time is written as 2026-03-02T09:30")

// Skipped is given for a time that no clock of the zone ever shows, since clocks are
// put forward over it.
type Skipped struct {
	Wall string
	Next time.Time // the first instant after the gap
}

func (s *Skipped) Error() string {
	return fmt.Sprintf(
		"the clocks go forward: %s does not exist there; the next time is %s",
		s.Wall,
		s.Next.Format("15:04"),
	)
}

// Instant is when a clock on the wall shows a time.
type Instant struct {
	At     time.Time
	Twice  bool      // clocks are put back over it, so that they show it twice
	Second time.Time // the later of the two; zero unless Twice
}

// At gives the instant at which clocks in a zone show a time: the first, where they
// show it twice. It gives ErrNotATime, or a *Skipped. The zone's rules are those of
// the IANA time zone database.
func At(wall string, zone *time.Location) (Instant, error) {
	read, err := time.Parse(Wall, wall)
	if err != nil {
		return Instant{}, ErrNotATime
	}
	// Whatever the zone does, it is right with one of the offsets in force around it.
	var found []time.Time
	for _, hours := range []time.Duration{-26, -3, 3, 26} {
		_, offset := read.Add(hours * time.Hour).In(zone).Zone()
		at := read.Add(-time.Duration(offset) * time.Second).In(zone)
		if at.Format(Wall) == wall && (len(found) == 0 || !containsTime(found, at)) {
			found = append(found, at)
		}
	}
	switch {
	case len(found) == 0:
		return Instant{}, &Skipped{wall, afterGap(read, zone)}
	case len(found) == 1:
		return Instant{At: found[0]}, nil
	}
	first, second := found[0], found[1]
	if second.Before(first) {
		first, second = second, first
	}
	return Instant{first, true, second}, nil
}

func containsTime(list []time.Time, t time.Time) bool {
	for _, l := range list {
		if l.Equal(t) {
			return true
		}
	}
	return false
}

// afterGap finds the first instant whose clock is past a time that is skipped.
func afterGap(read time.Time, zone *time.Location) time.Time {
	low, high := read.Add(-27*time.Hour), read.Add(27*time.Hour)
	want := read.Format(Wall)
	for high.Sub(low) > time.Second {
		middle := low.Add(high.Sub(low) / 2)
		if middle.In(zone).Format(Wall) < want {
			low = middle
		} else {
			high = middle
		}
	}
	return high.Truncate(time.Minute).In(zone)
}
