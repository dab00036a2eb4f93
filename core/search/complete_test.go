package search

import (
	"fmt"
	"strings"
	"testing"

	"hermeneus/core/audience"
)

func completed(x *Index, words string, viewer audience.Viewer) string {
	var out []string
	for _, s := range x.Complete(Request{Words: words, Viewer: viewer, Limit: 5}, 1) {
		if s.Question {
			out = append(out, s.Text)
		} else {
			out = append(out, s.Reference)
		}
	}
	return strings.Join(out, " | ")
}

func TestWhatIsTypedIsCompleted(t *testing.T) {
	x := library(t,
		Document{Reference: "A-0001", Title: "Give a meter reading", Keywords: []string{"smart meter"}},
		Document{Reference: "A-0002", Title: "Meter faults", Body: "A metre from it, within a metre, some metres off"},
		Document{Reference: "A-0003", Title: "Moving house", Keywords: []string{"meter on the day"}},
		Document{Reference: "A-0004", Title: "Meter limits for agents", Audience: audience.Staff},
	)
	x.SetQuestions(1, []Question{{"why is my meter blinking?", "A-0002", 9}, {"meter secrets", "A-0004", 99}})
	for _, c := range []struct{ name, words, want string }{
		{"a beginning", "met", "why is my meter blinking? | A-0002 | A-0001 | A-0003"},
		{"one letter", "m", "why is my meter blinking? | A-0002 | A-0003 | A-0001"},
		{"words in any order", "reading me", "A-0001"},
		{"a slip", "metar fau", "A-0002"},
		{"a slip that is nearer to a word of texts", "metre fau", "A-0002"},
		{"a keyword", "smar", "A-0001"},
		{"nothing like it", "giraffe", ""},
		{"nothing at all", "  ?", ""},
		{"more than anybody types", strings.Repeat("meter ", 13), ""},
	} {
		if got := completed(x, c.words, audience.Viewer{}); got != c.want {
			t.Errorf("%s: %q is completed by %q, want %q", c.name, c.words, got, c.want)
		}
	}
	if got := completed(
		x,
		"meter",
		audience.Viewer{Staff: true},
	); !strings.Contains(got, "meter secrets") ||
		!strings.Contains(got, "A-0004") {
		t.Errorf("staff are offered %q", got)
	}
}

func TestWhatIsReadMostIsOfferedFirst(t *testing.T) {
	x := library(t, Document{Reference: "A-0001", Title: "Lamp one"}, Document{Reference: "A-0002", Title: "Lamp two"})
	x.SetPopular(map[string]float32{"A-0002": 500})
	for _, words := range []string{"l", "lamp", "lamp t"} {
		if got := completed(x, words, audience.Viewer{}); !strings.HasPrefix(got, "A-0002") {
			t.Errorf("%q is completed by %q", words, got)
		}
	}
}

// A trial of so many drafts that the segment is made anew leaves the index as it was.
func TestATrialOfManyDraftsCompletesByItself(t *testing.T) {
	var docs, drafts []Document
	for i := range 80 {
		reference := fmt.Sprintf("A-%04d", i+1)
		docs = append(
			docs,
			Document{
				Reference: reference,
				Title:     fmt.Sprintf("Lamp %c%c", 'a'+i%26, 'a'+i/26),
				Audience:  audience.Everyone,
			},
		)
		drafts = append(
			drafts,
			Document{
				Reference: reference,
				Title:     fmt.Sprintf("Switch %c%c", 'a'+i%26, 'a'+i/26),
				Audience:  audience.Everyone,
			},
		)
	}
	x := library(t, docs...)
	trial, err := x.With(drafts...)
	if err != nil {
		t.Fatal(err)
	}
	for _, c := range []struct {
		in          *Index
		words, want string
	}{{x, "lamp bb", "A-0028"}, {x, "switch", ""}, {trial, "switch bb", "A-0028"}, {trial, "lamp", ""}} {
		if got := completed(c.in, c.words, audience.Viewer{}); got != c.want {
			t.Errorf("%q is completed by %q, want %q", c.words, got, c.want)
		}
	}
	if err := x.Put(Document{Reference: "A-0099", Title: "Aardvark lamp", Audience: audience.Everyone}); err != nil {
		t.Fatal(err)
	}
	if got := completed(x, "aar", audience.Viewer{}); got != "A-0099" {
		t.Errorf("a new word is completed by %q", got)
	}
}
