package hours

import (
	"fmt"
	"strings"
	"time"

	"github.com/teambition/rrule-go"
)

var (
	periods = map[rrule.Frequency]string{
		rrule.YEARLY:  "year",
		rrule.MONTHLY: "month",
		rrule.WEEKLY:  "week",
		rrule.DAILY:   "day",
	}
	ordinals = map[int]string{
		1:  "first",
		2:  "second",
		3:  "third",
		4:  "fourth",
		5:  "fifth",
		-1: "last",
		-2: "last but one",
	}
)

// Again says in English words how an exception recurs, such as "every year on the last Monday in May"; "" for once. A
// rule that there are no words for is given as iCalendar writes it.
func (e Exception) Again() string {
	if e.Rule == "" {
		return ""
	}
	option, err := rrule.StrToROption(e.Rule)
	if err != nil || !plainly(option) {
		return "by a rule: " + e.Rule
	}
	said := "every " + periods[option.Freq]
	if option.Interval > 1 {
		said = fmt.Sprintf("every %d %ss", option.Interval, periods[option.Freq])
	}
	english := languages["en"]
	var months, days []string
	for _, m := range option.Bymonth {
		months = append(months, english.months[m-1])
	}
	for _, n := range option.Bymonthday {
		days = append(days, fmt.Sprint(n))
	}
	for _, w := range option.Byweekday {
		name := english.days[(w.Day()+1)%7] // they count from Monday
		if w.N() != 0 {
			name = "the " + ordinals[w.N()] + " " + name
		}
		days = append(days, name)
	}
	switch {
	case len(days) > 0 && len(months) > 0 && len(option.Bymonthday) > 0:
		said += " on " + and(days) + " " + and(months)
	case len(days) > 0 && len(months) > 0:
		said += " on " + and(days) + " in " + and(months)
	case len(days) > 0:
		said += " on " + and(days)
	case len(months) > 0:
		said += " in " + and(months)
	}
	if option.Count > 0 {
		said += fmt.Sprintf(", %d times", option.Count)
	}
	if !option.Until.IsZero() {
		said += ", until " + option.Until.Format(time.DateOnly)
	}
	return said
}

// When says when an exception is for the first time, its last day included: "2026-12-25", "2026-12-24 to 2026-12-26",
// "2026-12-24 12:00 to 2026-12-24 18:00".
func (e Exception) When() string {
	begins, wholeDay, err := e.wall(e.Begins)
	ends, _, err2 := e.wall(e.Ends)
	if err != nil || err2 != nil {
		return e.Begins + " to " + e.Ends
	}
	layout := "2006-01-02 15:04"
	if wholeDay {
		layout, ends = time.DateOnly, ends.AddDate(0, 0, -1)
	}
	from, to := begins.Format(layout), ends.Format(layout)
	if from == to {
		return from
	}
	return from + " to " + to
}

// plainly reports whether there are words for a rule.
func plainly(o *rrule.ROption) bool {
	if periods[o.Freq] == "" || len(o.Bysetpos)+len(o.Byyearday)+len(o.Byweekno)+len(o.Byeaster) > 0 ||
		len(o.Bymonthday) > 0 && len(o.Byweekday) > 0 || len(o.Byhour)+len(o.Byminute)+len(o.Bysecond) > 0 {
		return false
	}
	for _, w := range o.Byweekday {
		if w.N() != 0 && ordinals[w.N()] == "" {
			return false
		}
	}
	for _, n := range o.Bymonthday {
		if n < 1 {
			return false
		}
	}
	return true
}

func and(list []string) string {
	if len(list) < 2 {
		return strings.Join(list, "")
	}
	return strings.Join(list[:len(list)-1], ", ") + " and " + list[len(list)-1]
}
