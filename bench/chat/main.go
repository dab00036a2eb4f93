// Command chat measures the turns of a conversation: a choice that shows
// articles, and free words that are looked up.
package main

import (
	"context"
	"fmt"
	"math/rand/v2"

	"hermeneus/app/evidence"
	"hermeneus/bench/world"
	"hermeneus/core/flow"
)

func main() {
	times := world.Parse()
	ctx := context.Background()
	for _, size := range world.Sizes {
		a, done := world.Open(ctx, size)
		r := rand.New(rand.NewPCG(5, 6))
		tokens := make([]string, times)
		visitor := func(i int) evidence.Visitor { return evidence.Visitor{Key: fmt.Sprint(i)} }
		world.Measure("begin a conversation", times, func(i int) {
			token, err := a.Conversations.StartChat(ctx, visitor(i))
			world.Check(err)
			tokens[i] = token
		})
		world.Measure("a turn: a choice that shows articles", times, func(i int) {
			world.Check(
				a.Conversations.SayInChat(ctx, visitor(i), tokens[i], flow.Input{Kind: flow.Choice, Text: "A bill"}),
			)
		})
		world.Measure("a turn: free words, looked up", times, func(i int) {
			world.Check(
				a.Conversations.SayInChat(
					ctx,
					visitor(i),
					tokens[i],
					flow.Input{Kind: flow.Words, Text: world.Words(r, 5)},
				),
			)
		})
		done()
	}
}
