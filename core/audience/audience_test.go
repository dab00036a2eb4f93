package audience

import (
	"strings"
	"testing"
)

func TestWhoMaySeeWhat(t *testing.T) {
	anonymous := Viewer{}
	customer := Viewer{
		SignedIn: true,
	}
	staff := Viewer{
		Staff:  true,
		Groups: []string{"solar", "tenants"},
	}
	solar := Viewer{SignedIn: true, Groups: []string{"solar", "Broken key", ""}}
	for _, c := range []struct {
		name   string
		viewer Viewer
		a      Audience
		want   bool
	}{
		{"anyone sees what is for everyone", anonymous, Everyone, true},
		{"a visitor does not see what is for signed-in customers", anonymous, SignedIn, false},
		{"a visitor does not see what is for staff", anonymous, Staff, false},
		{"a customer sees what is for signed-in customers", customer, SignedIn, true},
		{"a customer does not see what is for staff", customer, Staff, false},
		{"staff see what is for staff", staff, Staff, true},
		{"a customer in a group sees what is for it", solar, Group("solar"), true},
		{"and what is for all signed-in customers", solar, SignedIn, true},
		{"but not what is for another group", solar, Group("tenants"), false},
		{"nor what is for staff", solar, Staff, false},
		{"a customer in no group does not see what is for one", customer, Group("solar"), false},
		{"who is signed out is in no group", Viewer{Groups: []string{"solar"}}, Group("solar"), false},
		{"staff see what is for a group", staff, Group("tenants"), true},
		{"a key that is none opens nothing", solar, Group("Broken key"), false},
		{"nor does an empty one", solar, Group(""), false},
		{"nobody sees an audience that is not known", staff, "nonsense", false},
	} {
		t.Run(c.name, func(t *testing.T) {
			if got := c.viewer.MaySee(c.a); got != c.want {
				t.Errorf("got %v", got)
			}
		})
	}
	order := []Audience{Everyone, SignedIn, Group("solar"), Staff}
	for i, a := range order {
		for j, b := range order {
			if a.WiderThan(b) != (i < j) {
				t.Errorf("%s wider than %s: %v", a, b, a.WiderThan(b))
			}
		}
	}
	if !Group("solar").WiderThan(Group("tenants")) || !Group("tenants").WiderThan(Group("solar")) {
		t.Error("of two groups, each has people that the other has not")
	}
	for a, want := range map[Audience]bool{Everyone: true, Group("solar-2"): true, Group(""): false, Group("Solar"): false, Group("-x"): false, "group": false, "": false} {
		if a.Valid() != want {
			t.Errorf("%q valid: %v", a, a.Valid())
		}
	}
}

func TestAGroupsKeyIsMadeOfItsName(t *testing.T) {
	for name, want := range map[string]string{
		" Solar & Wärme owners ":        "solar-warme-owners",
		"A/B -- trial_2":                "a-b-trial-2",
		"…!":                            "",
		strings.Repeat("x", 39) + " yz": strings.Repeat("x", 39),
	} {
		got := KeyOf(name)
		if got != want || got != "" && !GroupKey.MatchString(got) {
			t.Errorf("%q has the key %q, want %q", name, got, want)
		}
	}
}
