package outcome

import (
	"bytes"
	"errors"
	"math/rand/v2"
	"reflect"
	"strings"
	"testing"
	"time"
)

const goodLine = `{"at":"2026-03-02T09:00:00Z","asker":"a","channel":"help","kind":"asked","text":"when is my bill due"}`

func TestBadLinesAreRefusedWithNumberAndReason(t *testing.T) {
	for _, c := range []struct{ name, line, reason string }{
		{"not JSON", `{"at":`, "not an item of evidence"},
		{"two values", goodLine + goodLine, "more than one value"},
		{"a list", `[]`, "not an item of evidence"},
		{"no time", `{"asker":"a","channel":"help","kind":"asked"}`, `"at" is missing`},
		{"a time without zone", `{"at":"2026-03-02T09:00:00","asker":"a","channel":"help","kind":"asked"}`, "not an item of evidence"},
		{"no asker", `{"at":"2026-03-02T09:00:00Z","channel":"help","kind":"asked"}`, `"asker" is missing`},
		{"no channel", `{"at":"2026-03-02T09:00:00Z","asker":"a","kind":"asked"}`, `"channel" is missing`},
		{"an unknown channel", `{"at":"2026-03-02T09:00:00Z","asker":"a","channel":"fax","kind":"asked"}`, `channel "fax"`},
		{"no kind", `{"at":"2026-03-02T09:00:00Z","asker":"a","channel":"help"}`, `"kind" is missing`},
		{"an unknown kind", `{"at":"2026-03-02T09:00:00Z","asker":"a","channel":"help","kind":"shouted"}`, `kind "shouted"`},
		{"an unknown source", `{"at":"2026-03-02T09:00:00Z","asker":"a","channel":"help","kind":"offered","source":"radio"}`, `source "radio"`},
		{"an unknown field", `{"at":"2026-03-02T09:00:00Z","asker":"a","channel":"help","kind":"asked","reff":"A"}`, "unknown field"},
	} {
		t.Run(c.name, func(t *testing.T) {
			_, err := ReadJSONL(strings.NewReader(goodLine + "\n\n" + c.line + "\n" + goodLine))
			var bad *LineError
			if !errors.As(err, &bad) || bad.Line != 3 || !strings.Contains(bad.Reason, c.reason) {
				t.Errorf("got %v, want line 3 with %q", err, c.reason)
			}
		})
	}
	_, err := ReadJSONL(strings.NewReader(goodLine + "\n" + strings.Repeat("x", MaxLine+1)))
	var bad *LineError
	if !errors.As(err, &bad) || bad.Line != 2 {
		t.Errorf("an overlong line: got %v", err)
	}
}

func TestEvidenceSurvivesWritingAndReading(t *testing.T) {
	items := randomEvidence(rand.New(rand.NewPCG(3, 4)), 200)
	items[3].Text, items[4].Refs, items[5].Source = "<b>&\"ü\n", []string{"A-0001@1", "A-0002@9"}, FromForm
	items[6].At = items[6].At.Add(123456 * time.Microsecond)
	var file bytes.Buffer
	if err := WriteJSONL(&file, items); err != nil {
		t.Fatal(err)
	}
	back, err := ReadJSONL(&file)
	if err != nil {
		t.Fatal(err)
	}
	if !reflect.DeepEqual(items, back) {
		t.Error("what was read is not what was written")
	}
}

func TestReportOfNothingHasNoRates(t *testing.T) {
	r := NewReport(nil)
	if r.Questions == nil || r.Rates.Deflection.Value != nil {
		t.Errorf("got %+v", r)
	}
}

func TestReportLeavesTheClosingOfAnOpenQuestionOut(t *testing.T) {
	r := NewReport(Fold(story(t, "0s a asked; 0s b asked; 1s b helped X"), day0.Add(time.Minute), DefaultWindow))
	if r.Questions[0].Closed != nil || r.Questions[1].Closed == nil || r.Counts.Open != 1 || r.Counts.Settling != 1 {
		t.Errorf("got %+v", r)
	}
}

func FuzzReadJSONL(f *testing.F) {
	f.Add(goodLine)
	f.Add(goodLine + "\n{\"at\":1}")
	f.Fuzz(func(t *testing.T, text string) {
		items, err := ReadJSONL(strings.NewReader(text))
		if err != nil {
			return
		}
		var file bytes.Buffer
		if err := WriteJSONL(&file, items); err != nil {
			t.Fatal(err)
		}
		if _, err := ReadJSONL(&file); err != nil {
			t.Fatalf("what was written is refused: %v", err)
		}
	})
}
