package article

import (
	"errors"
	"os"
	"reflect"
	"slices"
	"strings"
	"testing"
	"time"

	"golang.org/x/net/html"

	"hermeneus/core/markup"
)

func TestReferencesAreWrittenAndRead(t *testing.T) {
	if Reference(42) != "A-0042" || RevisionReference(42, 3) != "A-0042@3" {
		t.Error("a reference is written wrongly")
	}
	for in, want := range map[string][3]int{"A-0042": {42, 0, 1}, "A-0042@3": {42, 3, 1}, "A-12345": {12345, 0, 1}, "A-42": {}, "A-0042@": {}, "B-0042": {}, "A-0000": {}} {
		n, r, ok := ParseReference(in)
		if n != want[0] || ok != (want[2] == 1) || r != want[1] {
			t.Errorf("%s: %d, %d, %v", in, n, r, ok)
		}
	}
}

const picture = "/files/0123456789abcdef0123456789abcdef0123456789abcdef0123456789abcdef"

// attacks are from memory, after published cheat sheets against cross-site
// scripting, and some made for the elements of this house. A string that runs over
// two lines goes on with a line that begins with ">".
func attacks(t *testing.T) []string {
	t.Helper()
	raw, err := os.ReadFile("testdata/attacks.txt")
	if err != nil {
		t.Fatal(err)
	}
	list := strings.Split(strings.ReplaceAll(strings.TrimSpace(string(raw)), "\n>", "\r>"), "\n")
	for i := range list {
		list[i] = strings.ReplaceAll(list[i], "\r>", "\n>")
	}
	if len(list) < 80 {
		t.Fatalf("only %d attacks", len(list))
	}
	return list
}

// That none of them runs in a real page is shown in the browser (e2e/attacks.spec.ts).
func TestSanitiseRemovesWhatCouldRun(t *testing.T) {
	for _, attack := range attacks(t) {
		clean, err := Sanitise("<p>before</p>" + attack)
		if err != nil {
			t.Fatal(err)
		}
		for _, made := range []string{clean, markup.Canonical(clean), Present(clean, nil).HTML} {
			for n := range markup.Root(markup.Parse(made)).Descendants() {
				if n.Type != html.ElementNode {
					continue
				}
				if _, ok := allowed[n.Data]; !ok && n.Data != "div" {
					t.Errorf("%s\nleft the element %s in %s", attack, n.Data, made)
				}
				for _, a := range n.Attr {
					if strings.HasPrefix(a.Key, "on") || strings.Contains(strings.ToLower(a.Val), "script:") ||
						strings.HasPrefix(a.Val, "data:") {
						t.Errorf("%s\nleft %s=%q in %s", attack, a.Key, a.Val, made)
					}
				}
			}
		}
		if !strings.Contains(clean, "before") {
			t.Errorf("%s took its surroundings with it: %s", attack, clean)
		}
		if again, _ := Sanitise(clean); again != clean {
			t.Errorf("%s: sanitising twice changes the text", attack)
		}
	}
}

func TestSanitiseKeepsWhatTheEditorMakes(t *testing.T) {
	body := `<h2 id="first">Read it</h2><ol><li><p>Press <strong>Menu</strong>.</p></li></ol><p><img src="` + picture + `" alt="The meter"/></p><p><a href="/help/articles/A-0001">see</a></p><table><tbody><tr><td>1</td></tr></tbody></table>`
	clean, err := Sanitise(body)
	if err != nil || clean != body {
		t.Errorf("%v\ngot  %s\nwant %s", err, clean, body)
	}
	if again, _ := Sanitise(clean); again != clean {
		t.Error("sanitising twice changes the text")
	}
	if _, err := Sanitise(strings.Repeat("x", MaxBody+1)); !errors.Is(err, ErrTooLarge) {
		t.Errorf("over 1 MB: %v", err)
	}
}

func FuzzSanitise(f *testing.F) {
	f.Add(`<p onclick=x>a<script>b`)
	f.Fuzz(func(t *testing.T, body string) {
		clean, err := Sanitise(body)
		if err != nil {
			return
		}
		if low := strings.ToLower(clean); strings.Contains(low, "<script") {
			t.Errorf("%q left %q", body, clean)
		}
		Read(clean)
	})
}

