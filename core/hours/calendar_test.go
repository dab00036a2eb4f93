package hours

import (
	"bufio"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"os/exec"
	"reflect"
	"strings"
	"testing"
	"time"
)

// python runs a script of Debian's Python with a module of Debian, and skips the test where that is not installed.
func python(t *testing.T, module, script, input string) []string {
	t.Helper()
	if exec.Command("/usr/bin/python3", "-c", "import "+module).Run() != nil {
		t.Skip("Debian's python3-" + module + " is not installed; make test installs it")
	}
	run := exec.Command("/usr/bin/python3", "-c", script)
	run.Stdin = strings.NewReader(input)
	out, err := run.Output()
	if err != nil {
		t.Fatalf("%v: %s", err, err.(*exec.ExitError).Stderr)
	}
	var lines []string
	for scan := bufio.NewScanner(strings.NewReader(string(out))); scan.Scan(); {
		lines = append(lines, scan.Text())
	}
	return lines
}

// Recurrences of 1 000 random rules, by python-dateutil (Debian's python3-dateutil), an independent implementation
// of RFC 5545.
func TestRecurrencesAgreeWithDateutil(t *testing.T) {
	r := rand.New(rand.NewPCG(7, 8))
	var rules, input []string
	for range 1000 {
		rule := randomRule(r)
		begins := time.Date(2020+r.IntN(5), time.Month(1+r.IntN(12)), 1+r.IntN(28), 0, 0, 0, 0, time.UTC).
			Format(time.DateOnly)
		rules = append(rules, begins+" "+rule)
		input = append(input, strings.ReplaceAll(rules[len(rules)-1], "T000000Z", "T000000"))
	}
	lines := python(t, "dateutil", `
import sys
from datetime import datetime
from dateutil.rrule import rrulestr
for line in sys.stdin:
    begins, rule = line.split()
    r = rrulestr(rule, dtstart=datetime.fromisoformat(begins))
    print(' '.join(d.date().isoformat() for d in r.between(datetime(2026,1,1), datetime(2027,1,1), inc=True)))
`, strings.Join(input, "\n")+"\n")
	days := 0
	for i, line := range rules {
		begins, rule, _ := strings.Cut(line, " ")
		e := Exception{Begins: begins, Ends: "9999-12-31", Rule: rule}
		first, _, err := e.wall(begins)
		if err != nil {
			t.Fatal(err)
		}
		var got []string
		low, high := time.Date(2026, 1, 1, 0, 0, 0, 0, time.UTC), time.Date(2027, 1, 1, 0, 0, 1, 0, time.UTC)
		for _, at := range e.beginnings(first, low, high) {
			got = append(got, at.Format(time.DateOnly))
		}
		days += len(got)
		if strings.Join(got, " ") != lines[i] {
			t.Errorf("%s\ngot  %s\nwant %s", line, strings.Join(got, " "), lines[i])
		}
	}
	if days < 5000 {
		t.Errorf("only %d days: the rules are too rare to show anything", days)
	}
}

func randomRule(r *rand.Rand) string {
	one := func(list ...string) string { return list[r.IntN(len(list))] }
	parts := []string{"FREQ=" + one("DAILY", "WEEKLY", "MONTHLY", "YEARLY")}
	if r.IntN(2) == 0 {
		parts = append(parts, fmt.Sprintf("INTERVAL=%d", 1+r.IntN(4)))
	}
	weekdays := "MO,TU,WE,TH,FR,SA,SU"
	switch {
	case strings.HasSuffix(parts[0], "WEEKLY"):
		parts = append(parts, "BYDAY="+one("MO", "SA,SU", "WE,FR", weekdays))
	case strings.HasSuffix(parts[0], "MONTHLY"):
		parts = append(
			parts,
			one(
				"BYMONTHDAY=1",
				"BYMONTHDAY=-1",
				"BYDAY=1MO",
				"BYDAY=-1FR",
				"BYDAY="+weekdays+";BYSETPOS=-2",
				"BYMONTHDAY=31",
			),
		)
	case strings.HasSuffix(parts[0], "YEARLY"):
		parts = append(
			parts,
			one(
				"BYMONTH=12;BYMONTHDAY=25",
				"BYMONTH=5;BYDAY=-1MO",
				"BYYEARDAY=100",
				"BYMONTH=2;BYMONTHDAY=29",
				"BYWEEKNO=20;BYDAY=MO",
			),
		)
	}
	switch r.IntN(3) {
	case 0:
		parts = append(parts, fmt.Sprintf("COUNT=%d", 1+r.IntN(3000)))
	case 1:
		parts = append(parts, fmt.Sprintf("UNTIL=2026%02d15T000000Z", 1+r.IntN(12)))
	}
	return strings.Join(parts, ";")
}

// Files written here are read by python-icalendar (Debian's python3-icalendar) and written by it again, and what
// comes back is the same.
func TestCalendarsGoToAndFro(t *testing.T) {
	list := []Exception{
		{
			UID:    "1@wrenmoor.example",
			Name:   "Christmas, and the day after",
			Begins: "2026-12-25",
			Ends:   "2026-12-27",
			Rule:   "FREQ=YEARLY",
		},
		{UID: "2@wrenmoor.example", Name: "Stocktaking; mornings", Begins: "2026-11-27T08:00", Ends: "2026-11-27T10:30",
			Rule: "FREQ=MONTHLY;BYDAY=-1FR", Except: []string{"2027-01-29T08:00"}, Also: []string{"2027-02-01T08:00"}},
		{
			UID:    "3@wrenmoor.example",
			Name:   "Open Sunday",
			Begins: "2026-12-20T10:00",
			Ends:   "2026-12-20T12:00",
			Open:   true,
		},
	}
	written := WriteCalendar("Holidays", list, time.Date(2026, 11, 26, 0, 0, 0, 0, time.UTC))
	london := zone(t, "Europe/London")
	same := func(raw string) {
		t.Helper()
		got, err := ReadCalendar([]byte(raw), london)
		if err != nil {
			t.Fatalf("%v\n%s", err, raw)
		}
		if !reflect.DeepEqual(got, list) {
			a, _ := json.MarshalIndent(got, "", " ")
			t.Errorf("got %s\n%s", a, raw)
		}
	}
	same(written)
	lines := python(t, "icalendar", `
import sys
from icalendar import Calendar
c = Calendar.from_ical(sys.stdin.read())
assert len(c.walk('VEVENT')) == 3
sys.stdout.write(c.to_ical().decode())
`, written)
	same(strings.Join(lines, "\r\n") + "\r\n")
}

// Times in UTC and in a zone that is named become those of the clocks of the place.
func TestTimesOfOtherZones(t *testing.T) {
	raw := "BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:x\r\n" +
		"BEGIN:VEVENT\r\nUID:1\r\nSUMMARY:A\r\nDTSTART:20260701T090000Z\r\nDURATION:PT1H30M\r\nEND:VEVENT\r\n" +
		"BEGIN:VEVENT\r\nUID:2\r\nSUMMARY:B\r\nDTSTART;TZID=Europe/Berlin:20260701T090000\r\nDURATION:P1DT1H\r\nEND:VEVENT\r\n" +
		"END:VCALENDAR\r\n"
	list, err := ReadCalendar([]byte(raw), zone(t, "Europe/London"))
	if err != nil {
		t.Fatal(err)
	}
	if list[0].Begins != "2026-07-01T10:00" || list[0].Ends != "2026-07-01T11:30" ||
		list[1].Begins != "2026-07-01T08:00" || list[1].Ends != "2026-07-02T09:00" {
		t.Errorf("%+v", list)
	}
}
