package search

import (
	"context"
	"errors"
	"slices"
	"strconv"
	"strings"
	"time"

	"gorm.io/gorm"

	"hermeneus/app/evidence"
	"hermeneus/app/instance"
	"hermeneus/app/problem"
	"hermeneus/core/article"
	"hermeneus/core/flow"
	"hermeneus/core/outcome"
	"hermeneus/core/search"
)

// Result is an article that a search found.
type Result struct {
	flow.Card
	Category   string         `json:"category"`
	CategoryID int64          `json:"-"`
	Language   string         `json:"language"` // of the edition found
	Passage    search.Passage `json:"passage"`
	hit        search.Hit
}

// Findings is what a search gives a customer.
type Findings struct {
	Results []Result         `json:"results"`
	More    bool             `json:"more"`    // there are others behind these
	Instead []search.Instead `json:"instead"` // words that were taken for others
	Answer  *Composed        `json:"answer"`  // composed of what was found; nil when nothing is sure enough
	Themes  []instance.Name  `json:"themes"`  // categories to go on with, when nothing was found
}

// Composed is an answer made of passages of live articles, word for word.
type Composed struct {
	Parts      []ComposedPart `json:"parts"`
	Confidence float64        `json:"confidence"` // how likely its first article is the right one, 0 to 1
	ReadAfter  time.Duration  `json:"-"`          // for how long it must be in view to count as read
}

// ComposedPart is a passage of one article.
type ComposedPart struct {
	Reference string          `json:"reference"`
	Revision  string          `json:"revision"`
	Title     string          `json:"title"`
	Heading   string          `json:"heading"`
	Anchor    string          `json:"anchor"`
	Language  string          `json:"language"`
	Blocks    []article.Block `json:"blocks"`
}

// resultsShown is how many results stand on a page, and mostShown on all of them.
const (
	resultsShown = 10
	mostShown    = 50
)

// Search finds articles for a visitor's words and keeps that they asked, what they
// were offered, and what they were told.
func (a *Search) Search(ctx context.Context, v evidence.Visitor, words string) ([]Result, error) {
	found, err := a.SearchAll(ctx, v, Asking{Words: words})
	return found.Results, err
}

// Asking is one submission of words to the search.
type Asking struct {
	Words  string
	Number string // of the submission, which its results carry in their address: the same is one; "" has none
	More   bool   // beyond the first page
}

// Results is how evidence names what a submission found.
func (s Asking) Results() string {
	if s.Number == "" {
		return ""
	}
	return "results:" + s.Number
}

// SearchAll finds as Search does.
func (a *Search) SearchAll(ctx context.Context, v evidence.Visitor, asked Asking) (Findings, error) {
	words, more := problem.CleanText(asked.Words), asked.More
	if words == "" {
		return Findings{}, nil
	}
	db := a.base.Steady.WithContext(ctx)
	limit := resultsShown
	if more {
		limit = mostShown
	}
	found, err := a.findings(db, v, words, limit)
	if err != nil {
		return Findings{}, err
	}
	if len(found.Results) == 0 {
		if found.Themes, err = a.themes(ctx, v, words); err != nil {
			return found, err
		}
	}
	asked.Words = words
	return found, a.recordSearch(v, asked, found)
}

// recordSearch keeps what a search was.
func (a *Search) recordSearch(v evidence.Visitor, asked Asking, found Findings) error {
	where := &outcome.Stood{Turn: asked.Results()}
	if len(found.Results) > 0 {
		where.Category = strconv.FormatInt(found.Results[0].CategoryID, 10)
	}
	items := []outcome.Evidence{{Kind: outcome.Asked, Text: asked.Words, Ref: asked.Results(), Stood: where}}
	if refs := Revisions(found.Results); len(refs) > 0 {
		items = append(
			items,
			outcome.Evidence{
				Kind:   outcome.Offered,
				Refs:   refs[:min(len(refs), resultsShown)],
				Source: outcome.FromSearch,
				Stood:  where,
			},
		)
	}
	if found.Answer != nil {
		var sources []string
		for _, p := range found.Answer.Parts {
			sources = append(sources, p.Revision)
		}
		told := *where
		told.Score = &found.Answer.Confidence
		items = append(items, outcome.Evidence{
			Kind:   outcome.Told,
			Ref:    asked.Results(),
			Refs:   sources,
			Source: outcome.FromSearch,
			Stood:  &told,
		})
	}
	return a.recorder.RecordAlone(v, outcome.Help, items...)
}

