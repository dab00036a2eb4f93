package http

import (
	"testing"
	"time"
	_ "time/tzdata"
)

// A day without a midnight is that day, and not the one before; the trail of it ends where the next begins.
func TestDaysWithoutAMidnightAreRead(t *testing.T) {
	santiago, err := time.LoadLocation("America/Santiago")
	if err != nil {
		t.Fatal(err)
	}
	now := time.Date(2026, 9, 19, 12, 0, 0, 0, santiago) // on the 6th, 00:00 became 01:00
	day := Dates{From: "2026-09-06", To: "2026-09-06"}
	first, last, err := day.read(now)
	if err != nil || first.Format(time.RFC3339) != "2026-09-06T01:00:00-03:00" || !last.Equal(first) {
		t.Errorf("%s to %s, %v", first, last, err)
	}
	f, err := TrailQuery{Dates: day}.filter(now)
	if err != nil || f.To.Format(time.RFC3339) != "2026-09-07T00:00:00-03:00" || !f.From.Equal(first) {
		t.Errorf("the trail from %s to %s, %v", f.From, f.To, err)
	}
	if first, _, _ := (Dates{}).read(now); first.Format(time.DateOnly) != "2026-09-06" {
		t.Errorf("thirteen days before, it was %s", first)
	}
	if _, _, err := (Dates{From: "soon"}).read(now); err == nil {
		t.Error("no day is read as one")
	}
}
