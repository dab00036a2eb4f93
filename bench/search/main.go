// Command search measures searching: in the index alone, and as a customer's
// search with its evidence kept.
package main

import (
	"context"
	"fmt"
	"math/rand/v2"

	"hermeneus/app/evidence"
	"hermeneus/bench/world"
)

func main() {
	times := world.Parse()
	ctx := context.Background()
	for _, size := range world.Sizes {
		a, done := world.Open(ctx, size)
		r := rand.New(rand.NewPCG(3, 4))
		// A preview is searched for in the index and in the database, and leaves no evidence.
		world.Measure("search, nothing kept", times, func(int) {
			_, err := a.Search.Search(ctx, evidence.Visitor{Preview: true}, world.Words(r, 2+r.IntN(5)))
			world.Check(err)
		})
		world.Measure("search, asking and offer kept", times, func(i int) {
			_, err := a.Search.Search(ctx, evidence.Visitor{Key: fmt.Sprint(i)}, world.Words(r, 2+r.IntN(5)))
			world.Check(err)
		})
		done()
	}
}
