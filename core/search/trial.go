package search

import (
	"bufio"
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"time"

	"hermeneus/core/audience"
)

// TrialDocument is a line of a documents' file (JSON Lines).
type TrialDocument struct {
	ID    string `json:"id"`
	Title string `json:"title"`
	Body  string `json:"body"`
}

// TrialQuery is a line of a questions' file, with the ids of the right answers.
type TrialQuery struct {
	Text     string   `json:"text"`
	Relevant []string `json:"relevant"`
}

// Trial is what a trial of the search on any files gives.
type Trial struct {
	Quality
	MillisPerQuery float64  `json:"ms_per_query"`
	Rankings       []Judged `json:"-"` // of each query, in their order
}

// maxLine is the longest line of a trial's files, in bytes.
const maxLine = 16 << 20

// ReadLines reads a file of JSON Lines; empty lines are left out. The error names the line.
func ReadLines[T any](from io.Reader) ([]T, error) {
	var out []T
	lines := bufio.NewScanner(from)
	lines.Buffer(make([]byte, 64<<10), maxLine)
	for n := 1; lines.Scan(); n++ {
		line := bytes.TrimSpace(bytes.TrimPrefix(lines.Bytes(), []byte("\ufeff")))
		if len(line) == 0 {
			continue
		}
		var one T
		if err := json.Unmarshal(line, &one); err != nil {
			return nil, fmt.Errorf("line %d: %w", n, err)
		}
		out = append(out, one)
	}
	if err := lines.Err(); err != nil {
		return nil, fmt.Errorf("reading lines: %w", err)
	}
	return out, nil
}

// RunTrial indexes the documents and asks the queries, as visitors would. clock
// tells the time for ms_per_query. It fails for documents without an id, or two of one.
func RunTrial(docs []TrialDocument, queries []TrialQuery, clock func() time.Time) (Trial, error) {
	x := New()
	seen := map[string]bool{}
	all := make([]Document, len(docs))
	for i, d := range docs {
		if d.ID == "" || seen[d.ID] {
			return Trial{}, fmt.Errorf("document %d has the id %q, which is empty or taken", i+1, d.ID)
		}
		seen[d.ID] = true
		all[i] = Document{Reference: d.ID, Title: d.Title, Body: d.Body, Audience: audience.Everyone}
	}
	if err := x.Put(all...); err != nil {
		return Trial{}, err
	}
	trial := Trial{Rankings: make([]Judged, len(queries))}
	began := clock()
	for i, q := range queries {
		words := []rune(q.Text)
		hits, err := x.Search(string(words[:min(len(words), MaxQuery)]), audience.Viewer{}, 10)
		if err != nil {
			return Trial{}, fmt.Errorf("query %d: %w", i+1, err)
		}
		trial.Rankings[i].Right = q.Relevant
		for _, h := range hits {
			trial.Rankings[i].Ranking = append(trial.Rankings[i].Ranking, h.Reference)
		}
	}
	if len(queries) > 0 {
		trial.MillisPerQuery = float64(clock().Sub(began).Microseconds()) / 1000 / float64(len(queries))
	}
	trial.Quality = Measure(trial.Rankings)
	return trial, nil
}
