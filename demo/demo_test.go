package demo

import (
	"bytes"
	"context"
	"strings"
	"testing"
	"time"

	"hermeneus/app"
	"hermeneus/app/apptest"
	"hermeneus/app/evidence"
	"hermeneus/core/outcome"
	"hermeneus/store"
)

// The demo world is loaded whole, since it is the nearest thing to a long run of
// the real engine: nothing in it may fail, and its figures must look like life.
func TestTheDemoWorldLoadsOnceAndLooksLikeLife(t *testing.T) {
	now := time.Date(2026, 3, 30, 14, 0, 0, 0, time.UTC) // the day after clocks change
	zone, err := time.LoadLocation("Europe/London")
	if err != nil {
		t.Fatal(err)
	}
	ctx := context.Background()
	c := app.Config{Database: apptest.NewDatabase(t), Clock: func() time.Time { return now }, Zone: zone}
	var progress bytes.Buffer
	if err := Load(ctx, c, &progress); err != nil {
		t.Fatal(err)
	}
	if !strings.Contains(progress.String(), "visitors") {
		t.Errorf("no progress was shown: %q", progress.String())
	}
	a, err := app.Open(ctx, c)
	if err != nil {
		t.Fatal(err)
	}
	defer a.Close()
	items, err := evidence.Items(a.DB(), "true ORDER BY e.id")
	if err != nil {
		t.Fatal(err)
	}
	questions := outcome.Fold(items, now, outcome.DefaultWindow)
	counts := outcome.Count(questions)
	if n := len(questions); n < 1300 || n > 1900 {
		t.Errorf("%d questions", n)
	}
	rate := outcome.RatesOf(questions).Deflection.Value
	if rate < 0.4 || rate > 0.8 || counts.Returned == 0 || counts.Settling == 0 || counts.Browsing == 0 ||
		counts.Unanswered == 0 {
		t.Errorf("counts %+v, deflection %.2f", counts, rate)
	}
	for _, e := range items {
		if e.At.After(now) {
			t.Fatalf("evidence lies in the future: %+v", e)
		}
	}
	var live, waiting int64
	db := a.DB()
	if err := db.Model(&store.Edition{}).
		Where("live_revision_id IS NOT NULL").
		Count(&live).
		Error; err != nil ||
		live < 25 {
		t.Errorf("%d articles are live, %v", live, err)
	}
	if err := db.Model(&store.Conversation{}).
		Where("status = 'waiting'").
		Count(&waiting).
		Error; err != nil ||
		waiting == 0 {
		t.Errorf("%d customers wait, %v", waiting, err)
	}

	progress.Reset()
	if err := Load(ctx, c, &progress); err != nil || progress.Len() > 0 {
		t.Errorf("loading again: %v, %q", err, progress.String())
	}
	again, err := evidence.Items(a.DB(), "true ORDER BY e.id")
	if err != nil || len(again) != len(items) {
		t.Errorf("loading again changed the evidence: %d, then %d", len(items), len(again))
	}
}

func TestTheDemoWorldLeavesOtherContentAlone(t *testing.T) {
	w := apptest.Open(t)
	w.Crew()
	err := Load(w.Context, app.Config{Database: w.URL, Clock: w.Time, Zone: time.UTC}, &bytes.Buffer{})
	if err == nil || !strings.Contains(err.Error(), "other content") {
		t.Errorf("got %v", err)
	}
}
