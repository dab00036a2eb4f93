package search

import (
	"strings"
	"testing"

	"hermeneus/core/article"
	"hermeneus/core/audience"
)

var helpTexts = map[string]string{
	"A-0001": `<p>You can give a reading on any day.</p><h2>On the web</h2><p>Sign in, then:</p><ol><li><p>Open “My meter”.</p></li><li><p>Type the five digits.</p></li></ol><h2>By phone</h2><p>Ring us.</p>`,
	"A-0002": `<p>A bill is estimated when no reading reached us in time.</p><table><tr><td><p>estimated</p></td><td><p>E</p></td></tr></table><p>Send one, and we correct the bill.</p>`,
	"A-0003": `<p>Look at the fuse box first.</p>`,
}

func composing(t *testing.T) (*Index, func(words string, viewer audience.Viewer) (Answer, bool)) {
	titles := map[string]string{
		"A-0001": "Give a meter reading",
		"A-0002": "Why a bill is estimated",
		"A-0003": "Power is off",
	}
	var docs []Document
	for ref, body := range helpTexts {
		o := article.Read(body)
		docs = append(docs, Document{Reference: ref, Title: titles[ref], Headings: o.Headings, Body: o.Text()})
	}
	docs = append(
		docs,
		Document{
			Reference: "A-0009",
			Title:     "Refund limits",
			Body:      "Agents may refund fifty.",
			Audience:  audience.Staff,
		},
	)
	x := library(t, docs...)
	return x, func(words string, viewer audience.Viewer) (Answer, bool) {
		r := Request{Words: words, Viewer: viewer, Limit: 5}
		result, err := x.Find(r)
		if err != nil {
			t.Fatal(err)
		}
		var sources []Source
		for _, h := range result.Hits {
			sources = append(sources, Source{h.Reference, h.Title, article.Chapters(helpTexts[h.Reference])})
		}
		return x.Compose(r, result.Hits, sources)
	}
}

func TestAnAnswerIsComposedOfTheStepsWordForWord(t *testing.T) {
	_, ask := composing(t)
	answer, ok := ask("how do I give a meter reading on the web?", audience.Viewer{})
	if !ok || answer.Parts[0].Reference != "A-0001" || answer.Parts[0].Heading != "On the web" ||
		len(answer.Parts[0].Blocks) != 3 ||
		answer.Parts[0].Blocks[1].Kind != article.StepBlock {
		t.Fatalf("%v %+v", ok, answer)
	}
	if answer.Confidence < Threshold || answer.Confidence > 1 {
		t.Errorf("confidence %.2f", answer.Confidence)
	}
}

func TestBelowTheThresholdNothingIsComposed(t *testing.T) {
	_, ask := composing(t)
	for _, words := range []string{"", "giraffe", "bill trumpet canary violet", "who are you"} {
		if answer, ok := ask(words, audience.Viewer{}); ok {
			t.Errorf("%q is answered: %+v", words, answer)
		}
	}
}

func TestNoSentenceIsNotInASource(t *testing.T) {
	_, ask := composing(t)
	answered := 0
	for _, words := range []string{"why is my bill estimated", "power is off", "fuse box", "give a meter reading", "estimated bill and meter reading on the web", "reading by phone"} {
		answer, ok := ask(words, audience.Viewer{})
		if !ok {
			continue
		}
		answered++
		if len(answer.Parts) > 3 {
			t.Errorf("%q: %d parts", words, len(answer.Parts))
		}
		for _, p := range answer.Parts {
			source := article.Read(helpTexts[p.Reference]).Text()
			for _, b := range p.Blocks {
				if !strings.Contains("\n"+source+"\n", "\n"+b.Text+"\n") {
					t.Errorf("%q: %q is not a line of %s", words, b.Text, p.Reference)
				}
				if b.Kind == article.CellBlock {
					t.Errorf("%q: a cell of a table stands alone", words)
				}
			}
		}
	}
	if answered < 3 {
		t.Errorf("only %d were answered", answered)
	}
}

func TestAnAnswerIsNeverComposedOfWhatIsNotForTheViewer(t *testing.T) {
	x, ask := composing(t)
	if answer, ok := ask("refund limits", audience.Viewer{}); ok {
		t.Errorf("answered with %+v", answer)
	}
	// Even when a caller passes a source along that the viewer may not see.
	r := Request{Words: "refund limits"}
	answer, ok := x.Compose(
		r,
		[]Hit{{Reference: "A-0009", Score: 9, Coverage: 1}},
		[]Source{{"A-0009", "Refund limits", article.Chapters("<p>Agents may refund fifty: refund limits.</p>")}},
	)
	if ok {
		t.Errorf("answered with %+v", answer)
	}
}
