package exchange

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"strings"

	"gorm.io/gorm"

	"hermeneus/app/library"
	"hermeneus/app/problem"
	"hermeneus/app/staff"
	"hermeneus/core/article"
	"hermeneus/core/exchange"
	"hermeneus/core/role"
	"hermeneus/store"
)

const jobImport = "import"

// ImportOptions say how a bundle is brought in.
type ImportOptions struct {
	CategoryID int64          `json:"category_id,omitempty"` // everything goes below it; 0 for the top
	Split      exchange.Split `json:"split,omitempty"`
}

// ImportReport says line by line what was, or would be, brought in.
type ImportReport struct {
	Created int             `json:"created"`
	Changed int             `json:"changed"`
	Skipped int             `json:"skipped"`
	Notes   int             `json:"notes"` // things that could not be kept
	Failed  int             `json:"failed"`
	Lines   []exchange.Line `json:"lines"`
}

func (r *ImportReport) add(l exchange.Line) {
	switch l.Action {
	case exchange.Create:
		r.Created++
	case exchange.Change:
		r.Changed++
	case exchange.Skip:
		r.Skipped++
	case exchange.Note:
		r.Notes++
	case exchange.Problem:
		r.Failed++
	}
	r.Lines = append(r.Lines, l)
}

// ImportLibrary brings a bundle in, or only says what it would do. What is there
// already just so is skipped, so that bringing the same in again changes nothing.
// New articles are drafts; articles that are there get a new working copy, and what
// customers read stays as it is.
func (a *Exchange) ImportLibrary(
	ctx context.Context,
	by staff.Staff,
	b exchange.Bundle,
	o ImportOptions,
	dry bool,
	progress func(done, total int),
) (ImportReport, error) {
	if err := by.May("Bringing articles in", role.Author); err != nil {
		return ImportReport{}, err
	}
	if progress == nil {
		progress = func(int, int) {}
	}
	set := exchange.Read(b, o.Split)
	r := &importer{
		area:    a,
		by:      by,
		set:     set,
		options: o,
		dry:     dry,
		owners:  map[string]int64{},
		files:   map[string]string{},
	}
	for _, l := range set.Report {
		r.report.add(l)
	}
	if len(set.Pages) == 0 {
		return r.report, problem.New(
			problem.BadFile,
			"There is no article in it: neither a Markdown file (.md) nor a page (.html).",
		)
	}
	if err := r.prepare(ctx); err != nil {
		return r.report, err
	}
	for done, i := range sourcesFirst(set.Pages) {
		if err := ctx.Err(); err != nil {
			return r.report, err
		}
		if err := r.bring(ctx, i); err != nil {
			return r.report, err
		}
		if (done+1)%20 == 0 || done+1 == len(set.Pages) {
			progress(done+1, len(set.Pages))
		}
	}
	return r.report, nil
}

// sourcesFirst gives the order to bring pages in: an edition follows its article.
func sourcesFirst(pages []exchange.Page) []int {
	var first, then []int
	for i, p := range pages {
		if p.Language == "" || p.Language == article.SourceLanguage {
			first = append(first, i)
		} else {
			then = append(then, i)
		}
	}
	return append(first, then...)
}

type importer struct {
	area    *Exchange
	by      staff.Staff
	set     *exchange.Set
	options ImportOptions
	dry     bool
	report  ImportReport
	known   map[string]int // numbers of the articles that are there, by key
	numbers []int          // of each page's article, those to be made too
	fresh   []bool         // the page's article is to be made
	bad     []string       // why a page cannot be brought in
	owners  map[string]int64
	files   map[string]string // path here by path in the bundle
}

