package hours

import (
	"math/rand/v2"
	"strings"
	"testing"
	"time"
)

func zone(t testing.TB, name string) *time.Location {
	t.Helper()
	z, err := time.LoadLocation(name)
	if err != nil {
		t.Fatal(err)
	}
	return z
}

// office is open on weekdays from 8 to 12 and from 13 to 18, on Saturday from 9 to 13.
func office(t testing.TB) Schedule {
	weekday := []Stretch{{8 * 60, 12 * 60}, {13 * 60, 18 * 60}}
	return Schedule{
		Zone: zone(t, "Europe/London"),
		Week: Week{weekday, weekday, weekday, weekday, weekday, {{9 * 60, 13 * 60}}},
	}
}

func TestOpenAndNext(t *testing.T) {
	always := office(t)
	always.Always = true
	holiday := office(t)
	holiday.Days = []Exception{
		{Name: "Christmas", Begins: "2026-12-25", Ends: "2026-12-27", Rule: "FREQ=YEARLY"},
		{Name: "Inventory", Begins: "2026-11-27T08:00", Ends: "2026-11-27T10:00"},
		{Name: "Open Sunday", Begins: "2026-12-20T10:00", Ends: "2026-12-20T12:00", Open: true},
	}
	away := office(t)
	away.Away = time.Date(2026, 11, 26, 15, 0, 0, 0, time.UTC)
	night := Schedule{Zone: zone(t, "Europe/London"), Week: Week{{{22 * 60, 30 * 60}}}} // Monday 22 to Tuesday 6
	for _, c := range []struct {
		name     string
		schedule Schedule
		at       string
		open     bool
		next     string
	}{
		{"in a span", office(t), "2026-11-26T09:00:00Z", true, "2026-11-26T09:00:00Z"},
		{"at its first minute", office(t), "2026-11-26T08:00:00Z", true, "2026-11-26T08:00:00Z"},
		{"at its last", office(t), "2026-11-26T12:00:00Z", false, "2026-11-26T13:00:00Z"},
		{"between two spans", office(t), "2026-11-26T12:30:00Z", false, "2026-11-26T13:00:00Z"},
		{"on Saturday afternoon", office(t), "2026-11-28T14:00:00Z", false, "2026-11-30T08:00:00Z"},
		{"in summer, by the clocks", office(t), "2026-07-01T07:00:00Z", true, "2026-07-01T07:00:00Z"},
		{"a holiday, and the Sunday after", holiday, "2026-12-25T09:00:00Z", false, "2026-12-28T08:00:00Z"},
		{"a holiday of a later year", holiday, "2031-12-25T09:00:00Z", false, "2031-12-27T09:00:00Z"},
		{"part of a day", holiday, "2026-11-27T09:00:00Z", false, "2026-11-27T10:00:00Z"},
		{"open though the week says closed", holiday, "2026-12-20T11:00:00Z", true, "2026-12-20T11:00:00Z"},
		{"away until", away, "2026-11-26T09:00:00Z", false, "2026-11-26T15:00:00Z"},
		{"over midnight", night, "2026-11-24T05:59:00Z", true, "2026-11-24T05:59:00Z"},
		{"after a night", night, "2026-11-24T06:00:00Z", false, "2026-11-30T22:00:00Z"},
		{"never closed", always, "2026-11-29T03:00:00Z", true, "2026-11-29T03:00:00Z"},
		{"never open", Schedule{Zone: zone(t, "Europe/London")}, "2026-11-29T03:00:00Z", false, ""},
	} {
		t.Run(c.name, func(t *testing.T) {
			at, err := time.Parse(time.RFC3339, c.at)
			if err != nil {
				t.Fatal(err)
			}
			next, ok := c.schedule.Next(at)
			got := ""
			if ok {
				got = next.UTC().Format(time.RFC3339)
			}
			if open := c.schedule.OpenAt(at); open != c.open || got != c.next {
				t.Errorf("open %v, next %s; want %v, %s", open, got, c.open, c.next)
			}
		})
	}
}

// When clocks are put forward and back, a span that lies over it is shorter or longer, and one that begins in what is
// skipped begins where clocks go on (IANA time zone database: Europe/London 2026-03-29 and 2026-10-25).
func TestSpansOverClockChanges(t *testing.T) {
	s := Schedule{Zone: zone(t, "Europe/London"), Week: Week{6: {{90, 3 * 60}}}} // Sunday 01:30 to 03:00
	for _, c := range []struct{ day, from, to string }{
		{"2026-03-22T00:00:00Z", "2026-03-22T01:30:00Z", "2026-03-22T03:00:00Z"},
		{"2026-03-29T00:00:00Z", "2026-03-29T01:00:00Z", "2026-03-29T02:00:00Z"}, // 01:30 is skipped: from 02:00
		{"2026-10-25T00:00:00Z", "2026-10-25T00:30:00Z", "2026-10-25T03:00:00Z"}, // 01:30 is shown twice: from the first
	} {
		at, err := time.Parse(time.RFC3339, c.day)
		if err != nil {
			t.Fatal(err)
		}
		from, ok := s.Next(at)
		to, closes := s.Closes(from)
		if got := from.UTC().Format(time.RFC3339); !ok || got != c.from {
			t.Errorf("%s: opens %s, want %s", c.day, got, c.from)
		}
		if got := to.UTC().Format(time.RFC3339); !closes || got != c.to {
			t.Errorf("%s: closes %s, want %s", c.day, got, c.to)
		}
	}
}

