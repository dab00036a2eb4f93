// Command figures measures what readers of the figures wait for, with many questions: the headline of a month and of a
// year, the Ledger's pages, and an article's figures. Questions and their evidence are generated straight into
// PostgreSQL; what comes of additions goes through the program.
package main

import (
	"context"
	"flag"
	"fmt"
	"os"
	"runtime"
	"strings"
	"time"

	"hermeneus/app"
	"hermeneus/app/evidence"
	"hermeneus/app/outcomes"
	"hermeneus/app/staff"
	"hermeneus/bench/world"
	"hermeneus/core/outcome"
	"hermeneus/core/role"
	"hermeneus/store"
)

func main() {
	questions := flag.Int("questions", 100_000, "how many there are, of a year, with five items of evidence each")
	times := flag.Int("times", 15, "how often each is measured")
	load := flag.Bool("load", false, "also keep evidence as fast as it comes on busy days")
	anew := flag.Bool("anew", false, "also count everything anew")
	keep := flag.Bool("keep", false, "keep the database, and say its address")
	in := flag.String("in", "", "measure in a database that was kept, instead of generating one")
	flag.Parse()
	ctx := context.Background()
	url := *in
	if url == "" {
		made, drop := world.Database("figures")
		url = made
		if *keep {
			fmt.Println("in", url)
		} else {
			defer drop()
		}
	}
	a, err := app.Open(ctx, app.Config{Database: url, Clock: time.Now, Zone: time.UTC, Idle: true})
	world.Check(err)
	defer a.Close()
	if *in == "" {
		began := time.Now()
		generate(ctx, a, *questions)
		fmt.Printf("%d questions generated in %s\n", *questions, time.Since(began).Round(time.Second))
	}
	by := staff.Staff{Roles: role.Set{role.Analyst}}
	now := a.Outcomes.Now()
	read := func(name string, days int, split outcomes.Split) {
		world.Measure(name, *times, func(i int) {
			last := now.AddDate(0, 0, -min(i%3*30, 366-days))
			_, err := a.Outcomes.Outcomes(ctx, by, last.AddDate(0, 0, 1-days), last, split)
			world.Check(err)
		})
	}
	read("headline, days and channels of a month", 30, outcomes.Split{})
	read("of a month, with one filter", 30, outcomes.Split{Category: "3"})
	read("of a year, with two filters", 365, outcomes.Split{Category: "3", Language: "en"})
	read("of a year", 365, outcomes.Split{})
	ledger := func(name string, f outcomes.LedgerFilter) {
		world.Measure(name, *times, func(int) {
			_, _, err := a.Outcomes.Ledger(ctx, by, f)
			world.Check(err)
		})
	}
	month := a.Outcomes.Days(now.AddDate(0, 0, -29), now)
	ledger("the Ledger's first page, of a month", outcomes.LedgerFilter{Period: month, Page: 1})
	ledger("its hundredth", outcomes.LedgerFilter{Period: month, Page: 100})
	ledger("its first page, of unanswered ones", outcomes.LedgerFilter{
		Period: month, Page: 1, Outcome: outcome.Unanswered, Settled: true,
	})
	world.Measure("an article's outcomes and uses", *times*10, func(i int) {
		_, err := a.Outcomes.OfArticles(ctx, []string{fmt.Sprintf("A-%04d", 1+i%25)})
		world.Check(err)
		_, _, err = a.Outcomes.Uses(ctx, fmt.Sprintf("A-%04d", 1+i%25), now.AddDate(0, 0, -90))
		world.Check(err)
	})
	fold(ctx, a)
	size(a)
	if *anew {
		rebuild(ctx, a)
	}
	if *load {
		working, err := app.Open(ctx, app.Config{Database: url, Clock: time.Now, Zone: time.UTC})
		world.Check(err)
		defer working.Close()
		intake(ctx, working, 500, 30*time.Second)
		intake(ctx, working, 2000, 10*time.Second)
	}
}

