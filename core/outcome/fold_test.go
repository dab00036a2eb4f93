package outcome

import (
	"fmt"
	"math/rand/v2"
	"reflect"
	"strings"
	"testing"
	"time"
)

var day0 = time.Date(2026, 3, 2, 9, 0, 0, 0, time.UTC)

// story reads evidence written as "offset asker kind ref" separated by ";",
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
		if len(f) > 3 {
			e.Ref = f[3]
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
		out = append(out, fmt.Sprintf("%s %s..%s %s", q.Asker, q.Began.Sub(day0), closed, q.Outcome))
	}
	return strings.Join(out, "; ")
}

func TestFoldDecidesEveryRuleAndBoundary(t *testing.T) {
	const later = 60 * 24 * time.Hour
	cases := []struct {
		name, evidence, want string
		asOf                 time.Duration
	}{
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
		{"being told by the bot is presumed", "0s a asked; 1m a told turn:opening", "a 0s..31m0s presumed", later},
		{"opening without reading is unanswered", "0s a asked; 1m a opened X", "a 0s..31m0s unanswered", later},
		{"an offer alone is an unanswered question", "0s a offered", "a 0s..30m0s unanswered", later},
		{
			"reading what a form offered is presumed though nothing was asked",
			"0s a offered; 1m a read X",
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
			"reading after wanting a person is presumed",
			"0s a asked; 1m a wanted_person; 2m a read X",
			"a 0s..32m0s presumed",
			later,
		},
		{
			"a confirmation outweighs a later wish for a person",
			"0s a asked; 1m a helped X; 2m a wanted_person",
			"a 0s..1m0s confirmed",
			later,
		},
		{
			"a handoff is a person, at once",
			"0s a asked; 1m a wanted_person; 2m a handed_off Field",
			"a 0s..2m0s person",
			later,
		},
		{
			"a request is a person, at the first contact",
			"0s a asked; 5m a requested R-1; 6m a handed_off Field",
			"a 0s..5m0s person",
			later,
		},
		{
			"a contact in the same question outweighs its confirmation",
			"0s a asked; 1m a helped X; 2m a requested R-1",
			"a 0s..2m0s person",
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
			"a changed vote belongs to the old question",
			"0s a asked; 1m a helped X; 2m a not_helped X; 3m a asked",
			"a 0s..32m0s unanswered; a 3m0s..33m0s unanswered",
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
			"asked and helped at one instant are taken in the order of the table",
			"0s a helped X; 0s a asked",
			"a 0s..0s confirmed",
			later,
		},
		{
			"read and asked at one instant: asked comes first",
			"1m a read X; 1m a asked",
			"a 1m0s..31m0s presumed",
			later,
		},
		{
			"read and not helped at one instant: the verdict comes last",
			"0s a asked; 1m a not_helped X; 1m a read X",
			"a 0s..31m0s unanswered",
			later,
		},
	}
	for _, c := range cases {
		t.Run(c.name, func(t *testing.T) {
			if got := told(Fold(story(t, c.evidence), day0.Add(c.asOf), DefaultWindow)); got != c.want {
				t.Errorf("\ngot  %s\nwant %s", got, c.want)
			}
		})
	}
}

func TestAcrossChannelsIsOneQuestion(t *testing.T) {
	items := story(t, "0s a asked; 5m a offered; 10m a read X; 20m a requested R-1")
	for i, c := range []Channel{Help, Chat, Help, Form} {
		items[i].Channel = c
	}
	if got, want := told(Fold(items, day0.Add(time.Hour), DefaultWindow)), "a 0s..20m0s person"; got != want {
		t.Errorf("got %s, want %s", got, want)
	}
}

func TestQuestionsSettleWhenTheWindowHasPassed(t *testing.T) {
	items := story(t, "0s a asked; 1m a helped X")
	for offset, want := range map[time.Duration]bool{72*time.Hour + 59*time.Second: false, 72*time.Hour + time.Minute: true} {
		if got := Fold(items, day0.Add(offset), DefaultWindow)[0]; got.Settled != want || got.Settling() == want {
			t.Errorf("as of %v: settled %v, settling %v", offset, got.Settled, got.Settling())
		}
	}
	if !Fold(items, day0.Add(time.Hour+time.Minute), time.Hour)[0].Settled {
		t.Error("a window of one hour should have settled it after one hour")
	}
}

func TestLateEvidenceFoldsAgain(t *testing.T) {
	items := story(t, "0s a asked; 1m a read X; 50m a helped X; 25m a opened X")
	asOf := day0.Add(100 * 24 * time.Hour)
	if got, want := told(
		Fold(items[:3], asOf, DefaultWindow),
	), "a 0s..31m0s presumed; a 50m0s..50m0s browsing"; got != want {
		t.Errorf("before the late item: got %s, want %s", got, want)
	}
	if got, want := told(Fold(items, asOf, DefaultWindow)), "a 0s..50m0s confirmed"; got != want {
		t.Errorf("after the late item: got %s, want %s", got, want)
	}
}

func TestAgentsAnswerJoinsByReference(t *testing.T) {
	items := story(
		t,
		"0s a asked; 1m a requested R-1; 40m a asked; 41m a requested R-2; 50h a agent_answered R-1; 50h a "+
			"agent_answered R-9; 50h b agent_answered R-1",
	)
	questions := Fold(items, day0.Add(200*time.Hour), DefaultWindow)
	if len(questions) != 2 {
		t.Fatalf("got %d questions, want 2", len(questions))
	}
	var lines [][]int
	for _, q := range NewReport(questions).Questions {
		lines = append(lines, q.Evidence)
	}
	if want := [][]int{{1, 2, 5}, {3, 4}}; !reflect.DeepEqual(lines, want) {
		t.Errorf("evidence lines %v, want %v", lines, want)
	}
}

func TestReturnNamesTheQuestionItReturnedIn(t *testing.T) {
	q := Fold(story(t, "0s a asked; 1m a helped X; 2h a asked; 3h a asked; 3h1m a requested R-1"), day0.Add(200*time.Hour), DefaultWindow)[0]
	if q.Outcome != Returned || !q.ReturnedIn.Equal(day0.Add(3*time.Hour)) {
		t.Errorf("outcome %s, returned in %v", q.Outcome, q.ReturnedIn)
	}
}

func TestByDayCountsByClosingInTheZone(t *testing.T) {
	zone := time.FixedZone("east", 3600)
	// 22:45 UTC + 30 min closes at 23:15 UTC, which is the next day in the zone.
	items := story(t, "13h45m a asked; 0s b asked")
	p := Period{From: time.Date(2026, 3, 2, 0, 0, 0, 0, zone), To: time.Date(2026, 3, 5, 0, 0, 0, 0, zone)}
	questions := Fold(items, day0.Add(73*time.Hour), DefaultWindow)
	days := ByDay(questions, p, zone)
	if len(days) != 3 || days[0].Counts.Unanswered != 1 || days[1].Settling.Unanswered != 1 ||
		days[1].Counts.Settling != 1 {
		t.Errorf("days %+v", days)
	}
}

func BenchmarkFold(b *testing.B) {
	items := randomEvidence(rand.New(rand.NewPCG(1, 2)), 10_000)
	asOf := day0.Add(200 * time.Hour)
	b.ReportAllocs()
	for b.Loop() {
		Fold(items, asOf, DefaultWindow)
	}
}
