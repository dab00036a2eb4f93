package http

import (
	"bytes"
	"embed"
	"fmt"
	"html/template"
	"regexp"
	"strings"
	"time"
	"unicode"

	"github.com/gofiber/fiber/v2"

	"hermeneus/app/evidence"
	"hermeneus/app/search"
	"hermeneus/app/sites"
	"hermeneus/app/staff"
	"hermeneus/core/article"
	coresearch "hermeneus/core/search"
)

//go:embed templates/*.html
var templates embed.FS

// pages are the pages that customers read, made whole on the server.
type pages struct {
	all     map[string]map[string]*template.Template // by language and name
	options Options
	assets  *assets
	words   words
	now     func() time.Time
}

var pageNames = []string{
	"home",
	"category",
	"article",
	"results",
	"request",
	"answered",
	"conversation",
	"mine",
	"signin",
	"password",
	"kept",
	"problem",
	"chat",
	"staff",
}

func loadPages(files *assets, options Options, now func() time.Time) (*pages, error) {
	all, err := loadWords()
	if err != nil {
		return nil, err
	}
	p := &pages{all: map[string]map[string]*template.Template{}, options: options, assets: files, words: all, now: now}
	for l := range all {
		p.all[l] = map[string]*template.Template{}
		for _, name := range pageNames {
			if p.all[l][name], err = loadPage(name, l, all); err != nil {
				return nil, fmt.Errorf("reading the page %s: %w", name, err)
			}
		}
	}
	return p, nil
}

// plainWords is a place for words of the interface that hold nothing to be filled in.
var plainWords = regexp.MustCompile(`\{\{\$?\.T "([\w.]+)"\}\}`)

// loadPage reads a page for one language: words with nothing to fill in are written into
// the template, so that no visit looks them up.
func loadPage(name, l string, all words) (*template.Template, error) {
	t := template.New("frame.html").Funcs(template.FuncMap{
		"trusted": func(s string) template.HTML { return template.HTML(s) }, // sanitised when it was saved
		"stamp":   func(t time.Time) string { return t.Format(time.RFC3339) },
		"slug":    slug,
		"passage": passage,
		"blocks":  blocks,
		"again":   evidence.NewKey, // under which a form is done once, however often it is sent
	})
	for _, file := range []string{"frame.html", name + ".html"} {
		raw, err := templates.ReadFile("templates/" + file)
		if err != nil {
			return nil, err
		}
		text := plainWords.ReplaceAllStringFunc(string(raw), func(place string) string {
			return template.HTMLEscapeString(all.say(l, plainWords.FindStringSubmatch(place)[1]))
		})
		if _, err := t.Parse(text); err != nil {
			return nil, err
		}
	}
	return t, nil
}

// view is what every page is made of.
type view struct {
	Title       string
	Description string
	Canonical   string
	Company     string
	Customer    *evidence.Customer
	Preview     bool
	Staff       bool // a member of staff, previewing or counted as a customer
	NoIndex     bool
	Script      string
	Styles      []string
	Preload     []string
	Words       string // in the search field
	Visit       string // the visitor's key, "" for who is not counted
	LinkedData  template.JS
	Site        sites.Site
	Lang        string // of the interface
	Speaks      []alternate
	Alternates  []alternate
	Feed        string // address of the feed of what changes here
	OnArticle   bool
	Here        string // the path of the page
	Contact     string // the key of the mail whose link opened the page
	MayFollow   string // what the visitor chose, where the site asks: yes, no, or "" before they did
	Picture     string // address of one that stands for the page, "" for none
	Is          any    // what this page is about
	words       words
	now         time.Time
}

// alternate is the same page in another language.
type alternate struct{ Language, Address, Name string }

// T says a text of the interface in the visitor's language.
func (v view) T(key string, pairs ...any) string { return v.words.say(v.Lang, key, pairs...) }

// Day is a day in the visitor's language.
func (v view) Day(t time.Time) string { return v.words.day(v.Lang, t) }

// Ago is how long ago a time is.
func (v view) Ago(t time.Time) string { return v.words.ago(v.Lang, t, v.now) }

// AsksToFollow reports whether the page asks to know the visitor's browser from page to page.
func (v view) AsksToFollow() bool { return v.Site.AsksToFollow && v.MayFollow == "" && v.Visit != "" }

