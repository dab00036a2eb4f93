package exchange

import (
	"bytes"
	"errors"
	"os"
	"reflect"
	"strings"
	"testing"
	"testing/fstest"

	"hermeneus/core/article"
	"hermeneus/core/markup"
)

func TestFrontMatterIsReadAndWritten(t *testing.T) {
	head := Head{
		Key:       "k-1",
		Reference: "A-0042",
		Title:     "Why: a bill",
		Kind:      "fix",
		Audience:  "everyone",
		Owner:     "ada@wrenmoor.example",
		Keywords: []string{
			"high bill",
			"why, so much",
		},
		SearchDescription: "It is an estimate.",
		RecheckDays:       90,
		InterimUntil:      "2026-05-01",
		Order:             3,
	}
	raw, err := head.Write("<p>Because.</p>")
	if err != nil {
		t.Fatal(err)
	}
	p, err := ReadMarkdown("bills/why.md", raw)
	if err != nil || !reflect.DeepEqual(p.Head, head) || strings.TrimSpace(p.Body) != "Because." {
		t.Errorf("%v\n%+v\n%q\n%s", err, p.Head, p.Body, raw)
	}
	again, err := p.Head.Write("<p>Because.</p>")
	if err != nil || !bytes.Equal(raw, again) {
		t.Errorf("written twice: %s", again)
	}
	for name, c := range map[string]struct{ file, title, body string }{
		"a heading is the title":      {"# Power is *off*\n\nCall.", "Power is *off*", "\nCall."},
		"else the file's name":        {"Call.", "Moving home", "Call."},
		"an empty head":               {"---\n---\nCall.", "Moving home", "Call."},
		"windows ends its lines so":   {"---\r\ntitle: A b\r\n---\r\nCall.", "A b", "Call."},
		"a line is no head":           {"Text\n---\nMore", "Moving home", "Text\n---\nMore"},
		"what is not known is passed": {"---\ntitle: A\nfurther: b\n---\nx", "A", "x"},
	} {
		p, err := ReadMarkdown("x/moving-home.md", []byte(c.file))
		if err != nil || p.Title != c.title || p.Body != c.body {
			t.Errorf("%s: %v, %q, %q", name, err, p.Title, p.Body)
		}
	}
	for _, bad := range []string{"---\ntitle: [\n---\n", "---\ninterim_until: soon\ntitle: x\n---\n", "---\nkeywords: {a: b}\n---\n"} {
		if _, err := ReadMarkdown("x.md", []byte(bad)); err == nil {
			t.Errorf("%q was read", bad)
		}
	}
}

func FuzzReadMarkdown(f *testing.F) {
	f.Add([]byte("---\ntitle: x\nkeywords: [a]\n---\n# b\n<p onclick=x>"))
	f.Fuzz(func(t *testing.T, raw []byte) {
		if p, err := ReadMarkdown("a/b.md", raw); err == nil {
			if _, _, err := p.Text(nil); err != nil && !errors.Is(err, article.ErrTooLarge) {
				t.Error(err)
			}
		}
	})
}

