package exchange_test

import (
	"bytes"
	"os"
	"slices"
	"strings"
	"testing"

	"hermeneus/app/apptest"
	"hermeneus/app/exchange"
	"hermeneus/app/library"
	"hermeneus/app/lists"
	"hermeneus/app/problem"
	"hermeneus/core/audience"
	coreexchange "hermeneus/core/exchange"
	corereview "hermeneus/core/review"
	"hermeneus/core/role"
)

func TestExportImportExportGivesTheSameBytes(t *testing.T) {
	w := apptest.Open(t)
	c := w.Crew()
	bills := apptest.Under(w, c.Author, 0, "Bills & payments")
	apptest.Under(w, c.Author, 0, "Empty")
	late := apptest.Under(w, c.Author, bills, "Late")
	kept, err := w.Library.KeepMedia(w.Context, c.Author, apptest.Dot(t))
	w.Must(err)
	file, err := w.Library.KeepAttachment(w.Context, c.Author, []byte("a form to print"))
	w.Must(err)
	first := w.Draft(
		c.Author,
		bills,
		"Why: “a bill” is #1 *estimated*",
		`<p>A <strong>bold</strong> word, a_b_c and 1. not a list</p><aside data-callout="danger"><p>Away!</p></aside>`+
			`<figure><img src="`+kept.Path+`" alt="A dial"/><figcaption>Old</figcaption></figure><p><a href="`+file.Path+`" download="form.txt">form.txt</a></p>`+
			`<table><tbody><tr><th><p>a</p></th><th><p>b</p></th></tr><tr><td><p>1</p></td><td><p>2 | 3</p></td></tr></tbody></table>`,
		audience.Staff,
	)
	lateRef := w.Draft(
		c.Author,
		late,
		"Pay late",
		`<ol><li><p>See <a href="/help/articles/`+first+`#part">the other</a>.</p><ul><li><p>x</p></li></ul></li></ol><pre><code class="language-sh">a
 b</code></pre><details><summary>More</summary><p>y</p></details>`,
		audience.Everyone,
	)
	de, err := w.Writing.AddEdition(w.Context, c.Author, lateRef, "de")
	w.Must(err)
	w.Must(
		apptest.SaveText(
			w,
			c.Author,
			de,
			"t",
			apptest.Text("Spät bezahlen", `<p>Siehe <a href="/help/articles/`+first+`">dort</a>.</p>`),
		),
	)
	w.Must(
		w.Library.SetProperties(
			w.Context,
			c.Author,
			lateRef,
			library.Properties{
				CategoryID:   late,
				OwnerID:      c.Author.ID,
				Kind:         "policy",
				Audience:     audience.Everyone,
				RecheckDays:  30,
				InterimUntil: "2026-09-01",
			},
		),
	)

	one := apptest.Take(w, c.Author)
	if !slices.Contains(one.Paths(), "bills-payments/_category.yaml") ||
		!slices.Contains(one.Paths(), "bills-payments/late/A-0002-pay-late.de.md") ||
		len(one.Files) != 7 {
		t.Errorf("files %q", one.Paths())
	}
	// Into the same library again: nothing changes.
	report := apptest.Bring(w, c.Author, one, exchange.ImportOptions{}, false)
	if report.Skipped != 3 || report.Created+report.Changed+report.Failed != 0 {
		t.Errorf("the same again: %+v", report)
	}
	// Into an empty one, where the owner is somebody of the same address.
	other := apptest.OpenAlone(t)
	author := other.Hire("ada", role.Author)
	report = apptest.Bring(other, author, one, exchange.ImportOptions{}, true)
	if report.Created != 3 || report.Failed != 0 {
		t.Errorf("it would: %+v", report)
	}
	if _, total, _ := other.Lists.ListArticles(other.Context, lists.ArticleFilter{}); total != 0 {
		t.Error("a dry run brought something in")
	}
	report = apptest.Bring(other, author, one, exchange.ImportOptions{}, false)
	if report.Created != 3 || report.Notes != 0 {
		t.Errorf("brought in: %+v", report)
	}
	again := apptest.Take(other, author)
	if !slices.Equal(one.Paths(), again.Paths()) {
		t.Fatalf("files\n%q\n%q", one.Paths(), again.Paths())
	}
	for _, p := range one.Paths() {
		if !bytes.Equal(one.Files[p], again.Files[p]) {
			t.Errorf("%s\n%s\n%s", p, one.Files[p], again.Files[p])
		}
	}
	a, err := other.Desk.ReadArticle(other.Context, author, "A-0001")
	w.Must(err)
	if a.State != corereview.Drafting || a.LiveRevision != 0 || a.Audience != audience.Staff {
		t.Errorf("brought in as %+v", a)
	}
}

