package outcome

import (
	"fmt"
	"math"
	"math/rand/v2"
	"testing"
)

func near(got, want float64) bool { return math.Abs(got-want) < 0.00005+1e-9 }

// Newcombe, Statistics in Medicine 17 (1998) 857–872, Table I, method 3.
func TestWilsonGivesNewcombesTableI(t *testing.T) {
	for _, c := range []struct {
		count, of int
		low, high float64
	}{
		{81, 263, 0.2553, 0.3662},
		{15, 148, 0.0624, 0.1605},
		{0, 20, 0, 0.1611},
		{1, 29, 0.0061, 0.1718},
	} {
		t.Run(fmt.Sprintf("%d of %d", c.count, c.of), func(t *testing.T) {
			if p := Wilson(c.count, c.of); !near(p.Low, c.low) || !near(p.High, c.high) {
				t.Errorf("got %.4f to %.4f, want %.4f to %.4f", p.Low, p.High, c.low, c.high)
			}
		})
	}
}

// Newcombe, Statistics in Medicine 17 (1998) 873–890, Table II, method 10.
func TestNewcombeGivesHisTableII(t *testing.T) {
	for _, c := range []struct {
		a, m, b, n int
		low, high  float64
	}{
		{56, 70, 48, 80, 0.0524, 0.3339},
		{9, 10, 3, 10, 0.1705, 0.8090},
		{6, 7, 2, 7, 0.0582, 0.8062},
		{5, 56, 0, 29, -0.0381, 0.1926},
		{0, 10, 0, 20, -0.1611, 0.2775},
		{10, 10, 0, 20, 0.6791, 1},
	} {
		t.Run(fmt.Sprintf("%d of %d less %d of %d", c.a, c.m, c.b, c.n), func(t *testing.T) {
			if d := Newcombe(Wilson(c.a, c.m), Wilson(c.b, c.n)); !near(d.Low, c.low) || !near(d.High, c.high) {
				t.Errorf("got %.4f to %.4f, want %.4f to %.4f", d.Low, d.High, c.low, c.high)
			}
		})
	}
}

func TestWilsonStaysWithinZeroAndOneAndAroundItsValue(t *testing.T) {
	for of := 1; of <= 400; of += 7 {
		for count := 0; count <= of; count++ {
			p := Wilson(count, of)
			if p.Low < 0 || p.High > 1 || p.Low > p.Value || p.High < p.Value {
				t.Fatalf("%d of %d: %+v", count, of, p)
			}
		}
	}
	if Wilson(0, 0).Defined() || !Wilson(3, 29).Thin || Wilson(3, 30).Thin {
		t.Error("the marks of an undefined or thin figure are wrong")
	}
}

// The worked values were recomputed independently.
func TestIntervalsAreWiderWhereAskersRepeat(t *testing.T) {
	var r Repeats
	for _, c := range []Counts{{Confirmed: 3}, {Person: 1}, {Confirmed: 1}, {Person: 1}} {
		r.Add(c)
	}
	p := Counts{Confirmed: 4, Person: 2}.Rates(r).Deflection
	if math.Abs(p.Value-0.6667) > 5e-5 || math.Abs(p.Low-0.2077) > 5e-5 || math.Abs(p.High-0.9385) > 5e-5 {
		t.Errorf("got %.4f, %.4f to %.4f", p.Value, p.Low, p.High)
	}
	var even Repeats // who repeats, but not alike: each asker has one of either
	for range 4 {
		even.Add(Counts{Confirmed: 1, Person: 1})
	}
	if got := (Counts{Confirmed: 4, Person: 4}).Rates(even).Deflection; got != Wilson(4, 8) {
		t.Errorf("the design effect is at least one: got %+v", got)
	}
	if got := Clustered(5, 5, 2, 13, Spread{Squares: 13, Products: 13}); got != Wilson(5, 5) {
		t.Errorf("a share of one has no design effect: %+v", got)
	}
}

// One asker in sixteen says nearly the same of how askers repeat as all of them do.
func TestASampleOfAskersSaysHowTheyRepeat(t *testing.T) {
	r := rand.New(rand.NewPCG(16, 40))
	for _, c := range []struct {
		askers, oneIn int
		within        float64 // of the width of the interval
	}{
		{4_000, 16, 0.12}, {40_000, 16, 0.06}, {400_000, 240, 0.06},
	} {
		for round := range 20 {
			var all, sample Repeats
			var counts Counts
			likely := 0.3 + 0.5*r.Float64()
			for asker := range c.askers {
				mood := likely + 0.3*(r.Float64()-0.5) // askers differ, so that their questions hang together
				var own Counts
				for range 1 + r.IntN(3)*r.IntN(4) {
					if r.Float64() < mood {
						own.Confirmed++
					} else {
						own.Person++
					}
				}
				counts.Confirmed, counts.Person = counts.Confirmed+own.Confirmed, counts.Person+own.Person
				all.Add(own)
				if asker%c.oneIn == 0 {
					sample.Add(own)
				}
			}
			exact, near := counts.Rates(all).Deflection, counts.Rates(sample.Times(c.oneIn).With(counts)).Deflection
			width, estimated := exact.High-exact.Low, near.High-near.Low
			if near.Value != exact.Value || math.Abs(estimated/width-1) > c.within {
				t.Errorf("%d askers, round %d: %.3f of the width; %+v of all, %+v of a sample", c.askers, round,
					estimated/width, exact, near)
			}
		}
	}
}