// In whatever zone and week: at the next opening it is open, and at no minute before.
func TestNextIsTheFirstOpening(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 2))
	list := zones(t)
	for range 400 {
		s := Schedule{Zone: list[r.IntN(len(list))]}
		for range 1 + r.IntN(3) {
			from := r.IntN(day)
			s.Week[r.IntN(7)] = []Stretch{{from, from + 15 + r.IntN(day-15)}}
		}
		if r.IntN(3) == 0 {
			s.Days = []Exception{{Begins: "2026-03-27", Ends: "2026-03-30", Rule: "FREQ=WEEKLY;INTERVAL=3"}}
		}
		at := time.Date(2026, 1+time.Month(r.IntN(12)), r.IntN(28), r.IntN(24), r.IntN(60), 0, 0, time.UTC)
		next, ok := s.Next(at)
		if !ok {
			t.Fatalf("never open: %+v", s)
		}
		if !s.OpenAt(next) {
			t.Fatalf("%s: not open at %s: %+v", s.Zone, next, s)
		}
		for m := at; m.Before(next); m = m.Add(13 * time.Minute) {
			if s.OpenAt(m) {
				t.Fatalf("%s: open at %s, before %s: %+v", s.Zone, m, next, s)
			}
		}
	}
}

func TestWeeksThatMakeNoSense(t *testing.T) {
	for name, w := range map[string]Week{
		"backward": {{{600, 500}}}, "longer than a day": {{{600, 600 + day + 1}}}, "two at once": {{{600, 700}, {650, 800}}},
		"before the day": {{{-1, 10}}}, "too many": {make([]Stretch, MaxSpans+1)},
	} {
		if w.Check() == "" {
			t.Errorf("%s: nothing is said", name)
		}
	}
	if why := office(t).Week.Check(); why != "" {
		t.Error(why)
	}
}

func TestSay(t *testing.T) {
	london := zone(t, "Europe/London")
	now := time.Date(2026, 11, 26, 17, 30, 0, 0, time.UTC) // a Thursday
	for _, c := range []struct{ language, at, want string }{
		{"en", "2026-11-26T18:00:00Z", "today at 18:00"},
		{"en", "2026-11-27T08:00:00Z", "tomorrow at 08:00"},
		{"de", "2026-11-30T08:00:00Z", "Montag um 08:00"},
		{"fr", "2026-12-28T08:00:00Z", "le 28 décembre à 08 h 00"},
		{"xx", "2026-12-28T08:00:00Z", "on 28 December at 08:00"},
	} {
		at, err := time.Parse(time.RFC3339, c.at)
		if err != nil {
			t.Fatal(err)
		}
		if got := Say(c.language, at, now, london); got != c.want {
			t.Errorf("%s: %q, want %q", c.at, got, c.want)
		}
	}
	if got := SayIn("en", now.Add(25*time.Minute), now); got != "in 25 minutes" {
		t.Error(got)
	}
	if got := SayIn("de", now.Add(3*time.Hour), now); got != "in 3 Stunden" {
		t.Error(got)
	}
}

func TestCalendarsThatAreRefused(t *testing.T) {
	london := zone(t, "Europe/London")
	event := func(lines string) string {
		return "BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:x\r\nBEGIN:VEVENT\r\nUID:1\r\nSUMMARY:X\r\n" + lines + "\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n"
	}
	for name, c := range map[string]struct{ raw, why string }{
		"no calendar":       {"hello", "not an iCalendar file"},
		"empty":             {"BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:x\r\nEND:VCALENDAR\r\n", "no entries"},
		"no beginning":      {event("DTEND:20261225"), "no beginning"},
		"no date":           {event("DTSTART:Christmas"), "not a date"},
		"backward":          {event("DTSTART:20261225T100000\r\nDTEND:20261225T090000"), "ends before it begins"},
		"every second":      {event("DTSTART:20261225T100000\r\nDTEND:20261225T110000\r\nRRULE:FREQ=SECONDLY"), "more often than once a day"},
		"no rule":           {event("DTSTART;VALUE=DATE:20261225\r\nRRULE:FREQ=SOMETIMES"), "cannot be read"},
		"an unknown zone":   {event("DTSTART;TZID=Nowhere/Here:20261225T100000\r\nDURATION:PT1H"), "not known"},
		"a length of words": {event("DTSTART:20261225T100000\r\nDURATION:long"), "not a length"},
		"too many":          {strings.Replace(event("DTSTART:20261225"), "BEGIN:VEVENT", strings.Repeat("BEGIN:VEVENT\r\nUID:2\r\nDTSTART:20261225\r\nEND:VEVENT\r\n", 10000)+"BEGIN:VEVENT", 1), "at most 2000"},
		"too large":         {strings.Repeat("x", MaxCalendar+1), "larger than"},
	} {
		if _, err := ReadCalendar([]byte(c.raw), london); err == nil || !strings.Contains(err.Error(), c.why) {
			t.Errorf("%s: %v", name, err)
		}
	}
	// A rule that never ends, and one that never comes, are looked at only as far as is asked.
	for _, rule := range []string{"FREQ=DAILY", "FREQ=YEARLY;BYMONTH=2;BYMONTHDAY=30"} {
		list, err := ReadCalendar([]byte(event("DTSTART;VALUE=DATE:19000101\r\nRRULE:"+rule)), london)
		if err != nil {
			t.Fatal(err)
		}
		s := office(t)
		s.Days = list
		s.OpenAt(time.Date(2026, 11, 26, 9, 0, 0, 0, time.UTC))
	}
}