// generate makes questions and their evidence, in the shape that the program gives them.
func generate(ctx context.Context, a *app.App, n int) {
	db := a.DB().WithContext(ctx)
	now := a.Outcomes.Now()
	for _, m := range []store.Monthly{store.EvidenceMonths, store.QuestionMonths} {
		world.Check(m.Ensure(ctx, db, now.AddDate(-1, -1, 0), now.AddDate(0, 1, 0)))
	}
	world.Check(a.Outcomes.FoldAll(ctx)) // so that there is a generation
	for _, sql := range []string{
		`SELECT setseed(0.5)`,
		`CREATE TEMP TABLE g AS SELECT i, 1 + floor(random() * @n * 0.6)::bigint AS asker,
			now() - random() * interval '365 days' AS began, random() AS chance, 1 + floor(random() * 20)::int AS category,
			1 + floor(power(random(), 2) * 200)::int AS article FROM generate_series(1, @n) i`,
		`INSERT INTO askers (id, name, looked) OVERRIDING SYSTEM VALUE SELECT DISTINCT asker, 'visitor:' || asker, true FROM g`,
		`INSERT INTO asker_keys SELECT name, id FROM askers ON CONFLICT DO NOTHING`,
		`SELECT setval(pg_get_serial_sequence('askers', 'id'), (SELECT max(id) FROM askers))`,
		`INSERT INTO evidence_keys SELECT name, false, true FROM askers ON CONFLICT DO NOTHING`,
		`INSERT INTO evidence (id, at, asker, channel, kind, ref, site, language, category)
			SELECT 5 * g.i + k, began + k * interval '20 seconds', 'visitor:' || asker, 'help',
				(ARRAY['asked', 'offered', 'opened', 'read', 'helped'])[k + 1], 'A-' || lpad(article::text, 4, '0') || '@1', '1', 'en',
				category::text
			FROM g, generate_series(0, 4) k`,
		`SELECT setval('evidence_id_seq', (SELECT max(id) FROM evidence))`,
		`INSERT INTO evidence_words SELECT 5 * i, began, 'when is my bill due' FROM g`,
		`INSERT INTO questions SELECT c.generation, 5 * i, asker, began, began, began + interval '80 seconds',
				began + interval '80 seconds', CASE WHEN chance < 0.38 THEN 'confirmed' WHEN chance < 0.68 THEN 'presumed'
				WHEN chance < 0.75 THEN 'unanswered' WHEN chance < 0.78 THEN 'returned' WHEN chance < 0.96 THEN 'person'
				ELSE 'browsing' END, false, 0, CASE WHEN chance BETWEEN 0.75 AND 0.78 THEN 5 * i + 5 ELSE 0 END,
				CASE WHEN chance BETWEEN 0.75 AND 0.78 THEN began + interval '1 day' END, '{}', '{}', chance > 0.85,
				count(*) OVER (PARTITION BY asker) > 1, NULL, ARRAY[5 * i, 5 * i + 1, 5 * i + 2, 5 * i + 3, 5 * i + 4], '{}', 5 * i, 5 * i,
				CASE WHEN i % 4 = 0 THEN '{chat,help}'::text[] ELSE '{help}' END, '1', CASE WHEN i % 9 = 0 THEN 'de' ELSE 'en' END,
				'{}', CASE WHEN i % 4 = 0 THEN 'front-door@1' ELSE '' END, category::text, '', article, 0, ARRAY[article]
			FROM g, question_counts c WHERE c.live`,
		`INSERT INTO question_days SELECT generation, (closed_at AT TIME ZONE 'UTC')::date, outcome, site,
				array_to_string(channels, ','), category, flow, language, count(*), 0, count(*) FILTER (WHERE traced)
			FROM questions GROUP BY 1, 2, 3, 4, 5, 6, 7, 8 ON CONFLICT DO NOTHING`,
		`INSERT INTO article_outcomes SELECT generation, article, outcome, count(*) FROM questions
			WHERE outcome <> 'browsing' GROUP BY 1, 2, 3 ON CONFLICT DO NOTHING`,
		`INSERT INTO article_uses SELECT article, began::date, count(*), count(*) FROM g GROUP BY 1, 2 ON CONFLICT DO NOTHING`,
		`DROP TABLE g`,
		`VACUUM ANALYZE`,
	} {
		world.Check(db.Exec(strings.ReplaceAll(sql, "@n", fmt.Sprint(n))).Error)
	}
}

// fold measures how fast additions are kept and folded: five items each of askers who were there before or are new.
func fold(ctx context.Context, a *app.App) {
	const added = 2000
	now := time.Now().UTC()
	var items []outcome.Evidence
	for i := range added {
		for k, kind := range []outcome.Kind{outcome.Asked, outcome.Offered, outcome.Opened, outcome.Read, outcome.Helped} {
			items = append(items, outcome.Evidence{
				At: now.Add(
					time.Duration(k) * 20 * time.Second,
				),
				Asker:   fmt.Sprintf("visitor:%d", i*7),
				Channel: outcome.Help,
				Kind:    kind,
				Ref:     fmt.Sprintf("A-%04d@1", 1+i%200),
			})
		}
	}
	began := time.Now()
	for at := 0; at < len(items); at += 5 {
		world.Check(evidence.Keep(a.DB(), items[at:at+5]))
	}
	kept := time.Since(began)
	began = time.Now()
	world.Check(a.Outcomes.FoldAll(ctx))
	folded := time.Since(began)
	fmt.Printf("%d items: kept, five at a time by one caller, %.0f a second; folded %.0f a second\n", len(items),
		float64(len(items))/kept.Seconds(), float64(len(items))/folded.Seconds())
}

// size says what it takes on the disk and in memory.
func size(a *app.App) {
	var disk []struct {
		Name string
		MB   float64
	}
	world.Check(a.DB().Raw(`SELECT left(relname, 9) AS name, sum(pg_total_relation_size(oid)) / 1e6 AS mb FROM pg_class
		WHERE relkind = 'r' AND (relname LIKE 'evidence%' OR relname LIKE 'question%' OR relname LIKE 'asker%') GROUP BY 1
		ORDER BY 2 DESC`).Scan(&disk).Error)
	for _, d := range disk {
		fmt.Printf("  %-10s %8.0f MB\n", d.Name, d.MB)
	}
	runtime.GC()
	status, err := os.ReadFile("/proc/self/status")
	world.Check(err)
	for line := range strings.Lines(string(status)) {
		if strings.HasPrefix(line, "VmRSS:") {
			fmt.Print("  this instance: ", line)
		}
	}
}
