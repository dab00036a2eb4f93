package article

import (
	"errors"
	"math/rand/v2"
	"os"
	"reflect"
	"strings"
	"testing"
	"time"

	"golang.org/x/net/html"

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
		for _, made := range []string{clean, Canonical(clean), Present(clean, nil).HTML} {
			for n := range root(parse(made)).Descendants() {
				if n.Type != html.ElementNode {
					continue
				}
				if _, ok := allowed[n.Data]; !ok && n.Data != "div" {
					t.Errorf("%s\nleft the element %s in %s", attack, n.Data, made)
				}
				for _, a := range n.Attr {
					if strings.HasPrefix(a.Key, "on") || strings.Contains(strings.ToLower(a.Val), "script:") || strings.HasPrefix(a.Val, "data:") {
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
	o := Read(`<h2>Steps &amp; tips</h2><p>One<br>two</p><ul><li><p>three</p></li></ul><p><img src="` + picture + `" alt="a dial"></p>`)
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
	for words, want := range map[int]time.Duration{0: 0, 100: 9 * time.Second, 200: 18 * time.Second, 223: 20 * time.Second, 5000: 20 * time.Second} {
		if got := ReadAfter(words); got != want {
			t.Errorf("%d words: %v, want %v", words, got, want)
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
