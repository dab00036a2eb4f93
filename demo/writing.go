package demo

import (
	"context"
	"fmt"
	"io/fs"
	"strings"
	"time"

	"hermeneus/app/accounts"
	"hermeneus/app/library"
	"hermeneus/app/sites"
	"hermeneus/app/staff"
	"hermeneus/app/writing"
	"hermeneus/core/article"
	"hermeneus/core/review"
	"hermeneus/core/role"
)

// writing puts the library into the state of one that people work in: editions in
// another language, one of them behind; a second help centre; articles that wait
// for a known problem, are overdue, or belonged to somebody who has left.
func (w *world) writing(ctx context.Context) error {
	w.clock = w.begins.AddDate(0, 0, -10)
	for _, part := range []func(context.Context) error{w.sites, w.editions, w.upkeep, w.draft} {
		if err := part(ctx); err != nil {
			return err
		}
	}
	return nil
}

// sites gives the main help centre two more languages and the words the house
// avoids, and adds one for solar customers alone.
func (w *world) sites(ctx context.Context) error {
	list, err := w.app.Sites.Sites(ctx)
	if err != nil {
		return err
	}
	house := list[0]
	house.Languages = []string{article.SourceLanguage, "de", "fr"}
	house.AvoidedWords = []string{
		"utilise = use",
		"commence = begin",
		"in order to = to",
		"kindly",
		"customer premises = home",
	}
	if _, err := w.app.Sites.KeepSite(ctx, w.by("maren"), house); err != nil {
		return err
	}
	solar := sites.Site{
		Name:         "Wrenmoor Solar",
		Hosts:        []string{"solar.localhost"},
		BrandColour:  "#7A4B00",
		AccentColour: "#1D5140",
		Languages:    []string{article.SourceLanguage},
		Categories:   []int64{w.categories["Solar, storage and charging"]},
	}
	_, err = w.app.Sites.KeepSite(ctx, w.by("maren"), solar)
	return err
}

// editions writes and publishes the German editions, then changes one source.
func (w *world) editions(ctx context.Context) error {
	files, err := fs.Glob(content, "editions/*.de.md")
	if err != nil {
		return err
	}
	for _, file := range files {
		p, err := readPage(file)
		if err != nil {
			return fmt.Errorf("%s: %w", file, err)
		}
		slug := strings.TrimSuffix(strings.TrimPrefix(file, "editions/"), ".de.md")
		ref, err := w.app.Writing.AddEdition(ctx, w.by("tomas"), w.references[slug], "de")
		if err != nil {
			return fmt.Errorf("%s: %w", slug, err)
		}
		body, err := w.html(p.body)
		if err != nil {
			return err
		}
		text := library.WorkingCopy{
			Title:             p.Title,
			Body:              body,
			Keywords:          strings.Split(p.Keywords, ", "),
			SearchDescription: p.Description,
		}
		saved, err := w.app.Writing.SaveArticle(ctx, w.by("tomas"), ref, writing.Save{Text: text, Version: 1})
		if err != nil {
			return err
		}
		if slug == "moving-in" {
			continue // still being written
		}
		if err := w.publish(ctx, ref, w.by("tomas"), saved.Version); err != nil {
			return err
		}
	}
	return w.change(
		ctx,
		"power-is-off",
		"<p>If you have a battery of ours, it keeps the lights on for a few hours: switch off what you can.</p>",
	)
}

// change adds to a live article and publishes it again.
func (w *world) change(ctx context.Context, slug, more string) error {
	w.clock = w.clock.Add(26 * time.Hour)
	ref := w.references[slug]
	a, err := w.app.Desk.ReadArticle(ctx, w.by("ilse"), ref)
	if err != nil {
		return err
	}
	a.Copy.Body += more
	saved, err := w.app.Writing.SaveArticle(ctx, w.by("ilse"), ref, writing.Save{Text: a.Copy, Version: a.Version})
	if err != nil {
		return err
	}
	return w.publish(ctx, ref, w.by("ilse"), saved.Version)
}

func (w *world) publish(ctx context.Context, ref string, author staff.Staff, version int) error {
	for _, step := range []struct {
		by     staff.Staff
		action review.Action
	}{{author, review.Submit}, {w.by("brida"), review.Approve}, {w.by("pell"), review.Publish}} {
		w.clock = w.clock.Add(20 * time.Minute)
		if err := w.app.Review.Act(ctx, step.by, ref, step.action, version, ""); err != nil {
			return err
		}
	}
	return nil
}

// upkeep lets time have passed over some articles.
func (w *world) upkeep(ctx context.Context) error {
	problem, err := w.app.Review.Rechecks.AddKnownProblem(
		ctx,
		w.by("maren"),
		"Smart meters of the 3R kind lost their line",
	)
	if err != nil {
		return err
	}
	left, err := w.app.Accounts.People.AddFirstStaff(
		ctx,
		accounts.NewStaff{
			Name:     "Ruth Ansel",
			Email:    "ruth@wrenmoor.example",
			Password: Password,
			Roles:    role.Set{role.Author},
		},
	)
	if err != nil {
		return err
	}
	for slug, set := range map[string]func(*library.Properties){
		"smart-meter-stopped-sending": func(p *library.Properties) { p.KnownProblemID = problem.ID },
		"planned-work":                func(p *library.Properties) { p.RecheckDays = 7 },
		"charging-prices":             func(p *library.Properties) { p.RecheckDays = 5 },
		"landlords":                   func(p *library.Properties) { p.OwnerID = left.ID },
		"power-of-attorney":           func(p *library.Properties) { p.OwnerID = left.ID },
	} {
		a, err := w.app.Desk.ReadArticle(ctx, w.by("maren"), w.references[slug])
		if err != nil {
			return fmt.Errorf("%s: %w", slug, err)
		}
		p := library.Properties{CategoryID: a.Category.ID, OwnerID: a.Owner.ID, Kind: a.Kind, Audience: a.Audience}
		set(&p)
		if err := w.app.Library.SetProperties(ctx, w.by("maren"), a.Reference, p); err != nil {
			return fmt.Errorf("%s: %w", slug, err)
		}
	}
	return w.app.Accounts.People.ChangeStaff(ctx, w.by("maren"), left.ID, left.Roles, true)
}

// draft begins an article from a template and leaves it with things to mend, so that
// the margin has something to say.
func (w *world) draft(ctx context.Context) error {
	templates, err := w.app.Library.Templates(ctx)
	if err != nil {
		return err
	}
	ref, err := w.app.Library.CreateArticle(
		ctx,
		w.by("ilse"),
		library.NewArticle{CategoryID: w.categories["Supply and safety"], TemplateID: templates[0].ID,
			Copy: library.WorkingCopy{Title: "Reporting a street light that does not work"}},
	)
	if err != nil {
		return err
	}
	body := `<p>Street lights on our poles are looked after by us. Lights on other poles belong to the council, and it is for the council that a report about them must be made, which takes a little longer but is not difficult at all.</p>
<h2>What to do</h2><ol><li><p>Write down the number on the plate.</p></li><li><p>The report is sent by you in the app.</p></li><li><p>The lamp's colour and the street.</p></li></ol>
<h2>If that did not help</h2><p></p><h2>Why it happens</h2><p>Simply because lamps wear out. See <a href="/help/articles/` + w.references["flickering-lights"] + `">lights flicker</a>.</p>`
	_, err = w.app.Writing.SaveArticle(
		ctx,
		w.by("ilse"),
		ref,
		writing.Save{
			Text:    library.WorkingCopy{Title: "Reporting a street light that does not work", Body: body},
			Version: 1,
		},
	)
	return err
}
