package pace_test

import (
	"fmt"
	"time"

	"hermeneus/core/pace"
)

// Five tries are free; then each waits longer. A browser that is known waits for nobody's guesses.
func ExampleScopes_Wait() {
	now := time.Date(2026, 3, 2, 9, 0, 0, 0, time.UTC)
	for _, tries := range []int{4, 6, 8, 20} {
		guessed := pace.Tries{Count: tries, Last: now}
		stranger := pace.Scopes{Pair: guessed, Network: guessed, Account: guessed}
		known := pace.Scopes{Account: guessed, Known: true}
		fmt.Println(tries, stranger.Wait(now), known.Wait(now))
	}
	// Output:
	// 4 0s 0s
	// 6 4s 0s
	// 8 16s 0s
	// 20 15m0s 0s
}
