package flow

import (
	"fmt"
	"strings"
	"testing"
)

// large is a sound script of about so many turns, with three teams, two groups, languages and hours to tell apart.
func large(turns int) string {
	var b strings.Builder
	b.WriteString("flow Large (en)\nhello: say Hello.\n")
	n := 0
	for part := 0; n < turns; part++ {
		fmt.Fprintf(&b, "part-%d: choose What is it about in part %d?\n", part, part)
		for c := range 4 {
			team := []string{"Accounts", "Field", "Solar and storage"}[(part+c)%3]
			fmt.Fprintf(
				&b,
				"  - Choice %d of %d\n    suggest A-%04d: These may help with %d.\n      yes: close Good.\n",
				c,
				part,
				1+c,
				n,
			)
			fmt.Fprintf(
				&b,
				"      no\n        branch\n          when group is members and %s is free: hand over %s: I pass you on, %d.\n",
				team,
				team,
				n,
			)
			fmt.Fprintf(
				&b,
				"          when we are open: ask fact %d (text, may be skipped): Tell me of it, %d.\n",
				part%4,
				n,
			)
			fmt.Fprintf(&b, "        request %s: What shall we answer, %d?\n        close Bye.\n", team, n)
			n += 9
		}
		fmt.Fprintf(&b, "  - Something else in %d\n    say Then go on.\n", part)
	}
	b.WriteString("close Bye.\nwhenever a person is asked for: person\n  hand over Accounts: I pass you on.\n")
	return b.String()
}

func TestALargeScriptIsSound(t *testing.T) {
	r := Read(large(2000))
	faults := r.Check(Env{})
	if n := len(r.Places()); n < 1000 || n > MaxTurns || Errors(faults) > 0 {
		t.Errorf("%d turns, %+v", n, faults[:min(3, len(faults))])
	}
}

// A script of 500 turns read and proved: 50 ms are wanted.
func BenchmarkCheck500(b *testing.B) {
	text := large(500)
	for b.Loop() {
		r := Read(text)
		r.Check(Env{})
	}
}
