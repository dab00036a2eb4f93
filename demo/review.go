package demo

import (
	"context"
	"fmt"
	"strings"
	"time"

	"hermeneus/app/evidence"
	"hermeneus/app/helpcentre"
	"hermeneus/app/review"
	"hermeneus/app/writing"
	corereview "hermeneus/core/review"
)

// reviewing puts texts on their way: a safety article between two gates, one that
// waits too long, a batch of prices, a set time, and what readers said.
func (w *world) reviewing(ctx context.Context) error {
	for _, part := range []func(context.Context) error{w.paths, w.safetyReview, w.lateReview, w.priceBatch, w.setTime, w.saidByReaders} {
		if err := part(ctx); err != nil {
			return err
		}
	}
	w.clock = w.ends
	return nil
}

// ago puts the world's clock so far before its end.
func (w *world) ago(d time.Duration) { w.clock = w.ends.Add(-d) }

// paths gives safety its path and stewards to the categories.
func (w *world) paths(ctx context.Context) error {
	w.ago(9 * 24 * time.Hour)
	list, err := w.app.Review.Paths(ctx)
	if err != nil {
		return err
	}
	path := map[string]int64{}
	for _, p := range list {
		path[p.Name] = p.ID
		if p.Name == "Safety" {
			p.Gates[0].Team = "Field"
			if _, err := w.app.Review.KeepPath(ctx, w.by("maren"), p.ID, p.Path, false); err != nil {
				return err
			}
		}
	}
	for category, set := range map[string]struct {
		path    int64
		steward string
	}{
		"Supply and safety":  {path["Safety"], "corin"},
		"Bills and payments": {path["Reviewer, then publisher"], "brida"},
		"Your membership":    {0, "maren"},
	} {
		if err := w.app.Review.SetReviewing(
			ctx,
			w.by("maren"),
			w.categories[category],
			set.path,
			w.by(set.steward).ID,
		); err != nil {
			return err
		}
	}
	for _, name := range []string{"maren", "ilse"} {
		if err := w.app.Review.Rechecks.Follow(
			ctx,
			w.by(name),
			w.references["give-a-meter-reading"],
			true,
		); err != nil {
			return err
		}
	}
	return nil
}

// rewrite changes a text by one replacement, as its author.
func (w *world) rewrite(ctx context.Context, slug, old, now string) (int, error) {
	a, err := w.app.Desk.ReadArticle(ctx, w.by("ilse"), w.references[slug])
	if err != nil {
		return 0, err
	}
	body := strings.Replace(a.Copy.Body, old, now, 1)
	if body == a.Copy.Body {
		return 0, fmt.Errorf("%s does not say %q", slug, old)
	}
	a.Copy.Body = body
	saved, err := w.app.Writing.SaveArticle(
		ctx,
		w.by("ilse"),
		a.Reference,
		writing.Save{Text: a.Copy, Version: a.Version},
	)
	return saved.Version, err
}

func (w *world) step(ctx context.Context, by, slug string, s review.Step) error {
	w.clock = w.clock.Add(25 * time.Minute)
	if err := w.app.Review.Move(ctx, w.by(by), w.references[slug], s); err != nil {
		return fmt.Errorf("%s, %s: %w", slug, s.Action, err)
	}
	return nil
}

func (w *world) safetyReview(ctx context.Context) error {
	w.ago(50 * time.Hour)
	_, err := w.rewrite(ctx, "line-is-down", "<p>Stay at least ten metres away, and keep people and animals away.</p>",
		"<p>Stay at least ten metres away, twenty in the rain. Keep people and animals away.</p>")
	if err != nil {
		return err
	}
	if err := w.step(ctx, "ilse", "line-is-down", review.Step{Action: corereview.Submit}); err != nil {
		return err
	}
	w.clock = w.clock.Add(3 * time.Hour)
	words := "If the car is on fire"
	if _, err := w.app.Review.Comments.AddComment(
		ctx,
		w.by("corin"),
		w.references["line-is-down"],
		review.NewComment{
			Line:       3,
			Quote:      "If the car burns",
			Suggestion: &words,
			Text:       "“Burns” reads as if the paint were hot.",
		},
	); err != nil {
		return err
	}
	id, err := w.app.Review.Comments.AddComment(
		ctx,
		w.by("corin"),
		w.references["line-is-down"],
		review.NewComment{Line: 1, Quote: "twenty in the rain", Text: "Where does the twenty come from?"},
	)
	if err != nil {
		return err
	}
	w.clock = w.clock.Add(40 * time.Minute)
	if err := w.app.Review.Comments.ReplyToComment(
		ctx,
		w.by("ilse"),
		w.references["line-is-down"],
		id,
		"The field handbook, since the storm last week.",
	); err != nil {
		return err
	}
	return w.step(
		ctx,
		"corin",
		"line-is-down",
		review.Step{Action: corereview.Approve, Note: "The distances are those of the handbook."},
	)
}