// prepare gives every page its number before any text is read, since texts point to
// each other.
func (r *importer) prepare(ctx context.Context) error {
	db := r.area.base.DB.WithContext(ctx)
	r.known = map[string]int{}
	var rows []struct {
		Key    string
		Number int
	}
	keys := make([]string, len(r.set.Pages))
	for i, p := range r.set.Pages {
		keys[i] = p.Key
	}
	if err := db.Raw(`SELECT key, number FROM articles WHERE key IN ?`, keys).Scan(&rows).Error; err != nil {
		return err
	}
	for _, row := range rows {
		r.known[row.Key] = row.Number
	}
	taken := map[int]bool{}
	var used []int
	if err := db.Raw(`SELECT number FROM articles`).Scan(&used).Error; err != nil {
		return err
	}
	for _, n := range used {
		taken[n] = true
	}
	next, err := r.numbering(db)
	if err != nil {
		return err
	}
	r.numbers, r.fresh, r.bad = make([]int, len(keys)), make([]bool, len(keys)), make([]string, len(keys))
	claimed := map[string]int{}
	for i, p := range r.set.Pages {
		r.claim(i, p, taken, claimed)
	}
	for i, p := range r.set.Pages {
		if r.numbers[i] != 0 || r.bad[i] != "" {
			continue
		}
		if n, ok := claimed[p.Key]; ok { // another edition of an article of the bundle
			r.numbers[i] = n
			continue
		}
		n, err := next()
		for ; err == nil && taken[n]; n, err = next() {
		}
		if err != nil {
			return err
		}
		r.numbers[i], r.fresh[i], taken[n], claimed[p.Key] = n, true, true, n
	}
	return nil
}

// numbering gives what gives new articles their numbers: the sequence, or where nothing is
// to be changed, what it would give. Numbers that articles bring with them do not move it.
func (r *importer) numbering(db *gorm.DB) (func() (int, error), error) {
	if !r.dry {
		return func() (n int, err error) {
			err = db.Raw(`SELECT nextval('article_numbers')`).Scan(&n).Error
			return n, err
		}, nil
	}
	last := 0
	err := db.Raw(`SELECT CASE WHEN is_called THEN last_value ELSE 0 END FROM article_numbers`).Scan(&last).Error
	return func() (int, error) {
		last++
		return last, nil
	}, err
}

// claim gives a page the article it is, or the number it asks for where that is free.
func (r *importer) claim(i int, p exchange.Page, taken map[int]bool, claimed map[string]int) {
	source := p.Language == "" || p.Language == article.SourceLanguage
	if n, ok := r.known[p.Key]; ok {
		r.numbers[i] = n
	} else if n, _, ok := article.ParseReference(p.Reference); ok && source && !taken[n] && n <= article.MaxNumber {
		r.numbers[i], r.fresh[i], taken[n] = n, true, true
	}
	if !source {
		if article.Languages[p.Language] == "" {
			r.bad[i] = fmt.Sprintf("%q is not one of the languages that editions can have", p.Language)
		}
		return
	}
	if r.numbers[i] != 0 {
		if _, twice := claimed[p.Key]; twice {
			r.bad[i] = "another file has the same key"
		}
		claimed[p.Key] = r.numbers[i]
	}
}

// bring brings one page in.
func (r *importer) bring(ctx context.Context, i int) error {
	p := r.set.Pages[i]
	line := exchange.Line{File: p.Path, Line: 0, Title: p.Title}
	fail := func(message string) error {
		line.Action, line.Message = exchange.Problem, message
		r.report.add(line)
		return nil
	}
	if r.bad[i] != "" {
		return fail(r.bad[i])
	}
	line.Reference = article.EditionReference(r.numbers[i], p.Language)
	var lost []exchange.Line
	if n, _, ok := article.ParseReference(p.Reference); ok && n > article.MaxNumber && r.fresh[i] {
		message := fmt.Sprintf(
			"%s is too high a number: articles bring in at most %s, and this one gets the next",
			p.Reference,
			article.Reference(article.MaxNumber),
		)
		lost = append(lost, exchange.Line{File: p.Path, Action: exchange.Note, Title: p.Title, Message: message})
	}
	body, taken, err := p.Text(r.resolve(ctx, p, &lost))
	if err == nil {
		line.Action, line.Message, err = r.keep(ctx, i, body)
	}
	var known *problem.Problem
	switch err = problem.From(err, "article"); {
	case errors.As(err, &known):
		detail := known.Detail
		for _, f := range known.Fields {
			detail += " " + f.Name + ": " + f.Message
		}
		return fail(detail)
	case err != nil:
		return fmt.Errorf("%s: %w", p.Path, err)
	}
	r.report.add(line)
	for _, l := range append(taken, lost...) {
		r.report.add(l)
	}
	return nil
}

