package exchange

import (
	"bytes"
	"encoding/json"
	"os"
	"os/exec"
	"strings"
	"testing"

	"hermeneus/core/article"
	"hermeneus/core/markup"
)

// example is one of the specification's.
type example struct {
	Markdown, HTML, Section string
	Number                  int
}

// specification gives the examples of CommonMark 0.31.2, from the npm package
// commonmark-spec.
func specification(t *testing.T) []example {
	t.Helper()
	out, err := exec.Command("node", "testdata/spec.mjs").Output()
	if err != nil {
		if os.Getenv("CI") == "" {
			t.Skip("the specification is not installed: run the tests with make test")
		}
		t.Fatal(err)
	}
	var list []example
	if err := json.Unmarshal(out, &list); err != nil {
		t.Fatal(err)
	}
	if len(list) < 650 {
		t.Fatalf("only %d examples", len(list))
	}
	return list
}

// Every example of the specification is brought in, taken out and brought in
// again. What comes in is compared with the specification's own HTML after both
// went the same way into an article: foreign elements adapted, what could run
// taken out, white space that does not show taken away (article.Canonical). What
// comes in the second time must be the same as the first time. No example is left
// out.
func TestEveryExampleOfTheSpecificationKeepsItsMeaning(t *testing.T) {
	raws := 0
	for _, e := range specification(t) {
		adapted, err := FromMarkdown(e.Markdown, nil)
		if err != nil {
			t.Fatal(err)
		}
		in := clean(t, adapted)
		if want := clean(t, captions(article.Adapt(e.HTML, nil))); in != want {
			t.Errorf("example %d (%s)\n%q\nread as %s\nwant    %s", e.Number, e.Section, e.Markdown, in, want)
			continue
		}
		md := ToMarkdown(in)
		back, err := FromMarkdown(md, nil)
		if err != nil {
			t.Fatal(err)
		}
		if again := clean(t, back); again != in {
			t.Errorf("example %d (%s)\nwritten %q\nback %s\nwant %s", e.Number, e.Section, md, again, in)
		}
		if again := ToMarkdown(clean(t, back)); again != md {
			t.Errorf("example %d: written twice, %q and %q", e.Number, md, again)
		}
		if strings.Contains(md, "<p>") || strings.Contains(md, "<ul>") || strings.Contains(md, "<ol>") ||
			strings.Contains(md, "<pre>") {
			raws++
		}
	}
	t.Logf("%d examples needed HTML for a block that CommonMark has a form for", raws)
	if raws > 70 {
		t.Errorf("%d examples came out as HTML", raws)
	}
}

func clean(t *testing.T, body string) string {
	t.Helper()
	s, err := article.Sanitise(body)
	if err != nil {
		t.Fatal(err)
	}
	return markup.Canonical(s)
}

func TestMarkdownReadsWellAndComesBack(t *testing.T) {
	picture := "/files/" + strings.Repeat("0123456789abcdef", 4)
	for _, c := range []struct{ name, body, want string }{
		{"words", "<p>One <strong>two</strong> <em>three</em> <code>4</code></p>", "One **two** *three* `4`\n"},
		{"headings and steps", "<h2>Steps</h2><ol><li><p>Press it.</p></li><li><p>Wait.</p></li></ol>", "## Steps\n\n1. Press it.\n2. Wait.\n"},
		{"two lists", "<ul><li><p>a</p></li></ul><ul><li><p>b</p></li></ul>", "- a\n\n<!-- -->\n\n- b\n"},
		{"a callout", `<aside data-callout="danger"><p>Keep <strong>away</strong>.</p></aside>`, "<aside data-callout=\"danger\">\n\nKeep **away**.\n\n</aside>\n"},
		{"an expandable part", "<details><summary>More</summary><p>It is so.</p></details>", "<details>\n<summary>More</summary>\n\nIt is so.\n\n</details>\n"},
		{"a caption", `<figure><img src="` + picture + `" alt="A dial"/><figcaption>The old kind</figcaption></figure>`, "![A dial](" + picture + " \"The old kind\")\n"},
		{"a table", "<table><tbody><tr><th><p>Rate</p></th><th><p>Pence</p></th></tr><tr><td><p>Day</p></td><td><p>24</p></td></tr></tbody></table>",
			"| Rate | Pence |\n|------|-------|\n| Day  | 24    |\n"},
	} {
		t.Run(c.name, func(t *testing.T) {
			md := ToMarkdown(c.body)
			if md != c.want {
				t.Errorf("got %q\nwant %q", md, c.want)
			}
			if back, err := FromMarkdown(md, nil); err != nil || back != c.body {
				t.Errorf("back %s, %v", back, err)
			}
		})
	}
}

func FuzzMarkdownComesBack(f *testing.F) {
	f.Add("# a\n\n- b\n  > c\n\n| x | y |\n|---|---|\n| 1 | 2 |")
	f.Add("<details><summary>a</summary>\n\n* b\n\n</details>")
	f.Fuzz(func(t *testing.T, source string) {
		in, err := FromMarkdown(source, nil)
		if err != nil {
			return
		}
		safe, err := article.Sanitise(in)
		if err != nil {
			return
		}
		body := markup.Canonical(safe)
		if markup.Canonical(body) != body {
			return // markup that browsers mend differently each time
		}
		back, err := FromMarkdown(ToMarkdown(body), nil)
		if err != nil || clean(t, back) != body && !bytes.ContainsAny([]byte(source), "\x00\r") {
			t.Errorf("%q\nbody %q\nback %q", source, body, back)
		}
	})
}
