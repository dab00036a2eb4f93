package outcome

import "math"

// z95 is the two-sided 95 % quantile of the standard normal distribution.
const z95 = 1.959963984540054

// Proportion is a share (0 to 1) with its 95 % interval and the counts it is
// made of. With Of = 0 the share is not defined: Defined reports that.
type Proportion struct {
	Value float64 `json:"value"`
	Low   float64 `json:"low"`
	High  float64 `json:"high"`
	Count int     `json:"count"`
	Of    int     `json:"of"`
	Thin  bool    `json:"thin"` // it rests on too few questions to be leaned on: under 30

	deff float64 // by which its interval is wider for questions of one asker being alike; 0 for not
}

// Defined reports whether there was anything to take a share of.
func (p Proportion) Defined() bool { return p.Of > 0 }

// enough is on how many questions a figure must rest to be leaned on.
const enough = 30

// Wilson gives count/of with its 95 % score interval without continuity
// correction (Wilson 1927; method 3 of Newcombe, Statistics in Medicine 17
// (1998) 857–872). With of = 0 it gives one of nothing.
func Wilson(count, of int) Proportion { return wilson(count, of, 1) }

// wilson takes the interval on of/deff.
func wilson(count, of int, deff float64) Proportion {
	if of <= 0 {
		return Proportion{Thin: true}
	}
	n, p := float64(of)/deff, float64(count)/float64(of)
	centre := 2*n*p + z95*z95
	spread := z95 * math.Sqrt(z95*z95+4*n*p*(1-p))
	low, high := (centre-spread)/(2*(n+z95*z95)), (centre+spread)/(2*(n+z95*z95))
	// At the ends the bound is exact; rounding must not push it past them.
	if count == 0 {
		low = 0
	}
	if count == of {
		high = 1
	}
	return Proportion{Value: p, Low: low, High: high, Count: count, Of: of, Thin: of < enough}
}

// Clustered gives count/of with Wilson's interval taken on of/deff, since questions of one asker are alike:
// deff = [m/(m−1) · Σ(xᵢ − p·nᵢ)² / (Σnᵢ)²] / [p(1−p)/Σnᵢ] over m askers with nᵢ questions, xᵢ of them of the
// kind (Rao & Scott, Biometrics 48 (1992) 577–585). squares is Σnᵢ².
func Clustered(count, of, askers int, squares float64, s Spread) Proportion {
	if of <= 0 || askers < 2 || count == 0 || count == of {
		return Wilson(count, of)
	}
	n, m, p := float64(of), float64(askers), float64(count)/float64(of)
	residuals := s.Squares - 2*p*s.Products + p*p*squares // Σ(xᵢ − p·nᵢ)²
	deff := m / (m - 1) * residuals / (n * n) / (p * (1 - p) / n)
	out := wilson(count, of, max(1, deff))
	if deff > 1 {
		out.deff = deff
	}
	return out
}

// spread gives count/of with an interval as much wider as that of p is.
func (p Proportion) spread(count, of int) Proportion {
	if of <= 0 || count == 0 || count == of {
		return Wilson(count, of)
	}
	return wilson(count, of, max(1, p.deff))
}

// Difference is the difference of two shares with its 95 % interval.
type Difference struct {
	Value float64 `json:"value"`
	Low   float64 `json:"low"`
	High  float64 `json:"high"`
}

// Newcombe gives a − b with the hybrid score interval (method 10 of Newcombe,
// Statistics in Medicine 17 (1998) 873–890). Both proportions must be defined.
func Newcombe(a, b Proportion) Difference {
	d := a.Value - b.Value
	return Difference{
		Value: d,
		Low:   d - math.Hypot(a.Value-a.Low, b.High-b.Value),
		High:  d + math.Hypot(a.High-a.Value, b.Value-b.Low),
	}
}
