package outcome

import (
	"fmt"
	"strings"
	"testing"
	"time"
)

var day0 = time.Date(2026, 3, 2, 9, 0, 0, 0, time.UTC)

// story reads evidence written as "offset asker kind ref field=value…" separated by ";",
// with offsets from day0, such as "1m ann asked; 2m30s ann read A-0001@1".
func story(t *testing.T, text string) []Evidence {
	t.Helper()
	var items []Evidence
	for i, part := range strings.Split(text, ";") {
		f := strings.Fields(part)
		offset, err := time.ParseDuration(f[0])
		if err != nil {
			t.Fatalf("%q: %v", part, err)
		}
		e := Evidence{At: day0.Add(offset), Asker: f[1], Kind: Kind(f[2]), Channel: Help, Line: i + 1}
		if !e.Kind.Valid() {
			t.Fatalf("%q: unknown kind", part)
		}
		for _, field := range f[3:] {
			switch name, value, _ := strings.Cut(field, "="); name {
			case "contact":
				e.Contact = value
			case "source":
				e.Source = Source(value)
			case "refs":
				e.Refs = strings.Split(value, ",")
			case "to":
				e.To = value
			case "unlikely":
				e.Unlikely = true
			default:
				e.Ref = field
			}
		}
		items = append(items, e)
	}
	return items
}

// told gives questions as "asker began+closed outcome", open ones without closing.
func told(questions []Question) string {
	var out []string
	for _, q := range questions {
		closed := q.Closed.Sub(day0).String()
		if q.Outcome == Open {
			closed = "-"
		}
		again := ""
		if q.AskedAgain {
			again = " again"
		}
		out = append(out, fmt.Sprintf("%s %s..%s %s%s", q.Asker, q.Began.Sub(day0), closed, q.Outcome, again))
	}
	return strings.Join(out, "; ")
}

// foldCase is a story and what becomes of it.
type foldCase struct {
	name, evidence, want string
	asOf                 time.Duration
}

const later = 60 * 24 * time.Hour

func checkFolds(t *testing.T, cases []foldCase) {
	t.Helper()
	for _, c := range cases {
		t.Run(c.name, func(t *testing.T) {
			if got := told(Fold(story(t, c.evidence), day0.Add(c.asOf), DefaultWindow)); got != c.want {
				t.Errorf("\ngot  %s\nwant %s", got, c.want)
			}
		})
	}
}

