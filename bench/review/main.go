// Command review measures what reviewers and publishers wait for: publishing in a
// large library, until it is found on another instance; the lanes with hundreds
// waiting; and what an article touches.
package main

import (
	"context"
	"fmt"
	"math/rand/v2"
	"slices"
	"time"

	"hermeneus/app"
	"hermeneus/app/accounts"
	"hermeneus/app/evidence"
	"hermeneus/app/library"
	"hermeneus/app/staff"
	"hermeneus/bench/world"
	"hermeneus/core/article"
	"hermeneus/core/review"
	"hermeneus/core/role"
)

const waiting = 500

func main() {
	times := world.Parse()
	ctx := context.Background()
	size := world.Sizes[len(world.Sizes)-1]
	a, done := world.Open(ctx, size)
	defer done()
	author, err := a.Staff.StaffByEmail(ctx, "bench@wrenmoor.example")
	world.Check(err)
	reviewer, err := a.Accounts.People.AddFirstStaff(
		ctx,
		accounts.NewStaff{
			Name:     "Reviewer",
			Email:    "reviewer@wrenmoor.example",
			Password: "a long password",
			Roles:    role.Set{role.Reviewer},
		},
	)
	world.Check(err)
	r := rand.New(rand.NewPCG(9, 10))
	publish(ctx, a, author, reviewer, r, min(times, 60))
	lanes(ctx, a, author, reviewer, r, times/10)
	world.Measure("what an article touches", times, func(int) {
		_, err := a.Review.Impact(ctx, article.Reference(1+r.IntN(size)), "")
		world.Check(err)
	})
}

// submitted gives a new article before its gate.
func submitted(ctx context.Context, a *app.App, by staff.Staff, r *rand.Rand, title string) string {
	ref, err := a.Library.CreateArticle(
		ctx,
		by,
		library.NewArticle{
			CategoryID: 1 + r.Int64N(20),
			Copy:       library.WorkingCopy{Title: title, Body: "<p>" + world.Words(r, 150) + ".</p>"},
		},
	)
	world.Check(err)
	world.Check(a.Review.Act(ctx, by, ref, review.Submit, 1, ""))
	return ref
}

func publish(ctx context.Context, a *app.App, author, reviewer staff.Staff, r *rand.Rand, n int) {
	other, end := world.Again(ctx)
	defer end()
	var found []time.Duration
	refs := make([]string, n)
	words := func(i int) string { return fmt.Sprintf("Zephyrine%dq", i) }
	for i := range refs {
		refs[i] = submitted(ctx, a, author, r, words(i))
		world.Check(a.Review.Act(ctx, reviewer, refs[i], review.Approve, 1, ""))
	}
	world.Measure("publishing", n, func(i int) {
		world.Check(a.Review.Act(ctx, author, refs[i], review.Publish, 1, ""))
	})
	for i := range n {
		ref := submitted(ctx, a, author, r, words(n+i))
		world.Check(a.Review.Act(ctx, reviewer, ref, review.Approve, 1, ""))
		began := time.Now()
		world.Check(a.Review.Act(ctx, author, ref, review.Publish, 1, ""))
		for {
			hits, err := other.Search.Search(ctx, evidence.Visitor{Preview: true}, words(n+i))
			world.Check(err)
			if len(hits) > 0 && hits[0].Reference == ref {
				break
			}
		}
		found = append(found, time.Since(began))
	}
	slices.Sort(found)
	fmt.Printf(
		"        %-44s median %s, slowest %s\n",
		"publishing until another instance finds it",
		found[n/2].Round(100*time.Microsecond),
		found[n-1].Round(100*time.Microsecond),
	)
}

func lanes(ctx context.Context, a *app.App, author, reviewer staff.Staff, r *rand.Rand, n int) {
	for range waiting {
		submitted(ctx, a, author, r, world.Words(r, 5))
	}
	for name, by := range map[string]staff.Staff{"lanes with 500 waiting, for a reviewer": reviewer, "lanes with 500 waiting, for their author": author} {
		world.Measure(name, n, func(int) {
			list, err := a.Review.Queue(ctx, by)
			world.Check(err)
			if len(list) == 0 || len(list[0].Items) < waiting {
				panic("the lanes are not full")
			}
		})
	}
}
