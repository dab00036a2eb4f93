package hours

import (
	"errors"
	"testing"
	"time"
	_ "time/tzdata"
)

// The changes are those of the IANA time zone database, as shipped with Go.
func TestWallClocksAreTurnedIntoInstants(t *testing.T) {
	for _, c := range []struct{ zone, wall, at, second, next string }{
		{"Europe/London", "2026-03-02T09:30", "2026-03-02T09:30:00Z", "", ""},
		{"Europe/London", "2026-07-02T09:30", "2026-07-02T08:30:00Z", "", ""},
		{"Europe/London", "2026-03-29T00:59", "2026-03-29T00:59:00Z", "", ""},
		{"Europe/London", "2026-03-29T01:00", "", "", "2026-03-29T01:00:00Z"}, // skipped: 02:00 summer time
		{"Europe/London", "2026-03-29T01:30", "", "", "2026-03-29T01:00:00Z"},
		{"Europe/London", "2026-03-29T02:00", "2026-03-29T01:00:00Z", "", ""},
		{"Europe/London", "2026-10-25T01:30", "2026-10-25T00:30:00Z", "2026-10-25T01:30:00Z", ""},
		{"Europe/London", "2026-10-25T02:00", "2026-10-25T02:00:00Z", "", ""},
		{"America/New_York", "2026-03-08T02:30", "", "", "2026-03-08T07:00:00Z"},
		{"America/New_York", "2026-11-01T01:30", "2026-11-01T05:30:00Z", "2026-11-01T06:30:00Z", ""},
		{"Australia/Lord_Howe", "2026-10-04T02:15", "", "", "2026-10-03T15:30:00Z"}, // half an hour
		{"Australia/Lord_Howe", "2026-04-05T01:45", "2026-04-04T14:45:00Z", "2026-04-04T15:15:00Z", ""},
		{"Pacific/Apia", "2011-12-30T12:00", "", "", "2011-12-30T10:00:00Z"}, // a whole day was left out
		{"UTC", "2026-03-29T01:30", "2026-03-29T01:30:00Z", "", ""},
	} {
		zone, err := time.LoadLocation(c.zone)
		if err != nil {
			t.Fatal(err)
		}
		got, err := At(c.wall, zone)
		var skipped *Skipped
		switch {
		case c.next != "":
			if !errors.As(err, &skipped) || skipped.Next.UTC().Format(time.RFC3339) != c.next {
				t.Errorf("%s %s: %v, want a gap until %s", c.zone, c.wall, err, c.next)
			}
		case err != nil || got.At.UTC().Format(time.RFC3339) != c.at || got.Twice != (c.second != ""):
			t.Errorf("%s %s: %v, %v", c.zone, c.wall, got, err)
		case got.Twice && got.Second.UTC().Format(time.RFC3339) != c.second:
			t.Errorf("%s %s: the second time is %v", c.zone, c.wall, got.Second)
		}
	}
	for _, bad := range []string{"", "2026-13-01T00:00", "tomorrow", "2026-02-30T10:00"} {
		if _, err := At(bad, time.UTC); !errors.Is(err, ErrNotATime) {
			t.Errorf("%q: %v", bad, err)
		}
	}
}

// Every minute of a year comes back as itself, and what is skipped or shown twice
// is as long as the change of the clocks.
func TestEveryMinuteOfAYear(t *testing.T) {
	zone, err := time.LoadLocation("Europe/London")
	if err != nil {
		t.Fatal(err)
	}
	skipped, twice := 0, 0
	for m := time.Date(2026, 1, 1, 0, 0, 0, 0, time.UTC); m.Year() == 2026; m = m.Add(time.Minute) {
		got, err := At(m.Format(Wall), zone)
		switch {
		case err != nil:
			skipped++
		case got.At.Format(Wall) != m.Format(Wall):
			t.Fatalf("%v became %v", m, got.At)
		case got.Twice:
			twice++
		}
	}
	if skipped != 60 || twice != 60 {
		t.Errorf("%d minutes skipped, %d shown twice, want 60 of each", skipped, twice)
	}
}
