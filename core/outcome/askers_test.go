package outcome

import (
	"testing"
	"time"
)

func TestKeysAreLinkedAndQuestionsSetAside(t *testing.T) {
	checkFolds(t, []foldCase{
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

		{
			"a browser that only asked is unseen",
			"0s visitor:1 asked; 1m visitor:1 offered; 2m visitor:1 told r",
			"visitor:1 0s..32m0s unseen",
			later,
		},
		{"unseen holds at once", "0s visitor:1 asked", "visitor:1 0s..30m0s unseen", time.Minute},
		{"opening is not looking", "0s visitor:1 asked; 1m visitor:1 opened X", "visitor:1 0s..31m0s unseen", later},
		{
			"a script that reported was seen",
			"0s visitor:1 asked; 1m visitor:1 seen",
			"visitor:1 0s..30m0s unanswered",
			later,
		},
		{"seen once is seen in all", "0s visitor:1 asked; 90h visitor:1 seen", "visitor:1 0s..30m0s unanswered", later},
		{"reading is looking", "0s visitor:1 asked; 1m visitor:1 read X", "visitor:1 0s..31m0s presumed", later},
		{"a verdict is too", "0s visitor:1 asked; 1m visitor:1 not_helped X", "visitor:1 0s..31m0s unanswered", later},
		{"coming back is too", "0s visitor:1 asked; 1m visitor:1 came_back", "visitor:1 0s..31m0s unanswered", later},
		{"wanting a person is too", "0s visitor:1 wanted_person", "visitor:1 0s..30m0s unanswered", later},
		{
			"who is linked to a customer is seen",
			"0s visitor:1 asked; 1m visitor:1 linked to=customer:4",
			"customer:4 0s..30m0s unanswered",
			later,
		},
		{"an unseen browsing visit is browsing", "0s visitor:1 opened X", "visitor:1 0s..30m0s browsing", later},

		{
			"one unlikely item makes a question unlikely, at once",
			"0s visitor:1 asked; 1m visitor:1 helped X unlikely",
			"visitor:1 0s..1m0s unlikely",
			2 * time.Minute,
		},
		{
			"an unlikely visit is unlikely before it is browsing",
			"0s visitor:1 opened X unlikely",
			"visitor:1 0s..30m0s unlikely",
			later,
		},
		{
			"an unlikely question is unlikely before it is unseen",
			"0s visitor:1 asked unlikely",
			"visitor:1 0s..30m0s unlikely",
			later,
		},
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
	})
}
