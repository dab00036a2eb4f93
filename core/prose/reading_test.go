package prose

import (
	"bytes"
	"encoding/json"
	"math"
	"os"
	"os/exec"
	"path/filepath"
	"testing"
)

func TestReadingOfFollowsItsFormulas(t *testing.T) {
	// Two sentences, ten words, 13 syllables: ASL 5, ASW 1.3 (Flesch 1948; Kincaid et al. 1975).
	r := ReadingOf("Read the meter today.", "Send us the number before midnight")
	if r.Sentences != 2 || r.Words != 10 || r.Syllables != 15 {
		t.Fatalf("counted %+v", r)
	}
	if ease := 206.835 - 1.015*5 - 84.6*1.5; math.Abs(r.Ease-ease) > 1e-9 {
		t.Errorf("ease %f, want %f", r.Ease, ease)
	}
	if grade := 0.39*5 + 11.8*1.5 - 15.59; math.Abs(r.Grade-grade) > 1e-9 {
		t.Errorf("grade %f, want %f", r.Grade, grade)
	}
	if (ReadingOf() != Reading{}) || (ReadingOf("…", "") != Reading{}) {
		t.Error("no words measure as something")
	}
}

func TestSentencesEndWhereTheyEnd(t *testing.T) {
	got := sentences("Call us, e.g. in the morning. Is it urgent?! Then call now… or later")
	if len(got) != 4 {
		t.Errorf("%d: %q", len(got), got)
	}
}

func TestSyllables(t *testing.T) {
	for word, want := range map[string]int{"a": 1, "the": 1, "meter": 2, "reading": 2, "table": 2, "electricity": 5, "estimated": 4, "used": 1,
		"changes": 2, "people": 2, "account": 2, "customer": 3, "area": 3, "being": 2, "simple": 2, "information": 4} {
		if got := Syllables(word); got != want {
			t.Errorf("%s: %d, want %d", word, got, want)
		}
	}
}

// The packages flesch, flesch-kincaid and syllable of the npm registry are asked
// for the same texts: the licences that Debian installs (/usr/share/common-licenses,
// which may be read and copied by everybody). Their authors count syllables with a
// longer list of exceptions, so the two may differ by a few points.
func TestReadingEaseAgainstReferenceImplementations(t *testing.T) {
	texts := openTexts(t)
	if len(texts) < 10 {
		t.Fatalf("only %d open texts are here", len(texts))
	}
	type counted struct{ Ease, Grade float64 }
	var in []map[string]any
	var ours []Reading
	for _, text := range texts {
		r := ReadingOf(text)
		ours = append(ours, r)
		var words []string
		for _, s := range sentences(text) {
			words = append(words, spoken(s)...)
		}
		in = append(in, map[string]any{"sentences": r.Sentences, "words": words})
	}
	raw, err := json.Marshal(in)
	if err != nil {
		t.Fatal(err)
	}
	node := exec.Command("node", "testdata/reading.mjs")
	node.Stdin = bytes.NewReader(raw)
	out, err := node.Output()
	if err != nil {
		if os.Getenv("CI") == "" {
			t.Skip("the reference packages are not installed: run the tests with make test")
		}
		t.Fatal(err)
	}
	var reference []counted
	if err := json.Unmarshal(out, &reference); err != nil {
		t.Fatal(err)
	}
	for i, r := range reference {
		t.Logf("ease %.1f, reference %.1f; grade %.1f, reference %.1f", ours[i].Ease, r.Ease, ours[i].Grade, r.Grade)
		if math.Abs(r.Ease-ours[i].Ease) > 3 || math.Abs(r.Grade-ours[i].Grade) > 0.5 {
			t.Errorf(
				"text %d: ease %.1f and grade %.1f, the reference has %.1f and %.1f",
				i,
				ours[i].Ease,
				ours[i].Grade,
				r.Ease,
				r.Grade,
			)
		}
	}
}

func openTexts(t *testing.T) []string {
	files, err := filepath.Glob("/usr/share/common-licenses/*")
	if err != nil {
		t.Fatal(err)
	}
	var texts []string
	for _, f := range files {
		if info, err := os.Lstat(f); err != nil || !info.Mode().IsRegular() {
			continue // a link to another of them
		}
		if raw, err := os.ReadFile(f); err == nil {
			texts = append(texts, string(raw))
		}
	}
	return texts
}
