package demo

import (
	"context"
	"fmt"
	"regexp"
	"slices"
	"strings"

	"hermeneus/app/flows"
	"hermeneus/app/hours"
	"hermeneus/core/flow"
)

// The flows that are live, and where they meet customers besides the front door, which meets everybody.
var liveFlows = []struct {
	slug    string
	entries []flow.Entry
}{
	{"power-is-off", []flow.Entry{{Channel: "chat", Page: "/power"}}},
	{"front-door", []flow.Entry{{Channel: "chat"}}},
	{"moving-home", []flow.Entry{{Channel: "chat", Page: "/moving"}}},
}

var articleNames = regexp.MustCompile(`@[a-z][a-z-]*`)

// script reads a flow of the demo, with the references of articles in place of their names.
func (w *world) script(name string) (string, error) {
	raw, err := content.ReadFile("flows/" + name + ".flow")
	if err != nil {
		return "", err
	}
	var missing []string
	text := articleNames.ReplaceAllStringFunc(string(raw), func(m string) string {
		ref, ok := w.references[m[1:]]
		if !ok {
			missing = append(missing, m)
		}
		return ref
	})
	if len(missing) > 0 {
		return "", fmt.Errorf("the flow %s names articles that are not there: %v", name, slices.Compact(missing))
	}
	return text, nil
}

// flows writes the flows: three are live, and one is a draft that fails its checks.
func (w *world) flows(ctx context.Context) error {
	for _, f := range liveFlows {
		text, err := w.script(f.slug)
		if err != nil {
			return err
		}
		if _, err := w.app.Flows.PublishFlow(ctx, w.by("pell"), f.slug, text, 0); err != nil {
			return fmt.Errorf("publishing %s: %w", f.slug, err)
		}
	}
	for _, f := range liveFlows {
		if err := w.app.Flows.SetEntries(ctx, w.by("pell"), f.slug, f.entries); err != nil {
			return fmt.Errorf("saying where %s meets customers: %w", f.slug, err)
		}
	}
	text, err := w.script("street-chargers")
	if err != nil {
		return err
	}
	slug, err := w.app.Flows.Create(ctx, w.by("tomas"), flows.Beginning{Name: "Street chargers"})
	if err != nil {
		return err
	}
	if _, err := w.app.Flows.Drafts.Save(ctx, w.by("tomas"), slug, flows.Save{Source: text, Version: 1}); err != nil {
		return err
	}
	if err := w.rehearsals(ctx, slug, text); err != nil {
		return err
	}
	return w.hours(ctx)
}

// rehearsals keeps two conversations about chargers: one goes as it is kept, and one was kept before the script was
// changed.
func (w *world) rehearsals(ctx context.Context, slug, text string) error {
	before := strings.Replace(
		text,
		"Press the button under the flap for five seconds.",
		"Call us from where you stand.",
		1,
	)
	for _, r := range []struct{ name, source, choice string }{
		{"The charger does not start", text, "It does not start"},
		{"A stuck cable is not pulled", before, "The cable is stuck"},
	} {
		trial := flows.FlowTrial{
			Source: r.source, Slug: slug, Inputs: []flow.ExampleStep{{Kind: flow.Choice, Text: r.choice}},
		}
		if _, err := w.app.Flows.Rehearsals.Keep(ctx, w.by("tomas"), slug, r.name, trial); err != nil {
			return fmt.Errorf("keeping the rehearsal %s: %w", r.name, err)
		}
	}
	return nil
}

// hours sets when the help centre is open, and brings in the public holidays. Teams never close until somebody says
// when they do.
func (w *world) hours(ctx context.Context) error {
	raw, err := content.ReadFile("holidays.ics")
	if err != nil {
		return err
	}
	if _, err := w.app.Hours.BringCalendar(ctx, w.by("pell"), hours.Of{}, raw); err != nil {
		return err
	}
	openings, err := w.app.Hours.ReadOpenings(ctx)
	if err != nil {
		return err
	}
	const weekday = "8–18"
	week := []string{weekday, weekday, weekday, weekday, weekday, "9–13", ""}
	for _, o := range openings.List {
		if o.Kind == "site" {
			set := hours.OpeningSetting{Zone: "Europe/London", Week: week}
			if err := w.app.Hours.SetOpening(ctx, w.by("pell"), o.Kind, o.ID, set); err != nil {
				return err
			}
		}
	}
	return nil
}
