package hours_test

import (
	"errors"
	"fmt"
	"time"

	"hermeneus/core/hours"
)

// The next opening across a clock change: half past one is shown twice in London on the last
// Sunday of October, and not at all on the last Sunday of March.
func ExampleAt() {
	london, err := time.LoadLocation("Europe/London")
	if err != nil {
		fmt.Println(err)
		return
	}
	autumn, err := hours.At("2026-10-25T01:30", london)
	fmt.Println(autumn.At.UTC().Format("15:04"), autumn.Twice, autumn.Second.UTC().Format("15:04"), err)

	_, err = hours.At("2026-03-29T01:30", london)
	var skipped *hours.Skipped
	if errors.As(err, &skipped) {
		fmt.Println(skipped)
	}
	// Output:
	// 00:30 true 01:30 <nil>
	// the clocks go forward: 2026-03-29T01:30 does not exist there; the next time is 02:00
}
