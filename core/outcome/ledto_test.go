package outcome

import (
	"strings"
	"testing"
	"time"
)

func TestLedTo(t *testing.T) {
	for _, c := range []struct{ name, story, contact, want string }{
		{"what was done before the contact, in order", "0s a asked; 5s a offered A-0001@1; 60s a opened A-0001@1; 120s a read A-0001@1; 200s a not_helped A-0001@1; 300s a requested R-0001; 400s a asked",
			"R-0001", "asked offered read not_helped"},
		{"an offer that was followed by another is not told", "0s a offered A-0001@1; 5s a offered A-0002@1; 9s a requested R-0001", "R-0001", "offered"},
		{"another question is none of it", "0s a asked; 31m a opened A-0001@1; 32m a requested R-0001", "R-0001", "opened"},
		{"of two contacts each has its own", "0s a asked; 1m a requested R-0001; 40m a opened A-0001@1; 41m a requested R-0002", "R-0002", "opened"},
		{"nothing", "0s a requested R-0001", "R-0001", ""},
		{"a contact that is not there", "0s a asked; 1m a requested R-0001", "R-0009", ""},
	} {
		var got []string
		for _, e := range LedTo(story(t, c.story), c.contact, day0.Add(24*time.Hour)) {
			got = append(got, string(e.Kind))
		}
		if strings.Join(got, " ") != c.want {
			t.Errorf("%s: %q, want %q", c.name, got, c.want)
		}
	}
}
