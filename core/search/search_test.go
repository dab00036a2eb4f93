package search

import (
	"errors"
	"fmt"
	"math"
	"strings"
	"testing"

	"hermeneus/core/audience"
)

func library(t testing.TB, docs ...Document) *Index {
	t.Helper()
	x := New()
	for i := range docs {
		if docs[i].Audience == "" {
			docs[i].Audience = audience.Everyone
		}
	}
	if err := x.Put(docs...); err != nil {
		t.Fatal(err)
	}
	return x
}

func found(t *testing.T, x *Index, words string, viewer audience.Viewer) string {
	t.Helper()
	hits, err := x.Search(words, viewer, 10)
	if err != nil {
		t.Fatal(err)
	}
	var refs []string
	for _, h := range hits {
		refs = append(refs, h.Reference)
	}
	return strings.Join(refs, " ")
}

var meters = []Document{
	{
		Reference: "A-0001",
		Title:     "Give a meter reading",
		Keywords:  []string{"submit reading", "smart meter"},
		Body:      "Open the cupboard.\nWrite down the five digits, and leave out the red one.",
	},
	{
		Reference: "A-0002",
		Title:     "Why a bill is estimated",
		Headings:  []string{"No reading"},
		Body:      "We estimate a bill when no meter reading reached us.",
	},
	{Reference: "A-0003", Title: "Power is off", Body: "Look at the fuse box first. Then ring the fault line."},
}

func TestSearchFindsByFieldsStemsAndSlips(t *testing.T) {
	x := library(t, meters...)
	for _, c := range []struct{ name, words, want string }{
		{"the title outweighs the text", "meter reading", "A-0001 A-0002"},
		{"another form of the word", "estimating bills", "A-0002"},
		{"a whole question", "how do I submit the reading of my smart meter?", "A-0001 A-0002"},
		{"one slip in a word", "metter", "A-0001 A-0002"},
		{"two slips in a long word", "estimmatde bill", "A-0002"},
		{"two words run together", "smartmeter", "A-0001"},
		{"a number is never taken for another", "reading 5", "A-0001 A-0002"},
		{"a keyword", "smart", "A-0001"},
		{"empty words alone are looked for in titles", "is off", "A-0003 A-0002"},
		{"empty words that no title holds", "themselves", ""},
		{"a reference", "what does a-0003 say?", "A-0003"},
		{"nothing at all", "  ", ""},
		{"nothing that fits", "giraffe", ""},
		{"one common word of many is not enough", "reading giraffe balloon trumpet canary violet", ""},
		{"marks and symbols", `"+-*/()[]{}^~:\ power`, "A-0003"},
	} {
		t.Run(c.name, func(t *testing.T) {
			if got := found(t, x, c.words, audience.Viewer{}); got != c.want {
				t.Errorf("got %q, want %q", got, c.want)
			}
		})
	}
	if _, err := x.Search(strings.Repeat("é", MaxQuery+1), audience.Viewer{}, 3); !errors.Is(err, ErrTooLong) {
		t.Errorf("a question over the limit: %v", err)
	}
	if _, err := x.Search(strings.Repeat("reading ", MaxQuery/8), audience.Viewer{}, 3); err != nil {
		t.Errorf("a question at the limit: %v", err)
	}
}

func TestSearchShowsNobodyWhatIsNotForThem(t *testing.T) {
	x := library(t,
		Document{Reference: "A-0001", Title: "Refund rules", Body: "refund", Audience: audience.Everyone},
		Document{Reference: "A-0002", Title: "Refund for members", Body: "refund", Audience: audience.SignedIn},
		Document{Reference: "A-0003", Title: "Refund limits for agents", Body: "refund", Audience: audience.Staff},
	)
	for want, viewer := range map[string]audience.Viewer{"A-0001": {}, "A-0001 A-0002": {SignedIn: true}, "A-0001 A-0002 A-0003": {Staff: true}} {
		got := found(t, x, "refund", viewer)
		if len(strings.Fields(got)) != len(strings.Fields(want)) {
			t.Errorf("%+v sees %q, want %q", viewer, got, want)
		}
	}
}

func TestPutReplacesAndRemovingRemoves(t *testing.T) {
	x := library(t, meters...)
	if err := x.Put(
		Document{Reference: "A-0003", Title: "Gas leak", Body: "Leave the house.", Audience: audience.Everyone},
	); err != nil {
		t.Fatal(err)
	}
	if got := found(t, x, "fuse box", audience.Viewer{}); got != "" {
		t.Errorf("the old text is still found: %s", got)
	}
	x.RemoveArticle("A-0003")
	x.RemoveArticle("A-0099")
	if n := x.Count(); n != 2 || found(t, x, "gas leak", audience.Viewer{}) != "" {
		t.Errorf("%d documents are left", n)
	}
	x.Become(library(t, meters[1:]...))
	if n := x.Count(); n != 2 || found(t, x, "cupboard", audience.Viewer{}) != "" ||
		found(t, x, "fuse", audience.Viewer{}) != "A-0003" {
		t.Errorf("after replacing, %d documents are left", n)
	}
}