func (w *world) lateReview(ctx context.Context) error {
	w.ago(76 * time.Hour)
	if _, err := w.rewrite(
		ctx,
		"change-details",
		"<p>",
		"<p>You can change everything but your name by yourself. ",
	); err != nil {
		return err
	}
	if err := w.step(ctx, "ilse", "change-details", review.Step{Action: corereview.Submit}); err != nil {
		return err
	}
	w.ago(20 * time.Hour)
	ref := w.references["flickering-lights"]
	if _, err := w.rewrite(
		ctx,
		"flickering-lights",
		"</p>",
		` How a network is watched is told by <a href="https://grid-school.example/missing/flicker">the grid school</a>.</p>`,
	); err != nil {
		return err
	}
	if err := w.step(ctx, "ilse", "flickering-lights", review.Step{Action: corereview.Submit}); err != nil {
		return err
	}
	return w.app.Review.Reassign(ctx, w.by("corin"), ref, w.by("corin").ID, "")
}

func (w *world) priceBatch(ctx context.Context) error {
	w.ago(30 * time.Hour)
	refs := []string{w.references["charging-prices"]}
	for slug, more := range map[string]string{
		"export-payments": "<p>From April we pay 9 a unit by day and 6 by night.</p>",
		"rent-a-battery":  "<p>From April a battery costs 18 a month.</p>",
	} {
		if _, err := w.rewrite(ctx, slug, "</p>", "</p>"+more); err != nil {
			return err
		}
		refs = append(refs, w.references[slug])
	}
	id, err := w.app.Review.Batches.MakeBatch(
		ctx,
		w.by("ilse"),
		"Prices from April",
		"The prices from April stand here.",
		refs,
	)
	if err != nil {
		return err
	}
	_, err = w.app.Review.Batches.ActOnBatch(ctx, w.by("ilse"), id, review.Step{Action: corereview.Submit})
	return err
}

func (w *world) setTime(ctx context.Context) error {
	w.ago(44 * time.Hour)
	if _, err := w.rewrite(
		ctx,
		"become-a-member",
		"</p>",
		"</p><p>The next members’ meeting is in spring: everybody who joined before it has a vote there.</p>",
	); err != nil {
		return err
	}
	for _, s := range []struct {
		by   string
		step review.Step
	}{
		{"ilse", review.Step{Action: corereview.Submit}}, {"brida", review.Step{Action: corereview.Approve}},
		{"pell", review.Step{Action: corereview.Schedule, Wall: w.ends.AddDate(0, 0, 5).Format("2006-01-02") + "T08:00", Change: "When the next meeting is."}},
	} {
		if err := w.step(ctx, s.by, "become-a-member", s.step); err != nil {
			return err
		}
	}
	return nil
}

// saidByReaders leaves comments of readers, one of them answered.
func (w *world) saidByReaders(ctx context.Context) error {
	for _, said := range []struct {
		before   time.Duration
		customer int // of the list, -1 for somebody unknown
		slug     string
		quote    string
		text     string
	}{
		{31 * time.Hour, 0, "give-a-meter-reading", "five black digits", "Mine shows six black digits. Do you want the first one too?"},
		{9 * time.Hour, -1, "give-a-meter-reading", "press the button", "There is no button on mine, you have to tap the screen."},
		{5 * time.Hour, 2, "smart-meter-stopped-sending", "", "It says to wait two days, I have waited for ten."},
	} {
		w.ago(said.before)
		v := evidence.Visitor{Key: fmt.Sprintf("%032x", len(said.text))}
		if said.customer >= 0 {
			v.Customer = &w.customers[said.customer]
		}
		if _, err := w.app.HelpCentre.OpenPage(ctx, v, "help", w.references[said.slug]); err != nil {
			return err
		}
		w.clock = w.clock.Add(time.Minute)
		if err := w.app.HelpCentre.VoteOn(
			ctx,
			v,
			w.references[said.slug],
			helpcentre.Verdict{Comment: said.text, Quote: said.quote},
		); err != nil {
			return fmt.Errorf("%s: %w", said.slug, err)
		}
	}
	return nil
}