// Revisions lists the revisions of results, as evidence refers to them.
func Revisions(results []Result) []string {
	var refs []string
	for _, r := range results {
		refs = append(refs, r.Revision)
	}
	return refs
}

// request is what a visitor's words are looked for by.
func (a *Search) request(db *gorm.DB, v evidence.Visitor, words string, limit int) (search.Request, error) {
	f, err := a.sites.Settings(db, v.Site)
	r := search.Request{Words: words, Language: v.Language, Viewer: v.Viewer(), Within: f.Within(), Limit: limit}
	if f != nil {
		r.Rules = f.Rules
	}
	return r, err
}

// findings searches without keeping anything, and composes an answer where it can.
func (a *Search) findings(db *gorm.DB, v evidence.Visitor, words string, limit int) (Findings, error) {
	r, err := a.request(db, v, words, limit+1)
	if err != nil {
		return Findings{}, err
	}
	hits, err := a.index.Find(r)
	if err != nil {
		return Findings{}, problem.From(err, "")
	}
	results, err := a.Confirm(db, v, hits.Hits)
	if err != nil {
		return Findings{}, err
	}
	found := Findings{Results: results, Instead: hits.Instead, More: len(results) > limit}
	found.Results = results[:min(limit, len(results))]
	found.Answer, err = a.composeAnswer(db, v, r, found.Results)
	return found, err
}

// lookFor searches as find does, for what is not a page of results.
func (a *Search) lookFor(db *gorm.DB, v evidence.Visitor, words string, limit int) (search.Result, error) {
	r, err := a.request(db, v, words, limit)
	if err != nil {
		return search.Result{}, err
	}
	found, err := a.index.Find(r)
	return found, problem.From(err, "")
}

// LookForRequest searches for what a request asks: its subject, and the text below it.
func (a *Search) LookForRequest(
	db *gorm.DB,
	v evidence.Visitor,
	subject, text string,
	limit int,
) (search.Result, error) {
	words := []rune(subject + "\n" + text)
	r, err := a.request(db, v, string(words[:min(len(words), search.MaxQuery)]), limit)
	if err != nil {
		return search.Result{}, err
	}
	found, err := a.index.FindRequest(r, subject)
	return found, problem.From(err, "")
}

// SearchFor gives what fits the words well: it is what the bot and the forms offer unasked.
func (a *Search) SearchFor(db *gorm.DB, v evidence.Visitor, words string, limit int) ([]Result, error) {
	found, err := a.lookFor(db, v, words, limit)
	if err != nil {
		return nil, err
	}
	return a.Confirm(db, v, found.Fitting())
}

// Looked is what a bot's look-up gives.
type Looked struct {
	Results []Result
	Weak    bool      // they fit only weakly
	Answer  *Composed // nil when nothing is sure enough
}

