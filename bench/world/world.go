// Package world makes a library of any size for the benchmarks, and measures.
package world

import (
	"context"
	"flag"
	"fmt"
	"log"
	"math/rand/v2"
	"os"
	"slices"
	"strings"
	"time"

	"github.com/jackc/pgx/v5"

	"hermeneus/app"
	"hermeneus/app/accounts"
	"hermeneus/app/conversations"
	"hermeneus/app/library"
	"hermeneus/core/markup"
	"hermeneus/core/review"
	"hermeneus/core/role"
	"hermeneus/store"
)

// Sizes are the libraries that are measured.
var Sizes = []int{25, 10_000}

var vocabulary = strings.Fields(
	`meter reading bill payment tariff night day rate unit charge standing member share account
	password mail phone address supply fault cable line pole storm fuse switch heater lamp battery panel solar export charger
	street card price credit refund plan winter summer month year letter visit reader fitter engineer home tenant landlord move
	final estimate graph balance tax contract supplier complaint answer request number postcode map light amber green red button
	display signal network serial label photograph certificate installer approval priority medical equipment generator`,
)

// Words gives n words, the first of the vocabulary oftener than the last.
func Words(r *rand.Rand, n int) string {
	out := make([]string, n)
	for i := range out {
		out[i] = vocabulary[int(float64(len(vocabulary))*r.Float64()*r.Float64())]
	}
	return strings.Join(out, " ")
}

// Database makes an empty database, and gives its address; drop takes it away again.
func Database(name string) (url string, drop func()) {
	ctx := context.Background()
	server := os.Getenv("HERMENEUS_TEST_DATABASE")
	if server == "" {
		log.Fatal("HERMENEUS_TEST_DATABASE is not set: run the benchmarks with make bench")
	}
	admin, err := pgx.Connect(ctx, server)
	check(err)
	name = fmt.Sprintf("bench_%s_%d", name, time.Now().UnixNano())
	_, err = admin.Exec(ctx, "CREATE DATABASE "+name)
	check(err)
	return server[:strings.LastIndexByte(server, '/')+1] + name + "?sslmode=disable", func() {
		_, err := admin.Exec(ctx, "DROP DATABASE "+name+" WITH (FORCE)")
		check(err)
		check(admin.Close(ctx))
	}
}

// Open makes a database, fills it with that many live articles of 80 to 400
// words, and opens the application over it. done must be called in the end.
func Open(ctx context.Context, articles int) (a *app.App, done func()) {
	return OpenWith(ctx, articles, nil)
}

// OpenWith is Open with articles in a made-up language, of realistic lengths.
func OpenWith(ctx context.Context, articles int, l *Language) (a *app.App, done func()) {
	server := os.Getenv("HERMENEUS_TEST_DATABASE")
	if server == "" {
		log.Fatal("HERMENEUS_TEST_DATABASE is not set: run the benchmarks with make bench")
	}
	admin, err := pgx.Connect(ctx, server)
	check(err)
	name := fmt.Sprintf("bench_%d", time.Now().UnixNano())
	_, err = admin.Exec(ctx, "CREATE DATABASE "+name)
	check(err)
	url := server[:strings.LastIndexByte(server, '/')+1] + name + "?sslmode=disable"
	config := app.Config{Database: url, Clock: time.Now, Zone: time.UTC}
	last = config
	fill(ctx, config, articles, l)
	began := time.Now()
	a, err = app.Open(ctx, config)
	check(err)
	fmt.Printf(
		"%6d articles: opened, with the index built, in %s\n",
		articles,
		time.Since(began).Round(time.Millisecond),
	)
	return a, func() {
		a.Close()
		_, err := admin.Exec(ctx, "DROP DATABASE "+name+" WITH (FORCE)")
		check(err)
		check(admin.Close(ctx))
	}
}

// last is the database that was opened last.
var last app.Config

// Again opens one more instance over the database that was opened last.
func Again(ctx context.Context) (a *app.App, done func()) {
	a, err := app.Open(ctx, last)
	check(err)
	return a, a.Close
}

