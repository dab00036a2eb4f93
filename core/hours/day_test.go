package hours

import (
	"archive/zip"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"
)

// zones lists every zone of the IANA time zone database that Go ships.
func zones(t *testing.T) []*time.Location {
	t.Helper()
	root, err := exec.Command("go", "env", "GOROOT").Output()
	if err != nil {
		t.Fatal(err)
	}
	archive, err := zip.OpenReader(filepath.Join(strings.TrimSpace(string(root)), "lib", "time", "zoneinfo.zip"))
	if os.IsNotExist(err) {
		t.Skip("this Go comes without its list of zones")
	}
	if err != nil {
		t.Fatal(err)
	}
	defer func() { _ = archive.Close() }()
	var list []*time.Location
	for _, f := range archive.File {
		if strings.HasSuffix(f.Name, "/") {
			continue
		}
		zone, err := time.LoadLocation(f.Name)
		if err != nil {
			t.Fatal(err)
		}
		list = append(list, zone)
	}
	if len(list) < 400 {
		t.Fatalf("only %d zones", len(list))
	}
	return list
}

func TestDaysBeginWhereClocksSaySo(t *testing.T) {
	for _, c := range []struct{ zone, day, begins string }{
		{"Europe/London", "2026-03-29", "2026-03-29T00:00:00Z"},
		{"Atlantic/Azores", "2026-03-29", "2026-03-29T01:00:00Z"},  // 00:00 becomes 01:00
		{"Atlantic/Azores", "2026-10-25", "2026-10-25T00:00:00Z"},  // 01:00 becomes 00:00: midnight is shown twice
		{"America/Santiago", "2026-09-06", "2026-09-06T04:00:00Z"}, // 00:00 becomes 01:00
		{"America/Havana", "2026-03-08", "2026-03-08T05:00:00Z"},
		{"Pacific/Apia", "2011-12-30", "2011-12-30T10:00:00Z"}, // left out: where the 31st begins
		{"Pacific/Apia", "2011-12-31", "2011-12-30T10:00:00Z"},
	} {
		zone, err := time.LoadLocation(c.zone)
		if err != nil {
			t.Fatal(err)
		}
		day, err := time.Parse(time.DateOnly, c.day)
		if err != nil {
			t.Fatal(err)
		}
		y, m, d := day.Date()
		if got := DayBegins(y, m, d, zone).UTC().Format(time.RFC3339); got != c.begins {
			t.Errorf("%s in %s begins %s, want %s", c.day, c.zone, got, c.begins)
		}
	}
}

// In every zone, a day ends where the next begins, its first instant is shown as that day, and the
// instant before it as an earlier one.
func TestEveryDayOfEveryZone(t *testing.T) {
	for _, zone := range zones(t) {
		before := DayBegins(2025, 12, 31, zone)
		for d := 1; d <= 366; d++ {
			want := time.Date(2026, 1, d, 0, 0, 0, 0, time.UTC).Format(time.DateOnly)
			begins := DayBegins(2026, 1, d, zone)
			if length := begins.Sub(before); length < 22*time.Hour || length > 26*time.Hour {
				t.Errorf("%s: the day before %s has %s", zone, want, length)
			}
			if got := begins.In(zone).Format(time.DateOnly); got != want {
				t.Errorf("%s: %s begins on %s", zone, want, got)
			}
			if got := begins.Add(-time.Second).In(zone).Format(time.DateOnly); got >= want {
				t.Errorf("%s: the second before %s is of %s", zone, want, got)
			}
			before = begins
		}
	}
}