func TestReadTakesATextApart(t *testing.T) {
	o := Read(
		`<h2>Steps &amp; tips</h2><p>One<br>two</p><ul><li><p>three</p></li></ul><p><img src="` + picture + `" alt="a dial"></p>`,
	)
	if want := []string{"Steps & tips", "One two", "three", "a dial"}; !reflect.DeepEqual(o.Blocks, want) {
		t.Errorf("blocks %q", o.Blocks)
	}
	if !reflect.DeepEqual(o.Headings, []string{"Steps & tips"}) || len(o.Files) != 1 {
		t.Errorf("headings %q, pictures %q", o.Headings, o.Files)
	}
	if o.Text() != "Steps & tips\nOne two\nthree\na dial" || o.Words() != 8 {
		t.Errorf("text %q, %d words", o.Text(), o.Words())
	}
	if got := o.Summary(10); got != "One two…" {
		t.Errorf("summary %q", got)
	}
}

func TestReadAfterIsTheSmallerOfTwentySecondsAndThirtyPerCent(t *testing.T) {
	for words, want := range map[int]time.Duration{0: 3 * time.Second, 33: 3 * time.Second, 100: 9 * time.Second, 200: 18 * time.Second, 223: 20 * time.Second, 5000: 20 * time.Second} {
		if got := ReadAfter(words); got != want {
			t.Errorf("%d words: %v, want %v", words, got, want)
		}
	}
}

func TestAddressesOutsideAreListedOnce(t *testing.T) {
	body := `<p><a href="https://a.example/x">1</a> <a href="https://a.example/x">2</a> <a href="http://b.example">3</a> <a href="/help/articles/A-0001">4</a> <a href="mailto:a@b.example">5</a> <a href="https://` + strings.Repeat(
		"x",
		3000,
	) + `">6</a> <img src="https://c.example/y.png" alt="z"/></p>`
	if got := Read(body).Outside; !reflect.DeepEqual(got, []string{"https://a.example/x", "http://b.example"}) {
		t.Error(got)
	}
}

func TestPresentMakesATextReady(t *testing.T) {
	film := `<figure data-video="https://films.example/v/1"><figcaption>How to read it</figcaption></figure>`
	got := Present(
		`<h2>Read it</h2><p><img src="`+picture+`" alt="x"/></p><aside data-callout="danger"><p>y</p></aside>`+film+`<table><tbody><tr><td><p>1</p></td></tr></tbody></table>`,
		map[string]Picture{strings.TrimPrefix(picture, FilePath): {Width: 1200, Height: 600, Widths: []int{800, 400}}},
	)
	for _, want := range []string{`<h2 id="read-it">`, `srcset="` + picture + `?w=400 400w, ` + picture + `?w=800 800w, ` + picture + ` 1200w"`, `width="1200" height="600"`, `aria-label="Danger"`,
		`<a class="film" href="https://films.example/v/1"`, `from films.example`, `<div class="scroll" tabindex="0"`} {
		if !strings.Contains(got.HTML, want) {
			t.Errorf("%q is missing in %s", want, got.HTML)
		}
	}
	if strings.Contains(got.HTML, "<iframe") || len(got.Contents) != 1 {
		t.Errorf("%+v", got)
	}
}

func TestLinkTargets(t *testing.T) {
	for address, want := range map[string]int{"/help/articles/A-0042": 42, "/help/articles/A-0042/why-a-bill": 42, "/help/articles/A-0042#part": 42,
		"/help/articles/A-0042@3": 0, "/help/articles/x": 0, "https://post.example/help/articles/A-0042": 0} {
		if got, _ := LinkTarget(address); got != want {
			t.Errorf("%s: %d", address, got)
		}
	}
}

func TestWhatIsTakenOutIsListedByLine(t *testing.T) {
	got := TakenOut(
		"<p>a</p>\n<script>x</script>\n<p onclick=\"x\" class=\"y\">b <a href=\"javascript:x\">c</a></p>\n<img " +
			"src=\"https://elsewhere.example/p.gif\">",
	)
	want := []Removal{
		{2, "the element <script>"},
		{3, "the script in onclick of <p>"},
		{3, "a link to javascript:x"},
		{4, "a picture that is not kept here: https://elsewhere.example/p.gif"},
	}
	if !slices.Equal(got, want) {
		t.Errorf("got %+v", got)
	}
	if got := TakenOut(
		`<h2 id="x">a</h2><aside data-callout="note"><p>b</p></aside><details><summary>c</summary></details>`,
	); len(got) != 0 {
		t.Errorf("what may stay: %+v", got)
	}
}
