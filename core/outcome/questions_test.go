package outcome

import (
	"reflect"
	"testing"
	"time"
)

func TestAskingAgainAndItemsOfOneInstant(t *testing.T) {
	checkFolds(t, []foldCase{
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
	})
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
