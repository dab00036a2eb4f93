// Command index measures the search index alone: how long 100 000 generated articles
// take to index, what they take up, and how fast they are searched and completed by
// 50 at once.
//
//	go run ./bench/index [-articles N] [-times N] [-at-once N]
package main

import (
	"flag"
	"fmt"
	"os"
	"runtime"
	"slices"
	"strings"
	"sync"
	"time"

	"hermeneus/bench/world"
	"hermeneus/core/audience"
	"hermeneus/core/search"
)

func main() {
	articles := flag.Int("articles", 100_000, "how many articles")
	times := flag.Int("times", 20_000, "how many questions")
	atOnce := flag.Int("at-once", 50, "how many ask at once")
	flag.Parse()
	if err := run(*articles, *times, *atOnce); err != nil {
		fmt.Fprintln(os.Stderr, "index:", err)
		os.Exit(1)
	}
}

func run(articles, times, atOnce int) error {
	l := world.NewLanguage(1, 60_000)
	docs := make([]search.Document, articles)
	words, bytes := 0, 0
	for i := range docs {
		body := strings.Join(l.Blocks(), "\n")
		docs[i] = search.Document{
			Reference: fmt.Sprintf("A-%06d", i+1),
			Title:     l.Title(3 + i%6),
			Keywords:  []string{l.Title(2), l.Title(1)},
			Headings: []string{
				l.Title(3),
			},
			Body:     body,
			Audience: []audience.Audience{audience.Everyone, audience.SignedIn}[i%7/5],
		}
		words += len(strings.Fields(body))
		bytes += len(body)
	}
	before := memory()
	began := time.Now()
	x := search.New()
	if err := x.Put(docs...); err != nil {
		return err
	}
	fmt.Printf("%d articles, %d words and %d bytes of text each on average\n", articles, words/articles, bytes/articles)
	fmt.Printf(
		"built in %s; it takes %d MB of memory beside the texts (%d MB)\n",
		time.Since(began).Round(time.Millisecond),
		(memory()-before)>>20,
		bytes>>20,
	)
	questions := make([]string, times)
	for i := range questions {
		questions[i] = l.Question(2 + i%5)
		if i%10 == 0 { // a slip
			questions[i] = strings.Replace(questions[i], "e", "ee", 1)
		}
	}
	measure("search", atOnce, questions, func(q string) error {
		_, err := x.Search(q, audience.Viewer{}, 10)
		return err
	})
	typed := make([]string, times)
	for i := range typed {
		title := docs[i%len(docs)].Title
		typed[i] = title[:min(len(title), 1+i%20)]
	}
	x.SetPopular(map[string]float32{"A-000001": 100})
	measure("completion", atOnce, typed, func(q string) error {
		x.Complete(search.Request{Words: q, Limit: 8}, 0)
		return nil
	})
	began = time.Now()
	trial, err := x.With(docs[0])
	if err != nil {
		return err
	}
	fmt.Printf("a trial with one draft in %s\n", time.Since(began).Round(time.Millisecond))
	runtime.KeepAlive(trial)
	return nil
}

func memory() int {
	runtime.GC()
	var m runtime.MemStats
	runtime.ReadMemStats(&m)
	return int(m.HeapAlloc)
}

// measure asks everything, so many at once without a pause, and says how long each took.
func measure(what string, atOnce int, words []string, ask func(string) error) {
	took := make([]time.Duration, len(words))
	next := make(chan int)
	began := time.Now()
	var working sync.WaitGroup
	for range atOnce {
		working.Go(func() {
			for i := range next {
				from := time.Now()
				if err := ask(words[i]); err != nil {
					fmt.Fprintln(os.Stderr, err)
				}
				took[i] = time.Since(from)
			}
		})
	}
	for i := range words {
		next <- i
	}
	close(next)
	working.Wait()
	slices.Sort(took)
	at := func(share float64) time.Duration {
		return took[int(share*float64(len(took)-1))].Round(10 * time.Microsecond)
	}
	fmt.Printf(
		"%-11s %d at once: p50 %s  p99 %s  slowest %s  (%.0f a second)\n",
		what,
		atOnce,
		at(0.5),
		at(0.99),
		at(1),
		float64(len(words))/time.Since(began).Seconds(),
	)
}
