package flow

import (
	"testing"
)

// Every starter is sound as it stands, but for the empty one, which only begins.
func TestStartersAreSound(t *testing.T) {
	for _, b := range Starters {
		r := Read(b.Text(b.Name, "en", "Accounts"))
		if r.Script.Name != b.Name || len(r.Faults) > 0 {
			t.Errorf("%s: %q %+v", b.Key, r.Script.Name, r.Faults)
		}
		if b.Key == "" {
			continue
		}
		for _, f := range r.Check(Env{Teams: map[string]Staffing{"Accounts": {Agents: 1}}}) {
			t.Errorf("%s: %+v", b.Key, f)
		}
	}
}
