package search

import (
	"fmt"
	"strings"
	"sync"
	"testing"

	"hermeneus/core/audience"
)

func rules(t *testing.T, lines ...string) *Rules {
	t.Helper()
	var list []Synonyms
	for _, l := range lines {
		s, err := ParseSynonyms(l)
		if err != nil {
			t.Fatal(err)
		}
		list = append(list, s)
	}
	return NewRules(Weights{}, list, nil)
}

func foundBy(t *testing.T, x *Index, r Request) string {
	t.Helper()
	if r.Limit == 0 {
		r.Limit = 10
	}
	result, err := x.Find(r)
	if err != nil {
		t.Fatal(err)
	}
	var refs []string
	for _, h := range result.Hits {
		refs = append(refs, h.Reference)
	}
	return strings.Join(refs, " ")
}

var tariffs = []Document{
	{Reference: "A-0001", Title: "The night rate", Body: "Cheaper hours."},
	{Reference: "A-0002", Title: "Off-peak hours", Body: "When the day rate ends."},
	{Reference: "A-0003", Title: "The member app", Body: "Sign in on your phone."},
	{Reference: "A-0004", Title: "A night without power", Body: "Look at the fuse box."},
}

func TestSynonymsWorkBothWaysOrOne(t *testing.T) {
	x := library(t, tariffs...)
	both, one := rules(t, "night rate, off-peak, economy hours"), rules(t, "program => member app")
	for _, c := range []struct {
		name, words string
		rules       *Rules
		want        string
	}{
		{"without a rule a word nobody wrote finds nothing", "economy", nil, ""},
		{"a phrase finds what is said otherwise", "off-peak", both, "A-0002 A-0001"},
		{"and the other way round", "my night rates", both, "A-0001 A-0002 A-0004"},
		{"a phrase no article holds", "economy hours", both, "A-0002 A-0001"},
		{"one way", "program", one, "A-0003"},
		{"and not back", "member app", one, "A-0003"},
		{"half a phrase has no synonyms", "rate", both, "A-0001 A-0002"},
	} {
		if got := foundBy(t, x, Request{Words: c.words, Rules: c.rules}); got != c.want {
			t.Errorf("%s: %q finds %q, want %q", c.name, c.words, got, c.want)
		}
	}
}

func TestSynonymsThatCannotBeReadAreRefused(t *testing.T) {
	for _, text := range []string{"", "alone", "a, ", "=> b", "a =>", "one two three four five six seven, b", "!, ?"} {
		if _, err := ParseSynonyms(text); err == nil {
			t.Errorf("%q was taken", text)
		}
	}
}

func FuzzParseSynonyms(f *testing.F) {
	f.Add("night rate, off-peak => a")
	f.Fuzz(func(_ *testing.T, text string) {
		if s, err := ParseSynonyms(text); err == nil {
			NewRules(Weights{}, []Synonyms{s}, nil)
		}
	})
}

func TestPinsComeFirstAndTheBuriedNotAtAll(t *testing.T) {
	docs := append(
		[]Document{{Reference: "A-0009", Title: "Night rate limits", Body: "For agents.", Audience: audience.Staff}},
		tariffs...)
	x := library(t, docs...)
	r := NewRules(Weights{}, nil, []Pin{
		{Words: "what is the night rate?", Reference: "A-0003"},
		{Words: "night rates", Reference: "A-0009"},
		{Words: "power", Reference: "A-0004", Bury: true},
	})
	if got := foundBy(t, x, Request{Words: "Rate at night", Rules: r}); !strings.HasPrefix(got, "A-0003 A-0001") {
		t.Errorf("the same words in another form and order find %q", got)
	}
	if got := foundBy(t, x, Request{Words: "night rate of hours", Rules: r}); strings.HasPrefix(got, "A-0003 A-0001") {
		t.Errorf("another question has the pin: %q", got)
	}
	if got := foundBy(
		t,
		x,
		Request{Words: "night rate", Rules: r, Viewer: audience.Viewer{Staff: true}},
	); !strings.HasPrefix(
		got,
		"A-0003 A-0009 ",
	) {
		t.Errorf("staff find %q", got)
	}
	if got := foundBy(t, x, Request{Words: "power", Rules: r}); got != "" {
		t.Errorf("the buried is found: %q", got)
	}
}

