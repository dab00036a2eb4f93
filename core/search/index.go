// Package search finds the articles that fit a customer's words. It keeps an index
// in memory; the words of each language are cut off and stemmed by a search library.
// Who may see what is part of every query, so that nothing outside a viewer's
// audience is ever ranked, counted, completed or cut into a passage.
package search

import (
	"fmt"
	"maps"
	"runtime"
	"slices"
	"strings"
	"sync"

	"hermeneus/core/audience"
)

// Document is what is indexed of a live edition.
type Document struct {
	Reference string // A-0042, or A-0042.de
	Revision  int    // that is live; what is found is of this one
	Language  string // "" for English
	Title     string
	Summary   string // how it begins; not looked in
	Keywords  []string
	Headings  []string
	Body      string // plain text, a line for each block
	Audience  audience.Audience
	Category  int64
}

// articleOf is the reference of the article that an edition is of.
func articleOf(reference string) string {
	ref, _, _ := strings.Cut(reference, ".")
	return ref
}

// Index is safe for use by many goroutines.
type Index struct {
	mu         sync.RWMutex
	source     string              // the language that every article is written in
	segments   map[string]*segment // by language
	languageOf map[string]string   // of each reference
	popular    map[string]float32  // how often articles are read of late
	questions  map[int64][]asked   // popular questions by site
}

// New gives an empty index, for articles whose source is in English.
func New() *Index {
	return &Index{
		source:     English,
		segments:   map[string]*segment{},
		languageOf: map[string]string{},
		questions:  map[int64][]asked{},
	}
}

// Put adds documents, or replaces those of the same reference, all at once.
func (x *Index) Put(docs ...Document) error {
	for {
		segments, readied, err := x.ready(docs)
		if err != nil || x.take(docs, segments, readied) {
			return err
		}
	}
}

// take adds what was made ready with these segments. It reports false, and does nothing,
// when the index has become another meanwhile: its terms have other numbers.
func (x *Index) take(docs []Document, segments map[string]*segment, readied []readied) bool {
	x.mu.Lock()
	defer x.mu.Unlock()
	for _, d := range docs {
		if x.segments[language(d)] != segments[language(d)] {
			return false
		}
	}
	for i, d := range docs {
		x.remove(d.Reference)
		x.languageOf[d.Reference] = language(d)
		x.segments[language(d)].add(readied[i])
	}
	for _, s := range x.segments {
		s.settle()
	}
	return true
}

func language(d Document) string {
	if d.Language == "" {
		return English
	}
	return d.Language
}

// shelvesFor gives the segments, with one for each language of the documents.
func (x *Index) shelvesFor(docs []Document) (map[string]*segment, error) {
	x.mu.Lock()
	defer x.mu.Unlock()
	for _, d := range docs {
		if x.segments[language(d)] == nil {
			s, err := newShelf(language(d))
			if err != nil {
				return nil, err
			}
			x.segments[language(d)] = s
		}
	}
	return maps.Clone(x.segments), nil
}

// ready cuts documents into terms, on all processors, before anybody has to wait. It
// gives the segments by which their terms are numbered.
func (x *Index) ready(docs []Document) (map[string]*segment, []readied, error) {
	segments, err := x.shelvesFor(docs)
	if err != nil {
		return nil, nil, err
	}
	out := make([]readied, len(docs))
	workers := max(1, min(runtime.GOMAXPROCS(0), len(docs)/64))
	var working sync.WaitGroup
	for w := range workers {
		working.Go(func() {
			var own counter
			for i := w; i < len(docs); i += workers {
				out[i] = segments[language(docs[i])].lexicon.ready(docs[i], &own)
			}
		})
	}
	working.Wait()
	return segments, out, nil
}

// Become takes over what another index holds, at once; the other must not be used again.
func (x *Index) Become(fresh *Index) {
	x.mu.Lock()
	defer x.mu.Unlock()
	x.segments, x.languageOf = fresh.segments, fresh.languageOf
	x.spreadPopular()
}

// RemoveArticle takes every edition of an article out but those to keep; it need not
// be there.
func (x *Index) RemoveArticle(reference string, keep ...string) {
	x.mu.Lock()
	defer x.mu.Unlock()
	for l := range x.segments {
		for _, edition := range []string{reference, reference + "." + l} {
			if !slices.Contains(keep, edition) {
				x.remove(edition)
			}
		}
	}
	for _, s := range x.segments {
		s.settle()
	}
}

func (x *Index) remove(reference string) {
	if s := x.segments[x.languageOf[reference]]; s != nil {
		s.remove(reference)
	}
	delete(x.languageOf, reference)
}

// Count is the number of documents.
func (x *Index) Count() int {
	x.mu.RLock()
	defer x.mu.RUnlock()
	return len(x.languageOf)
}

// With gives a copy of the index in which these documents stand in the place of
// those they would replace; the index itself stays as it is. It is what a draft is
// tried in.
func (x *Index) With(docs ...Document) (*Index, error) {
	x.mu.RLock()
	trial := &Index{
		source:     x.source,
		segments:   map[string]*segment{},
		languageOf: maps.Clone(x.languageOf),
		questions:  x.questions,
	}
	for l, s := range x.segments {
		trial.segments[l] = s.clone()
	}
	x.mu.RUnlock()
	if err := trial.Put(docs...); err != nil {
		return nil, fmt.Errorf("trying drafts: %w", err)
	}
	return trial, nil
}
