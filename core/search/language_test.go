package search

import (
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	_ "github.com/kljensen/snowball/english" // its module carries the vocabulary

	"hermeneus/core/audience"
)

// The English vocabulary of the Snowball project (Porter2), as the module
// github.com/kljensen/snowball ships it.
func TestEnglishWordsAreStemmedAsTheVocabularySays(t *testing.T) {
	dir, err := exec.Command("go", "list", "-m", "-f", "{{.Dir}}", "github.com/kljensen/snowball").Output()
	if err != nil {
		t.Fatal(err)
	}
	raw, err := os.ReadFile(filepath.Join(strings.TrimSpace(string(dir)), "english_vocab", "vocab_test.go"))
	if err != nil {
		t.Fatal(err)
	}
	x, err := newLexicon(English)
	if err != nil {
		t.Fatal(err)
	}
	n, empty, wrong := 0, 0, 0
	for _, m := range regexp.MustCompile(`\{"([^"]+)", "([^"]+)"\}`).FindAllStringSubmatch(string(raw), -1) {
		word, want := m[1], fold(m[2])
		n++
		got := x.work(word)
		if got == "" {
			empty++ // the vocabulary stems empty words too; here they fall out
			continue
		}
		if got != want && !strings.HasSuffix(word, "'s") && !strings.HasSuffix(word, "'") {
			if wrong++; wrong < 10 {
				t.Errorf("%s becomes %s, want %s", word, got, want)
			}
		}
	}
	if n < 29_000 || empty > 200 {
		t.Errorf("%d words were compared, of which %d are empty", n, empty)
	}
}

func TestTextsAreCutIntoWords(t *testing.T) {
	for text, want := range map[string]string{
		"Don’t panic, it's A-0042!":    "don't panic it's a 0042 a0042",
		"wi-fi or C++ and C#":          "wi fi wifi or c++ and c#",
		"sys.path, e-mail: x@y.org.":   "sys path syspath e mail email x y org xyorg",
		"'quoted' end-":                "quoted end",
		"電気 off":                       "電 気 off",
		strings.Repeat("é", 60) + " b": strings.Repeat("é", 32) + " b",
	} {
		var got []string
		for _, t := range cut(text) {
			got = append(got, t.word)
		}
		if strings.Join(got, " ") != want {
			t.Errorf("%q is cut into %q, want %q", text, got, want)
		}
	}
}

func TestEachLanguageHasItsOwnAnalysis(t *testing.T) {
	x := library(
		t,
		Document{Reference: "A-0001", Title: "Give a meter reading", Body: "Read the meter."},
		Document{
			Reference: "A-0001.de",
			Language:  "de",
			Title:     "Zählerstand angeben",
			Body:      "Lesen Sie die Zählerstände ab.",
		},
		Document{Reference: "A-0002", Title: "Moving house", Body: "Tell us the day and the meter reading."},
		Document{
			Reference: "A-0003.fr",
			Language:  "fr",
			Title:     "Relever l’index du compteur",
			Body:      "Lisez les chiffres.",
		},
	)
	for _, c := range []struct{ language, words, want string }{
		{"de", "Zählerständen", "A-0001.de"},
		{"de", "zahlerstand", "A-0001.de"},
		{"de", "meter reading", "A-0002"}, // the source of the first is not shown beside its edition
		{"en", "meter reading", "A-0001 A-0002"},
		{"fr", "compteurs", "A-0003.fr"},
		{"fr", "meter reading", "A-0001 A-0002"},
		{"nl", "meter reading", "A-0001 A-0002"}, // nothing is written in it
		{"en", "Zählerstand", ""},
	} {
		result, err := x.Find(Request{Words: c.words, Language: c.language, Limit: 10})
		if err != nil {
			t.Fatal(err)
		}
		var got []string
		for _, h := range result.Hits {
			got = append(got, h.Reference)
		}
		if strings.Join(got, " ") != c.want {
			t.Errorf("%q in %s finds %q, want %q", c.words, c.language, got, c.want)
		}
	}
}

// A question in the source's language is asked where articles are written in another, too.
func TestAWordOfOneLanguageIsNoSlipInAnother(t *testing.T) {
	x := library(t,
		Document{Reference: "A-0001", Title: "A bill higher than last month"},
		Document{Reference: "A-0002", Title: "A pole fell"},
		Document{Reference: "A-0002.de", Language: "de", Title: "Ein Mast ist gefallen", Body: "Der Mast, die Masten."},
	)
	for _, c := range []struct{ words, hits, instead string }{
		{"last", "A-0001", ""},
		{"mast", "A-0002.de", ""},
		{"masd", "A-0002.de", "mast"},
		{"mont", "A-0001", "month"},
	} {
		result, err := x.Find(Request{Words: c.words, Language: "de", Limit: 10})
		if err != nil {
			t.Fatal(err)
		}
		var hits, instead string
		for _, h := range result.Hits {
			hits += h.Reference
		}
		for _, i := range result.Instead {
			instead += i.For
		}
		if hits != c.hits || instead != c.instead {
			t.Errorf("%q finds %q with %q, want %q with %q", c.words, hits, instead, c.hits, c.instead)
		}
	}
}

func TestEveryLanguageOfTheLibraryCanBeSearched(t *testing.T) {
	for language := range filters {
		x := New()
		if err := x.Put(
			Document{
				Reference: "A-0001." + language,
				Language:  language,
				Title:     "Batterie 12",
				Audience:  audience.Everyone,
			},
		); err != nil {
			t.Fatal(err)
		}
		result, _ := x.Find(Request{Words: "batterie 12", Language: language, Limit: 1})
		if len(result.Hits) != 1 {
			t.Errorf("%s finds nothing", language)
		}
	}
}