func TestWeightsMoveWhatAFieldTells(t *testing.T) {
	x := library(
		t,
		Document{Reference: "A-0001", Title: "Heater", Body: "It glows."},
		Document{Reference: "A-0002", Title: "Lamp", Body: "A heater, a heater and a heater."},
	)
	if got := foundBy(t, x, Request{Words: "heater"}); got != "A-0001 A-0002" {
		t.Errorf("by the standard weights %q", got)
	}
	if got := foundBy(
		t,
		x,
		Request{Words: "heater", Rules: NewRules(Weights{0.1, 1, 1, 8}, nil, nil)},
	); got != "A-0002 A-0001" {
		t.Errorf("by a heavy body %q", got)
	}
}

// A field that tells nothing brings nobody in, and nobody twice.
func TestAFieldWithoutWeightFindsNothing(t *testing.T) {
	x := library(
		t,
		Document{Reference: "A-0001", Title: "Heater lamp", Body: "x"},
		Document{Reference: "A-0002", Title: "y", Body: "A heater and a lamp."},
	)
	if got := foundBy(
		t,
		x,
		Request{Words: "heater lamp", Rules: NewRules(Weights{0, 1, 1, 1}, nil, nil)},
	); got != "A-0002" {
		t.Errorf("found %q", got)
	}
}

func TestRulesAreTriedWithoutBeingKept(t *testing.T) {
	x := library(t, tariffs...)
	kept := NewRules(Weights{}, nil, []Pin{{Words: "economy", Reference: "A-0003"}})
	more, _ := ParseSynonyms("economy, off-peak")
	tried := kept.With(Weights{1, 1, 1, 1}, []Synonyms{more})
	if got := foundBy(t, x, Request{Words: "economy", Rules: tried}); got != "A-0003 A-0002" {
		t.Errorf("tried, it finds %q", got)
	}
	if got := foundBy(t, x, Request{Words: "economy", Rules: kept}); got != "A-0003" {
		t.Errorf("kept, it finds %q", got)
	}
	var none *Rules
	if got := foundBy(t, x, Request{Words: "economy", Rules: none.With(Weights{}, []Synonyms{more})}); got != "A-0002" {
		t.Errorf("with none before, it finds %q", got)
	}
}

// Indexes become others while documents are put into them: no term gets another's number.
func TestPuttingWhileBecomingAnotherKeepsTheTerms(t *testing.T) {
	x := library(t, tariffs...)
	var working sync.WaitGroup
	for i := range 4 {
		working.Go(func() {
			for n := range 40 {
				if err := x.Put(
					Document{
						Reference: "A-0050",
						Title:     fmt.Sprint("zebra", i, n, " giraffe"),
						Audience:  audience.Everyone,
					},
				); err != nil {
					t.Error(err)
				}
			}
		})
	}
	working.Go(func() {
		for range 40 {
			x.Become(
				library(
					t,
					append([]Document{{Reference: "A-0090", Title: "Other words come first here"}}, tariffs...)...),
			)
		}
	})
	working.Wait()
	if err := x.Put(Document{Reference: "A-0051", Title: "zeppelin", Audience: audience.Everyone}); err != nil {
		t.Fatal(err)
	}
	for words, want := range map[string]string{"member app": "A-0003", "zeppelin": "A-0051", "fuse box": "A-0004"} {
		if got := foundBy(t, x, Request{Words: words}); got != want {
			t.Errorf("%q finds %q, want %q", words, got, want)
		}
	}
}

