package demo

import (
	"bytes"
	"context"
	"embed"
	"fmt"
	"io/fs"
	"regexp"
	"strings"
	"time"

	"gopkg.in/yaml.v3"

	"hermeneus/app/library"
	"hermeneus/app/staff"
	"hermeneus/core/article"
	"hermeneus/core/audience"
	"hermeneus/core/exchange"
	"hermeneus/core/review"
)

//go:embed library groups editions pictures/*.png flows/*.flow holidays.ics
var content embed.FS

// page is one article of the demo library, as its file says.
type page struct {
	Slug        string
	Title       string
	Category    string
	Kind        string
	Keywords    string
	Description string
	Audience    audience.Audience
	State       review.State
	body        string
}

var descriptions = map[string]string{
	"Meters and readings":         "Find, read and mend your meter.",
	"Bills and payments":          "What you pay, when and why.",
	"Moving home":                 "Take a supply over, or give it up.",
	"Supply and safety":           "Power cuts, damage and planned work.",
	"Solar, storage and charging": "Sell what you make, keep it, or charge a car with it.",
	"Your membership":             "Your account, your share and your vote.",
}

// library writes, reviews and publishes the articles, through the same use cases
// that people use.
func (w *world) library(ctx context.Context) error {
	files, err := fs.Glob(content, "library/*/*.md")
	if err != nil {
		return err
	}
	var pages []page
	w.references = map[string]string{}
	for i, file := range files {
		p, err := readPage(file)
		if err != nil {
			return fmt.Errorf("%s: %w", file, err)
		}
		pages = append(pages, p)
		w.references[p.Slug] = article.Reference(i + 1) // numbers are given out in this order
	}
	if err := w.pictures(ctx); err != nil {
		return err
	}
	for i, p := range pages {
		w.clock = w.begins.AddDate(0, 0, -30).Add(time.Duration(i) * 3 * time.Hour)
		if err := w.write(ctx, p, i); err != nil {
			return fmt.Errorf("%s: %w", p.Slug, err)
		}
	}
	return nil
}

func readPage(file string) (page, error) {
	raw, err := content.ReadFile(file)
	if err != nil {
		return page{}, err
	}
	_, rest, _ := bytes.Cut(raw, []byte("---\n"))
	head, body, ok := bytes.Cut(rest, []byte("---\n"))
	if !ok {
		return page{}, fmt.Errorf("there is no front matter")
	}
	p := page{Kind: "how-to", Audience: audience.Everyone, State: review.Published, body: string(body)}
	if err := yaml.Unmarshal(head, &p); err != nil {
		return page{}, err
	}
	if p.Slug == "" {
		_, name, _ := strings.Cut(strings.TrimSuffix(file[strings.LastIndexByte(file, '/')+1:], ".md"), "-")
		p.Slug = name
	}
	return p, nil
}

func (w *world) pictures(ctx context.Context) error {
	w.picturePaths = map[string]string{}
	for _, name := range []string{"meter", "battery"} {
		raw, err := content.ReadFile("pictures/" + name + ".png")
		if err != nil {
			return err
		}
		kept, err := w.app.Library.KeepMedia(ctx, w.by("ilse"), raw)
		if err != nil {
			return err
		}
		w.picturePaths[name] = kept.Path
	}
	return nil
}

var (
	articleLink = regexp.MustCompile(`article:([a-z-]+)`)
	pictureLink = regexp.MustCompile(`picture:([a-z]+)`)
)

func (w *world) html(text string) (string, error) {
	text = articleLink.ReplaceAllStringFunc(
		text,
		func(m string) string { return "/help/articles/" + w.references[strings.TrimPrefix(m, "article:")] },
	)
	text = pictureLink.ReplaceAllStringFunc(
		text,
		func(m string) string { return w.picturePaths[strings.TrimPrefix(m, "picture:")] },
	)
	return exchange.FromMarkdown(text, nil)
}

// write takes one article as far along its way as its file says.
func (w *world) write(ctx context.Context, p page, i int) error {
	category, err := w.category(ctx, p.Category)
	if err != nil {
		return err
	}
	body, err := w.html(p.body)
	if err != nil {
		return err
	}
	author := w.by([]string{"ilse", "tomas"}[i%2])
	copied := library.WorkingCopy{
		Title:             p.Title,
		Body:              body,
		Keywords:          strings.Split(p.Keywords, ","),
		SearchDescription: p.Description,
	}
	ref, err := w.app.Library.CreateArticle(
		ctx,
		author,
		library.NewArticle{CategoryID: category, Kind: p.Kind, Audience: p.Audience, Copy: copied},
	)
	if err != nil {
		return err
	}
	reviewer := w.by("brida")
	if strings.HasPrefix(p.Category, "Supply") {
		reviewer = w.by("corin")
	}
	for _, step := range []struct {
		after  review.State
		action review.Action
		by     staff.Staff
		note   string
	}{
		{review.Drafting, review.Submit, author, ""},
		{review.InReview, review.Approve, reviewer, "Read and checked."},
		{review.Approved, review.Publish, w.by("pell"), ""},
	} {
		if p.State == review.SentBack && step.action == review.Approve {
			step.action, step.note = review.SendBack, "Say which papers we must keep, and for how long. “Save bills” reads as “keep safe”."
		}
		if step.after == p.State || (p.State == review.SentBack && step.action == review.Publish) {
			break
		}
		w.clock = w.clock.Add(25 * time.Minute)
		if err := w.app.Review.Act(ctx, step.by, ref, step.action, 1, step.note); err != nil {
			return err
		}
	}
	return nil
}

// category finds or makes a category by its path, its names parted by " / ".
func (w *world) category(ctx context.Context, path string) (int64, error) {
	if id, ok := w.categories[path]; ok {
		return id, nil
	}
	names := strings.Split(path, " / ")
	var parent int64
	if len(names) > 1 {
		var err error
		if parent, err = w.category(ctx, strings.Join(names[:len(names)-1], " / ")); err != nil {
			return 0, err
		}
	}
	name := names[len(names)-1]
	id, err := w.app.Library.AddCategory(
		ctx,
		w.by("maren"),
		library.NewCategory{ParentID: parent, Name: name, Description: descriptions[name], Audience: audience.Everyone},
	)
	w.categories[path] = id
	return id, err
}
