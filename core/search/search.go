// Package search finds the articles that fit a customer's words. It keeps an
// index in memory over a search library; who may see what is part of every query,
// so that nothing outside a viewer's audience is ever ranked, counted or cut into
// a passage.
package search

import (
	"errors"
	"fmt"
	"strings"

	"github.com/blevesearch/bleve/v2"
	"github.com/blevesearch/bleve/v2/analysis"
	"github.com/blevesearch/bleve/v2/analysis/analyzer/keyword"
	_ "github.com/blevesearch/bleve/v2/analysis/lang/en" // the analyzer named english below
	"github.com/blevesearch/bleve/v2/index/scorch"
	"github.com/blevesearch/bleve/v2/mapping"
	"github.com/blevesearch/bleve/v2/search/query"
	index "github.com/blevesearch/bleve_index_api"

	"hermeneus/core/audience"
)

// MaxQuery is the longest question that is looked for, in characters.
const MaxQuery = 4000

// ErrTooLong is given for a question over MaxQuery.
var ErrTooLong = errors.New("the question is longer than 4 000 characters")

const english = "en"

// maxTerms bounds the work a very long question causes.
const maxTerms = 40

// fields are searched with these weights: a word in a title says more about an
// article than one in its text.
var fields = []struct {
	name   string
	weight float64
}{{"title", 3}, {"keywords", 2.5}, {"headings", 1.5}, {"body", 1}}

// Document is what is indexed of a live revision.
type Document struct {
	Reference string
	Title     string
	Keywords  []string
	Headings  []string
	Body      string // plain text, a line for each block
	Audience  audience.Audience
}

// Hit is an article found.
type Hit struct {
	Reference string
	Score     float64
	Passage   Passage
}

// Index is safe for use by many goroutines.
type Index struct {
	bleve    bleve.Index
	analyzer analysis.Analyzer
	lengths  lengths
}

// New gives an empty index.
func New() (*Index, error) {
	m := newMapping()
	b, err := bleve.NewUsing("", m, scorch.Name, scorch.Name, nil)
	if err != nil {
		return nil, fmt.Errorf("opening the search index: %w", err)
	}
	return &Index{bleve: b, analyzer: m.AnalyzerNamed(english), lengths: newLengths()}, nil
}

func newMapping() *mapping.IndexMappingImpl {
	text := bleve.NewTextFieldMapping()
	text.Analyzer, text.IncludeInAll, text.IncludeTermVectors, text.Store = english, false, false, false
	kept := bleve.NewTextFieldMapping()
	kept.Index, kept.Store, kept.IncludeInAll, kept.DocValues = false, true, false, false
	exact := bleve.NewTextFieldMapping()
	exact.Analyzer, exact.IncludeInAll, exact.Store = keyword.Name, false, false
	doc := bleve.NewDocumentStaticMapping()
	for _, f := range fields {
		doc.AddFieldMappingsAt(f.name, text)
	}
	doc.AddFieldMappingsAt("words", kept)
	doc.AddFieldMappingsAt("audience", exact)
	m := bleve.NewIndexMapping()
	m.DefaultMapping, m.DefaultAnalyzer, m.ScoringModel = doc, english, index.BM25Scoring
	return m
}

func (d Document) fields() map[string]any {
	return map[string]any{
		"title": d.Title, "keywords": strings.Join(d.Keywords, "\n"), "headings": strings.Join(d.Headings, "\n"),
		"body": d.Body, "words": d.Body, "audience": string(d.Audience),
	}
}

// Put adds documents, or replaces those of the same reference, all at once.
func (x *Index) Put(docs ...Document) error {
	const chunk = 500
	for len(docs) > 0 {
		batch := x.bleve.NewBatch()
		for _, d := range docs[:min(chunk, len(docs))] {
			if err := batch.Index(d.Reference, d.fields()); err != nil {
				return fmt.Errorf("indexing %s: %w", d.Reference, err)
			}
		}
		if err := x.bleve.Batch(batch); err != nil {
			return fmt.Errorf("indexing: %w", err)
		}
		x.measure(docs[:min(chunk, len(docs))])
		docs = docs[min(chunk, len(docs)):]
	}
	return nil
}

