// Command retrieval measures the search on open FAQs as MEASURES.md describes: the
// answers without their headings are indexed, and each heading is asked. Beside it,
// in the same run: PostgreSQL's full text (ts_rank, any of the words), and two search
// libraries for JavaScript as they come.
//
//	HERMENEUS_TEST_DATABASE=… go run ./bench/retrieval
package main

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"os"
	"os/exec"
	"time"

	"github.com/jackc/pgx/v5"

	"hermeneus/core/search"
)

func main() {
	if err := run(context.Background()); err != nil {
		fmt.Fprintln(os.Stderr, "retrieval:", err)
		os.Exit(1)
	}
}

func run(ctx context.Context) error {
	faqs, err := readFAQs()
	if err != nil {
		return err
	}
	fmt.Println("corpus  answers  by                 MRR@10  recall@1  recall@3  nDCG@10  ms a question")
	for _, c := range faqs {
		trial, err := search.RunTrial(c.docs, c.queries, time.Now)
		if err != nil {
			return err
		}
		print(c, "this search", trial)
		if os.Getenv("HERMENEUS_TEST_DATABASE") != "" {
			if trial, err = byPostgres(ctx, c); err != nil {
				return err
			}
			print(c, "PostgreSQL ts_rank", trial)
		}
		others, err := byLibraries(ctx, c)
		if err != nil {
			return err
		}
		for _, name := range []string{"lunr", "minisearch"} {
			print(c, name, others[name])
		}
	}
	return nil
}

func print(c corpus, by string, t search.Trial) {
	fmt.Printf("%-7s %7d  %-18s %6.4f  %8.4f  %8.4f  %7.4f  %13.3f\n", c.name, len(c.docs), by, t.MRR10, t.Recall1, t.Recall3, t.NDCG10, t.MillisPerQuery)
}

// byPostgres ranks with ts_rank, asking for any of the words.
func byPostgres(ctx context.Context, c corpus) (search.Trial, error) {
	conn, err := pgx.Connect(ctx, os.Getenv("HERMENEUS_TEST_DATABASE"))
	if err != nil {
		return search.Trial{}, err
	}
	defer func() { _ = conn.Close(ctx) }()
	if _, err := conn.Exec(ctx, `CREATE TEMP TABLE docs (id text, words tsvector)`); err != nil {
		return search.Trial{}, err
	}
	for _, d := range c.docs {
		if _, err := conn.Exec(ctx, `INSERT INTO docs VALUES ($1, to_tsvector('english', $2))`, d.ID, d.Title+"\n"+d.Body); err != nil {
			return search.Trial{}, err
		}
	}
	if _, err := conn.Exec(ctx, `CREATE INDEX ON docs USING gin (words)`); err != nil {
		return search.Trial{}, err
	}
	trial := search.Trial{Rankings: make([]search.Judged, len(c.queries))}
	began := time.Now()
	for i, q := range c.queries {
		trial.Rankings[i].Right = q.Relevant
		rows, err := conn.Query(ctx, `WITH q AS (SELECT replace(plainto_tsquery('english', $1)::text, '&', '|')::tsquery AS q)
			SELECT id FROM docs, q WHERE words @@ q ORDER BY ts_rank(words, q) DESC, id LIMIT 10`, q.Text)
		if err != nil {
			return trial, err
		}
		if trial.Rankings[i].Ranking, err = pgx.CollectRows(rows, pgx.RowTo[string]); err != nil {
			return trial, err
		}
	}
	trial.MillisPerQuery = float64(time.Since(began).Microseconds()) / 1000 / float64(len(c.queries))
	trial.Quality = search.Measure(trial.Rankings)
	return trial, nil
}

// byLibraries ranks with the libraries of libraries.mjs.
func byLibraries(ctx context.Context, c corpus) (map[string]search.Trial, error) {
	input, err := json.Marshal(map[string]any{"docs": c.docs, "queries": c.queries})
	if err != nil {
		return nil, err
	}
	command := exec.CommandContext(ctx, "node", "bench/retrieval/libraries.mjs")
	command.Stdin, command.Stderr = bytes.NewReader(input), os.Stderr
	raw, err := command.Output()
	if err != nil {
		return nil, fmt.Errorf("running the libraries: %w", err)
	}
	var out map[string]struct {
		Rankings [][]string
		MS       float64
	}
	if err := json.Unmarshal(raw, &out); err != nil {
		return nil, err
	}
	trials := map[string]search.Trial{}
	for name, one := range out {
		trial := search.Trial{MillisPerQuery: one.MS, Rankings: make([]search.Judged, len(c.queries))}
		for i, q := range c.queries {
			trial.Rankings[i] = search.Judged{Ranking: one.Rankings[i], Right: q.Relevant}
		}
		trial.Quality = search.Measure(trial.Rankings)
		trials[name] = trial
	}
	return trials, nil
}
