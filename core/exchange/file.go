package exchange

import (
	"bytes"
	"fmt"
	"path"
	"regexp"
	"strings"
	"time"

	"gopkg.in/yaml.v3"

	"hermeneus/core/article"
)

// Head is what a file says of an article before its text. Empty fields are left out.
type Head struct {
	Key               string   `yaml:"key,omitempty"`       // the same wherever the article goes
	Reference         string   `yaml:"reference,omitempty"` // taken over where it is free
	Language          string   `yaml:"language,omitempty"`
	Title             string   `yaml:"title"`
	Kind              string   `yaml:"kind,omitempty"`
	Audience          string   `yaml:"audience,omitempty"`
	Owner             string   `yaml:"owner,omitempty"` // a mail address
	Keywords          []string `yaml:"keywords,omitempty,flow"`
	SearchTitle       string   `yaml:"search_title,omitempty"`
	SearchDescription string   `yaml:"search_description,omitempty"`
	RecheckDays       int      `yaml:"recheck_days,omitempty"`
	InterimUntil      string   `yaml:"interim_until,omitempty"` // 2026-03-02
	Order             int      `yaml:"order,omitempty"`         // among the articles of its category
}

// CategoryFile is what a folder says of its category.
type CategoryFile struct {
	Name        string `yaml:"name"`
	Description string `yaml:"description,omitempty"`
	Audience    string `yaml:"audience,omitempty"`
	Order       int    `yaml:"order,omitempty"`
}

// CategoryFileName is the name of the file that describes a folder's category.
const CategoryFileName = "_category.yaml"

// FilesFolder is where pictures and attachments go.
const FilesFolder = "files"

// Page is one article brought in, or to be taken out.
type Page struct {
	Head
	Path     string   // of its file, with slashes
	Part     string   // which part of the file, for a page cut into parts
	Line     int      // of the file where its text begins
	Category []string // names from the top down
	Body     string   // before addresses are resolved: CommonMark or HTML
	HTML     bool
	Anchors  []string // ids within it that others may point to
}

// Key tells pages apart that name none: the same file is the same article again.
func (p Page) key(bundle string) string {
	if p.Head.Key != "" {
		return p.Head.Key
	}
	key := bundle + "/" + p.Path
	if p.Part != "" {
		key += "#" + p.Part
	}
	return key
}

// Write gives the bytes of an article's file. body is canonical, with addresses as
// they are to stand in the file.
func (h Head) Write(body string) ([]byte, error) {
	head, err := encode(h)
	if err != nil {
		return nil, err
	}
	return []byte("---\n" + string(head) + "---\n\n" + ToMarkdown(body)), nil
}

// Write gives the bytes of a category's file.
func (s CategoryFile) Write() ([]byte, error) { return encode(s) }

func encode(v any) ([]byte, error) {
	var out bytes.Buffer
	e := yaml.NewEncoder(&out)
	e.SetIndent(2)
	if err := e.Encode(v); err != nil {
		return nil, fmt.Errorf("writing YAML: %w", err)
	}
	if err := e.Close(); err != nil {
		return nil, fmt.Errorf("writing YAML: %w", err)
	}
	return out.Bytes(), nil
}

var fence = regexp.MustCompile(`(?s)\A\x{feff}?---[ \t]*\r?\n(.*?\r?\n)?---[ \t]*(?:\r?\n|\z)`)

// ReadMarkdown reads a CommonMark file with or without front matter. Without a
// title the first heading is it, or else the file's name.
func ReadMarkdown(file string, content []byte) (Page, error) {
	p := Page{Path: file, Line: 1}
	text := string(content)
	if m := fence.FindStringSubmatchIndex(text); m != nil {
		if m[2] >= 0 {
			decoder := yaml.NewDecoder(strings.NewReader(text[m[2]:m[3]]))
			if err := decoder.Decode(&p.Head); err != nil {
				return p, fmt.Errorf("the front matter cannot be read: %w", err)
			}
		}
		p.Line += strings.Count(text[:m[1]], "\n")
		text = text[m[1]:]
	}
	if _, err := time.Parse(time.DateOnly, p.InterimUntil); p.InterimUntil != "" && err != nil {
		return p, fmt.Errorf("interim_until: %q is not a day such as 2026-03-02", p.InterimUntil)
	}
	if p.Title == "" {
		text = p.titleFrom(text)
	}
	p.Body = text
	return p, nil
}

var firstHeading = regexp.MustCompile(`(?m)\A\s*#[ \t]+(.+?)[ \t]*#*[ \t]*(?:\r?\n|\z)`)

func (p *Page) titleFrom(text string) string {
	if m := firstHeading.FindStringSubmatchIndex(text); m != nil {
		p.Title = strings.TrimSpace(text[m[2]:m[3]])
		p.Line += strings.Count(text[:m[1]], "\n")
		return text[m[1]:]
	}
	name := strings.TrimSuffix(path.Base(p.Path), path.Ext(p.Path))
	name = strings.Join(strings.FieldsFunc(name, func(r rune) bool { return r == '-' || r == '_' || r == '.' }), " ")
	if name != "" {
		name = strings.ToUpper(name[:1]) + name[1:]
	}
	p.Title = name
	return text
}

// FileName is the name that an article's file gets: its reference and its title,
// and its language when it is not the source.
func FileName(reference, title, language string) string {
	name := reference + "-" + article.Slug(title)
	if language != "" {
		name += "." + language
	}
	return name + ".md"
}
