package http

import (
	"bytes"
	"embed"
	"encoding/json"
	"fmt"
	"html/template"
	"strings"
	"time"
	"unicode"

	"github.com/gofiber/fiber/v2"

	"hermeneus/app"
	"hermeneus/core/search"
)

//go:embed templates/*.html
var templates embed.FS

// pages are the pages that customers read, made whole on the server.
type pages struct {
	all     map[string]*template.Template
	options Options
	assets  *assets
}

var pageNames = []string{"home", "category", "article", "results", "request", "conversation", "signin", "problem", "chat", "staff"}

func loadPages(files *assets, options Options) (*pages, error) {
	p := &pages{all: map[string]*template.Template{}, options: options, assets: files}
	for _, name := range pageNames {
		t, err := template.New("frame.html").Funcs(template.FuncMap{
			"trusted": func(s string) template.HTML { return template.HTML(s) }, // sanitised when it was saved
			"day":     func(t time.Time) string { return t.Format("2 January 2006") },
			"stamp":   func(t time.Time) string { return t.Format(time.RFC3339) },
			"slug":    slug,
			"passage": passage,
		}).ParseFS(templates, "templates/frame.html", "templates/"+name+".html")
		if err != nil {
			return nil, fmt.Errorf("reading the page %s: %w", name, err)
		}
		p.all[name] = t
	}
	return p, nil
}

// view is what every page is made of.
type view struct {
	Title       string
	Description string
	Canonical   string
	Company     string
	Customer    *app.Customer
	Preview     bool
	Staff       bool // a member of staff, previewing or counted as a customer
	NoIndex     bool
	Script      string
	Styles      []string
	Words       string // in the search field
	LinkedData  template.JS
	Site        app.Site
	Language    string // of the page's words, "" for that of the source
	Alternates  []alternate
	Feed        string // address of the feed of what changes here
	Is          any    // what this page is about
}

// alternate is the same page in another language.
type alternate struct{ Language, Address string }

// show answers with a page.
func (p *pages) show(c *fiber.Ctx, status int, name string, v app.Visitor, is any, fill view) error {
	_, staff := c.UserContext().Value(staffKey).(app.Staff)
	fill.Site = site(c)
	fill.Company, fill.Customer, fill.Preview, fill.Staff, fill.Is = fill.Site.Name, v.Customer, v.Preview, staff, is
	if fill.Company == "" {
		fill.Company = p.options.Name
	}
	if fill.Script == "" {
		fill.Script, fill.Styles = p.assets.of("src/help/main.ts")
	}
	var out bytes.Buffer
	if err := p.all[name].ExecuteTemplate(&out, "frame.html", fill); err != nil {
		return fmt.Errorf("making the page %s: %w", name, err)
	}
	c.Set("Content-Type", "text/html; charset=utf-8")
	c.Set("Cache-Control", "private, no-cache")
	return c.Status(status).Send(out.Bytes())
}

// problem answers with a page that says what went wrong.
func (p *pages) problem(c *fiber.Ctx, v app.Visitor, problem *Problem) error {
	return p.show(c, problem.Status, "problem", v, problem, view{Title: problem.Title, NoIndex: true})
}

// slug is the title as it stands in an address; it is only there to be read.
func slug(title string) string {
	return strings.Join(strings.FieldsFunc(strings.ToLower(title), func(r rune) bool {
		return !unicode.IsLetter(r) && !unicode.IsDigit(r)
	}), "-")
}

// passage marks the words asked for.
func passage(p search.Passage) template.HTML {
	var out strings.Builder
	for _, run := range p {
		text := template.HTMLEscapeString(run.Text)
		if run.Hit {
			text = "<mark>" + text + "</mark>"
		}
		out.WriteString(text)
	}
	return template.HTML(out.String())
}

// linkedData describes an article in the vocabulary of schema.org, as JSON-LD.
func (p *pages) linkedData(page app.Page, publisher, address string) template.JS {
	raw, err := json.Marshal(map[string]any{
		"@context": "https://schema.org", "@type": "TechArticle", "headline": page.Title, "description": page.Description,
		"dateModified": page.LiveSince.Format(time.RFC3339), "inLanguage": page.Language, "mainEntityOfPage": address,
		"identifier": page.Reference, "articleSection": page.Category.Name,
		"publisher": map[string]any{"@type": "Organization", "name": publisher},
	})
	if err != nil {
		return ""
	}
	return template.JS(raw) // json.Marshal escapes <, > and &, so the element cannot be left
}
