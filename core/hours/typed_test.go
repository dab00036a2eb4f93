package hours

import (
	"slices"
	"testing"
)

func TestSpansAsTheyAreTyped(t *testing.T) {
	for text, want := range map[string]string{
		"":                         "",
		"8-12":                     "08:00–12:00",
		"08:00–12:00, 13.30 to 18": "08:00–12:00, 13:30–18:00",
		"22-6":                     "22:00–06:00",
		"0–24":                     "00:00–24:00",
		"0:30-0:30":                "00:30–00:30",
		" 9 - 17 ; ":               "09:00–17:00",
		"8":                        "?", "24-3": "?", "8-25": "?", "8:60-9": "?", "8-9 10-11": "?", "morning": "?",
	} {
		spans, ok := ReadSpans(text)
		got := WriteSpans(spans)
		if !ok {
			got = "?"
		}
		if got != want {
			t.Errorf("%q: %q, want %q", text, got, want)
		}
	}
}

// Whatever a week can hold is read as it was written.
func TestSpansComeBackAsTheyWere(t *testing.T) {
	for from := 0; from < day; from += 7 {
		for _, length := range []int{1, 59, 60, 719, day - 1, day} {
			span := []Stretch{{from, from + length}}
			if back, ok := ReadSpans(WriteSpans(span)); !ok || !slices.Equal(back, span) {
				t.Fatalf("%v is written as %q, and read as %v", span, WriteSpans(span), back)
			}
		}
	}
}

func TestRulesInWords(t *testing.T) {
	for rule, want := range map[string]string{
		"":                                 "",
		"FREQ=YEARLY":                      "every year",
		"FREQ=YEARLY;BYMONTH=5;BYDAY=-1MO": "every year on the last Monday in May",
		"FREQ=YEARLY;BYMONTH=12;BYMONTHDAY=24,31": "every year on 24 and 31 December",
		"FREQ=MONTHLY;BYDAY=1FR":                  "every month on the first Friday",
		"FREQ=WEEKLY;BYDAY=SA,SU":                 "every week on Saturday and Sunday",
		"FREQ=WEEKLY;INTERVAL=2":                  "every 2 weeks",
		"FREQ=DAILY;COUNT=5":                      "every day, 5 times",
		"FREQ=YEARLY;UNTIL=20301231T000000Z":      "every year, until 2030-12-31",
		"FREQ=MONTHLY;BYSETPOS=-1;BYDAY=MO,TU,WE": "by a rule: FREQ=MONTHLY;BYSETPOS=-1;BYDAY=MO,TU,WE",
		"FREQ=YEARLY;BYYEARDAY=100":               "by a rule: FREQ=YEARLY;BYYEARDAY=100",
	} {
		if got := (Exception{Begins: "2026-05-25", Rule: rule}).Again(); got != want {
			t.Errorf("%s: %q, want %q", rule, got, want)
		}
	}
}
