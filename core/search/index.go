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
	Language  string // "" for English
	Title     string
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
	source     string            // the language that every article is written in
	shelves    map[string]*shelf // by language
	languageOf map[string]string // of each reference
	popular    map[string]float32
	questions  map[int64][]asked // popular questions by site
}

// New gives an empty index, for articles whose source is in English.
func New() (*Index, error) {
	return &Index{source: English, shelves: map[string]*shelf{}, languageOf: map[string]string{}, questions: map[int64][]asked{}}, nil
}

// Put adds documents, or replaces those of the same reference, all at once.
func (x *Index) Put(docs ...Document) error {
	readied, err := x.ready(docs)
	if err != nil {
		return err
	}
	x.mu.Lock()
	defer x.mu.Unlock()
	for i, d := range docs {
		x.remove(d.Reference)
		x.languageOf[d.Reference] = language(d)
		x.shelves[language(d)].add(readied[i])
	}
	for _, s := range x.shelves {
		s.settle()
	}
	return nil
}

func language(d Document) string {
	if d.Language == "" {
		return English
	}
	return d.Language
}

// ready cuts documents into terms, on all processors, before anybody has to wait.
func (x *Index) ready(docs []Document) ([]readied, error) {
	x.mu.Lock()
	for _, d := range docs {
		if x.shelves[language(d)] == nil {
			s, err := newShelf(language(d))
			if err != nil {
				x.mu.Unlock()
				return nil, err
			}
			x.shelves[language(d)] = s
		}
	}
	shelves := maps.Clone(x.shelves)
	x.mu.Unlock()
	out := make([]readied, len(docs))
	workers := max(1, min(runtime.GOMAXPROCS(0), len(docs)/64))
	var working sync.WaitGroup
	for w := range workers {
		working.Go(func() {
			var own counter
			for i := w; i < len(docs); i += workers {
				out[i] = shelves[language(docs[i])].lexicon.ready(docs[i], &own)
			}
		})
	}
	working.Wait()
	return out, nil
}

// Replace makes the index hold these documents and no others.
func (x *Index) Replace(docs ...Document) error {
	fresh, err := New()
	if err != nil {
		return err
	}
	if err := fresh.Put(docs...); err != nil {
		return err
	}
	x.Become(fresh)
	return nil
}

// Become takes over what another index holds, at once; the other must not be used again.
func (x *Index) Become(fresh *Index) {
	x.mu.Lock()
	defer x.mu.Unlock()
	x.shelves, x.languageOf = fresh.shelves, fresh.languageOf
}

// Remove takes the document of that reference out; it need not be there.
func (x *Index) Remove(reference string) error {
	x.mu.Lock()
	defer x.mu.Unlock()
	x.remove(reference)
	for _, s := range x.shelves {
		s.settle()
	}
	return nil
}

// RemoveArticle takes every edition of an article out but those to keep.
func (x *Index) RemoveArticle(reference string, keep ...string) {
	x.mu.Lock()
	defer x.mu.Unlock()
	for l := range x.shelves {
		for _, edition := range []string{reference, reference + "." + l} {
			if !slices.Contains(keep, edition) {
				x.remove(edition)
			}
		}
	}
	for _, s := range x.shelves {
		s.settle()
	}
}

func (x *Index) remove(reference string) {
	if s := x.shelves[x.languageOf[reference]]; s != nil {
		s.remove(reference)
	}
	delete(x.languageOf, reference)
}

// Count is the number of documents.
func (x *Index) Count() (uint64, error) {
	x.mu.RLock()
	defer x.mu.RUnlock()
	return uint64(len(x.languageOf)), nil
}

// With gives a copy of the index in which these documents stand in the place of
// those they would replace; the index itself stays as it is. It is what a draft is
// tried in.
func (x *Index) With(docs ...Document) (*Index, error) {
	x.mu.RLock()
	trial := &Index{source: x.source, shelves: map[string]*shelf{}, languageOf: maps.Clone(x.languageOf), popular: x.popular, questions: x.questions}
	for l, s := range x.shelves {
		trial.shelves[l] = s.clone()
	}
	x.mu.RUnlock()
	if err := trial.Put(docs...); err != nil {
		return nil, fmt.Errorf("trying drafts: %w", err)
	}
	return trial, nil
}

// Close frees the index.
func (x *Index) Close() error { return nil }
