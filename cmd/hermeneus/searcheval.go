package main

import (
	"context"
	"encoding/json"
	"fmt"
	"io"
	"os"

	"hermeneus/core/search"
)

// searchEval measures the search on any files of documents and questions.
func searchEval(_ context.Context, args []string, out io.Writer) error {
	set := flags("search-eval", `Usage: hermeneus search-eval --docs DOCS.jsonl --queries QUERIES.jsonl [--json]

Index the documents of a file, ask the questions of another, and say how well the right answers rank.
DOCS has a line of JSON for each document: {"id", "title", "body"}; QUERIES one for each question: {"text", "relevant": ["id"]}.
Blocks of a body stand on lines of their own, where it has any.`)
	docsFile := set.String("docs", "", "the file of documents (JSON Lines)")
	queriesFile := set.String("queries", "", "the file of questions (JSON Lines)")
	asJSON := set.Bool("json", false, "print the figures as JSON")
	misses := set.Bool("misses", false, "print the questions whose right answer is not first, with its place")
	if err := parse(set, args, 0); err != nil {
		return err
	}
	if *docsFile == "" || *queriesFile == "" {
		set.Usage()
		return errUsage
	}
	docs, err := readLines[search.TrialDocument](*docsFile)
	if err != nil {
		return err
	}
	queries, err := readLines[search.TrialQuery](*queriesFile)
	if err != nil {
		return err
	}
	trial, err := search.RunTrial(docs, queries, clock(""))
	if err != nil {
		return err
	}
	if *misses {
		for i, j := range trial.Rankings {
			if place := j.Rank(); place != 1 && len(j.Right) > 0 {
				if _, err := fmt.Fprintf(out, "%2d  %s\n", place, queries[i].Text); err != nil {
					return err
				}
			}
		}
	}
	if *asJSON {
		return json.NewEncoder(out).Encode(trial)
	}
	_, err = fmt.Fprintf(
		out,
		"%d documents, %d questions with a right answer\nMRR@10   %.4f\nrecall@1 %.4f\nrecall@3 %.4f\nnDCG@10  "+
			"%.4f\n%.3f ms a question\n",
		len(docs),
		trial.Queries,
		trial.MRR10,
		trial.Recall1,
		trial.Recall3,
		trial.NDCG10,
		trial.MillisPerQuery,
	)
	return err
}

func readLines[T any](name string) ([]T, error) {
	file, err := os.Open(name)
	if err != nil {
		return nil, err
	}
	defer func() { _ = file.Close() }()
	lines, err := search.ReadLines[T](file)
	if err != nil {
		return nil, fmt.Errorf("%s: %w", name, err)
	}
	return lines, nil
}