func TestAFolderIsReadWithItsCategoriesAndLinks(t *testing.T) {
	b, err := ReadFolder("set", fstest.MapFS{
		"bills/_category.yaml": {Data: []byte("name: Bills and payments\norder: 2\n")},
		"bills/high.md": {
			Data: []byte(
				"# High bill\n\n[move](../moving/out.md#day) ![dial](../files/dial.png) [gone](gone.md) " +
					"[site](https://post.example/)",
			),
		},
		"moving/out.md":             {Data: []byte("---\ntitle: Move out\n---\n\n## Day\n\nx")},
		"files/dial.png":            {Data: []byte("png")},
		".git/config":               {Data: []byte("x")},
		"bills/broken.md":           {Data: []byte("---\ntitle: [\n---\n")},
		"bills/archive/ref.md":      {Data: []byte("x")},
		"bills/archive/notes.txt":   {Data: []byte("x")},
		"bills/archive/.hidden.md":  {Data: []byte("x")},
		"bills/archive/deep/one.md": {Data: []byte("x")},
	})
	if err != nil {
		t.Fatal(err)
	}
	s := Read(b, Whole)
	var got []string
	for _, p := range s.Pages {
		got = append(got, strings.Join(p.Category, "/")+": "+p.Title)
	}
	want := []string{
		"Bills and payments/Archive/Deep: One",
		"Bills and payments/Archive: Ref",
		"Bills and payments: High bill",
		"Moving: Move out",
	}
	if !reflect.DeepEqual(got, want) {
		t.Errorf("got %q", got)
	}
	if len(s.Report) != 1 || s.Report[0].File != "bills/broken.md" || s.Categories["Bills and payments"].Order != 2 {
		t.Errorf("report %+v, categories %+v", s.Report, s.Categories)
	}
	high := s.Pages[2]
	for address, want := range map[string]Linked{
		"../moving/out.md#day":  {Page: 3, Fragment: "day"},
		"https://post.example/": {Page: -1, Outside: true},
		"../files/dial.png":     {Page: -1, File: []byte("png"), Name: "dial.png"},
	} {
		if got, ok := s.Follow(high, address); !ok || !reflect.DeepEqual(got, want) {
			t.Errorf("%s leads to %+v, %v", address, got, ok)
		}
	}
	if _, ok := s.Follow(high, "gone.md"); ok {
		t.Error("a file that is not there was found")
	}
}

func TestAZipIsTheFolderAgain(t *testing.T) {
	b := Bundle{"set", map[string][]byte{"a/one.md": []byte("1"), "b.md": []byte("2")}}
	raw, err := b.Zip()
	if err != nil {
		t.Fatal(err)
	}
	again, err := b.Zip()
	if err != nil || !bytes.Equal(raw, again) {
		t.Error("the same files made another archive")
	}
	back, err := ReadZip("set.zip", raw)
	if err != nil || !reflect.DeepEqual(back, b) {
		t.Errorf("%v, %+v", err, back)
	}
	nested := Bundle{"x", map[string][]byte{"top/a/one.md": []byte("1"), "top/b.md": []byte("2")}}
	raw, err = nested.Zip()
	if err != nil {
		t.Fatal(err)
	}
	if back, err := ReadZip("set.zip", raw); err != nil || !reflect.DeepEqual(back, b) {
		t.Errorf("%v, %+v", err, back)
	}
	if _, err := ReadZip("x.zip", []byte("not one")); err == nil {
		t.Error("anything is an archive")
	}
	outside := Bundle{"x", map[string][]byte{"../../etc/passwd.md": []byte("1")}}
	raw, _ = outside.Zip()
	if back, err := ReadZip("x.zip", raw); err != nil || len(back.Files) != 0 {
		t.Errorf("a path outside was kept: %+v", back)
	}
}

func TestAPageIsCutAtItsHeadings(t *testing.T) {
	page := `<html><head><title>T · Site</title></head><body><nav><h3>Menu</h3></nav><main><section id="top"><h1>Meters<a class="headerlink" href="#top">¶</a></h1>
	<p>About meters.</p><section id="reading"><h2>Reading</h2><section id="how"><h3>How do I read it?</h3><p>Look. <a href="#why">why</a></p><pre>a
b</pre></section><section id="why"><h3>Why?</h3><div class="admonition warning"><p class="admonition-title">Warning</p><p>Care.</p></div></section></section></section></main></body></html>`
	pages, lost := ReadHTML("m.html", []byte(page), Parts)
	if len(lost) != 0 || len(pages) != 3 {
		t.Fatalf("%+v %+v", pages, lost)
	}
	var got []string
	for _, p := range pages {
		body, _, err := p.Text(nil)
		if err != nil {
			t.Fatal(err)
		}
		got = append(got, p.Part+"|"+p.Title+"|"+strings.Join(p.Category, "/")+"|"+body)
	}
	want := []string{
		"top|Meters||<p>About meters.</p>",
		`how|How do I read it?|Meters/Reading|<p>Look. <a href="#why">why</a></p><pre><code>a` + "\n" + `b</code></pre>`,
		`why|Why?|Meters/Reading|<aside data-callout="caution"><p>Care.</p></aside>`,
	}
	if !reflect.DeepEqual(got, want) {
		t.Errorf("\ngot  %q\nwant %q", got, want)
	}
	pages, _ = ReadHTML("m.html", []byte(page), Whole)
	if len(pages) != 1 || pages[0].Title != "Meters" {
		t.Errorf("whole: %+v", pages)
	}
}