// LookUp looks up words for the bot: what fits them well, with the answer that can be made of it; else what fits them
// weakly. It gives at most limit results.
func (a *Search) LookUp(db *gorm.DB, v evidence.Visitor, words string, limit int) (Looked, error) {
	r, err := a.request(db, v, words, max(limit, composedOf)+1)
	if err != nil {
		return Looked{}, err
	}
	found, err := a.index.Find(r)
	if err != nil {
		return Looked{}, problem.From(err, "")
	}
	fit := found.Fitting()
	out := Looked{Weak: len(fit) == 0}
	if out.Weak {
		fit = found.Hits
	}
	if out.Results, err = a.Confirm(db, v, fit); err != nil {
		return out, err
	}
	if !out.Weak {
		out.Answer, err = a.composeAnswer(db, v, r, out.Results)
	}
	out.Weak = out.Weak && len(out.Results) > 0
	out.Results = out.Results[:min(limit, len(out.Results))]
	if out.Answer != nil { // only of what is offered
		out.Answer.Parts = slices.DeleteFunc(out.Answer.Parts, func(p ComposedPart) bool {
			return !slices.ContainsFunc(out.Results, func(r Result) bool { return r.Reference == p.Reference })
		})
	}
	return out, err
}

// composedOf is how many of the results an answer is composed of, at most.
const composedOf = 3

// composeAnswer makes an answer of what the search found. The texts are read anew, for the
// visitor, and only when the index thinks that an answer is likely.
func (a *Search) composeAnswer(db *gorm.DB, v evidence.Visitor, r search.Request, results []Result) (*Composed, error) {
	var hits []search.Hit
	for _, one := range results {
		hits = append(hits, one.hit)
	}
	if !search.Likely(hits) {
		return nil, nil
	}
	top := results[:min(composedOf, len(results))]
	bodies, err := bodiesOf(db, v, top)
	if err != nil {
		return nil, err
	}
	var sources []search.Source
	for _, one := range top {
		sources = append(
			sources,
			search.Source{
				Reference: one.Reference,
				Title:     one.Title,
				Chapters:  article.Chapters(bodies[one.Reference]),
			},
		)
	}
	answer, ok := a.index.Compose(r, hits, sources)
	if !ok {
		return nil, nil
	}
	out := &Composed{Confidence: answer.Confidence}
	words := 0
	for _, p := range answer.Parts {
		words += article.WordsOf(p.Blocks)
	}
	out.ReadAfter = article.ReadAfter(words)
	for _, p := range answer.Parts {
		for _, one := range top {
			if one.Reference == p.Reference {
				out.Parts = append(
					out.Parts,
					ComposedPart{p.Reference, one.Revision, p.Title, p.Heading, p.Anchor, one.Language, p.Blocks},
				)
			}
		}
	}
	return out, nil
}

// themesShown is how many categories are named when nothing was found.
const themesShown = 6

// themes gives categories to go on with: those of articles that have any of the words,
// and else the first of the help centre.
func (a *Search) themes(ctx context.Context, v evidence.Visitor, words string) ([]instance.Name, error) {
	listings, err := a.library.CategoryListings(ctx, v, 0)
	if err != nil {
		return nil, err
	}
	r, err := a.request(a.base.DB.WithContext(ctx), v, words, 20)
	if err != nil {
		return nil, err
	}
	near := map[int64]bool{}
	for _, category := range a.index.Near(r) {
		near[category] = true
	}
	var themes, others []instance.Name
	for _, s := range listings {
		switch {
		case near[s.ID]:
			themes = append(themes, instance.Name{ID: s.ID, Name: s.Name})
		case s.Depth == 1:
			others = append(others, instance.Name{ID: s.ID, Name: s.Name})
		}
	}
	themes = append(themes, others...)
	return themes[:min(len(themes), themesShown)], nil
}

// Nearest gives the numbers of the live articles that staff would find for words.
func (a *Search) Nearest(db *gorm.DB, words []string, most int) ([]int64, error) {
	all, err := a.sites.ReadSettings(db)
	if err != nil {
		return nil, err
	}
	hits, err := a.index.Search(strings.Join(words, " "), all.StaffEyes(), most)
	if err != nil && !errors.Is(err, search.ErrTooLong) { // a very long word has no neighbours there
		return nil, err
	}
	var numbers []int64
	for _, h := range hits {
		if n, _, ok := article.ParseReference(h.Reference); ok {
			numbers = append(numbers, int64(n))
		}
	}
	return numbers, nil
}
