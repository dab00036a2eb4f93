package compare

import (
	"errors"
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"

	"hermeneus/core/article"
)

const meter = `<h2>Read it</h2><p>Open the <strong>small</strong> door.</p><ol><li><p>Press Menu twice.</p></li><li><p>Write down the number.</p></li></ol><p>Press Menu twice.</p>`

func TestAPassageIsFoundAgain(t *testing.T) {
	for _, c := range []struct {
		name  string
		line  int
		quote string
		at    int
		now   string
		want  string
		in    int
		moved bool // reads otherwise
	}{
		{"unchanged", 1, "small door", 0, meter, "small door", 1, false},
		{"of two equal lines, its own", 4, "Menu", 0, meter, "Menu", 4, false},
		{"a line before it came", 1, "small door", 0, "<p>New.</p>" + meter, "small door", 2, false},
		{"words before it changed", 1, "small door", 0, strings.Replace(meter, "Open the", "Now open that", 1), "small door", 1, false},
		{"its line moved to the end", 3, "the number", 0, `<h2>Read it</h2><p>Press Menu twice.</p><p>Write down the number.</p>`, "the number", 2, false},
		{"a word in it changed", 3, "down the number", 0, strings.Replace(meter, "the number", "the long number", 1), "down the long number", 3, true},
		{"its last word changed", 3, "the number", 0, strings.Replace(meter, "number", "reading", 1), "the reading", 3, true},
		{"the whole line", 3, "", 0, strings.Replace(meter, "Write down", "Note", 1), "Note the number.", 3, true},
		{"the formatting changed", 1, "small door", 0, strings.ReplaceAll(meter, "strong", "em"), "small door", 1, false},
	} {
		t.Run(c.name, func(t *testing.T) {
			a, err := MakeAnchor(meter, c.line, c.quote, c.at)
			if err != nil || a.Line != c.line {
				t.Fatalf("%+v, %v", a, err)
			}
			p, err := Locate(c.now, a)
			if err != nil || p.Quote != c.want || p.Line != c.in || p.Changed != c.moved {
				t.Errorf("%+v, %v", p, err)
			}
			if texts := lineTexts(c.now); err == nil && texts[p.Line][p.Start:p.End] != p.Quote {
				t.Errorf("%+v is not where it says", p)
			}
		})
	}
	a, _ := MakeAnchor(meter, 3, "the number", 0)
	for name, now := range map[string]string{"its line is gone": `<p>Something else altogether stands here.</p>`, "the passage is gone": `<p>Write down.</p><p>It.</p>`, "empty": ""} {
		if p, err := Locate(now, a); !errors.Is(err, ErrNoPassage) {
			t.Errorf("%s: %+v", name, p)
		}
	}
	if _, err := MakeAnchor(meter, 0, "no such words", 0); !errors.Is(err, ErrNoPassage) {
		t.Error("words that are not there were marked")
	}
	if _, err := MakeAnchor(meter, 99, "", 0); !errors.Is(err, ErrNoPassage) {
		t.Error("a line that is not there was marked")
	}
	if a, err := MakeAnchor("<p>to be or not to be</p>", 0, "be", 1); err != nil || a.Start != 16 {
		t.Errorf("the second occurrence: %+v, %v", a, err)
	}
}

// Whatever is done to the other lines, the passage stays where it is.
func TestAPassageStaysWithItsLine(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 4))
	vocabulary := strings.Fields("meter bill door number press read week month power safe line call the a of on")
	sentence := func() string {
		var out []string
		for range 4 + r.IntN(8) {
			out = append(out, vocabulary[r.IntN(len(vocabulary))])
		}
		return strings.Join(out, " ")
	}
	for range 500 {
		lines := make([]string, 3+r.IntN(8))
		for i := range lines {
			lines[i] = sentence()
		}
		mine := r.IntN(len(lines))
		lines[mine] += " exactly this passage " + sentence()
		body := func() string { return "<p>" + strings.Join(lines, "</p><p>") + "</p>" }
		a, err := MakeAnchor(body(), mine, "exactly this passage", 0)
		if err != nil {
			t.Fatal(err)
		}
		tagged := lines[mine]
		for range 1 + r.IntN(6) {
			switch i := r.IntN(len(lines)); {
			case lines[i] == tagged:
				lines = append(lines, sentence())
			case r.IntN(2) == 0:
				lines[i] = sentence()
			default:
				lines[i], lines[len(lines)-1] = lines[len(lines)-1], lines[i]
			}
		}
		p, err := Locate(body(), a)
		if err != nil || lines[p.Line] != tagged || p.Quote != "exactly this passage" {
			t.Fatalf("%+v, %v in %q", p, err, lines)
		}
	}
}

func TestAPassageIsReplaced(t *testing.T) {
	a, _ := MakeAnchor(meter, 1, "the small door", 0)
	got, err := Replace(meter, a, "the flap")
	if want := strings.Replace(meter, "the <strong>small</strong> door", "the flap", 1); err != nil || got != want {
		t.Errorf("%v\n%s\n%s", err, got, want)
	}
	a, _ = MakeAnchor(meter, 1, "small", 0)
	if got, err = Replace(
		meter,
		a,
		"<b>& green",
	); err != nil ||
		!strings.Contains(got, "<strong>&lt;b&gt;&amp; green</strong>") {
		t.Errorf("%v %s: the words keep their marks and stay words", err, got)
	}
	if _, err := Replace(strings.Replace(meter, "small", "big", 1), a, "x"); !errors.Is(err, ErrNoPassage) {
		t.Error("a passage that reads otherwise was replaced")
	}
}

func FuzzLocate(f *testing.F) {
	f.Add(meter, meter, "door", 1)
	f.Add("<p>é ü</p>", "<p>ü é</p>", "é", 0)
	f.Fuzz(func(t *testing.T, before, after, quote string, line int) {
		before, err1 := article.Sanitise(before)
		after, err2 := article.Sanitise(after)
		if err1 != nil || err2 != nil {
			return
		}
		a, err := MakeAnchor(before, line, quote, 0)
		if err != nil {
			return
		}
		if p, err := Locate(after, a); err == nil && lineTexts(after)[p.Line][p.Start:p.End] != p.Quote {
			t.Error(fmt.Sprint(p))
		}
	})
}