func fill(ctx context.Context, config app.Config, articles int, l *Language) {
	a, err := app.Open(ctx, config)
	check(err)
	defer a.Close()
	who, err := a.Accounts.People.AddFirstStaff(
		ctx,
		accounts.NewStaff{
			Name:     "Bench",
			Email:    "bench@wrenmoor.example",
			Password: "a long password",
			Team:     "Accounts",
			Roles:    role.All,
		},
	)
	check(err)
	var categories []int64
	for n := range 20 {
		id, err := a.Library.AddCategory(
			ctx,
			who,
			library.NewCategory{Name: fmt.Sprintf("Category %d", n+1), Audience: "everyone"},
		)
		check(err)
		categories = append(categories, id)
	}
	r := rand.New(rand.NewPCG(1, 2))
	db := a.DB().WithContext(ctx)
	now := time.Now()
	for from := 1; from <= articles; from += 500 {
		var rows []store.Article
		for n := from; n < min(from+500, articles+1); n++ {
			rows = append(
				rows,
				store.Article{
					Number:       n,
					CategoryID:   categories[n%len(categories)],
					OwnerID:      who.ID,
					Kind:         "how-to",
					Audience:     "everyone",
					Position:     n,
					LastRevision: 1,
					CreatedAt:    now,
					RecheckOn:    now.AddDate(0, 6, 0),
				},
			)
		}
		check(db.Create(&rows).Error)
		var editions []store.Edition
		for _, row := range rows {
			body := "<p>" + strings.Repeat(Words(r, 40)+".</p><p>", 2+r.IntN(8)) + "</p>"
			title, keyword := Words(r, 5), Words(r, 2)
			if l != nil {
				body = "<p>" + strings.Join(
					l.Blocks(),
					"</p><p>",
				) + "</p>"
				title = l.Title(3 + row.Number%6)
				keyword = l.Title(2)
			}
			editions = append(
				editions,
				store.Edition{
					ArticleID: row.ID,
					Language:  "en",
					Title:     title,
					Body:      body,
					Keywords:  store.Strings{keyword},
					Named:     title + "\n" + keyword,
					Text:      markup.Plain(body),
					State:     string(review.Published),
					Version:   1,
					WriterID:  who.ID,
					WrittenAt: now,
				},
			)
		}
		check(db.Create(&editions).Error)
		var revisions []store.Revision
		for _, e := range editions {
			revisions = append(
				revisions,
				store.Revision{
					EditionID: e.ID,
					Number:    1,
					Title:     e.Title,
					Body:      e.Body,
					Keywords:  e.Keywords,
					Words:     100,
					MadeBy:    who.ID,
					MadeAt:    now,
				},
			)
		}
		check(db.Create(&revisions).Error)
	}
	check(
		db.Exec(
			`UPDATE editions
				SET live_revision_id = r.id, live_since = r.made_at FROM revisions r
				WHERE r.edition_id = editions.id`,
		).Error,
	)
	check(db.Exec(`SELECT setval('article_numbers', ?)`, articles).Error)
	// A month of evidence: without any, the database plans as for an empty table.
	check(db.Exec(`INSERT INTO evidence (at, asker, channel, kind, ref, refs)
		SELECT now() - n * interval '13 seconds', 'visitor:' || to_hex(n / 4), 'help', k.kind, CASE k.kind
			WHEN 'opened' THEN 'A-' || to_char(1 + n % ?, 'FM0000') || '@1' ELSE '' END, CASE k.kind
			WHEN 'offered' THEN ARRAY['A-0001@1', 'A-0002@1', 'A-0003@1'] ELSE '{}' END
		FROM generate_series(1, 200000) AS n, LATERAL
			(SELECT (ARRAY['opened', 'offered', 'asked', 'opened'])[1 + n % 4] AS kind) k`, articles).Error)
	check(db.Exec(`INSERT INTO evidence_words SELECT id, at, 'words of ' || asker FROM evidence
		WHERE kind = 'asked'`).Error)
	check(db.Exec(`ANALYZE`).Error)
	_, err = a.Flows.PublishFlow(
		ctx,
		who,
		conversations.FrontDoor,
		`flow Door (en)
what: choose What is it about?
  - A bill
    suggest A-0001, A-0002: These may help.
      yes -> bye
      no -> person
      nothing -> find
  - Something else
    go to find
find: look up What would you like to know, in your words?
  yes -> bye
  no -> person
  nothing -> person
bye: close Good. Until next time.
whenever a person is asked for: person
  person: hand over Accounts: I pass you on to somebody.
whenever anything else is typed
  go to find
`,
		0,
	)
	check(err)
}

// Measure runs work n times and prints the median and the 99th percentile.
func Measure(name string, n int, work func(i int)) {
	took := make([]time.Duration, n)
	for i := range n {
		began := time.Now()
		work(i)
		took[i] = time.Since(began)
	}
	slices.Sort(took)
	fmt.Printf(
		"        %-44s p50 %8s   p99 %8s   (%d times)\n",
		name,
		took[n/2].Round(10*time.Microsecond),
		took[n*99/100].Round(10*time.Microsecond),
		n,
	)
}

// Percentile gives a percentile of some durations, in milliseconds.
func Percentile(took []time.Duration, p int) float64 {
	if len(took) == 0 {
		return 0
	}
	slices.Sort(took)
	return float64(took[min(len(took)-1, len(took)*p/100)].Microseconds()) / 1000
}

func check(err error) {
	if err != nil {
		log.Fatal(err)
	}
}

// Check ends the benchmark on an error.
func Check(err error) { check(err) }

// Parse reads the flags: how often each thing is done.
func Parse() (times int) {
	flag.IntVar(&times, "times", 2000, "how often each thing is done")
	flag.Parse()
	return times
}