func TestWhatIsBroughtInIsReportedLineByLine(t *testing.T) {
	w := apptest.Open(t)
	c := w.Crew()
	b := coreexchange.Bundle{Name: "set", Files: map[string][]byte{
		"bills/high.md": []byte(
			"---\ntitle: High bill\nkeywords: [dear]\n---\n\nSee [moving](../moving/out.md), [gone](gone.md) and " +
				"![x](../p/dial.png).\n\n<script>x</script>\n\n<p onclick=\"x\">y</p>\n",
		),
		"moving/out.md":     []byte("# Move out\n\nTell us.\n"),
		"p/dial.png":        apptest.Dot(t),
		"bills/broken.md":   []byte("---\ntitle: [\n---\n"),
		"bills/wrong.md":    []byte("---\ntitle: Wrong\nkind: poem\n---\nx\n"),
		"bills/foreign.md":  []byte("---\ntitle: Wrong\nlanguage: xx\n---\nx\n"),
		"bills/endless.md":  []byte("---\ntitle: " + strings.Repeat("x", 300) + "\n---\nx\n"),
		"notes/readme.text": []byte("x"),
	}}
	dry := apptest.Bring(w, c.Author, b, exchange.ImportOptions{}, true)
	real := apptest.Bring(w, c.Author, b, exchange.ImportOptions{}, false)
	lines := func(r exchange.ImportReport) []string {
		var out []string
		for _, l := range r.Lines {
			line := string(l.Action) + " " + l.File
			if l.Line > 0 {
				line += ":" + apptest.Itoa(int64(l.Line))
			}
			out = append(out, line+" "+l.Message)
		}
		slices.Sort(out)
		return out
	}
	if !slices.Equal(lines(dry), lines(real)) {
		t.Errorf(
			"what it would do is not what it did:\n%s\n\n%s",
			strings.Join(lines(dry), "\n"),
			strings.Join(lines(real), "\n"),
		)
	}
	all := strings.Join(lines(real), "\n")
	for _, want := range []string{"create bills/high.md", "create moving/out.md", "note bills/high.md the link to gone.md leads out of the set", "note bills/high.md:8 not kept: the element <script>",
		"note bills/high.md:10 not kept: the script in onclick of <p>", "problem bills/broken.md", "problem bills/wrong.md", "problem bills/foreign.md", "problem bills/endless.md"} {
		if !strings.Contains(all, want) {
			t.Errorf("%q is missing in\n%s", want, all)
		}
	}
	high, err := w.Search.Find(w.Context, "high bill")
	w.Must(err)
	a, err := w.Desk.ReadArticle(w.Context, c.Author, high[0].Reference)
	w.Must(err)
	if !strings.Contains(a.Copy.Body, `<a href="/help/articles/A-`) ||
		!strings.Contains(a.Copy.Body, `<img src="/files/`) ||
		strings.Contains(a.Copy.Body, "gone.md") ||
		a.Category.Name != "Bills" {
		t.Errorf("in %s: %s", a.Category.Name, a.Copy.Body)
	}

	// Only what changed is changed; what is in review is refused, and said so.
	b.Files["moving/out.md"] = []byte("# Move out\n\nTell us the day.\n")
	again := apptest.Bring(w, c.Author, b, exchange.ImportOptions{}, false)
	if again.Created != 0 || again.Changed != 1 || again.Skipped != 1 {
		t.Errorf("after a change: %+v", lines(again))
	}
	w.Must(w.Review.Act(w.Context, c.Author, a.Reference, corereview.Submit, a.Version, ""))
	b.Files["bills/high.md"] = []byte("---\ntitle: High bill\n---\nAnother text\n")
	again = apptest.Bring(w, c.Author, b, exchange.ImportOptions{}, false)
	if again.Failed != 5 || !strings.Contains(strings.Join(lines(again), "\n"), "problem bills/high.md Edit") {
		t.Errorf("into a review: %s", strings.Join(lines(again), "\n"))
	}
	if _, err := w.Exchange.ImportLibrary(
		w.Context,
		c.Agent,
		b,
		exchange.ImportOptions{},
		true,
		nil,
	); apptest.KindOf(err) != problem.Denied {
		t.Errorf("an agent brings in: %v", err)
	}
	if _, err := w.Exchange.ImportLibrary(
		w.Context,
		c.Author,
		coreexchange.Bundle{Name: "x"},
		exchange.ImportOptions{},
		true,
		nil,
	); apptest.KindOf(err) != problem.BadFile {
		t.Errorf("nothing: %v", err)
	}
	if apptest.KindOf(
		apptest.Second(
			w.Exchange.AskImport(w.Context, c.Author, "x.zip", []byte("no zip"), exchange.ImportOptions{}, true),
		),
	) != problem.BadFile {
		t.Error("no archive was taken")
	}
}

