package article

import (
	"errors"
	"math/rand/v2"
	"reflect"
	"strings"
	"testing"
	"time"

	"hermeneus/core/role"
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

// The attack strings are from memory, of the kinds gathered in published
// cross-site scripting cheat sheets.
func TestSanitiseRemovesWhatCouldRun(t *testing.T) {
	for _, attack := range []string{
		`<script>alert(1)</script>`, `<ScRiPt src=//x.example></sCrIpT>`, `<img src=x onerror=alert(1)>`,
		`<a href="javascript:alert(1)">x</a>`, `<a href="JaVaScRiPt&#58;alert(1)">x</a>`, `<a href="java&#x09;script:alert(1)">x</a>`,
		`<a href="data:text/html;base64,PHNjcmlwdD4=">x</a>`, `<img src="data:image/svg+xml,<svg onload=alert(1)>">`,
		`<svg onload=alert(1)>`, `<p onclick="alert(1)">x</p>`, `<iframe src="javascript:alert(1)"></iframe>`,
		`<style>@import 'x'</style>`, `<p style="background:url(javascript:alert(1))">x</p>`, `<object data="x"></object>`,
		`<math><mi xlink:href="data:x,<script>alert(1)</script>"></mi></math>`, `<form action="javascript:alert(1)"><input></form>`,
		`<img src="https://elsewhere.example/pixel.gif">`, `<base href="//x.example">`, `<meta http-equiv=refresh content="0;javascript:alert(1)">`,
	} {
		clean, err := Sanitise("<p>before</p>" + attack + "<p>after</p>")
		if err != nil {
			t.Fatal(err)
		}
		low := strings.ToLower(clean)
		for _, bad := range []string{"script", "onerror", "onclick", "onload", "data:", "style", "<svg", "<iframe", "<object", "<form", "<base", "<meta", "elsewhere"} {
			if strings.Contains(low, bad) {
				t.Errorf("%s\nleft %q in %s", attack, bad, clean)
			}
		}
		if !strings.Contains(clean, "before") || !strings.Contains(clean, "after") {
			t.Errorf("%s took its surroundings with it: %s", attack, clean)
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
	o := Read(`<h2>Steps &amp; tips</h2><p>One<br>two</p><ul><li><p>three</p></li></ul><p><img src="` + picture + `" alt="a dial"></p>`)
	if want := []string{"Steps & tips", "One two", "three", "a dial"}; !reflect.DeepEqual(o.Blocks, want) {
		t.Errorf("blocks %q", o.Blocks)
	}
	if !reflect.DeepEqual(o.Headings, []string{"Steps & tips"}) || len(o.Pictures) != 1 {
		t.Errorf("headings %q, pictures %q", o.Headings, o.Pictures)
	}
	if o.Text() != "Steps & tips\nOne two\nthree\na dial" || o.Words() != 8 {
		t.Errorf("text %q, %d words", o.Text(), o.Words())
	}
	if got := o.Summary(10); got != "One two…" {
		t.Errorf("summary %q", got)
	}
}

func TestReadAfterIsTheSmallerOfTwentySecondsAndThirtyPerCent(t *testing.T) {
	for words, want := range map[int]time.Duration{0: 0, 100: 9 * time.Second, 200: 18 * time.Second, 223: 20 * time.Second, 5000: 20 * time.Second} {
		if got := ReadAfter(words); got != want {
			t.Errorf("%d words: %v, want %v", words, got, want)
		}
	}
}

func TestCompareMarksWordsWithinBlocks(t *testing.T) {
	before := Outline{Blocks: []string{"Title", "Press the green button twice.", "Old paragraph about nothing much."}}
	after := Outline{Blocks: []string{"Title", "Press the red button twice.", "Zebra quartz."}}
	got := Compare(before, after)
	want := []Change{
		whole(Same, "Title"),
		{Same, []Span{{Same, "Press the "}, {Removed, "green"}, {Added, "red"}, {Same, " button twice."}}},
		whole(Removed, "Old paragraph about nothing much."), whole(Added, "Zebra quartz."),
	}
	if !reflect.DeepEqual(got, want) {
		t.Errorf("\ngot  %+v\nwant %+v", got, want)
	}
}

func TestCompareDoesNotCutChangesIntoShreds(t *testing.T) {
	got := Compare(Outline{Blocks: []string{"You can change the day twice a year."}}, Outline{Blocks: []string{"You can change the day as often as you like."}})
	want := []Change{{Same, []Span{{Same, "You can change the day "}, {Removed, "twice a year"}, {Added, "as often as you like"}, {Same, "."}}}}
	if !reflect.DeepEqual(got, want) {
		t.Errorf("\ngot  %+v\nwant %+v", got, want)
	}
}

func TestCompareGivesBothTextsBack(t *testing.T) {
	r := rand.New(rand.NewPCG(5, 6))
	text := func() Outline {
		var o Outline
		for range r.IntN(8) {
			var b []string
			for range 1 + r.IntN(6) {
				b = append(b, string(rune('a'+r.IntN(4))))
			}
			o.Blocks = append(o.Blocks, strings.Join(b, " "))
		}
		return o
	}
	for range 500 {
		before, after := text(), text()
		var gone, come []string
		for _, c := range Compare(before, after) {
			var old, now string
			for _, s := range c.Spans {
				if s.Mark != Added {
					old += s.Text
				}
				if s.Mark != Removed {
					now += s.Text
				}
			}
			if old != "" {
				gone = append(gone, old)
			}
			if now != "" {
				come = append(come, now)
			}
		}
		if strings.Join(gone, "|") != strings.Join(before.Blocks, "|") || strings.Join(come, "|") != strings.Join(after.Blocks, "|") {
			t.Fatalf("before %q\nafter %q\ngone %q\ncome %q", before.Blocks, after.Blocks, gone, come)
		}
	}
}

var (
	ada    = Actor{1, role.Set{role.Author}}
	rex    = Actor{2, role.Set{role.Reviewer}}
	pia    = Actor{3, role.Set{role.Publisher}}
	all    = Actor{4, role.All}
	nobody = Actor{5, nil}
)

func TestLifecycleAllowsAndRefuses(t *testing.T) {
	for _, c := range []struct {
		name      string
		copy      Copy
		action    Action
		by        Actor
		note      string
		want      State
		forbidden bool
	}{
		{"an author submits", Copy{State: Drafting}, Submit, ada, "", InReview, false},
		{"an empty text is not submitted", Copy{State: Drafting, Empty: true}, Submit, ada, "", "", false},
		{"a reviewer does not submit", Copy{State: Drafting}, Submit, rex, "", "", true},
		{"a reviewer approves", Copy{State: InReview, Writer: 1}, Approve, rex, "", Approved, false},
		{"nobody approves what they wrote", Copy{State: InReview, Writer: 4}, Approve, all, "", "", true},
		{"nobody approves what they submitted", Copy{State: InReview, Writer: 1, Submitter: 4}, Approve, all, "", "", true},
		{"a reviewer sends back with a note", Copy{State: InReview}, SendBack, rex, "say which meter", SentBack, false},
		{"and not without", Copy{State: InReview}, SendBack, rex, "  ", "", false},
		{"a publisher sends back what was approved", Copy{State: Approved}, SendBack, pia, "wrong price", SentBack, false},
		{"a draft is not published", Copy{State: Drafting}, Publish, pia, "", "", false},
		{"a text in review is not published", Copy{State: InReview}, Publish, pia, "", "", false},
		{"a publisher publishes what was approved", Copy{State: Approved}, Publish, pia, "", Published, false},
		{"an author does not publish", Copy{State: Approved}, Publish, ada, "", "", true},
		{"a text in review is not edited", Copy{State: InReview}, Edit, ada, "", "", false},
		{"but can be taken back", Copy{State: InReview}, Recall, ada, "", Drafting, false},
		{"editing clears the approval", Copy{State: Approved}, Edit, ada, "", Drafting, false},
		{"editing keeps the mark of what was sent back", Copy{State: SentBack}, Edit, ada, "", SentBack, false},
		{"what was sent back is submitted again", Copy{State: SentBack}, Submit, ada, "", InReview, false},
		{"what is not live is not withdrawn", Copy{State: Approved}, Withdraw, pia, "", "", false},
		{"what is live is withdrawn and stays approved", Copy{State: Published, Live: true}, Withdraw, pia, "", Approved, false},
		{"withdrawing leaves a newer working copy alone", Copy{State: InReview, Live: true}, Withdraw, pia, "", InReview, false},
		{"an unknown action is refused", Copy{State: Drafting}, "dance", all, "", "", false},
	} {
		t.Run(c.name, func(t *testing.T) {
			got, err := c.copy.Next(c.action, c.by, c.note)
			var refusal *Refusal
			switch {
			case c.want != "" && (err != nil || got != c.want):
				t.Errorf("got %s, %v", got, err)
			case c.want == "" && (!errors.As(err, &refusal) || refusal.Forbidden != c.forbidden || got != c.copy.State):
				t.Errorf("got %s, %v, want a refusal", got, err)
			}
		})
	}
	if got := (Copy{State: InReview, Live: true}).Allowed(nobody); len(got) != 0 {
		t.Errorf("nobody may %v", got)
	}
}

// Random people do random things; whatever is live was approved by a reviewer
// who had not written it, after the last change to its text.
func TestNothingGoesLiveUnreviewed(t *testing.T) {
	r := rand.New(rand.NewPCG(7, 8))
	people := []Actor{ada, rex, pia, all, nobody, {6, role.Set{role.Author, role.Reviewer}}}
	published := 0
	for range 1500 {
		c := Copy{State: Drafting}
		var approvedBy *Actor
		for range 60 {
			by, action := people[r.IntN(len(people))], actions[r.IntN(len(actions))]
			next, err := c.Next(action, by, []string{"", "note"}[r.IntN(2)])
			if err != nil {
				continue
			}
			c.State = next
			switch action {
			case Edit:
				c.Writer, approvedBy = by.ID, nil
			case Submit:
				c.Submitter = by.ID
			case Approve:
				approvedBy = &by
			case SendBack, Recall:
				approvedBy = nil
			case Publish:
				published++
				if approvedBy == nil || approvedBy.ID == c.Writer || !approvedBy.Roles.Has(role.Reviewer) || !by.Roles.Has(role.Publisher) {
					t.Fatalf("went live with approval by %v, written by %d", approvedBy, c.Writer)
				}
				c.Live = true
			case Withdraw:
				c.Live = false
			}
		}
	}
	if published < 100 {
		t.Errorf("only %d publications: the test shows too little", published)
	}
}