func TestFoldDecidesEveryRuleAndBoundary(t *testing.T) {
	checkFolds(t, []foldCase{
		{
			"a helped verdict confirms, at that verdict",
			"0s a asked; 1m a read X; 2m a helped X",
			"a 0s..2m0s confirmed",
			later,
		},
		{
			"a verdict changed to not helped is unanswered, thirty minutes after the last item",
			"0s a asked; 1m a helped X; 2m a not_helped X",
			"a 0s..32m0s unanswered",
			later,
		},
		{
			"a verdict changed to helped confirms",
			"0s a asked; 1m a not_helped X; 2m a helped X",
			"a 0s..2m0s confirmed",
			later,
		},
		{"reading after asking is presumed", "0s a asked; 1m a opened X; 2m a read X", "a 0s..32m0s presumed", later},
		{
			"being told is unanswered until it is seen",
			"0s a asked; 1m a told turn:opening",
			"a 0s..31m0s unanswered",
			later,
		},
		{
			"what was told and then seen is presumed",
			"0s a asked; 1m a told turn:opening; 2m a read turn:opening",
			"a 0s..32m0s presumed",
			later,
		},
		{"opening without reading is unanswered", "0s a asked; 1m a opened X", "a 0s..31m0s unanswered", later},
		{
			"an offer of the form alone is an unanswered question",
			"0s a offered source=form",
			"a 0s..30m0s unanswered",
			later,
		},
		{
			"any other offer alone is browsing",
			"0s a offered source=bot; 1m b offered",
			"a 0s..30m0s browsing; b 1m0s..31m0s browsing",
			later,
		},
		{"being told something alone is browsing", "0s a told turn:x; 1m a read turn:x", "a 0s..31m0s browsing", later},
		{
			"reading what a form offered is presumed though nothing was asked",
			"0s a offered source=form; 1m a read X",
			"a 0s..31m0s presumed",
			later,
		},
		{
			"asking again after reading is unanswered",
			"0s a asked; 1m a read X; 2m a asked",
			"a 0s..32m0s unanswered",
			later,
		},
		{
			"reading after asking again is presumed",
			"0s a asked; 1m a read X; 2m a asked; 3m a read Y",
			"a 0s..33m0s presumed",
			later,
		},
		{
			"not helped after reading is unanswered",
			"0s a asked; 1m a read X; 2m a not_helped X",
			"a 0s..32m0s unanswered",
			later,
		},
		{
			"reading something else after not helped is presumed",
			"0s a asked; 1m a read X; 2m a not_helped X; 3m a read Y",
			"a 0s..33m0s presumed",
			later,
		},
		{
			"wanting a person after reading is unanswered",
			"0s a asked; 1m a read X; 2m a wanted_person",
			"a 0s..32m0s unanswered",
			later,
		},
		{
			"reading after wanting a person is unanswered: they wanted one since they asked",
			"0s a asked; 1m a wanted_person; 2m a read X",
			"a 0s..32m0s unanswered",
			later,
		},
		{
			"wanting a person counts no more when something is asked after it",
			"0s a asked; 1m a wanted_person; 2m a asked; 3m a read X",
			"a 0s..33m0s presumed",
			later,
		},
		{
			"where nothing was asked, any wish for a person counts",
			"0s a wanted_person; 2m a read X",
			"a 0s..32m0s unanswered",
			later,
		},
		{
			"opening something further takes back what was read before",
			"0s a asked; 1m a opened X; 2m a read X; 3m a came_back; 3m1s a opened Y",
			"a 0s..33m1s unanswered",
			later,
		},
		{
			"and reading that is presumed again",
			"0s a asked; 1m a opened X; 2m a read X; 3m a came_back; 3m1s a opened Y; 4m a read Y",
			"a 0s..34m0s presumed",
			later,
		},
		{
			"a wish for a person after a confirmation is a question of its own",
			"0s a asked; 1m a helped X; 2m a wanted_person",
			"a 0s..1m0s confirmed; a 2m0s..32m0s unanswered",
			later,
		},
		{
			"a handoff is a person, at once",
			"0s a asked; 1m a wanted_person; 2m a handed_off Field",
			"a 0s..2m0s person",
			later,
		},
		{
			"a request is a person, and another contact a question of its own",
			"0s a asked; 5m a requested R-1; 6m a handed_off H-1",
			"a 0s..5m0s person; a 6m0s..6m0s person",
			later,
		},
		{
			"a contact after a confirmation makes it returned at once",
			"0s a asked; 1m a helped X; 2m a requested R-1",
			"a 0s..1m0s returned; a 2m0s..2m0s person",
			later,
		},
		{"looking around is browsing", "0s a opened X; 1m a read X; 2m a helped X", "a 0s..2m0s browsing", later},
		{
			"browsing becomes a question from its first item on",
			"0s a opened X; 5m a asked",
			"a 0s..35m0s unanswered",
			later,
		},
		{
			"browsing becomes a question by reaching for a person",
			"0s a read X; 5m a wanted_person",
			"a 0s..35m0s unanswered",
			later,
		},
		{"browsing that has not ended is browsing still", "0s a opened X", "a 0s..30m0s browsing", time.Minute},

		{
			"29:59 of silence belongs to the same question",
			"0s a asked; 29m59s a read X",
			"a 0s..59m59s presumed",
			later,
		},
		{
			"30:00 of silence ends it",
			"0s a asked; 30m a read X",
			"a 0s..30m0s unanswered; a 30m0s..1h0m0s browsing",
			later,
		},
		{"each item prolongs it", "0s a asked; 29m a opened X; 58m a read X", "a 0s..1h28m0s presumed", later},
		{
			"asking after a confirmation is a new question",
			"0s a asked; 1m a helped X; 2m a asked; 3m a read Y",
			"a 0s..1m0s confirmed; a 2m0s..33m0s presumed",
			later,
		},
		{
			"a changed vote opens the old question again",
			"0s a asked; 1m a helped X; 2m a not_helped X; 3m a asked",
			"a 0s..33m0s unanswered",
			later,
		},
		{
			"reading on after a confirmation belongs to it",
			"0s a asked; 1m a helped X; 2m a read Y",
			"a 0s..1m0s confirmed",
			later,
		},
		{
			"an agent's answer neither begins nor prolongs",
			"0s a asked; 1m a requested R-1; 20m a agent_answered R-1; 40m a asked",
			"a 0s..1m0s person; a 40m0s..1h10m0s unanswered",
			later,
		},

		{"it is open one second before thirty minutes", "0s a asked", "a 0s..- open", 29*time.Minute + 59*time.Second},
		{"it is closed at thirty minutes", "0s a asked", "a 0s..30m0s unanswered", 30 * time.Minute},
		{
			"what lies after the as-of time does not exist",
			"0s a asked; 1m a helped X",
			"a 0s..- open",
			59 * time.Second,
		},
		{"what lies at the as-of time does", "0s a asked; 1m a helped X", "a 0s..1m0s confirmed", time.Minute},

		{
			"a contact 72 h after closing makes it returned",
			"0s a asked; 1m a helped X; 72h1m a requested R-1",
			"a 0s..1m0s returned; a 72h1m0s..72h1m0s person",
			later,
		},
		{
			"a contact a second later does not",
			"0s a asked; 1m a helped X; 72h1m1s a requested R-1",
			"a 0s..1m0s confirmed; a 72h1m1s..72h1m1s person",
			later,
		},
		{
			"presumed counts the window from thirty minutes after its last item",
			"0s a asked; 1m a read X; 72h31m a requested R-1",
			"a 0s..31m0s returned; a 72h31m0s..72h31m0s person",
			later,
		},
		{
			"and a second later stays presumed",
			"0s a asked; 1m a read X; 72h31m1s a requested R-1",
			"a 0s..31m0s presumed; a 72h31m1s..72h31m1s person",
			later,
		},
		{
			"wanting a person later, with nobody reached, is no return",
			"0s a asked; 1m a helped X; 2h a wanted_person",
			"a 0s..1m0s confirmed; a 2h0m0s..2h30m0s unanswered",
			later,
		},
		{
			"an unanswered question does not become returned",
			"0s a asked; 2h a requested R-1",
			"a 0s..30m0s unanswered; a 2h0m0s..2h0m0s person",
			later,
		},
		{
			"a return is a question of its own, and may follow a confirmation at once",
			"0s a asked; 1m a helped X; 2m a asked; 3m a requested R-1",
			"a 0s..1m0s returned; a 2m0s..3m0s person",
			later,
		},
		{
			"one contact returns every answered question in its window",
			"0s a asked; 1m a helped X; 2h a asked; 3h a requested R-1",
			"a 0s..1m0s returned; a 2h0m0s..2h30m0s unanswered; a 3h0m0s..3h0m0s person",
			later,
		},
		{
			"a contact by another asker is nobody's return",
			"0s a asked; 1m a helped X; 2h b requested R-1",
			"a 0s..1m0s confirmed; b 2h0m0s..2h0m0s person",
			later,
		},
		{
			"two askers interleaved keep to themselves",
			"0s a asked; 1s b asked; 10s a read X; 20s b not_helped X; 29m a helped X; 29m30s b read Y",
			"a 0s..29m0s confirmed; b 1s..59m30s presumed",
			later,
		},
		{
			"a contact after the as-of time is not yet a return",
			"0s a asked; 1m a helped X; 2h a requested R-1",
			"a 0s..1m0s confirmed",
			time.Hour,
		},

		{
			"browsing that ended with a verdict does not become a question",
			"0s a opened X; 1m a helped X; 2m a asked",
			"a 0s..1m0s browsing; a 2m0s..32m0s unanswered",
			later,
		},
		{
			"browsing that did not help does",
			"0s a opened X; 1m a not_helped X; 2m a asked",
			"a 0s..32m0s unanswered",
			later,
		},
	})
}
