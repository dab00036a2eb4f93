package outcome

import (
	"strings"
	"testing"
	"time"
)

func TestTheLastArticleIsTheOneReadLast(t *testing.T) {
	for _, c := range []struct{ name, evidence, want string }{
		{"read beats opened later", "0s a asked; 1s a opened A-0001@1; 9s a read A-0001@1; 10s a opened A-0002@4", "A-0001"},
		{"the last of those read", "0s a asked; 1s a read A-0001@1; 2s a read A-0003@2", "A-0003"},
		{"opened, when none was read", "0s a asked; 1s a opened A-0001@1; 2s a opened A-0002@4", "A-0002"},
		{"a verdict alone names none", "0s a asked; 1s a helped A-0001@1", ""},
		{"a turn is no article", "0s a asked; 1s a told turn:find", ""},
	} {
		t.Run(c.name, func(t *testing.T) {
			q := Fold(story(t, c.evidence), day0.Add(time.Hour), DefaultWindow)[0]
			if got := q.LastArticle(); got != c.want {
				t.Errorf("got %q", got)
			}
		})
	}
}

func TestByArticleLeavesBrowsingAndOpenOut(t *testing.T) {
	items := story(t, `0s a asked; 1s a read A-0001@1; 2s a helped A-0001@1;
		0s b asked; 1s b read A-0001@2; 2s b requested R-1;
		0s c opened A-0001@1;
		0s d asked; 1s d read A-0002@1;
		9h e asked; 9h e read A-0001@1`)
	by := ByArticle(Fold(items, day0.Add(9*time.Hour+time.Minute), DefaultWindow))
	if len(by) != 2 || by["A-0001"] != (Counts{Confirmed: 1, Person: 1}) || by["A-0002"] != (Counts{Presumed: 1}) {
		t.Errorf("got %+v", by)
	}
}

func TestPeriodsHoldTheirBeginningAndNotTheirEnd(t *testing.T) {
	p := Period{From: day0, To: day0.Add(24 * time.Hour)}
	for offset, want := range map[time.Duration]bool{-time.Second: false, 0: true, 24*time.Hour - 1: true, 24 * time.Hour: false} {
		if p.Contains(day0.Add(offset)) != want {
			t.Errorf("%v", offset)
		}
	}
	if b := p.Before(time.UTC); !b.To.Equal(p.From) || b.To.Sub(b.From) != 24*time.Hour {
		t.Errorf("before: %+v", b)
	}
	if !(Period{}).Contains(day0) {
		t.Error("an unbounded period leaves something out")
	}
}

func TestTheWeekBeforeIsAWeekOfTheCalendar(t *testing.T) {
	zone, err := time.LoadLocation("Europe/London")
	if err != nil {
		t.Fatal(err)
	}
	day := func(month time.Month, d int) time.Time { return time.Date(2026, month, d, 0, 0, 0, 0, zone) }
	// Clocks go forward on 29 March and back on 25 October 2026.
	for _, c := range []struct {
		name         string
		first, after time.Time
		want         time.Time
	}{
		{"clocks go forward in the week itself", day(3, 23), day(3, 30), day(3, 16)},
		{"clocks went forward in the week before", day(3, 30), day(4, 6), day(3, 23)},
		{"clocks went back in the week before", day(10, 26), day(11, 2), day(10, 19)},
		{"clocks go back in the one day that is asked for", day(10, 25), day(10, 26), day(10, 24)},
		{"a year", day(1, 1), day(1, 1).AddDate(1, 0, 0), day(1, 1).AddDate(-1, 0, 0)},
	} {
		if got := (Period{From: c.first, To: c.after}).Before(zone); !got.From.Equal(c.want) || !got.To.Equal(c.first) {
			t.Errorf("%s: %s to %s", c.name, got.From.In(zone), got.To.In(zone))
		}
	}
}

// A question belongs to the period in which it closes; an open one to that in
// which it began. So every question is in exactly one of two periods that meet.
func TestEveryQuestionIsInExactlyOnePeriod(t *testing.T) {
	items := story(t, "0s a asked; 23h45m b asked; 23h50m c asked; 23h55m c helped X; 30h d asked")
	questions := Fold(items, day0.Add(30*time.Hour+time.Minute), DefaultWindow)
	cut := day0.Add(24 * time.Hour)
	before, after := Within(questions, Period{To: cut}), Within(questions, Period{From: cut})
	if len(before) != 2 || len(after) != 2 || len(questions) != 4 {
		t.Errorf("%s\nand\n%s", told(before), told(after))
	}
}

func TestLabelsAndReferences(t *testing.T) {
	q := Question{Evidence: []*Evidence{{Kind: Opened}, {Kind: Offered, Text: "typed"}, {Kind: Asked, Text: "asked"}}}
	if q.Label() != "typed" || (Question{}).Label() != "" {
		t.Errorf("label %q", q.Label())
	}
}

func TestWhatMayHaveAnswered(t *testing.T) {
	q := Question{Evidence: []*Evidence{
		{
			Kind: Asked,
			Text: " first  words ",
		},
		{Kind: Offered, Refs: []string{"A-0001@1", "A-0002@1"}},
		{Kind: Told, Refs: []string{"A-0003@2"}},
		{Kind: Asked, Text: "second words"},
		{Kind: Asked},
	}}
	if got := strings.Join(
		q.MayHaveAnswered(),
		" ",
	); got != "A-0003 A-0001 A-0002" || q.LastAsked() != "second words" ||
		q.HelpedBy() != "" {
		t.Errorf("nothing opened: %q, asked %q, helped by %q", got, q.LastAsked(), q.HelpedBy())
	}
	if form := (Question{Evidence: []*Evidence{{Kind: Asked, Text: "a"}, {Kind: Offered, Text: "typed into the form"}}}); form.LastAsked() != "typed into the form" {
		t.Errorf("in a form: %q", form.LastAsked())
	}
	q.Evidence = append(
		q.Evidence,
		&Evidence{Kind: Opened, Ref: "A-0001@1"},
		&Evidence{Kind: Read, Ref: "A-0002@1"},
		&Evidence{Kind: Helped, Ref: "A-0001@1"},
	)
	if got := strings.Join(q.MayHaveAnswered(), " "); got != "A-0001 A-0002" || q.HelpedBy() != "A-0001" {
		t.Errorf("opened: %q, helped by %q", got, q.HelpedBy())
	}
	q.Evidence = append(q.Evidence, &Evidence{Kind: Helped, Ref: "turn:find"})
	if q.HelpedBy() != "turn:find" {
		t.Errorf("helped by %q", q.HelpedBy())
	}
}
