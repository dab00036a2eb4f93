package search

import (
	"context"
	"maps"
	"slices"
	"sync"

	bleve "github.com/blevesearch/bleve/v2/search"
)

// lengths keeps how long each field of each document is. BM25 needs the average;
// the library would take the number of distinct terms per document for it, which
// in a large library falls towards nothing and punishes every long text.
type lengths struct {
	mu    sync.RWMutex
	of    map[string][]int // by reference, in the order of fields
	total []int
}

func newLengths() lengths {
	return lengths{of: map[string][]int{}, total: make([]int, len(fields))}
}

// measure notes the lengths of documents in terms.
func (x *Index) measure(docs []Document) {
	for _, d := range docs {
		own := make([]int, len(fields))
		texts := d.fields()
		for i, f := range fields {
			text, _ := texts[f.name].(string)
			own[i] = len(x.analyzer.Analyze([]byte(text)))
		}
		x.lengths.put(d.Reference, own)
	}
}

func (l *lengths) put(reference string, own []int) {
	l.mu.Lock()
	defer l.mu.Unlock()
	l.drop(reference)
	l.of[reference] = own
	for i, n := range own {
		l.total[i] += n
	}
}

func (l *lengths) remove(reference string) {
	l.mu.Lock()
	defer l.mu.Unlock()
	l.drop(reference)
}

func (l *lengths) drop(reference string) {
	for i, n := range l.of[reference] {
		l.total[i] -= n
	}
	delete(l.of, reference)
}

func (l *lengths) references() []string {
	l.mu.RLock()
	defer l.mu.RUnlock()
	return slices.Collect(maps.Keys(l.of))
}

// context carries the totals to the library's scorer.
func (l *lengths) context() context.Context {
	l.mu.RLock()
	defer l.mu.RUnlock()
	stats := &bleve.BM25Stats{DocCount: float64(len(l.of)), FieldCardinality: map[string]int{"audience": len(l.of)}}
	for i, f := range fields {
		stats.FieldCardinality[f.name] = l.total[i]
	}
	return context.WithValue(context.Background(), bleve.BM25StatsKey, stats)
}
