// Package demo makes the demo world: an invented energy co-operative with its
// people, its library, its flow, and simulated visitors whose evidence the real
// engine records.
package demo

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"math/rand/v2"
	"slices"
	"time"

	"hermeneus/app"
	"hermeneus/app/evidence"
	"hermeneus/app/staff"
	"hermeneus/store"
)

// days is how long the visitors have been coming, and visits about how many
// questions they bring.
const (
	days   = 14
	visits = 1500
	seed   = 20260302
)

// loadedSetting marks a database that holds the demo world.
const loadedSetting = "demo_world"

// world is the demo world while it is being made.
type world struct {
	app          *app.App
	clock        time.Time // what time it is in the world
	begins, ends time.Time // of the visitors' time
	progress     io.Writer
	staff        map[string]staff.Staff
	customers    []evidence.Customer
	categories   map[string]int64
	references   map[string]string // of articles, by their names
	picturePaths map[string]string
}

// Load fills an empty database with the demo world, and leaves one that has it
// alone. A database with other content is refused.
func Load(ctx context.Context, c app.Config, progress io.Writer) error {
	w := &world{progress: progress, categories: map[string]int64{}, ends: c.Clock().Truncate(time.Second)}
	w.begins = time.Date(w.ends.Year(), w.ends.Month(), w.ends.Day()-days, 0, 0, 0, 0, c.Zone)
	c.Clock, c.Idle = func() time.Time { return w.clock }, true
	w.clock = w.begins.AddDate(0, 0, -40)
	var err error
	if w.app, err = app.Open(ctx, c); err != nil {
		return err
	}
	defer w.app.Close()
	loaded, err := w.loaded(ctx)
	if err != nil || loaded {
		return err
	}
	for _, part := range []struct {
		name string
		make func(context.Context) error
	}{{"people", w.people}, {"library", w.library}, {"writing", w.writing}, {"flows", w.flows}, {"visitors", w.visitors}, {"reviews", w.reviewing}, {"help centre", w.helping}} {
		fmt.Fprintf(progress, "Loading the demo world: %s…\n", part.name)
		if err := part.make(ctx); err != nil {
			return fmt.Errorf("loading the demo world's %s: %w", part.name, err)
		}
	}
	fmt.Fprintln(progress, "Loading the demo world: folding the evidence…")
	if err := w.app.Outcomes.FoldAll(ctx); err != nil {
		return fmt.Errorf("folding the demo world's evidence: %w", err)
	}
	value, _ := json.Marshal(w.ends)
	return w.app.DB().WithContext(ctx).Create(&store.Setting{Name: loadedSetting, Value: value}).Error
}

func (w *world) loaded(ctx context.Context) (bool, error) {
	db := w.app.DB().WithContext(ctx)
	var marks, staff int64
	if err := db.Model(&store.Setting{}).Where("name = ?", loadedSetting).Count(&marks).Error; err != nil {
		return false, err
	}
	if err := db.Model(&store.Staff{}).Count(&staff).Error; err != nil {
		return false, err
	}
	if marks == 0 && staff > 0 {
		return false, errors.New(
			"the database holds other content, or a demo world that was not loaded to its end: empty it first " +
				"(make reset)",
		)
	}
	return marks > 0, nil
}

// visitors lets customers come, ask and be answered, in the order of their coming.
func (w *world) visitors(ctx context.Context) error {
	r := rand.New(rand.NewPCG(seed, seed))
	arrivals := w.arrivals(r)
	var keys []string // of earlier visitors, some of whom come back
	report := time.NewTicker(2 * time.Second)
	defer report.Stop()
	for i, at := range arrivals {
		w.clock = at.time
		v := &visitor{world: w, theme: at.theme, r: r, Visitor: evidence.Visitor{Key: fmt.Sprintf("%032x", r.Uint64())}}
		switch {
		case v.chance(0.04):
			v.Customer = &w.customers[r.IntN(len(w.customers))]
		case v.chance(0.1) && len(keys) > 20:
			v.Key = keys[len(keys)-1-r.IntN(min(len(keys), 400))]
		}
		keys = append(keys, v.Key)
		if err := v.ask(ctx); err != nil && !errors.Is(err, errLater) {
			return fmt.Errorf("visitor %d at %s: %w", i, at.time.Format(time.RFC3339), err)
		}
		select {
		case <-report.C:
			fmt.Fprintf(w.progress, "  %d of %d visitors have come\n", i+1, len(arrivals))
		default:
		}
	}
	return nil
}

type arrival struct {
	time  time.Time
	theme theme
}

// arrivals spreads the visits over the days, with the week's and the day's rhythm
// and one day of storm.
func (w *world) arrivals(r *rand.Rand) []arrival {
	week := []float64{0.55, 1.25, 1.15, 1.05, 1.05, 1, 0.7}
	hours := []float64{1, 1, 0, 0, 0, 1, 3, 6, 10, 12, 12, 11, 9, 9, 9, 9, 9, 10, 12, 13, 11, 8, 5, 2}
	var list []arrival
	for day := range days + 1 {
		begins := w.begins.AddDate(0, 0, day)
		n := int(float64(visits) / days * week[begins.Weekday()])
		stormy := day == 8
		if stormy {
			n = n * 8 / 5
		}
		for range n {
			at := begins.Add(time.Duration(pick(r, hours))*time.Hour + time.Duration(r.IntN(3600))*time.Second)
			t := themes[pick(r, weights())]
			if stormy && r.Float64() < 0.4 {
				t = themes[storm]
			}
			if at.Before(w.ends) {
				list = append(list, arrival{at, t})
			}
		}
	}
	slices.SortStableFunc(list, func(a, b arrival) int { return a.time.Compare(b.time) })
	return list
}

func weights() []float64 {
	out := make([]float64, len(themes))
	for i, t := range themes {
		out[i] = t.weight
	}
	return out
}

// pick draws an index with the given weights.
func pick(r *rand.Rand, weights []float64) int {
	total := 0.0
	for _, w := range weights {
		total += w
	}
	at := r.Float64() * total
	for i, w := range weights {
		if at -= w; at < 0 {
			return i
		}
	}
	return len(weights) - 1
}
