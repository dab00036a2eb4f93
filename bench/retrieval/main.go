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
	"strings"
	"time"

	"github.com/jackc/pgx/v5"

	"hermeneus/core/article"
	"hermeneus/core/audience"
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
	fmt.Println("\nconfidence of an answer   " + strings.Join(bins, "  "))
	for _, c := range faqs {
		if err := printConfidence(c); err != nil {
			return err
		}
	}
	return nil
}

var bins = []string{"under .3", ".3 to .4", ".4 to .5", ".5 to .6", ".6 to .7", ".7 to .8", ".8 to 1 "}

// printConfidence says of how many questions with each confidence the first article
// was the right one.
func printConfidence(c corpus) error {
	x := search.New()
	var docs []search.Document
	chapters := map[string][]article.Chapter{}
	for _, d := range c.docs {
		docs = append(docs, search.Document{Reference: d.ID, Body: d.Body, Audience: audience.Everyone})
		var blocks []article.Block
		for line := range strings.SplitSeq(d.Body, "\n") {
			blocks = append(blocks, article.Block{Kind: article.TextBlock, Text: line})
		}
		chapters[d.ID] = []article.Chapter{{Blocks: blocks}}
	}
	if err := x.Put(docs...); err != nil {
		return err
	}
	var asked, right [7]int
	for _, q := range c.queries {
		r := search.Request{Words: q.Text, Limit: 3}
		found, err := x.Find(r)
		if err != nil || len(found.Hits) == 0 {
			continue
		}
		var sources []search.Source
		for _, h := range found.Hits {
			sources = append(sources, search.Source{Reference: h.Reference, Chapters: chapters[h.Reference]})
		}
		answer, _ := x.Compose(r, found.Hits, sources)
		at := min(6, max(0, int(answer.Confidence*10)-2))
		asked[at]++
		if found.Hits[0].Reference == q.Relevant[0] {
			right[at]++
		}
	}
	fmt.Printf("%-24s", c.name)
	for i := range asked {
		fmt.Printf("  %3d/%-4d", right[i], asked[i])
	}
	fmt.Println()
	return nil
}

func print(c corpus, by string, t search.Trial) {
	fmt.Printf(
		"%-7s %7d  %-18s %6.4f  %8.4f  %8.4f  %7.4f  %13.3f\n",
		c.name,
		len(c.docs),
		by,
		t.MRR10,
		t.Recall1,
		t.Recall3,
		t.NDCG10,
		t.MillisPerQuery,
	)
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
		if _, err := conn.Exec(
			ctx,
			`INSERT INTO docs VALUES ($1, to_tsvector('english', $2))`,
			d.ID,
			d.Title+"\n"+d.Body,
		); err != nil {
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
		rows, err := conn.Query(
			ctx,
			`WITH q AS (SELECT replace(plainto_tsquery('english', $1)::text, '&', '|')::tsquery AS q)
			SELECT id FROM docs, q WHERE words @@ q ORDER BY ts_rank(words, q) DESC, id LIMIT 10`,
			q.Text,
		)
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
