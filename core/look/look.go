// Package look checks the colours that a help centre is given.
// It promises enough contrast to read by (WCAG 2.2, 1.4.3).
// It may not draw.
package look

import (
	"fmt"
	"math"
	"regexp"
	"strconv"
)

// Paper is the ground that help centres are read on.
const Paper = "#FFFFFF"

// MinContrast is that of text by WCAG 2.2, success criterion 1.4.3 (AA).
const MinContrast = 4.5

var colour = regexp.MustCompile(`^#[0-9A-Fa-f]{6}$`)

// Contrast gives the contrast ratio, 1 to 21, of two colours such as #1C6B5A, as
// WCAG 2.2 defines it. It returns an error for what is not such a colour.
func Contrast(a, b string) (float64, error) {
	x, err := luminance(a)
	if err != nil {
		return 0, err
	}
	y, err := luminance(b)
	if err != nil {
		return 0, err
	}
	return (max(x, y) + 0.05) / (min(x, y) + 0.05), nil
}

func luminance(c string) (float64, error) {
	if !colour.MatchString(c) {
		return 0, fmt.Errorf("%q is not a colour such as #1C6B5A", c)
	}
	var part [3]float64
	for i := range part {
		v, err := strconv.ParseUint(c[1+2*i:3+2*i], 16, 8)
		if err != nil {
			return 0, err
		}
		s := float64(v) / 255
		if s <= 0.04045 {
			part[i] = s / 12.92
		} else {
			part[i] = math.Pow((s+0.055)/1.055, 2.4)
		}
	}
	return 0.2126*part[0] + 0.7152*part[1] + 0.0722*part[2], nil
}
