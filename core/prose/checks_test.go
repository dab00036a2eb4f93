package prose

import (
	"slices"
	"strings"
	"testing"

	"hermeneus/core/article"
	"hermeneus/core/compare"
	"hermeneus/core/markup"
)

func TestAdviceStandsAtItsLine(t *testing.T) {
	clean := Draft{Title: "Give a meter reading", Body: "<p>Send it by midnight.</p>", Keywords: []string{"number"}}
	if got := Examine(clean); len(got.Checks) != 0 {
		t.Fatalf("a clean text: %+v", got.Checks)
	}
	for _, c := range []struct {
		name string
		make func(*Draft)
		kind CheckKind
		line int
	}{
		{"a long sentence", func(d *Draft) {
			d.Body += "<h2>More</h2><p>" + strings.Repeat("word and ", 13) + "end.</p>"
		}, LongSentence, 2},
		{"hard words", func(d *Draft) {
			d.Body += "<h2>Hard</h2><p>" + strings.Repeat("Administrative regularisation necessitates institutional determination. ", 10) + "</p>"
		}, HardToRead, 1},
		{"a passive step", func(d *Draft) { d.Body += "<ol><li><p>The reading is taken by you: send it.</p></li></ol>" }, Passive, 1},
		{"a vague word", func(d *Draft) { d.Body += "<p>Simply press the button.</p>" }, Vague, 1},
		{"a step that does nothing", func(d *Draft) { d.Body += "<ol><li><p>The green light.</p></li></ol>" }, StepWithoutVerb, 1},
		{"a picture without words", func(d *Draft) { d.Body += `<figure><img src="` + photo + `"/><figcaption>x</figcaption></figure>` }, NoAltText, 1},
		{"a picture named by its file", func(d *Draft) { d.Body += `<p><img src="` + photo + `" alt="IMG_0012.png"/></p>` }, NoAltText, 1},
		{"a jump of headings", func(d *Draft) { d.Body += "<h2>A b</h2><h4>C d</h4>" }, HeadingJump, 2},
		{"a link to nothing", func(d *Draft) { d.Body += `<p><a href="/help/articles/A-0009">x</a></p>` }, BrokenLink, 1},
		{"a link to a draft", func(d *Draft) {
			d.Body += `<p><a href="/help/articles/A-0008">x</a></p>`
			d.Targets = map[int]Target{8: {"Draft", false}}
		}, BrokenLink, 1},
		{"a dead address outside", func(d *Draft) {
			d.Body += `<p><a href="https://grid.example/a">x</a> and <a href="https://grid.example/b">y</a></p>`
			d.Dead = map[string]string{"https://grid.example/a": "It answers 404."}
		}, DeadLink, 1},
		{"a word the house avoids", func(d *Draft) {
			d.Body += "<p>Please utilise the form.</p>"
			d.Avoided = []string{"utilise = use"}
		}, AvoidedWord, 1},
		{"the same in the title", func(d *Draft) { d.Title = "Utilise a meter"; d.Avoided = []string{"utilise"} }, AvoidedWord, -1},
		{"a title of one word", func(d *Draft) { d.Title = "Meters" }, TitleWording, -1},
		{"a title nobody asks for", func(d *Draft) { d.Title = "Meter information" }, TitleWording, -1},
		{"a title that begins with doing", func(d *Draft) { d.Title = "Reading a meter" }, TitleWording, -1},
		{"other words than the customers'", func(d *Draft) {
			d.Asked = []string{"smart display blank", "display off", "my display", "reading", "the display is dark"}
		}, TitleWording, -1},
		{"no keywords", func(d *Draft) { d.Keywords = nil }, NoKeywords, -1},
		{"a long search title", func(d *Draft) { d.SearchTitle = strings.Repeat("x", 61) }, LongSearchTitle, -1},
		{"a long description", func(d *Draft) { d.SearchDescription = strings.Repeat("x", 161) }, LongDescription, -1},
		{"nearly the same article", func(d *Draft) { d.Neighbours = []Neighbour{{"A-0003", "Send a reading", 0.8}} }, NearDuplicate, -1},
		{"an empty section", func(d *Draft) {
			d.Body += "<h2>Steps</h2><ol><li><p></p></li></ol>"
			d.Sections = []article.Section{{Heading: "Steps", Prompt: "One thing each.", Required: true, Steps: true}}
		}, SectionEmpty, 1},
		{"a section that is gone", func(d *Draft) {
			d.Sections = []article.Section{{Heading: "Steps", Prompt: "One thing each.", Required: true, Steps: true}}
		}, SectionEmpty, -1},
		{"a phone number", func(d *Draft) { d.Body += "<p>Call 01632 960123.</p>" }, PersonalData, 1},
	} {
		t.Run(c.name, func(t *testing.T) {
			d := clean
			c.make(&d)
			got := Examine(d).Checks
			if len(got) != 1 || got[0].Kind != c.kind || got[0].Line != c.line {
				t.Errorf("got %+v", got)
			}
		})
	}
}

func TestWhatIsFineIsNotMentioned(t *testing.T) {
	for name, body := range map[string]string{
		"steps with conditions":    "<ol><li><p>If the light is red, press it twice.</p></li><li><p>In the app, choose Meters.</p></li><li><p>Then wait.</p></li></ol>",
		"passive outside of steps": "<p>The meter is read by us.</p>",
		"words with just in them":  "<p>We adjust it.</p>",
		"code":                     "<pre><code>simply a very long line " + strings.Repeat("word ", 40) + "</code></pre>",
		"headings in order":        "<h2>Aa</h2><h3>Bb</h3><h4>Cc</h4><h2>Dd</h2>",
		"a living link":            `<p><a href="/help/articles/A-0008/slug">x</a></p>`,
		"meter readings":           "<p>The display shows 012345.</p>",
		"a filled section":         "<p>Words.</p><h2>Steps</h2><p>Press it.</p>",
	} {
		d := Draft{
			Title:    "Give a reading",
			Body:     body,
			Keywords: []string{"x"},
			Targets:  map[int]Target{8: {"x", true}},
			Sections: []article.Section{},
		}
		if name == "a filled section" {
			d.Sections = article.Shipped()[1].Sections
		}
		if got := Examine(d); len(got.Checks) != 0 {
			t.Errorf("%s: %+v", name, got.Checks)
		}
	}
}

