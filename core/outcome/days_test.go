package outcome

import (
	"testing"
	"time"
	_ "time/tzdata"

	"hermeneus/core/hours"
)

// In zones whose clocks change at midnight, as in all others, the days of a period add up to it: no
// day stands twice, and no question falls into none.
func TestDaysAddUpToTheirPeriod(t *testing.T) {
	for _, name := range []string{
		"UTC", "Europe/London", "Atlantic/Azores", "America/Santiago", "America/Havana", "Asia/Beirut", "Africa/Cairo",
		"Australia/Lord_Howe", "America/St_Johns", "America/Asuncion", "Pacific/Apia", "Asia/Kathmandu",
	} {
		zone, err := time.LoadLocation(name)
		if err != nil {
			t.Fatal(err)
		}
		for _, year := range []int{2008, 2011, 2026} { // clocks of St John's went back a minute after midnight until 2011
			p := Period{From: hours.DayBegins(year, 1, 1, zone), To: hours.DayBegins(year+1, 1, 1, zone)}
			var questions []Question
			for at := p.From; at.Before(p.To); at = at.Add(20 * time.Minute) {
				questions = append(questions, Question{Closed: at, Began: at, Outcome: Confirmed, Settled: true})
			}
			days, counted := ByDay(questions, p, zone), 0
			for i, d := range days {
				counted += d.Counts.Confirmed
				if i > 0 && !days[i-1].Begins.Before(d.Begins) {
					t.Errorf("%s: a day begins at %s, after one at %s", name, d.Begins, days[i-1].Begins)
				}
				if n := d.Counts.Confirmed; n < 3*22 || n > 3*26 {
					t.Errorf("%s: %d questions on the day that begins %s", name, n, d.Begins)
				}
			}
			if counted != len(questions) {
				t.Errorf("%s: %d of %d questions fall into a day of %d", name, counted, len(questions), year)
			}
			want := time.Date(year, 12, 31, 0, 0, 0, 0, time.UTC).YearDay()
			if name == "Pacific/Apia" && year == 2011 {
				want-- // a day was left out
			}
			if len(days) != want {
				t.Errorf("%s: %d has %d days, want %d", name, year, len(days), want)
			}
			before := p.Before(zone)
			if !before.To.Equal(p.From) || before.From.In(zone).YearDay() > 2 && before.From.In(zone).Month() == 1 {
				t.Errorf("%s: before %d comes %s to %s", name, year, before.From, before.To)
			}
		}
	}
}
