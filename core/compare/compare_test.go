package compare

import (
	"fmt"
	"math/rand/v2"
	"reflect"
	"regexp"
	"strings"
	"testing"

	"hermeneus/core/markup"
)

func TestCompareWordsMarksWhatCameAndWent(t *testing.T) {
	for _, c := range []struct {
		before, after string
		want          []Span
	}{
		{"Press the green button twice.", "Press the red button twice.", []Span{{Same, "Press the "}, {Removed, "green"}, {Added, "red"}, {Same, " button twice."}}},
		{"You can change the day twice a year.", "You can change the day as often as you like.",
			[]Span{{Same, "You can change the day "}, {Removed, "twice a year"}, {Added, "as often as you like"}, {Same, "."}}},
		{"Old words about nothing.", "Zebra quartz.", []Span{{Removed, "Old words about nothing."}, {Added, "Zebra quartz."}}},
		{"", "New", []Span{{Added, "New"}}},
	} {
		if got := CompareWords(c.before, c.after); !reflect.DeepEqual(got, c.want) {
			t.Errorf("%q → %q: got %+v", c.before, c.after, got)
		}
	}
}

func TestCompareShowsChangesInTheFlowOfThePage(t *testing.T) {
	for _, c := range []struct{ name, before, after, want string }{
		{"nothing changed", "<p>a b</p>", "<p>a b</p>", "<p>a b</p>"},
		{"a word", "<h2>T</h2><p>Press the green button.</p>", "<h2>T</h2><p>Press the red button.</p>",
			`<h2>T</h2><p data-change="changed">Press the <del>green</del><ins>red</ins> button.</p>`},
		{"a line came", "<p>one two</p>", "<p>one two</p><p>three</p>", `<p>one two</p><p data-change="added"><ins>three</ins></p>`},
		{"a line went", "<p>one two</p><p>three</p><p>four</p>", "<p>one two</p><p>four</p>",
			`<p>one two</p><p data-change="removed"><del>three</del></p><p>four</p>`},
		{"the last line went", "<p>one two</p><p>three</p>", "<p>one two</p>", `<p>one two</p><p data-change="removed"><del>three</del></p>`},
		{"bold only", "<p>Do it now please</p>", "<p>Do it <strong>now</strong> please</p>",
			`<p data-change="formatted">Do it <span data-change="formatted" title="was plain, now bold"><strong>now</strong></span> please</p>`},
		{"a heading only", "<p>Before you begin here</p>", "<h2>Before you begin here</h2>",
			`<h2 data-change="formatted" title="was a paragraph, now a heading">Before you begin here</h2>`},
		{"a line moved", "<p>The first thing to do</p><p>b b</p><p>c c</p>", "<p>b b</p><p>c c</p><p>The first thing to do</p>",
			`<p>b b</p><p>c c</p><p data-change="moved">The first thing to do</p>`},
		{"an item went", "<ol><li><p>one one</p></li><li><p>two two</p></li></ol>", "<ol><li><p>two two</p></li></ol>",
			`<ol><li><p data-change="removed"><del>one one</del></p></li><li><p>two two</p></li></ol>`},
		{"a cell", "<table><tbody><tr><td><p>day rate</p></td><td><p>20 pence a unit</p></td></tr></tbody></table>",
			"<table><tbody><tr><td><p>day rate</p></td><td><p>24 pence a unit</p></td></tr></tbody></table>",
			`<table><tbody><tr><td><p>day rate</p></td><td><p data-change="changed"><del>20</del><ins>24</ins> pence a unit</p></td></tr></tbody></table>`},
		{"a row went", "<table><tbody><tr><td><p>a a</p></td><td><p>b b</p></td></tr><tr><td><p>c c</p></td><td><p>d d</p></td></tr></tbody></table>",
			"<table><tbody><tr><td><p>c c</p></td><td><p>d d</p></td></tr></tbody></table>",
			`<p data-change="removed"><del>a a · b b</del></p><table><tbody><tr><td><p>c c</p></td><td><p>d d</p></td></tr></tbody></table>`},
		{"a picture", `<figure><img src="/files/1" alt="old"/><figcaption>same</figcaption></figure>`, `<figure><img src="/files/2" alt="new"/><figcaption>same</figcaption></figure>`,
			`<figure><img src="/files/1" alt="old" data-change="removed"/><img src="/files/2" alt="new" data-change="added"/><figcaption>same</figcaption></figure>`},
	} {
		t.Run(c.name, func(t *testing.T) {
			got := Compare(c.before, c.after)
			if got.HTML != c.want {
				t.Errorf("\ngot  %s\nwant %s", got.HTML, c.want)
			}
			if got.Any() != (c.before != c.after) {
				t.Errorf("counts %+v", got)
			}
		})
	}
	got := Compare("<p>one two three four</p><p>x y z</p>", "<p>x y z</p><p><em>one</em> two three four</p><p>new</p>")
	if got.Moved != 1 || got.Added != 1 || got.Removed != 0 || got.Changed != 0 {
		t.Errorf("counts %+v", got)
	}
}