// FollowWords are the words with which it asks.
func (v view) FollowWords() string {
	if words := v.Site.FollowWords[v.Lang]; words != "" {
		return words
	}
	return v.T("follow.words")
}

// LanguageName is what a language is called in the visitor's.
func (v view) LanguageName(language string) string {
	if _, ok := article.Languages[language]; !ok {
		return language
	}
	return v.T("tongue." + language)
}

// show answers with a page.
func (p *pages) show(c *fiber.Ctx, status int, name string, v evidence.Visitor, is any, fill view) error {
	_, staff := c.UserContext().Value(staffKey).(staff.Staff)
	fill.Site, fill.Lang, fill.words, fill.now = site(c), language(c), p.words, p.now()
	fill.Company, fill.Customer, fill.Preview, fill.Staff, fill.Is = fill.Site.Name, v.Customer, v.Preview, staff, is
	if v.Counted() {
		fill.Visit = v.Key
	}
	fill.Here = c.Path()
	if v.Contact != "" {
		fill.Contact = c.Query("of")
	}
	if fill.Site.AsksToFollow {
		fill.MayFollow = c.Cookies(followCookie)
	}
	if fill.Company == "" {
		fill.Company = p.options.Name
	}
	if fill.Script == "" {
		fill.Script, fill.Styles = p.assets.of("src/help/main.ts")
		fill.Preload = p.assets.fonts
	}
	fill.Speaks = p.speaks(c, fill.Site)
	var out bytes.Buffer
	if err := p.all[fill.Lang][name].ExecuteTemplate(&out, "frame.html", fill); err != nil {
		return fmt.Errorf("making the page %s: %w", name, err)
	}
	c.Set("Content-Type", "text/html; charset=utf-8")
	c.Set("Cache-Control", "private, no-cache")
	return c.Status(status).Send(out.Bytes())
}

// speaks lists the languages that the interface can be read in here.
func (p *pages) speaks(c *fiber.Ctx, s sites.Site) []alternate {
	var list []alternate
	for _, l := range s.Languages {
		if p.words.has(l) {
			list = append(list, alternate{l, inLanguage(c, l), article.Languages[l]})
		}
	}
	return list
}

// inLanguage is the address of the page asked for, in another language.
func inLanguage(c *fiber.Ctx, l string) string {
	path := c.Path()
	if c.Method() != fiber.MethodGet {
		path = "/help"
	}
	address := path + "?lang=" + l
	if q := c.Query("q"); q != "" {
		address += "&q=" + template.URLQueryEscaper(q)
	}
	return address
}

// problemView is a page that says what went wrong, and goes on from there.
type problemView struct {
	Problem *Problem
	Near    []search.Result
}

// problem answers with a page that says what went wrong.
func (p *pages) problem(c *fiber.Ctx, v evidence.Visitor, problem *Problem, near []search.Result) error {
	return p.show(
		c,
		problem.Status,
		"problem",
		v,
		problemView{problem, near},
		view{Title: problem.Title, NoIndex: true},
	)
}

// slug is the title as it stands in an address; it is only there to be read.
func slug(title string) string {
	return strings.Join(strings.FieldsFunc(strings.ToLower(title), func(r rune) bool {
		return !unicode.IsLetter(r) && !unicode.IsDigit(r)
	}), "-")
}

// passage marks the words asked for.
func passage(p coresearch.Passage) template.HTML {
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

// blocks writes the lines of an answer as paragraphs and lists.
func blocks(list []article.Block) template.HTML {
	var out strings.Builder
	open := ""
	turn := func(tag string) {
		if open == tag {
			return
		}
		if open != "" {
			out.WriteString("</" + open + ">")
		}
		if open = tag; tag != "" {
			out.WriteString("<" + tag + ">")
		}
	}
	for _, b := range list {
		text := template.HTMLEscapeString(b.Text)
		switch b.Kind {
		case article.StepBlock:
			turn("ol")
			out.WriteString("<li>" + text + "</li>")
		case article.ItemBlock:
			turn("ul")
			out.WriteString("<li>" + text + "</li>")
		default:
			turn("")
			out.WriteString("<p>" + text + "</p>")
		}
	}
	turn("")
	return template.HTML(out.String())
}
