package http

import (
	"strings"
	"testing"
	"time"

	"hermeneus/core/article"
)

// Every language says everything, with the same names to fill in and as many forms.
func TestEveryLanguageSaysEverything(t *testing.T) {
	all, err := loadWords()
	if err != nil {
		t.Fatal(err)
	}
	if len(all) < 3 {
		t.Fatalf("the interface speaks %d languages", len(all))
	}
	for language, texts := range all {
		if len(texts) != len(all[fallback]) {
			t.Errorf("%s has %d texts, %s has %d", language, len(texts), fallback, len(all[fallback]))
		}
		for key, english := range all[fallback] {
			text, ok := texts[key]
			if !ok || strings.TrimSpace(text) == "" {
				t.Errorf("%s does not say %s", language, key)
				continue
			}
			for _, name := range names(english) {
				if !strings.Contains(text, name) {
					t.Errorf("%s: %s lacks %s: %q", language, key, name, text)
				}
			}
			if strings.Count(text, " | ") != strings.Count(english, " | ") {
				t.Errorf("%s: %s has another number of forms: %q", language, key, text)
			}
		}
		for l := range article.Languages {
			if texts["tongue."+l] == "" {
				t.Errorf("%s has no name for %s", language, l)
			}
		}
	}
}

func names(text string) []string {
	var found []string
	for part := range strings.SplitSeq(text, "{") {
		if name, _, ok := strings.Cut(part, "}"); ok {
			found = append(found, "{"+name+"}")
		}
	}
	return found
}

func TestWordsAreFilledInAndCounted(t *testing.T) {
	all, err := loadWords()
	if err != nil {
		t.Fatal(err)
	}
	now := time.Date(2026, 3, 2, 0, 5, 0, 0, time.UTC)
	for got, want := range map[string]string{
		all.say("en", "when.days", "n", 1):                            "1 day ago",
		all.say("en", "when.days", "n", 3):                            "3 days ago",
		all.say("fr", "category.articles", "n", 0):                    "0 article",
		all.say("de", "search.for", "words", "{words}"):               "Antworten auf „{words}“",
		all.say("xx", "article.yes"):                                  "Yes",
		all.say("en", "no.such"):                                      "no.such",
		all.day("de", now):                                            "2. März 2026",
		all.ago("en", now.Add(-10*time.Minute), now):                  "yesterday",
		all.ago("en", now.Add(-time.Minute), now):                     "today",
		all.ago("fr", now.AddDate(0, 0, -13), now):                    "il y a 13 jours",
		all.ago("en", now.AddDate(0, 0, -20), now):                    "2 weeks ago",
		all.ago("en", now.AddDate(0, -5, 0), now):                     "5 months ago",
		all.ago("en", now.AddDate(-3, 0, 0), now):                     "3 years ago",
		all.choose([]string{"en", "de"}, "", "", "de-CH,en;q=0.8"):    "de",
		all.choose([]string{"en", "de"}, "", "", "fr, de;q=0.3"):      "de",
		all.choose([]string{"en", "de"}, "fr", "de", "en"):            "de",
		all.choose([]string{"en", "de", "fr"}, "fr", "de", "en"):      "fr",
		all.choose([]string{"en"}, "de", "de", "de"):                  "en",
		all.choose([]string{"en", "nl"}, "", "", "nl"):                "en", // the interface does not speak it
		all.choose([]string{"en", "de"}, "", "", ";;q=,,de;q=broken"): "en",
	} {
		if got != want {
			t.Errorf("got %q, want %q", got, want)
		}
	}
}