// The Python FAQ comes with Debian's python3.11-doc; it is open documentation and
// read where it is installed, not copied in.
func TestThePythonFAQComesInWhole(t *testing.T) {
	const folder = "/usr/share/doc/python3.11/html/faq"
	if _, err := os.Stat(folder); err != nil {
		if os.Getenv("CI") == "" {
			t.Skip("python3.11-doc is not installed: run the tests with make test")
		}
		t.Fatal(err)
	}
	b, err := ReadFolder("faq", os.DirFS(folder))
	if err != nil {
		t.Fatal(err)
	}
	s := Read(b, Parts)
	titles := map[string]int{}
	inside, kept := 0, 0
	for _, p := range s.Pages {
		titles[p.Title]++
		body, _, err := p.Text(func(address string, picture bool) (string, bool) {
			to, ok := s.Follow(p, address)
			file, _, _ := strings.Cut(address, "#")
			if ok && to.Page >= 0 {
				kept++
			}
			if !picture && (file == "" || b.Files[file] != nil) {
				inside++
				if !ok {
					t.Errorf("%s: the link to %s is lost", p.Title, address)
				}
			}
			return address, true
		})
		if err != nil {
			t.Errorf("%s: %v", p.Title, err)
		}
		if markup.Plain(body) == "" {
			t.Errorf("%s came in empty", p.Title)
		}
	}
	questions := faqQuestions(t, b)
	for _, q := range questions {
		if q == "General GUI Questions" {
			continue // a heading with nothing below it
		}
		if titles[q] == 0 {
			t.Errorf("%q is no article", q)
		}
		titles[q]--
	}
	t.Logf(
		"%d questions, %d articles, %d links within the set, %d lead to an article",
		len(questions),
		len(s.Pages),
		inside,
		kept,
	)
	if len(questions) < 170 || kept < 10 || kept != inside {
		t.Errorf("%d questions, %d links kept: the test shows too little", len(questions), kept)
	}
}

// faqQuestions finds the questions of the FAQ another way than ReadHTML does: by
// the table of contents that stands at the head of each of its pages.
func faqQuestions(t *testing.T, b Bundle) []string {
	t.Helper()
	var list []string
	for _, file := range b.Paths() {
		if !strings.HasSuffix(file, ".html") || file == "index.html" {
			continue
		}
		_, rest, found := bytes.Cut(b.Files[file], []byte(`<nav class="contents"`))
		if !found {
			_, rest, found = bytes.Cut(b.Files[file], []byte(`class="contents topic"`))
		}
		if !found {
			continue
		}
		toc, _, _ := bytes.Cut(rest, []byte("</nav>"))
		for _, item := range bytes.Split(toc, []byte("<li>"))[1:] {
			if bytes.Contains(item, []byte("<ul")) {
				continue // a heading over others
			}
			_, link, _ := bytes.Cut(item, []byte("<a "))
			link, _, _ = bytes.Cut(link, []byte("</a>"))
			list = append(list, headingText(fragment("<a "+string(link)+"</a>")))
		}
	}
	return list
}

