package role

import "testing"

func TestASetHasAnyOfTheWanted(t *testing.T) {
	s := Set{Author, Agent}
	for _, c := range []struct {
		wanted []Role
		want   bool
	}{{[]Role{Author}, true}, {[]Role{Reviewer, Agent}, true}, {[]Role{Reviewer}, false}, {nil, false}, {[]Role{"king"}, false}} {
		if s.Has(c.wanted...) != c.want {
			t.Errorf("%v", c.wanted)
		}
	}
	if (Set{Administrator}).Has(Publisher) {
		t.Error("an administrator stands in for a publisher")
	}
	if !Analyst.Valid() || Role("king").Valid() || Role("").Valid() {
		t.Error("which roles there are")
	}
}
