package look

import (
	"math"
	"testing"
)

// 21:1 of black on white and the boundary grey #767676 (4.54:1) are the figures of
// the Understanding documents of WCAG 2.2 (W3C); #777777 misses it (4.48:1).
func TestContrastIsThatOfTheGuidelines(t *testing.T) {
	for _, c := range []struct {
		colour string
		want   float64
	}{{"#000000", 21}, {"#FFFFFF", 1}, {"#767676", 4.54}, {"#777777", 4.48}} {
		if got, err := Contrast(c.colour, Paper); err != nil || math.Abs(got-c.want) > 0.005 {
			t.Errorf("%s: %f, %v", c.colour, got, err)
		}
	}
	for _, bad := range []string{"", "red", "#FFF", "#GGGGGG", "#1234567"} {
		if _, err := Contrast(bad, Paper); err == nil {
			t.Errorf("%q is a colour", bad)
		}
	}
}
