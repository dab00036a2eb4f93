package outcome

import (
	"fmt"
	"reflect"
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
		{"being told is unanswered until it is seen", "0s a asked; 1m a told turn:opening", "a 0s..31m0s unanswered", later},
		{
			"what was told and then seen is presumed",
			"0s a asked; 1m a told turn:opening; 2m a read turn:opening",
			"a 0s..32m0s presumed",
			later,
		},
		{"opening without reading is unanswered", "0s a asked; 1m a opened X", "a 0s..31m0s unanswered", later},
		{"an offer of the form alone is an unanswered question", "0s a offered source=form", "a 0s..30m0s unanswered", later},
		{"any other offer alone is browsing", "0s a offered source=bot; 1m b offered", "a 0s..30m0s browsing; b 1m0s..31m0s browsing", later},
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
		{
			"what is asked after a contact is a question of its own",
			"0s a asked; 1m a requested R-1; 2m a asked; 3m a read X",
			"a 0s..1m0s person; a 2m0s..33m0s presumed",
			later,
		},
		{
			"but words that carry the contact belong to it",
			"0s a asked; 1m a handed_off H-1; 2m a asked contact=H-1; 3m a read X",
			"a 0s..1m0s person",
			later,
		},
		{
			"a wish for a person after a contact is a question too",
			"0s a requested R-1; 2m a wanted_person",
			"a 0s..0s person; a 2m0s..32m0s unanswered",
			later,
		},
		{
			"a request made of a chat that nobody took is no second one",
			"0s a asked; 1m a handed_off H-1; 40m a requested R-1 contact=H-1",
			"a 0s..1m0s person",
			later,
		},
		{
			"what carries a contact comes however late, begins none and prolongs no other",
			"0s a requested R-1; 50h a asked; 50h20m a opened X contact=R-1; 50h30m a read X",
			"a 0s..0s person; a 50h0m0s..50h30m0s unanswered; a 50h30m0s..51h0m0s browsing",
			later,
		},
		{
			"it keeps a sitting going if its question is the latest",
			"0s a asked; 1m a handed_off H-1; 20m a asked contact=H-1; 45m a opened X",
			"a 0s..1m0s person",
			later,
		},
		{
			"after thirty minutes it begins a sitting of which only that question is part",
			"0s a requested R-1; 50h a asked; 60h a opened X contact=R-1; 60h10m a read X; 60h20m a asked",
			"a 0s..0s person; a 50h0m0s..50h30m0s unanswered; a 60h20m0s..60h50m0s unanswered",
			later,
		},
		{
			"a contact that nobody made is only a reference until somebody makes it",
			"0s a opened X contact=R-9; 2h a requested R-9",
			"a 0s..2h0m0s person",
			later,
		},
		{
			"a thread is one question from its first mail on",
			"0s a asked contact=R-1; 1m a offered contact=R-1 source=autoreply; 9h a not_helped contact=R-1; 9h a requested R-1 contact=R-1",
			"a 0s..9h0m0s person",
			later,
		},
		{
			"a question ended by a contact is not opened again by a verdict on it",
			"0s a offered source=form refs=X@1; 1m a requested R-1; 2m a not_helped X@1; 3m a asked",
			"a 0s..1m0s person; a 3m0s..33m0s unanswered",
			later,
		},
		{
			"a verdict belongs to the latest question of its sitting in which the thing was shown",
			"0s a asked; 1m a opened X@1; 2m a helped X@1; 3m a asked; 4m a opened Y@1; 5m a not_helped X@2",
			"a 0s..35m0s unanswered; a 3m0s..34m0s unanswered",
			later,
		},
		{
			"sources of what was told are shown too",
			"0s a asked; 1m a told result:1 refs=X@1; 2m a helped X@1; 3m a asked; 4m a not_helped X@1",
			"a 0s..34m0s unanswered; a 3m0s..33m0s unanswered",
			later,
		},
		{
			"a verdict keeps its sitting going",
			"0s a asked; 1m a opened X; 2m a helped X; 3m a asked; 30m a not_helped X; 55m a read Y",
			"a 0s..1h0m0s unanswered; a 3m0s..1h25m0s presumed",
			later,
		},
		{
			"else to the latest question whose last item came less than the window before, and it begins no sitting",
			"0s a asked; 1m a opened X; 72h0m59s a helped X; 72h10m a opened Z",
			"a 0s..72h0m59s confirmed; a 72h10m0s..72h40m0s browsing",
			later,
		},
		{
			"at the window it is too late: it is a visit of its own",
			"0s a asked; 1m a opened X; 72h1m a helped X",
			"a 0s..31m0s unanswered; a 72h1m0s..72h1m0s browsing",
			later,
		},
		{
			"where a visit goes on in which it was shown, the earlier question has it all the same",
			"0s a asked; 1m a opened X; 2h a opened X; 2h1m a helped X",
			"a 0s..2h1m0s confirmed; a 2h0m0s..2h30m0s browsing",
			later,
		},
		{
			"and the sitting that goes on is kept going",
			"0s a asked; 1m a opened X; 2h a opened X; 2h20m a helped X; 2h40m a asked",
			"a 0s..2h20m0s confirmed; a 2h0m0s..3h10m0s unanswered",
			later,
		},
		{
			"what was shown in no question goes to the visit",
			"0s a opened X; 1m a helped X; 2m a asked; 3m a not_helped X",
			"a 0s..33m0s browsing; a 2m0s..32m0s unanswered",
			later,
		},
		{
			"and what was shown nowhere to what is going on",
			"0s a asked; 1m a helped Z",
			"a 0s..1m0s confirmed",
			later,
		},
		{
			"a verdict that carries a contact belongs to that question",
			"0s a asked contact=R-1; 1m a offered contact=R-1 refs=X@1; 5h a asked; 5h1m a opened X@1; 5h2m a helped X@1 contact=R-1",
			"a 0s..5h2m0s confirmed; a 5h0m0s..5h31m0s unanswered",
			later,
		},

		{
			"linked keys are one asker, under the alphabetically first, for everything they ever did",
			"0s visitor:1 asked; 1m visitor:1 read X; 2h mail:9 requested R-1; 3h visitor:1 linked to=mail:9",
			"mail:9 0s..31m0s returned; mail:9 2h0m0s..2h0m0s person",
			later,
		},
		{
			"through others too, and in circles",
			"0s visitor:1 asked; 1m visitor:1 read X; 2h mail:9 requested R-1; 3h visitor:1 linked to=customer:2; 3h customer:2 linked to=mail:9; 3h mail:9 linked to=visitor:1; 3h mail:9 linked to=mail:9",
			"customer:2 0s..31m0s returned; customer:2 2h0m0s..2h0m0s person",
			later,
		},
		{
			"a link after the as-of time does not exist yet",
			"0s visitor:1 asked; 1m visitor:1 read X; 2h mail:9 requested R-1; 3h visitor:1 linked to=mail:9",
			"visitor:1 0s..31m0s presumed; mail:9 2h0m0s..2h0m0s person",
			2*time.Hour + time.Minute,
		},
		{
			"linking neither makes, begins nor prolongs",
			"0s a asked; 20m a linked to=b; 40m b read X",
			"a 0s..30m0s unanswered; a 40m0s..1h10m0s browsing",
			later,
		},

		{"a browser that only asked is unseen", "0s visitor:1 asked; 1m visitor:1 offered; 2m visitor:1 told r", "visitor:1 0s..32m0s unseen", later},
		{"unseen holds at once", "0s visitor:1 asked", "visitor:1 0s..30m0s unseen", time.Minute},
		{"opening is not looking", "0s visitor:1 asked; 1m visitor:1 opened X", "visitor:1 0s..31m0s unseen", later},
		{"a script that reported was seen", "0s visitor:1 asked; 1m visitor:1 seen", "visitor:1 0s..30m0s unanswered", later},
		{"seen once is seen in all", "0s visitor:1 asked; 90h visitor:1 seen", "visitor:1 0s..30m0s unanswered", later},
		{"reading is looking", "0s visitor:1 asked; 1m visitor:1 read X", "visitor:1 0s..31m0s presumed", later},
		{"a verdict is too", "0s visitor:1 asked; 1m visitor:1 not_helped X", "visitor:1 0s..31m0s unanswered", later},
		{"coming back is too", "0s visitor:1 asked; 1m visitor:1 came_back", "visitor:1 0s..31m0s unanswered", later},
		{"wanting a person is too", "0s visitor:1 wanted_person", "visitor:1 0s..30m0s unanswered", later},
		{"who is linked to a customer is seen", "0s visitor:1 asked; 1m visitor:1 linked to=customer:4", "customer:4 0s..30m0s unanswered", later},
		{"an unseen browsing visit is browsing", "0s visitor:1 opened X", "visitor:1 0s..30m0s browsing", later},

		{
			"one unlikely item makes a question unlikely, at once",
			"0s visitor:1 asked; 1m visitor:1 helped X unlikely",
			"visitor:1 0s..1m0s unlikely",
			2 * time.Minute,
		},
		{"an unlikely visit is unlikely before it is browsing", "0s visitor:1 opened X unlikely", "visitor:1 0s..30m0s unlikely", later},
		{"an unlikely question is unlikely before it is unseen", "0s visitor:1 asked unlikely", "visitor:1 0s..30m0s unlikely", later},
		{
			"but not of whoever has another key",
			"0s visitor:1 asked unlikely; 9h visitor:1 linked to=mail:9",
			"mail:9 0s..30m0s unanswered",
			later,
		},
		{
			"nor of whoever ever reached a person",
			"0s visitor:1 asked unlikely; 1m visitor:1 read X; 900h visitor:1 requested R-1",
			"visitor:1 0s..31m0s presumed; visitor:1 900h0m0s..900h0m0s person",
			later,
		},
		{
			"only the question with the item is unlikely",
			"0s visitor:1 asked unlikely; 1m visitor:1 read X; 9h visitor:1 asked; 9h1m visitor:1 read X",
			"visitor:1 0s..31m0s unlikely; visitor:1 9h0m0s..9h31m0s presumed",
			later,
		},

		{
			"who reads and begins another with the same article offered asked again",
			"0s a asked; 1m a offered refs=X@1; 2m a read X@1; 3h a asked; 3h1m a offered refs=Y@1,X@2",
			"a 0s..32m0s presumed again; a 3h0m0s..3h31m0s unanswered",
			later,
		},
		{
			"by the end of the window, included",
			"0s a asked; 1m a offered refs=X@1; 2m a read X@1; 72h32m a asked; 72h33m a offered refs=X@2",
			"a 0s..32m0s presumed again; a 72h32m0s..73h3m0s unanswered",
			later,
		},
		{
			"not after it",
			"0s a asked; 1m a offered refs=X@1; 2m a read X@1; 72h32m1s a asked; 72h33m a offered refs=X@2",
			"a 0s..32m0s presumed; a 72h32m1s..73h3m0s unanswered",
			later,
		},
		{
			"not with another article",
			"0s a asked; 1m a offered refs=X@1; 2m a read X@1; 3h a asked; 3h1m a offered refs=Y@1",
			"a 0s..32m0s presumed; a 3h0m0s..3h31m0s unanswered",
			later,
		},
		{
			"not by browsing",
			"0s a asked; 1m a offered refs=X@1; 2m a read X@1; 3h a offered refs=X@1",
			"a 0s..32m0s presumed; a 3h0m0s..3h30m0s browsing",
			later,
		},
		{
			"and who said that it helped did not ask again",
			"0s a asked; 1m a offered refs=X@1; 2m a helped X@1; 3h a asked; 3h1m a offered refs=X@2",
			"a 0s..2m0s confirmed; a 3h0m0s..3h31m0s unanswered",
			later,
		},

		{
			"ratings, surveys, beginnings and pages seen neither begin nor prolong",
			"0s a began; 1m a asked; 20m a rated R-1; 20m a surveyed 1; 20m a seen; 20m a began; 40m a read X",
			"a 1m0s..31m0s unanswered; a 40m0s..1h10m0s browsing",
			later,
		},
		{
			"a contact at one instant comes before whatever carries its reference",
			"0s a asked contact=R-1; 0s a requested R-1; 1m a asked",
			"a 0s..0s person; a 1m0s..31m0s unanswered",
			later,
		},
		{
			"so that what carries it belongs to it and not to the question before",
			"0s a asked; 1m a helped X; 2m a asked contact=R-1; 2m a requested R-1",
			"a 0s..1m0s returned; a 2m0s..2m0s person",
			later,
		},
		{
			"what carries a later contact at one instant waits for it, the rest keeps the order of kinds",
			"0s a asked; 5m a wanted_person; 5m a asked contact=H-1; 5m a handed_off H-1",
			"a 0s..5m0s person",
			later,
		},
		{
			"contacts that carry each other keep the order of kinds",
			"0s a requested R-1 contact=H-1; 0s a handed_off H-1 contact=R-1",
			"a 0s..0s person",
			later,
		},
		{
			"told and read at one instant: told comes first",
			"0s a asked; 1m a told r; 1m a read r",
			"a 0s..31m0s presumed",
			later,
		},
		{
			"read and came back at one instant: coming back is last",
			"0s a asked; 1m a read X; 1m a came_back",
			"a 0s..31m0s unanswered",
			later,
		},
		{
			"an exact copy changes nothing",
			"0s a asked; 1m a requested R-1; 1m a requested R-1; 2m a opened X; 2m a opened X",
			"a 0s..1m0s person",
			later,
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
	items := story(t, "0s a asked; 1m a read X; 50m a helped Y; 25m a opened X")
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

func TestAgentsAnswerJoinsByItsContactsReferenceAlone(t *testing.T) {
	items := story(t, "0s a asked; 1m a requested R-1; 40m a asked; 41m a requested R-2; 50h a agent_answered R-1; "+
		"50h a agent_answered R-9; 50h b agent_answered R-2; 51h c agent_answered x contact=R-1")
	questions := Fold(items, day0.Add(200*time.Hour), DefaultWindow)
	if len(questions) != 2 {
		t.Fatalf("got %d questions, want 2", len(questions))
	}
	var lines [][]int
	for _, q := range NewReport(questions).Questions {
		lines = append(lines, q.Evidence)
	}
	if want := [][]int{{1, 2, 5, 8}, {3, 4, 7}}; !reflect.DeepEqual(lines, want) {
		t.Errorf("evidence lines %v, want %v", lines, want)
	}
}

func TestReturnNamesTheContactItReturnedBy(t *testing.T) {
	items := story(t, "0s a asked; 1m a helped X; 2h a asked; 3h a asked; 3h1m a requested R-1")
	q := Fold(items, day0.Add(200*time.Hour), DefaultWindow)[0]
	if q.Outcome != Returned || q.ReturnedBy.Line != 5 {
		t.Errorf("outcome %s, returned by %+v", q.Outcome, q.ReturnedBy)
	}
}

func TestWhatIsSetAsideIsCountedBesideTheRates(t *testing.T) {
	items := story(t, "0s a asked; 1m a offered refs=X@1; 2m a read X@1; 3h a asked; 3h1m a offered refs=X@1; "+
		"0s visitor:1 asked; 0s visitor:2 asked unlikely; 0s visitor:3 opened X")
	questions := Fold(items, day0.Add(200*time.Hour), DefaultWindow)
	want := Counts{Presumed: 1, Unanswered: 1, Browsing: 1, Unseen: 1, Unlikely: 1, AskedAgain: 1}
	if got := Count(questions); got != want {
		t.Errorf("got %+v, want %+v", got, want)
	}
	for _, q := range NewReport(questions).Questions {
		if q.Closed == nil || !q.Settled {
			t.Errorf("%+v has not closed and settled as any other", q)
		}
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
