package outcomes_test

import (
	"encoding/json"
	"fmt"
	"testing"
	"time"

	"hermeneus/app/apptest"
	"hermeneus/app/outcomes"
	"hermeneus/app/problem"
	"hermeneus/core/outcome"
	"hermeneus/store"
)

// A question is found by every item of it and of its answers, and by its address from before items were its names,
// also after its asker is somebody else by a link.
func TestEveryAddressOfAQuestionLeadsToIt(t *testing.T) {
	w := apptest.OpenIdle(t)
	c := w.Crew()
	begins := w.Time().Add(-50 * time.Hour)
	items := []outcome.Evidence{
		{At: begins, Asker: "visitor:z", Channel: outcome.Help, Kind: outcome.Asked, Text: "words"},
		{At: begins.Add(time.Minute), Asker: "visitor:z", Channel: outcome.Help, Kind: outcome.Opened, Ref: "A-0001@1"},
		{
			At:      begins.Add(2 * time.Minute),
			Asker:   "visitor:z",
			Channel: outcome.Form,
			Kind:    outcome.Requested,
			Ref:     "R-1",
		},
		{At: begins.Add(3 * time.Minute), Asker: "visitor:z", Channel: outcome.Help, Kind: outcome.Asked, Text: "more"},
	}
	insert(w, items)
	w.Must(w.Outcomes.FoldAll(w.Context))
	old := fmt.Sprintf("visitor:z~%d", begins.UnixMicro())
	leads := func(key string, first int64) {
		t.Helper()
		q, err := w.Outcomes.ReadQuestion(w.Context, c.Analyst, key)
		if err != nil || q.Key != fmt.Sprint(first) {
			t.Errorf("%s leads to %q, %v; want %d", key, q.Key, err, first)
		}
	}
	var ids []int64
	w.Must(w.DB().Raw(`SELECT id FROM evidence ORDER BY id`).Scan(&ids).Error)
	check := func() {
		t.Helper()
		for _, id := range ids[:3] {
			leads(fmt.Sprint(id), ids[0])
		}
		leads(old, ids[0])
		leads(fmt.Sprint(ids[3]), ids[3]) // what is asked after a contact is another question
	}
	check()
	insert(w, []outcome.Evidence{{
		At: w.Time(), Asker: "visitor:z", Channel: outcome.Help, Kind: outcome.Linked, To: "customer:1",
	}})
	w.Must(w.Outcomes.FoldAll(w.Context))
	check()
	for _, key := range []string{"99", "0", "-1", "visitor:z~9", "nobody~1", "", "~", "1~1", "words", "99999999999999999999"} {
		_, err := w.Outcomes.ReadQuestion(w.Context, c.Analyst, key)
		if apptest.KindOf(err) != problem.NotFound {
			t.Errorf("%q: %v", key, err)
		}
	}
}

// Figures that reach into the time before an upgrade say that they were counted by the older rules.
func TestOlderRulesAreSaid(t *testing.T) {
	w := apptest.OpenIdle(t)
	c := w.Crew()
	until := w.Time().Add(-100 * time.Hour).UTC()
	raw, err := json.Marshal(until)
	w.Must(err)
	w.Must(w.DB().Create(&store.Setting{Name: "older_rules_until", Value: raw}).Error)
	for days, want := range map[int]bool{2: false, 10: true} {
		f, err := w.Outcomes.Outcomes(w.Context, c.Analyst, w.Time().AddDate(0, 0, -days), w.Time(), outcomes.Split{})
		w.Must(err)
		if (f.OlderRules != nil) != want || (want && !f.OlderRules.Equal(until)) {
			t.Errorf("of %d days: %v", days, f.OlderRules)
		}
	}
}
