package instance_test

import (
	"testing"
	"time"

	"hermeneus/app/instance"
)

// What was read before a change is not kept after it, though the reading ended later.
func TestWhatIsKeptIsNeverOlderThanAChange(t *testing.T) {
	var kept instance.Kept[string]
	at := time.Date(2026, 3, 2, 9, 0, 0, 0, time.UTC)
	reads := 0
	get := func(now time.Time, says string, meanwhile func()) string {
		got, err := kept.Get(now, func() (*string, error) {
			reads++
			meanwhile()
			return &says, nil
		})
		if err != nil {
			t.Fatal(err)
		}
		return *got
	}
	nothing := func() {}
	for _, c := range []struct {
		name  string
		now   time.Time
		says  string
		while func()
		want  string
		reads int
	}{
		{"the first", at, "one", kept.Forget, "one", 1},
		{"after a change during the reading", at, "two", nothing, "two", 2},
		{"nothing changed", at.Add(59 * time.Second), "three", nothing, "two", 2},
		{"a minute later", at.Add(time.Minute), "three", nothing, "three", 3},
	} {
		if got := get(c.now, c.says, c.while); got != c.want || reads != c.reads {
			t.Errorf("%s: %q after %d readings", c.name, got, reads)
		}
	}
	kept.Forget()
	if got := get(at.Add(time.Minute), "four", nothing); got != "four" {
		t.Errorf("after a change: %q", got)
	}
}