// resolve leads the addresses of a page to articles and files here.
func (r *importer) resolve(ctx context.Context, p exchange.Page, lost *[]exchange.Line) article.Resolve {
	note := func(format string, args ...any) {
		*lost = append(
			*lost,
			exchange.Line{File: p.Path, Action: exchange.Note, Title: p.Title, Message: fmt.Sprintf(format, args...)},
		)
	}
	return func(address string, picture bool) (string, bool) {
		to, ok := r.set.Follow(p, address)
		switch {
		case !ok && strings.HasPrefix(address, "#"):
			return address, true
		case !ok && picture:
			note("the picture %s is not in the set", address)
			return "", false
		case !ok:
			note("the link to %s leads out of the set", address)
			return "", false
		case to.Outside && picture:
			note("the picture %s is on another site", address)
			return "", false
		case to.Outside:
			return address, true
		case to.Page >= 0:
			here := article.LinkPath + article.Reference(r.numbers[to.Page])
			if to.Fragment != "" && r.set.Pages[to.Page].Part == "" {
				here += "#" + article.Slug(to.Fragment)
			}
			return here, true
		}
		here, err := r.file(ctx, to.File, picture)
		if err != nil {
			note("%s: %s", to.Name, err)
			return "", false
		}
		return here, true
	}
}

// file keeps a file of the bundle, once.
func (r *importer) file(ctx context.Context, content []byte, picture bool) (string, error) {
	hash := library.FileHash(content)
	if path, ok := r.files[hash]; ok {
		return path, nil
	}
	path := article.FilePath + hash
	if !r.dry {
		keep := r.area.library.KeepAttachment
		if picture {
			keep = r.area.library.KeepMedia
		}
		kept, err := keep(ctx, r.by, content)
		if err != nil {
			return "", err
		}
		path = kept.Path
	}
	r.files[hash] = path
	return path, nil
}

// AskImport begins to bring an archive, a page or a Markdown file in, and gives the job.
func (a *Exchange) AskImport(
	ctx context.Context,
	by staff.Staff,
	name string,
	content []byte,
	o ImportOptions,
	dry bool,
) (int64, error) {
	if err := by.May("Bringing articles in", role.Author); err != nil {
		return 0, err
	}
	if _, err := bundleOf(name, content); err != nil {
		return 0, problem.New(problem.BadFile, "It cannot be read: %s.", err)
	}
	if o.CategoryID != 0 {
		if err := a.base.DB.WithContext(ctx).First(&store.Category{}, o.CategoryID).Error; err != nil {
			return 0, problem.From(err, "category")
		}
	}
	return a.jobs.Ask(ctx, by, jobImport, importInput{name, o, dry}, content, 0)
}

type importInput struct {
	Name    string        `json:"name"`
	Options ImportOptions `json:"options"`
	Dry     bool          `json:"dry"`
}

// bundleOf reads an upload: a zip archive, or a single file.
func bundleOf(name string, content []byte) (exchange.Bundle, error) {
	if strings.HasSuffix(strings.ToLower(name), ".zip") {
		return exchange.ReadZip(name, content)
	}
	return exchange.Bundle{Name: "uploads", Files: map[string][]byte{name: content}}, nil
}

func (a *Exchange) runImport(
	ctx context.Context,
	by staff.Staff,
	row store.Job,
	progress func(done, total int),
) (any, error) {
	var in importInput
	if err := json.Unmarshal(row.Input, &in); err != nil {
		return nil, err
	}
	b, err := bundleOf(in.Name, row.File)
	if err != nil {
		return nil, problem.New(problem.BadFile, "It cannot be read: %s.", err)
	}
	return a.ImportLibrary(ctx, by, b, in.Options, in.Dry, progress)
}