func TestAnArchiveIsBroughtInByAJob(t *testing.T) {
	w := apptest.Open(t)
	c := w.Crew()
	b := coreexchange.Bundle{Name: "set", Files: map[string][]byte{}}
	for i := range 60 {
		b.Files["a/"+apptest.Itoa(int64(i+1))+".md"] = []byte("# Number " + apptest.Itoa(int64(i+1)) + "\n\nText.\n")
	}
	raw, err := b.Zip()
	w.Must(err)
	id, err := w.Exchange.AskImport(w.Context, c.Author, "set.zip", raw, exchange.ImportOptions{}, false)
	w.Must(err)
	var report exchange.ImportReport
	job := apptest.Done(w, c.Author, id, &report)
	if job.State != "done" || job.Done != 60 || report.Created != 60 {
		t.Errorf("%+v %+v", job, report)
	}
}

// The whole Python FAQ (Debian's python3.11-doc, read where it is installed) comes
// in as articles whose links to each other lead to articles.
func TestThePythonFAQBecomesArticles(t *testing.T) {
	const folder = "/usr/share/doc/python3.11/html/faq"
	if _, err := os.Stat(folder); err != nil {
		if os.Getenv("CI") == "" {
			t.Skip("python3.11-doc is not installed: run the tests with make test")
		}
		t.Fatal(err)
	}
	b, err := coreexchange.ReadFolder("faq", os.DirFS(folder))
	if err != nil {
		t.Fatal(err)
	}
	w := apptest.Open(t)
	c := w.Crew()
	report := apptest.Bring(w, c.Author, b, exchange.ImportOptions{Split: coreexchange.Parts}, false)
	if report.Created < 170 || report.Failed != 0 {
		t.Errorf("%d created, %d refused", report.Created, report.Failed)
	}
	var links, dangling int
	w.Must(
		w.DB().
			Raw(`SELECT count(*), count(*) FILTER (WHERE number NOT IN (SELECT number FROM articles)) FROM links`).
			Row().
			Scan(&links, &dangling),
	)
	if links < 10 || dangling != 0 {
		t.Errorf("%d links between the articles, %d lead nowhere", links, dangling)
	}
	again := apptest.Bring(w, c.Author, b, exchange.ImportOptions{Split: coreexchange.Parts}, false)
	if again.Skipped != report.Created || again.Created+again.Changed != 0 {
		t.Errorf("again: %d skipped, %d changed", again.Skipped, again.Changed)
	}
	found, err := w.Search.Find(w.Context, "global interpreter lock")
	w.Must(err)
	if len(found) == 0 {
		t.Error("nothing of it is found")
	}
}

// Numbers that are brought in are bounded, and give no number to what comes later.
func TestNumbersThatAreBroughtInDoNotMoveTheNumbering(t *testing.T) {
	w := apptest.Open(t)
	c := w.Crew()
	category := w.Category(c.Author, "Bills")
	page := func(reference, key, title string) []byte {
		return []byte("---\nreference: " + reference + "\nkey: " + key + "\ntitle: " + title + "\n---\n\nA text.\n")
	}
	b := coreexchange.Bundle{Name: "x", Files: map[string][]byte{
		"high.md": page(
			"A-999999999",
			"high",
			"Too high",
		),
		"last.md":  page("A-999999", "last", "The last"),
		"third.md": page("A-0003", "third", "The third"),
		"none.md":  page("", "none", "Of no number"),
	}}
	dry := apptest.Bring(w, c.Author, b, exchange.ImportOptions{CategoryID: category}, true)
	report := apptest.Bring(w, c.Author, b, exchange.ImportOptions{CategoryID: category}, false)
	got, noted := map[string]string{}, ""
	for _, l := range report.Lines {
		if l.Action == coreexchange.Note {
			noted += l.Message
		} else {
			got[l.Title] = l.Reference
		}
	}
	if got["The last"] != "A-999999" || got["The third"] != "A-0003" || got["Too high"] == "A-999999999" ||
		!strings.Contains(noted, "A-999999999 is too high") {
		t.Errorf("brought in as %v, noted %q", got, noted)
	}
	for _, l := range dry.Lines {
		if l.Action != coreexchange.Note && got[l.Title] != l.Reference {
			t.Errorf("%s was to be %s and is %s", l.Title, l.Reference, got[l.Title])
		}
	}
	for range 4 {
		ref := w.Draft(c.Author, category, "Later", "<p>x</p>", "")
		if len(ref) != len("A-0001") {
			t.Errorf("a later article is %s", ref)
		}
		w.Must(apptest.Second(w.Desk.ReadArticle(w.Context, c.Author, ref)))
	}
}
