// Command writing measures what writers wait for: lists, the find field, opening an
// article, comparing long texts, bringing many articles in; and, in a real browser,
// a list, an article and the keys of a long text.
package main

import (
	"context"
	"fmt"
	"math/rand/v2"
	"os"
	"os/exec"
	"strings"
	"time"

	"hermeneus/app"
	"hermeneus/app/exchange"
	"hermeneus/app/instance"
	"hermeneus/app/library"
	"hermeneus/app/lists"
	"hermeneus/app/staff"
	"hermeneus/app/writing"
	"hermeneus/bench/world"
	"hermeneus/core/article"
	coreexchange "hermeneus/core/exchange"
	"hermeneus/core/review"
	"hermeneus/http"
)

const address = "127.0.0.1:18090"

func main() {
	times := world.Parse()
	ctx := context.Background()
	for _, size := range world.Sizes {
		a, done := world.Open(ctx, size)
		by, err := a.Staff.StaffByEmail(ctx, "bench@wrenmoor.example")
		world.Check(err)
		r := rand.New(rand.NewPCG(5, 6))
		listPages(ctx, a, by, r, size, times)
		long := longArticle(ctx, a, by, r)
		compare(ctx, a, by, long)
		browser(a, long)
		if size == world.Sizes[len(world.Sizes)-1] {
			bringIn(ctx, a, by, r)
		}
		done()
	}
}

func listPages(ctx context.Context, a *app.App, by staff.Staff, r *rand.Rand, size, times int) {
	pages := size/instance.PageSize + 1
	for name, f := range map[string]lists.ArticleFilter{"library list, any page": {}, "library list, by title": {Sort: "title"}, "library list, never opened": {Unopened: true}, "library list, words": {Words: "meter read"}} {
		world.Measure(name, times/10, func(int) {
			f.Page = 1 + r.IntN(pages)
			_, _, err := a.Lists.ListArticles(ctx, f)
			world.Check(err)
		})
	}
	world.Measure("staff find, as typed", times, func(int) {
		words := world.Words(r, 1+r.IntN(3))
		_, err := a.Search.Find(ctx, words[:2+r.IntN(len(words)-1)])
		world.Check(err)
	})
	world.Measure("an article with what stands around it", times, func(int) {
		_, err := a.Desk.ReadArticle(ctx, by, article.Reference(1+r.IntN(size)))
		world.Check(err)
	})
	world.Measure("what the margin says of it", times/10, func(int) {
		_, err := a.Writing.Checks(ctx, by, article.Reference(1+r.IntN(size)))
		world.Check(err)
	})
}

// longArticle makes an article of 20 000 words, saved twice.
func longArticle(ctx context.Context, a *app.App, by staff.Staff, r *rand.Rand) string {
	var body strings.Builder
	for n := range 500 {
		if n%25 == 0 {
			fmt.Fprintf(&body, "<h2>Part %d</h2>", n/25+1)
		}
		body.WriteString("<p>" + world.Words(r, 40) + ".</p>")
	}
	ref, err := a.Library.CreateArticle(
		ctx,
		by,
		library.NewArticle{CategoryID: 1, Copy: library.WorkingCopy{Title: "Long", Body: body.String()}},
	)
	world.Check(err)
	_, err = a.Writing.SaveArticle(
		ctx,
		by,
		ref,
		writing.Save{Text: library.WorkingCopy{Title: "Long", Body: body.String(), Keywords: []string{}}, Version: 1},
	)
	world.Check(err)
	return ref
}

func compare(ctx context.Context, a *app.App, by staff.Staff, ref string) {
	is, err := a.Desk.ReadArticle(ctx, by, ref)
	world.Check(err)
	world.Check(a.Review.Act(ctx, by, ref, review.Submit, is.Version, ""))
	world.Check(a.Review.Act(ctx, by, ref, review.Recall, is.Version, ""))
	text := is.Copy
	text.Body = strings.ReplaceAll(text.Body, "meter", "dial") + "<p>One more.</p>"
	world.Measure("saving 20 000 words", 20, func(i int) {
		text.Body += fmt.Sprintf("<p>And %d.</p>", i)
		now, err := a.Desk.ReadArticle(ctx, by, ref)
		world.Check(err)
		_, err = a.Writing.SaveArticle(ctx, by, ref, writing.Save{Text: text, Version: now.Version})
		world.Check(err)
	})
	world.Measure("comparing 20 000 words with a revision", 50, func(int) {
		_, err := a.Library.Changes(ctx, ref, "1", library.TheCopy)
		world.Check(err)
	})
}

func bringIn(ctx context.Context, a *app.App, by staff.Staff, r *rand.Rand) {
	b := coreexchange.Bundle{Name: "bench", Files: map[string][]byte{}}
	for n := range 1000 {
		name := fmt.Sprintf("part-%d/article-%d.md", n%20, n)
		b.Files[name] = []byte(
			"---\ntitle: " + world.Words(r, 5) + "\n---\n\n" + strings.Repeat(
				world.Words(r, 40)+".\n\n",
				6,
			) + fmt.Sprintf(
				"[next](article-%d.md)\n",
				(n+20)%1000,
			),
		)
	}
	steps := 0
	began := time.Now()
	report, err := a.Exchange.ImportLibrary(ctx, by, b, exchange.ImportOptions{}, false, func(int, int) { steps++ })
	world.Check(err)
	fmt.Printf(
		"        bringing 1 000 articles in: %s, %d created, progress shown %d times\n",
		time.Since(began).Round(time.Millisecond),
		report.Created,
		steps,
	)
	began = time.Now()
	again, err := a.Exchange.ImportLibrary(ctx, by, b, exchange.ImportOptions{}, false, nil)
	world.Check(err)
	fmt.Printf(
		"        bringing the same in again: %s, %d skipped\n",
		time.Since(began).Round(time.Millisecond),
		again.Skipped,
	)
}

// browser lets a real browser look, over the real server.
func browser(a *app.App, long string) {
	server, err := http.New(a, http.Options{Name: "Bench"})
	world.Check(err)
	go func() { _ = server.Listen(address) }()
	node := exec.Command("node", "bench/writing/browser.mjs", "http://"+address, long)
	node.Stdout, node.Stderr = os.Stdout, os.Stderr
	err = node.Run()
	world.Check(server.Close())
	world.Check(err)
}