func TestOtherLanguagesAreNotHeldToEnglish(t *testing.T) {
	d := Draft{
		Language: "de",
		Title:    "Zählerstand",
		Keywords: []string{"x"},
		Body:     "<ol><li><p>Sehen Sie nach.</p></li></ol><p>Just so. Rufen Sie 01632 960123 an.</p>",
	}
	if got := Examine(d); len(got.Checks) != 1 || got.Checks[0].Kind != PersonalData || got.Reading.Words != 10 ||
		got.Reading.Ease != 0 {
		t.Errorf("%+v", got)
	}
}

func TestKeysStayWhileTheWordsDo(t *testing.T) {
	at := func(body string) Check {
		return Examine(Draft{Title: "Give a reading", Body: body, Keywords: []string{"x"}}).Checks[0]
	}
	one := at("<p>Simply press.</p>")
	moved := at("<p>New first line.</p><p>Simply press.</p>")
	other := at("<p>Simply press it.</p>")
	if one.Key != moved.Key || one.Line == moved.Line || one.Key == other.Key {
		t.Errorf("%+v %+v %+v", one, moved, other)
	}
}

func TestContentsHaveAnchorsOfTheirOwn(t *testing.T) {
	got := Examine(
		Draft{Body: `<h2>Überblick &amp; more</h2><h3>Steps</h3><h2 id="kept">Steps</h2><h2>Steps</h2>`},
	).Contents
	var anchors []string
	for _, h := range got {
		anchors = append(anchors, h.Anchor)
	}
	if want := []string{"ueberblick-more", "steps", "kept", "steps-2"}; !slices.Equal(anchors, want) {
		t.Errorf("got %q", anchors)
	}
}

func TestShippedTemplatesAreSound(t *testing.T) {
	if len(article.Shipped()) < 5 {
		t.Error("fewer than five")
	}
	for _, tpl := range article.Shipped() {
		if faults := tpl.Faults(); len(faults) != 0 {
			t.Errorf("%s: %v", tpl.Name, faults)
		}
		body := tpl.Body()
		if markup.Canonical(body) != body && !strings.HasPrefix(body, "<p></p>") {
			t.Errorf("%s begins with %s", tpl.Name, body)
		}
		required := 0
		for _, s := range tpl.Sections {
			if s.Required {
				required++
			}
		}
		if missing := article.MissingSections(tpl.Sections, body); len(missing) != required {
			t.Errorf("%s: %d missing at the beginning, %d required", tpl.Name, len(missing), required)
		}
	}
	bad := article.Template{Name: " ", Sections: []article.Section{{Heading: "A"}, {Heading: "a"}, {Heading: ""}}}
	if faults := bad.Faults(); len(faults) != 3 {
		t.Errorf("faults %v", faults)
	}
}

func TestTextsSideBySideGiveBothBack(t *testing.T) {
	ours, theirs := "<p>one</p><p>two</p><p>three</p>", "<p>one</p><p>2</p><p>three</p><p>four</p>"
	rows := compare.SideBySide(ours, theirs)
	var a, b string
	same := 0
	for _, r := range rows {
		a, b = a+r.Ours, b+r.Theirs
		if r.Same {
			same++
		}
	}
	if a != ours || b != theirs || same != 2 || len(rows) != 4 {
		t.Errorf("%+v", rows)
	}
	abreast := compare.Abreast(
		"<h2>A</h2><p>one</p><ul><li><p>x</p></li></ul><p>end</p>",
		"<h2>B</h2><p>eins</p><p>Ende</p>",
	)
	if len(abreast) != 4 || abreast[1].Theirs != "<p>eins</p>" || abreast[2].Theirs != "" ||
		abreast[3].Theirs != "<p>Ende</p>" {
		t.Errorf("%+v", abreast)
	}
}

func TestOverlapIsOfTheShorterText(t *testing.T) {
	a := "to give a reading open the app choose meters type the number that the display shows and send it before midnight on the last day"
	if got := Overlap(a, a+" of the month, or else we estimate it"); got != 1 {
		t.Errorf("contained: %f", got)
	}
	if got := Overlap(a, strings.Repeat("another text with other words about other things entirely ", 3)); got != 0 {
		t.Errorf("nothing in common: %f", got)
	}
	if got := Overlap("too short", "too short"); got != 0 {
		t.Errorf("short: %f", got)
	}
}

// What a template asks for before its first heading has no name to be asked for by.
func TestASectionWithoutAHeadingIsAskedForByWhatItWants(t *testing.T) {
	advice := Examine(
		Draft{
			Title:    "x",
			Sections: []article.Section{{Heading: "", Prompt: "Say what it is.", Required: true}},
			Body:     "<h2>Steps</h2><p>One.</p>",
		},
	)
	for _, c := range advice.Checks {
		if c.Kind == SectionEmpty {
			if strings.Contains(c.Message, "“”") || !strings.Contains(c.Message, "Say what it is.") {
				t.Errorf("it says %q", c.Message)
			}
			return
		}
	}
	t.Errorf("it is not asked for: %+v", advice.Checks)
}

const photo = "/files/0123456789abcdef0123456789abcdef0123456789abcdef0123456789abcdef"