var (
	insWords = regexp.MustCompile(`<ins>.*?</ins>`)
	delWords = regexp.MustCompile(`<p data-change="removed">.*?</p>|<del>.*?</del>`)
	anyTag   = regexp.MustCompile(`<[^>]+>`)
)

// What a comparison shows holds all words of the later text, in its order, once
// what went is left out; and what went is all there, once moved lines are known.
func TestCompareLosesNoWords(t *testing.T) {
	r := rand.New(rand.NewPCG(5, 6))
	text := func() string {
		var b strings.Builder
		for range r.IntN(9) {
			b.WriteString("<p>")
			for range 1 + r.IntN(7) {
				fmt.Fprintf(&b, "%c ", 'a'+r.IntN(5))
			}
			b.WriteString("</p>")
		}
		return markup.Canonical(b.String())
	}
	plainOf := func(s string) string {
		return strings.Join(strings.Fields(anyTag.ReplaceAllString(strings.ReplaceAll(s, "</p>", " "), "")), " ")
	}
	for range 2000 {
		before, after := text(), text()
		got := Compare(before, after)
		if now := plainOf(delWords.ReplaceAllString(got.HTML, "")); now != plainOf(after) {
			t.Fatalf("before %s\nafter %s\nshown %s\nread %q", before, after, got.HTML, now)
		}
		if got.Moved > 0 {
			continue // a moved line is shown where it stands now
		}
		if was := plainOf(
			insWords.ReplaceAllString(got.HTML, ""),
		); strings.ReplaceAll(
			was,
			" ",
			"",
		) != strings.ReplaceAll(
			plainOf(before),
			" ",
			"",
		) {
			t.Fatalf("before %s\nafter %s\nshown %s\nread %q", before, after, got.HTML, was)
		}
	}
}

func BenchmarkCompareTwentyThousandWords(b *testing.B) {
	before := longText(20_000)
	after := strings.ReplaceAll(before, "meter", "dial") + "<p>One more.</p>"
	b.ResetTimer()
	for b.Loop() {
		if !Compare(before, after).Any() {
			b.Fatal("no change was seen")
		}
	}
}

// longText makes a text of that many words, in paragraphs of 40.
func longText(n int) string {
	r := rand.New(rand.NewPCG(1, 2))
	vocabulary := strings.Fields(
		"the meter reading of a bill is taken when you send it and we read dial tariff night rate member account " +
			"power cut field team",
	)
	var b strings.Builder
	for i := range n {
		if i%40 == 0 {
			b.WriteString("<p>")
		}
		b.WriteString(vocabulary[r.IntN(len(vocabulary))])
		if i%40 == 39 || i == n-1 {
			b.WriteString(".</p>")
		} else {
			b.WriteByte(' ')
		}
	}
	return b.String()
}
