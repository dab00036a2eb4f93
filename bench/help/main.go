// Command help measures the help centre over a library of generated articles: opening
// it with the index built, completing, searching and reading, so many at once over
// loopback, the asking on the same processors.
//
//	HERMENEUS_TEST_DATABASE=… go run ./bench/help [-articles N] [-times N] [-at-once N]
package main

import (
	"bytes"
	"context"
	"flag"
	"fmt"
	"io"
	"net"
	"net/http"
	"net/url"
	"os"
	"path/filepath"
	"runtime"
	"runtime/pprof"
	"slices"
	"strconv"
	"strings"
	"sync"
	"time"

	"hermeneus/bench/world"
	door "hermeneus/http"
)

func main() {
	articles := flag.Int("articles", 100_000, "how many articles")
	times := flag.Int("times", 5_000, "how many requests of each kind")
	atOnce := flag.Int("at-once", 50, "how many at once, each asking again as soon as it is answered")
	profile := flag.String(
		"profile",
		"",
		"a directory to write a profile of the processor into, for each kind of request",
	)
	flag.Parse()
	if err := run(context.Background(), *articles, *times, *atOnce, *profile); err != nil {
		fmt.Fprintln(os.Stderr, "help:", err)
		os.Exit(1)
	}
}

func run(ctx context.Context, articles, times, atOnce int, profile string) error {
	l := world.NewLanguage(1, 60_000)
	a, done := world.OpenWith(ctx, articles, l)
	defer done()
	runtime.GC()
	var m runtime.MemStats
	runtime.ReadMemStats(&m)
	fmt.Printf("memory in use after opening: %d MB\n", m.HeapAlloc>>20)
	server, err := door.New(a, door.Options{Name: "Bench"})
	if err != nil {
		return err
	}
	listener, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return err
	}
	address := "http://" + listener.Addr().String()
	_ = listener.Close()
	go func() { _ = server.Listen(address[len("http://"):]) }()
	defer func() { _ = server.Close() }()
	time.Sleep(300 * time.Millisecond)
	typed := func(i int) string { w := l.Title(3); return w[:min(len(w), 1+i%16)] }
	for _, kind := range []struct {
		name string
		path func(i int) string
	}{
		{"completion", func(i int) string { return "/api/help/suggestions?q=" + url.QueryEscape(typed(i)) }},
		{"search, the page, asking kept", func(i int) string { return "/help/search?q=" + url.QueryEscape(l.Question(2+i%4)) }},
		{"an article, opening kept", func(i int) string { return fmt.Sprintf("/help/articles/A-%04d", 1+(i*7919)%articles) }},
	} {
		paths := make([]string, times)
		for i := range paths {
			paths[i] = kind.path(i)
		}
		for _, by := range []askers{{1, 0}, {atOnce, time.Second}, {atOnce, 0}} {
			end, err := profiling(profile, fmt.Sprintf("%.7s-%d-%s.pprof", kind.name, by.n, by.pause))
			if err != nil {
				return err
			}
			asked := paths
			if by.n == 1 || by.pause > 0 {
				asked = paths[:min(times, 20*atOnce)]
			}
			err = by.measure(kind.name, address, asked)
			end()
			if err != nil {
				return err
			}
		}
	}
	return nil
}

// profiling writes where the processor's time goes into a file until end is called.
func profiling(directory, name string) (end func(), err error) {
	if directory == "" {
		return func() {}, nil
	}
	file, err := os.Create(filepath.Join(directory, name))
	if err != nil {
		return nil, err
	}
	if err := pprof.StartCPUProfile(file); err != nil {
		return nil, err
	}
	return func() {
		pprof.StopCPUProfile()
		_ = file.Close()
	}, nil
}

// askers are so many who ask at the same time, each again as long after an answer.
type askers struct {
	n     int
	pause time.Duration
}

func (a askers) String() string {
	switch {
	case a.n == 1:
		return "one"
	case a.pause > 0:
		return fmt.Sprintf("%d, %s between", a.n, a.pause)
	}
	return fmt.Sprintf("%d without a pause", a.n)
}

func (a askers) measure(what, address string, paths []string) error {
	atOnce := a.n
	client := &http.Client{Transport: &http.Transport{MaxIdleConnsPerHost: atOnce, MaxConnsPerHost: atOnce}}
	took := make([]time.Duration, len(paths))
	next := make(chan int)
	failed := make(chan error, len(paths))
	ours, theirs := spent("self"), spentByDatabase()
	began := time.Now()
	var working sync.WaitGroup
	for w := range atOnce {
		working.Go(func() {
			time.Sleep(a.pause * time.Duration(w) / time.Duration(atOnce))
			for i := range next {
				from := time.Now()
				r, _ := http.NewRequest(http.MethodGet, address+paths[i], nil)
				// Each visitor asks five times.
				r.AddCookie(&http.Cookie{Name: "hermeneus_visitor", Value: fmt.Sprintf("%s%031d", what[:1], i/5)})
				answer, err := client.Do(r)
				if err != nil {
					failed <- err
					continue
				}
				_, _ = io.Copy(io.Discard, answer.Body)
				_ = answer.Body.Close()
				took[i] = time.Since(from)
				time.Sleep(a.pause)
				if answer.StatusCode != http.StatusOK {
					failed <- fmt.Errorf("%s: %s", paths[i], answer.Status)
				}
			}
		})
	}
	for i := range paths {
		next <- i
	}
	close(next)
	working.Wait()
	if len(failed) > 0 {
		return <-failed
	}
	slices.Sort(took)
	at := func(share float64) time.Duration {
		return took[int(share*float64(len(took)-1))].Round(10 * time.Microsecond)
	}
	each := func(d time.Duration) time.Duration {
		return (d / time.Duration(len(paths))).Round(10 * time.Microsecond)
	}
	fmt.Printf(
		"%-28s %-20s p50 %-9s p99 %-9s (%.0f a second; processor for each: %s here, %s in the database)\n",
		what,
		a,
		at(0.5),
		at(0.99),
		float64(len(paths))/time.Since(began).Seconds(),
		each(spent("self")-ours),
		each(spentByDatabase()-theirs),
	)
	return nil
}

// spent is how long a process has had a processor, by the system's own count in
// hundredths of a second; 0 for one that ended.
func spent(process string) time.Duration {
	raw, err := os.ReadFile("/proc/" + process + "/stat")
	if err != nil {
		return 0
	}
	// The name stands in brackets and may hold blanks; user and system time are the 12th and 13th field behind it.
	fields := strings.Fields(string(raw[bytes.LastIndexByte(raw, ')')+1:]))
	user, _ := strconv.Atoi(fields[11])
	system, _ := strconv.Atoi(fields[12])
	return time.Duration(user+system) * 10 * time.Millisecond
}

// spentByDatabase is that of every process of PostgreSQL that runs.
func spentByDatabase() (sum time.Duration) {
	names, _ := filepath.Glob("/proc/[0-9]*/comm")
	for _, name := range names {
		if comm, err := os.ReadFile(name); err == nil && strings.HasPrefix(string(comm), "postgres") {
			sum += spent(filepath.Base(filepath.Dir(name)))
		}
	}
	return sum
}