// Robertson & Zaragoza, The Probabilistic Relevance Framework: BM25 and Beyond (2009),
// formula 3.11, with one field: idf · tf'·(k1+1)/(k1+tf'), tf' = tf/(1 − b + b·length/average).
func TestTheScoringModelIsTheOneDescribed(t *testing.T) {
	filler := strings.Repeat("zebra ", 10)
	x := library(t,
		Document{Reference: "A-0001", Body: "battery"},
		Document{Reference: "A-0002", Body: "battery battery battery " + filler[:6*7]},
		Document{Reference: "A-0003", Body: filler},
	)
	for ref, c := range map[string]struct{ tf, length float64 }{"A-0001": {1, 1}, "A-0002": {3, 10}} {
		e, err := x.Explain(Request{Words: "battery"}, ref)
		if err != nil {
			t.Fatal(err)
		}
		idf := math.Log(1 + (3-2+0.5)/(2+0.5))
		tf := c.tf / (1 - 0.75 + 0.75*c.length/7)
		if want := idf * tf * (1.6 + 1) / (1.6 + tf); math.Abs(e.Words[0].Score-want) > 1e-5 {
			t.Errorf("%s scores %.5f by its word, want %.5f", ref, e.Words[0].Score, want)
		}
	}
}

func TestPassageShowsTheBestBlockWithItsWordsMarked(t *testing.T) {
	x := library(t, meters...)
	hits, _ := x.Search("red digits", audience.Viewer{}, 1)
	p := hits[0].Passage
	if p.Text() != "Write down the five digits, and leave out the red one." {
		t.Errorf("passage %q", p.Text())
	}
	var marked []string
	for _, r := range p {
		if r.Hit {
			marked = append(marked, r.Text)
		}
	}
	if strings.Join(marked, " ") != "digits red" {
		t.Errorf("marked %q", marked)
	}
}

func TestALongBlockIsCutAroundItsWords(t *testing.T) {
	filler := strings.Repeat("ünd so weiter ", 60)
	x := library(t, Document{Reference: "A-0001", Title: "x", Body: filler + "the amber light blinks " + filler})
	hits, _ := x.Search("amber light", audience.Viewer{}, 1)
	text := hits[0].Passage.Text()
	if !strings.HasPrefix(text, "… ") || !strings.HasSuffix(text, " …") || !strings.Contains(text, "amber light") ||
		len(text) > passageLength+20 {
		t.Errorf("passage %q", text)
	}
}

func FuzzSearch(f *testing.F) {
	x := library(f, meters...)
	f.Add("meter readings?")
	f.Add("\x00 é*? \\\"")
	f.Fuzz(func(t *testing.T, words string) {
		if _, err := x.Search(words, audience.Viewer{}, 3); err != nil && !errors.Is(err, ErrTooLong) {
			t.Errorf("%q: %v", words, err)
		}
	})
}

func BenchmarkSearch(b *testing.B) {
	var docs []Document
	for i := range 1000 {
		docs = append(
			docs,
			Document{
				Reference: fmt.Sprintf("A-%04d", i+1),
				Title:     fmt.Sprint("Reading number ", i),
				Body:      strings.Repeat("a meter and a bill ", 20),
			},
		)
	}
	x := library(b, docs...)
	for b.Loop() {
		if _, err := x.Search("why is my bill higher than my meter reading", audience.Viewer{}, 10); err != nil {
			b.Fatal(err)
		}
	}
}

// What fits the subject of a letter comes before what fits only the text below it.
func TestTheSubjectOfARequestComesFirst(t *testing.T) {
	x := New()
	put := func(ref, title, body string) {
		x.Put(
			Document{
				Reference: ref,
				Revision:  1,
				Title:     title,
				Body:      "<p>" + body + "</p>",
				Audience:  audience.Everyone,
			},
		)
	}
	put("A-0001", "Move out", "Tell us the day you move out.")
	put("A-0002", "Planned work", "We switch off at noon and leave keys.")
	for i := range 40 {
		put(fmt.Sprintf("A-1%03d", i), "Moving the meter", "To move a meter takes a day.")
	}
	first := func(subject, words string) string {
		found, err := x.FindRequest(Request{Words: words, Limit: 3}, subject)
		if err != nil || len(found.Hits) == 0 {
			t.Fatalf("%q: %v", words, err)
		}
		return found.Hits[0].Reference
	}
	letter := "moving out\nwe leave the keys at noon"
	if got := first("moving out", letter); got != "A-0001" {
		t.Errorf("with its subject: %s", got)
	}
	if got := first("", letter); got != "A-0002" {
		t.Errorf("without a subject the case shows nothing: %s", got)
	}
}
