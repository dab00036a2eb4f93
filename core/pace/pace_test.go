package pace

import (
	"math/rand/v2"
	"testing"
	"time"
)

var start = time.Date(2026, 3, 2, 9, 0, 0, 0, time.UTC)

// whoTries makes attempts as fast as they are let, for a day, and counts those that were made.
func whoTries(known bool, others int) (made int, longestWait time.Duration) {
	var tries []time.Time
	now := start
	for now.Before(start.Add(24 * time.Hour)) {
		var own Tries
		for _, at := range tries {
			if at.After(now.Add(-Window)) {
				own.Count, own.Last = own.Count+1, at
			}
		}
		s := Scopes{Pair: own, Network: own, Account: Tries{own.Count + others, now}, Browser: own, Known: known}
		if wait := s.Wait(now); wait > 0 {
			longestWait = max(longestWait, wait)
			now = now.Add(wait)
			continue
		}
		tries, made = append(tries, now), made+1
	}
	return made, longestWait
}

func TestGuessingGetsSlow(t *testing.T) {
	if made, wait := whoTries(false, 0); made > 1000 || wait > longest {
		t.Errorf("a stranger makes %d attempts in a day and waits %s at most", made, wait)
	}
	pressed, _ := whoTries(false, 500)
	alone, _ := whoTries(false, 0)
	if pressed >= alone {
		t.Errorf("on an account that many try, one network makes %d attempts in a day; else %d", pressed, alone)
	}
	if _, wait := whoTries(true, 100_000); wait > longestOfBrowser {
		t.Errorf("a browser that signed in before waits %s", wait)
	}
}

// Whatever others do, a network from which nobody tried, and a browser that signed in before,
// are let in at once.
func TestNobodyIsShutOutByOthers(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 2))
	for range 5000 {
		flood := Tries{r.IntN(1 << 30), start.Add(-time.Duration(r.IntN(1000)) * time.Millisecond)}
		if wait := (Scopes{Account: flood}).Wait(start); wait != 0 {
			t.Fatalf("from a new network one waits %s", wait)
		}
		if wait := (Scopes{Account: flood, Network: flood, Pair: flood, Known: true}).Wait(start); wait != 0 {
			t.Fatalf("a browser that signed in before waits %s", wait)
		}
	}
}

func TestPausesDouble(t *testing.T) {
	want := []time.Duration{
		0,
		0,
		0,
		0,
		0,
		2 * time.Second,
		4 * time.Second,
		8 * time.Second,
		16 * time.Second,
		32 * time.Second,
		64 * time.Second,
	}
	for n, pause := range want {
		if got := (Scopes{Pair: Tries{n, start}}).Wait(start); got != pause {
			t.Errorf("after %d attempts: %s, want %s", n, got, pause)
		}
	}
	if got := (Scopes{Pair: Tries{99, start}}).Wait(start); got != longest {
		t.Errorf("after 99: %s", got)
	}
	if (Scopes{Pair: Tries{4, start}}).Slow() || !(Scopes{Pair: Tries{5, start}}).Slow() ||
		!(Scopes{Account: Tries{50, start}}).Slow() {
		t.Error("slow at other numbers")
	}
}
