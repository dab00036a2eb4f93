package hours_test

import (
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"hermeneus/app/apptest"
	"hermeneus/app/hours"
	"hermeneus/app/problem"
	"hermeneus/core/flow"
)

func opening(w *apptest.World, name string) hours.OpeningLine {
	w.T.Helper()
	all, err := w.Hours.ReadOpenings(w.Context)
	w.Must(err)
	for _, o := range all.List {
		if o.Name == name {
			return o
		}
	}
	w.T.Fatalf("there is no %q", name)
	return hours.OpeningLine{}
}

// After an upgrade everybody is here and nobody ever closes, until somebody sets it otherwise.
func TestUntilSomebodySaysSoTeamsAreOpenAndAgentsHere(t *testing.T) {
	w := apptest.OpenIdle(t)
	c := w.Crew()
	o := opening(w, "Accounts")
	if o.Set || !o.Open || o.Presence != flow.Free || len(o.Agents) == 0 || !o.Agents[0].Here ||
		o.Agents[0].Chats != 0 {
		t.Errorf("%+v", o)
	}
	const day = "8–18"
	set := hours.OpeningSetting{Zone: "Europe/London", Week: []string{day, day, day, day, day, "", ""}}
	w.Must(w.Hours.SetOpening(w.Context, c.Administrator, "team", o.ID, set))
	if err := w.Hours.SetOpening(
		w.Context,
		c.Administrator,
		"team",
		o.ID,
		set,
	); apptest.KindOf(
		err,
	) != problem.StaleSave {
		t.Errorf("two set them at once: %v", err)
	}
	if err := w.Hours.SetOpening(w.Context, c.Agent, "team", o.ID, set); apptest.KindOf(err) != problem.Denied {
		t.Errorf("an agent set them: %v", err)
	}
	for name, wrong := range map[string]hours.OpeningSetting{
		"zone":       {Zone: "Here", Always: true},
		"a day":      {Week: []string{"morning", "", "", "", "", "", ""}},
		"overlaps":   {Week: []string{"8-12, 11-13", "", "", "", "", "", ""}},
		"week":       {Week: []string{"8-12"}},
		"away_until": {Always: true, Away: "tomorrow"},
		"busy_words": {Always: true, Busy: flow.Texts{"en": strings.Repeat("x", 501)}},
	} {
		if err := w.Hours.SetOpening(
			w.Context,
			c.Administrator,
			"team",
			o.ID,
			wrong,
		); apptest.KindOf(
			err,
		) != problem.Invalid {
			t.Errorf("%s: %v", name, err)
		}
	}
	stands, err := w.Hours.Stands(w.DB(), 0, "de", time.Time{})
	w.Must(err)
	local := w.Time().In(time.UTC)
	if open := stands.Teams["Accounts"].Open; open != (local.Weekday() > 0 && local.Weekday() < 6 && local.Hour() >= 8 && local.Hour() < 18) {
		t.Errorf("at %s open is %v", local, open)
	}
}

func TestACalendarIsTakenInWholeOrNotAtAll(t *testing.T) {
	w := apptest.OpenIdle(t)
	c := w.Crew()
	raw, err := os.ReadFile(filepath.Join("..", "..", "demo", "holidays.ics"))
	w.Must(err)
	brought, err := w.Hours.BringCalendar(w.Context, c.Publisher, hours.Of{}, raw)
	w.Must(err)
	if brought.Added != 5 || brought.Changed != 0 {
		t.Errorf("%+v", brought)
	}
	brought, err = w.Hours.BringCalendar(w.Context, c.Publisher, hours.Of{}, raw)
	w.Must(err)
	if brought.Added != 0 || brought.Changed != 5 {
		t.Errorf("the same again: %+v", brought)
	}
	broken := strings.Replace(string(raw), "DTSTART;VALUE=DATE:20261225", "DTSTART:Midwinter", 1)
	if _, err := w.Hours.BringCalendar(w.Context, c.Publisher, hours.Of{Kind: "team", ID: opening(w, "Accounts").ID},
		[]byte(broken)); apptest.KindOf(err) != problem.BadFile {
		t.Errorf("a broken one: %v", err)
	}
	if days := opening(w, "Accounts").Days; len(days) != 0 {
		t.Errorf("something of it was taken: %+v", days)
	}
	text, err := w.Hours.GiveCalendar(w.Context, hours.Of{})
	w.Must(err)
	brought, err = w.Hours.BringCalendar(
		w.Context,
		c.Publisher,
		hours.Of{Kind: "team", ID: opening(w, "Accounts").ID},
		[]byte(text),
	)
	w.Must(err)
	if brought.Added != 5 {
		t.Errorf("what is given is not taken: %+v", brought)
	}
	day := opening(w, "Accounts").Days[0]
	w.Must(w.Hours.DropDay(w.Context, c.Publisher, day.ID))
	if err := w.Hours.DropDay(w.Context, c.Publisher, day.ID); apptest.KindOf(err) != problem.NotFound {
		t.Errorf("taken out twice: %v", err)
	}
}
