package exchange

import (
	"fmt"
	"path"
	"strings"

	"gopkg.in/yaml.v3"

	"hermeneus/core/article"
	"hermeneus/core/markup"
)

// Action is what bringing something in does.
type Action string

// The actions.
const (
	Create  Action = "create"
	Change  Action = "change"
	Skip    Action = "skip"    // it is there already, just so
	Problem Action = "problem" // it cannot be brought in
	Note    Action = "note"    // something of it could not be kept
)

// Line is one line of the report of bringing in.
type Line struct {
	File      string `json:"file"`
	Line      int    `json:"line,omitempty"` // from 1; 0 for the whole file
	Action    Action `json:"action"`
	Reference string `json:"reference,omitempty"`
	Title     string `json:"title,omitempty"`
	Message   string `json:"message,omitempty"`
}

// Split says how an HTML page becomes articles.
type Split string

// The ways to split.
const (
	Whole Split = "pages" // one article a page
	Parts Split = "parts" // one for each heading without headings below it
)

// Set is what a bundle holds, read.
type Set struct {
	Name       string
	Pages      []Page
	Categories map[string]CategoryFile // by the category's path, its names joined by slashes
	Report     []Line                  // what could not be read
	bundle     Bundle
	where      map[string]int // index of the page by path, and by path#anchor
}

// Read finds the articles of a bundle.
func Read(b Bundle, split Split) *Set {
	s := &Set{Name: b.Name, Categories: map[string]CategoryFile{}, bundle: b, where: map[string]int{}}
	names := s.folderNames()
	for _, file := range b.Paths() {
		content := b.Files[file]
		switch strings.ToLower(path.Ext(file)) {
		case ".md", ".markdown":
			p, err := ReadMarkdown(file, content)
			if err != nil {
				s.Report = append(s.Report, Line{File: file, Action: Problem, Message: err.Error()})
				continue
			}
			s.add(p, names[path.Dir(file)])
		case ".html", ".htm", ".xhtml":
			pages, lost := ReadHTML(file, content, split)
			s.Report = append(s.Report, lost...)
			for _, p := range pages {
				s.add(
					p,
					append(
						names[path.Dir(file)][:len(names[path.Dir(file)]):len(names[path.Dir(file)])],
						p.Category...),
				)
			}
		}
	}
	return s
}

func (s *Set) add(p Page, category []string) {
	p.Category = category
	p.Head.Key = p.key(s.Name)
	i := len(s.Pages)
	if _, there := s.where[p.Path]; !there {
		s.where[p.Path] = i
	}
	if p.Part != "" {
		s.where[p.Path+"#"+p.Part] = i
	}
	for _, a := range p.Anchors {
		s.where[p.Path+"#"+a] = i
	}
	s.Pages = append(s.Pages, p)
}

// folderNames gives the names of the categories down to each folder.
func (s *Set) folderNames() map[string][]string {
	names := map[string][]string{".": nil}
	var of func(string) []string
	of = func(folder string) []string {
		if known, ok := names[folder]; ok {
			return known
		}
		up := of(path.Dir(folder))
		is := CategoryFile{}
		file := folder + "/" + CategoryFileName
		if raw, ok := s.bundle.Files[file]; ok {
			if err := yaml.Unmarshal(raw, &is); err != nil {
				s.Report = append(
					s.Report,
					Line{File: file, Action: Problem, Message: fmt.Sprintf("it cannot be read: %v", err)},
				)
			}
		}
		if is.Name == "" {
			name := strings.Join(
				strings.FieldsFunc(path.Base(folder), func(r rune) bool { return r == '-' || r == '_' }),
				" ",
			)
			is.Name = strings.ToUpper(name[:min(1, len(name))]) + name[min(1, len(name)):]
		}
		list := append(up[:len(up):len(up)], is.Name)
		names[folder] = list
		s.Categories[strings.Join(list, "/")] = is
		return list
	}
	for _, file := range s.bundle.Paths() {
		if folder := path.Dir(file); folder != "." && !strings.HasPrefix(file, FilesFolder+"/") {
			of(folder)
		}
	}
	return names
}

// Linked says where an address in a page leads, among the files of the bundle.
type Linked struct {
	Page     int    // index of a page, -1 for none
	Fragment string // after the #
	File     []byte // a picture or an attachment
	Name     string // of that file
	Outside  bool   // another site, or a place of the same page: keep it as it is
}

// Follow finds what an address in a page leads to.
func (s *Set) Follow(from Page, address string) (Linked, bool) {
	if strings.Contains(strings.SplitN(address, "/", 2)[0], ":") || strings.HasPrefix(address, "//") {
		return Linked{Page: -1, Outside: true}, true
	}
	file, fragment, _ := strings.Cut(address, "#")
	file, _, _ = strings.Cut(file, "?")
	file = unescape(file)
	target := from.Path
	if file != "" {
		target = path.Join(path.Dir(from.Path), file)
		if path.IsAbs(file) {
			target = strings.TrimPrefix(file, "/")
		}
	}
	for _, name := range []string{target + "#" + fragment, target} {
		if i, ok := s.where[name]; ok {
			return Linked{Page: i, Fragment: fragment}, true
		}
	}
	if content, ok := s.bundle.Files[target]; ok {
		return Linked{Page: -1, File: content, Name: path.Base(target)}, true
	}
	return Linked{Page: -1}, false
}

// Text turns a page into a text, sanitised and canonical, and lists what of it could
// not be kept.
func (p Page) Text(resolve article.Resolve) (string, []Line, error) {
	var body string
	var err error
	if p.HTML && article.TooDeep(p.Body) {
		return "", nil, article.ErrTooDeep
	}
	if p.HTML {
		body = article.Adapt(p.Body, resolve)
	} else if body, err = FromMarkdown(p.Body, resolve); err != nil {
		return "", nil, err
	}
	var lost []Line
	for _, r := range article.TakenOut(p.Body) {
		if p.keeps(r.What) {
			lost = append(
				lost,
				Line{
					File:    p.Path,
					Line:    p.Line + r.Line - 1,
					Action:  Note,
					Title:   p.Title,
					Message: "not kept: " + r.What,
				},
			)
		}
	}
	clean, err := article.Sanitise(body)
	return markup.Canonical(clean), lost, err
}

// adapted are elements and marks that bringing in has a form of its own for, or
// reports by itself.
var adapted = []string{
	"<h1>",
	"<h5>",
	"<h6>",
	"<b>",
	"<i>",
	"<del>",
	"<ins>",
	"<strike>",
	"<tt>",
	"<samp>",
	"<var>",
	"<cite>",
	"<dfn>",
	"<dl>",
	"<dt>",
	"<dd>",
	"<q>",
	"<center>",
	"<header>",
	"<footer>",
	"<address>",
	"<caption>",
	"a picture that",
	"<nav>",
	"<title>",
	"<abbr>",
	"<small>",
	"<big>",
	"<label>",
	"<mark>",
	"<time>",
	"src=",
	"<thead>",
	"data-",
	"<wbr>",
	"aria-",
	"start=",
	"itemprop",
	"reversed",
	"type of",
	"cite of",
	"scope of",
	"headers of",
	"xml:",
	"name of",
	"hreflang",
	"accesskey",
	"<aside>",
}

func (p Page) keeps(what string) bool {
	for _, known := range adapted {
		if strings.Contains(what, known) {
			return false
		}
	}
	return true
}