func TestOnlyCategoriesOfASiteAreFound(t *testing.T) {
	x := library(
		t,
		Document{Reference: "A-0001", Title: "Heater", Category: 1},
		Document{Reference: "A-0002", Title: "Heater", Category: 2},
	)
	within := func(category int64) bool { return category == 2 }
	if got := foundBy(t, x, Request{Words: "heater", Within: within}); got != "A-0002" {
		t.Errorf("within a category %q", got)
	}
	if got := foundBy(t, x, Request{Words: "A-0001", Within: within}); got != "" {
		t.Errorf("by its reference %q", got)
	}
}

func TestExplainSaysWhyAndAddsUp(t *testing.T) {
	x := library(
		t,
		append([]Document{{Reference: "A-0009", Title: "Night rate limits", Audience: audience.Staff}}, tariffs...)...)
	r := Request{
		Words: "night raet giraffe",
		Rules: NewRules(Weights{}, nil, []Pin{{Words: "night raet giraffe", Reference: "A-0004"}}),
	}
	result, err := x.Find(Request{Words: r.Words, Limit: 10})
	if err != nil || len(result.Instead) != 1 || result.Instead[0] != (Instead{"raet", "rate"}) {
		t.Fatal(result.Instead, err)
	}
	for _, h := range result.Hits {
		e, err := x.Explain(r, h.Reference)
		if err != nil {
			t.Fatal(err)
		}
		sum := e.Nearness
		for _, w := range e.Words {
			sum += w.Score
		}
		if diff := sum - h.Score; diff > 1e-4 || diff < -1e-4 || !e.Seen || e.Unknown != 1 {
			t.Errorf("%s scores %.5f, explained as %.5f: %+v", h.Reference, h.Score, sum, e)
		}
		if (h.Reference == "A-0004") != e.Pinned || e.Pinned && e.Place != 1 {
			t.Errorf("%s: pinned %v, place %d", h.Reference, e.Pinned, e.Place)
		}
	}
	if e, err := x.Explain(r, "A-0009"); err != nil || e.Seen || e.Place != 0 {
		t.Errorf("what the viewer may not see: %+v, %v", e, err)
	}
	if _, err := x.Explain(r, "A-0077"); err == nil {
		t.Error("an article that is not there is explained")
	}
}

func TestATrialLeavesTheIndexAlone(t *testing.T) {
	x := library(t, tariffs...)
	trial, err := x.With(
		Document{Reference: "A-0003", Title: "Heater", Audience: audience.Everyone},
		Document{Reference: "A-0008", Title: "Zeppelin", Audience: audience.Everyone},
	)
	if err != nil {
		t.Fatal(err)
	}
	for words, want := range map[string][2]string{"heater": {"", "A-0003"}, "member app": {"A-0003", ""}, "zeppelin": {"", "A-0008"}, "night rate": {"A-0001 A-0004 A-0002", "A-0001 A-0004 A-0002"}} {
		if before, after := foundBy(t, x, Request{Words: words}), foundBy(
			t,
			trial,
			Request{Words: words},
		); before != want[0] ||
			after != want[1] {
			t.Errorf("%q finds %q in the index and %q in the trial, want %q", words, before, after, want)
		}
	}
}

func TestPuttingOverAndOverKeepsTheIndexWhole(t *testing.T) {
	x := library(t, tariffs...)
	for range 200 {
		if err := x.Put(tariffs[1]); err != nil {
			t.Fatal(err)
		}
	}
	fresh := library(t, tariffs...)
	for _, words := range []string{"night rate", "off-peak", "hours", "fuse box app"} {
		a, _ := x.Search(words, audience.Viewer{}, 10)
		b, _ := fresh.Search(words, audience.Viewer{}, 10)
		if len(a) != len(b) {
			t.Fatalf("%q finds %d and %d", words, len(a), len(b))
		}
		for i := range a {
			if a[i].Reference != b[i].Reference || a[i].Score != b[i].Score {
				t.Errorf(
					"%q: %s %.6f, in a fresh index %s %.6f",
					words,
					a[i].Reference,
					a[i].Score,
					b[i].Reference,
					b[i].Score,
				)
			}
		}
	}
	if n := len(x.segments[English].docs); n > 80 {
		t.Errorf("%d documents are kept of %d", n, len(tariffs))
	}
}