// Replace makes the index hold these documents and no others.
func (x *Index) Replace(docs ...Document) error {
	keep := map[string]bool{}
	for _, d := range docs {
		keep[d.Reference] = true
	}
	for _, reference := range x.lengths.references() {
		if !keep[reference] {
			if err := x.Remove(reference); err != nil {
				return err
			}
		}
	}
	return x.Put(docs...)
}

// Remove takes the document of that reference out; it need not be there.
func (x *Index) Remove(reference string) error {
	x.lengths.remove(reference)
	return x.bleve.Delete(reference)
}

// Count is the number of documents.
func (x *Index) Count() (uint64, error) { return x.bleve.DocCount() }

// Close frees the index.
func (x *Index) Close() error { return x.bleve.Close() }

// Search gives at most limit articles that fit the words and that the viewer may
// see, the best first, each with the passage that fits best. It returns
// ErrTooLong for words over MaxQuery.
func (x *Index) Search(words string, viewer audience.Viewer, limit int) ([]Hit, error) {
	if len([]rune(words)) > MaxQuery {
		return nil, ErrTooLong
	}
	terms := x.terms(words)
	if len(terms) == 0 || limit <= 0 {
		return nil, nil
	}
	request := bleve.NewSearchRequestOptions(x.query(terms, viewer), limit, 0, false)
	request.Fields = []string{"words"}
	request.SortBy([]string{"-_score", "_id"})
	result, err := x.bleve.SearchInContext(x.lengths.context(), request)
	if err != nil {
		return nil, fmt.Errorf("searching: %w", err)
	}
	hits := make([]Hit, 0, len(result.Hits))
	for _, h := range result.Hits {
		body, _ := h.Fields["words"].(string)
		hits = append(hits, Hit{Reference: h.ID, Score: h.Score, Passage: x.passage(body, terms)})
	}
	return hits, nil
}

// terms gives the distinct stems of the words, without stop words.
func (x *Index) terms(words string) []string {
	var terms []string
	seen := map[string]bool{}
	for _, token := range x.analyzer.Analyze([]byte(words)) {
		if t := string(token.Term); !seen[t] && len(terms) < maxTerms {
			seen[t] = true
			terms = append(terms, t)
		}
	}
	return terms
}

// query asks for enough of the terms (one of up to two, two of up to five, a
// third of more), each in any field, forgiving one slip in longer words.
func (x *Index) query(terms []string, viewer audience.Viewer) query.Query {
	var each []query.Query
	for _, t := range terms {
		var anywhere []query.Query
		for _, f := range fields {
			q := query.NewTermQuery(t)
			q.SetField(f.name)
			q.SetBoost(f.weight)
			anywhere = append(anywhere, q)
		}
		if len([]rune(t)) >= 4 {
			for _, f := range fields[:2] {
				q := query.NewFuzzyQuery(t)
				q.SetField(f.name)
				q.SetFuzziness(1)
				q.Prefix = 1
				q.SetBoost(f.weight * 0.2)
				anywhere = append(anywhere, q)
			}
		}
		each = append(each, query.NewDisjunctionQuery(anywhere))
	}
	enough := query.NewDisjunctionQuery(each)
	switch n := len(terms); {
	case n <= 2:
		enough.SetMin(1)
	case n <= 5:
		enough.SetMin(2)
	default:
		enough.SetMin(float64((n + 2) / 3))
	}
	var seen []query.Query
	for _, a := range viewer.Sees() {
		q := query.NewTermQuery(string(a))
		q.SetField("audience")
		q.SetBoost(0)
		seen = append(seen, q)
	}
	return query.NewConjunctionQuery([]query.Query{enough, query.NewDisjunctionQuery(seen)})
}
