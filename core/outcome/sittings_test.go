package outcome

import (
	"testing"
)

func TestEveryItemFallsWhereItBelongs(t *testing.T) {
	checkFolds(t, []foldCase{
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
	})
}