func TestTheAnswerIsTakenOutOfAMail(t *testing.T) {
	raw := strings.ReplaceAll(`From: Dara <dara@wrenmoor.example>
To: wim@post.example
Subject: =?utf-8?q?Re=3A_AW=3A_Why_is_my_bill_higher=3F?=
Date: Mon, 02 Mar 2026 09:00:00 +0000
Content-Type: text/plain; charset=utf-8

Hi Wim,

Thank you for your message. No reading reached us in time, so the bill is an
estimate.

To put it right:
1. Read the meter.
2. Send us the number, or call 01632 960123.

I hope this helps!

Kind regards,
Dara
-- 
Wrenmoor Community Power

On Sun, 1 Mar 2026 at 10:00, Wim <wim@post.example> wrote:
> Why is my bill higher?
`, "\n", "\r\n")
	l, err := FromMail([]byte(raw))
	if err != nil {
		t.Fatal(err)
	}
	want := "<p>No reading reached us in time, so the bill is an estimate.</p><p>To put it right:</p><ol><li><p>Read the meter.</p></li><li><p>Send us the number, or call 01632 960123.</p></li></ol>"
	if l.Title != "Why is my bill higher?" || l.Body != want {
		t.Errorf("%q\n%s", l.Title, l.Body)
	}
	if !reflect.DeepEqual(
		l.Left,
		[]string{"the signature", "the greeting", "the thanks", "the closing words and the name"},
	) {
		t.Errorf("left %q", l.Left)
	}
	if !reflect.DeepEqual(l.Personal, []string{"Send us the number, or call 01632 960123."}) {
		t.Errorf("personal %q", l.Personal)
	}
	for _, bad := range []string{"", "no mail at all", "\x00\x01"} {
		if _, err := FromMail([]byte(bad)); err == nil {
			t.Errorf("%q is a mail", bad)
		}
	}
}

func TestQuotedTextIsLeftOutOfReplies(t *testing.T) {
	for name, c := range map[string]struct{ reply, want string }{
		"quotes":              {"> old\nNew words.\n> older", "<p>New words.</p>"},
		"an earlier mail":     {"New.\n\nFrom: a@b.example\nSent: Monday\nTo: c@d.example\nSubject: x\n\nOld", "<p>New.</p>"},
		"broken introduction": {"New.\n\nOn Sunday, 1 March 2026 at ten o'clock in the morning\nWim of Wrenmoor wrote:\nOld", "<p>New.</p>"},
		"german":              {"Guten Tag Frau Berg,\n\nlesen Sie den Zähler ab.\n\nMit freundlichen Grüßen\nIlse", "<p>lesen Sie den Zähler ab.</p>"},
		"nothing to take":     {"Just the answer.", "<p>Just the answer.</p>"},
		"markup is words":     {"Use <b> & co", "<p>Use &lt;b&gt; &amp; co</p>"},
		"a list":              {"Do:\n- one\n- two\n  and a half\n\nThen wait.", "<p>Do:</p><ul><li><p>one</p></li><li><p>two and a half</p></li></ul><p>Then wait.</p>"},
	} {
		if got := FromReply(c.reply).Body; got != c.want {
			t.Errorf("%s: got %s", name, got)
		}
	}
}

func FuzzFromMail(f *testing.F) {
	f.Add(
		[]byte(
			"Subject: x\r\nContent-Type: multipart/mixed; boundary=b\r\n\r\n--b\r\nContent-Type: " +
				"text/html\r\n\r\n<p>x\r\n--b--",
		),
	)
	f.Fuzz(func(t *testing.T, raw []byte) {
		if l, err := FromMail(raw); err == nil {
			if clean, err := article.Sanitise(l.Body); err != nil ||
				markup.Canonical(clean) != markup.Canonical(l.Body) {
				t.Errorf("%q left something to sanitise: %s", raw, l.Body)
			}
		}
	})
}
