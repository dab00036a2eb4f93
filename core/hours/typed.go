package hours

import (
	"fmt"
	"regexp"
	"strconv"
	"strings"
)

var (
	betweenSpans = regexp.MustCompile(`[,;]`)
	spanShape    = regexp.MustCompile(`^(\d{1,2})(?:[:.](\d{2}))?\s*(?:-|–|to)\s*(\d{1,2})(?:[:.](\d{2}))?$`)
)

// WriteSpans writes the spans of a day as they are typed: "08:00–12:00, 13:00–18:00". A span over midnight ends by
// the clock of the next day.
func WriteSpans(spans []Stretch) string {
	var parts []string
	for _, s := range spans {
		to := fmt.Sprintf("%02d:%02d", s.To/60%24, s.To%60)
		if s.To%day == 0 {
			to = "24:00"
		}
		parts = append(parts, fmt.Sprintf("%02d:%02d–%s", s.From/60, s.From%60, to))
	}
	return strings.Join(parts, ", ")
}

// ReadSpans reads the spans of a day as somebody types them: "8-12, 13.30 to 18"; nothing is closed. ok is false
// where they cannot be read.
func ReadSpans(text string) (spans []Stretch, ok bool) {
	spans = []Stretch{}
	for _, part := range betweenSpans.Split(text, -1) {
		part = strings.TrimSpace(part)
		if part == "" {
			continue
		}
		m := spanShape.FindStringSubmatch(part)
		if m == nil {
			return nil, false
		}
		from, fromOK := clock(m[1], m[2])
		to, toOK := clock(m[3], m[4])
		if !fromOK || !toOK || from >= day {
			return nil, false
		}
		if to <= from {
			to += day
		}
		spans = append(spans, Stretch{from, to})
	}
	return spans, true
}

// clock gives the minutes of a time of day, up to 24:00.
func clock(hour, minute string) (minutes int, ok bool) {
	h, err := strconv.Atoi(hour)
	m, _ := strconv.Atoi(minute) // nothing is the full hour
	return h*60 + m, err == nil && m < 60 && h*60+m <= day
}
